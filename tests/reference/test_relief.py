"""Relief against gdaldem, scikit-image and shapes whose answer is known."""

from __future__ import annotations

import io
import json
import subprocess
from pathlib import Path

import numpy as np
import pytest
import rasterio
import rasterio.warp
from PIL import Image
from rasterio.transform import from_origin
from skimage.color import deltaE_cie76, rgb2lab

from orvik.core.ground.crs import project_crs
from orvik.core.pictures.relief import RAMPS, ReliefStyle, contour_lines, hillshade, level_ground, ramp_colours, tint
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts.map_panel import MapPanel, panel_of
from orvik.exchange.rasters import elevation
from orvik.exchange.rasters.elevation import HeightFile
from orvik.usecases.sheet.composing import panel_view

CELL = (20.0, 25.0)


def ground(n: int = 300) -> np.ndarray:
    """Rough ground: waves whose opacity falls with their frequency."""
    rng = np.random.default_rng(2)
    f = np.fft.fftfreq(n)
    k = np.hypot(*np.meshgrid(f, f))
    k[0, 0] = 1
    z = np.real(np.fft.ifft2(np.fft.fft2(rng.normal(size=(n, n))) * k**-1.8))
    return (z / np.abs(z).max() * 800 + 900).astype(np.float32)


@pytest.mark.parametrize(
    ("flags", "style"),
    [
        ([], ReliefStyle()),
        (["-az", "120", "-alt", "30", "-z", "2.5"], ReliefStyle(azimuth=120, altitude=30, exaggeration=2.5)),
        (["-multidirectional"], ReliefStyle(around=True)),
        (["-multidirectional", "-alt", "60", "-z", "3"], ReliefStyle(around=True, altitude=60, exaggeration=3)),
    ],
)
def test_hillshade_against_gdaldem(tmp_path: Path, flags: list[str], style: ReliefStyle) -> None:
    """gdaldem hillshade (Debian gdal-bin): within one grey level on at least 99.9 % of the inner cells."""
    z = ground()
    z[100:104, 50:60] = -9999
    path = tmp_path / "z.tif"
    profile = {
        "driver": "GTiff",
        "width": 300,
        "height": 300,
        "count": 1,
        "dtype": "float32",
        "nodata": -9999,
        "crs": "EPSG:32628",
        "transform": from_origin(500_000, 6_800_000, *CELL),
    }
    with rasterio.open(path, "w", **profile) as out:
        out.write(z, 1)
    subprocess.run(["gdaldem", "hillshade", path, tmp_path / "shade.tif", "-q", *flags], check=True)
    with rasterio.open(tmp_path / "shade.tif") as shade:
        theirs = shade.read(1).astype(int)
    ours = hillshade(np.where(z == -9999, np.nan, z).astype(np.float32), CELL, style).astype(int)
    away = np.abs(ours - theirs)[1:-1, 1:-1]
    assert (away <= 1).mean() >= 0.999
    assert (ours[101:103, 51:59] == 0).all()


def test_level_and_facing_ground() -> None:
    """Level ground has the sine of the light's altitude; a slope square to the light has all of it (geometry)."""
    level = hillshade(np.zeros((5, 5), dtype=np.float32), CELL, ReliefStyle(altitude=30))
    assert level[2, 2] == round(level_ground(ReliefStyle(altitude=30))) == 128
    # Ground that falls to the north-west at 45 degrees, lit from there at 45.
    y, x = np.mgrid[0:9, 0:9].astype(np.float32)
    slope = (x + y) * np.float32(10 / np.sqrt(2))
    assert hillshade(slope, (10.0, 10.0), ReliefStyle(azimuth=315, altitude=45))[4, 4] == 255


@pytest.mark.parametrize("name", RAMPS)
def test_ramps_are_even_to_the_eye(name: str) -> None:
    """Steps between neighbours by scikit-image's CIE 1976 difference: each within a third of the mean, or less than
    what rounding to whole colours makes (0.6)."""
    lab = rgb2lab(ramp_colours(name)[None] / 255)[0]
    # Over eight steps rounding hardly counts.
    steps = deltaE_cie76(lab[8::8], lab[:-8:8])
    assert np.abs(steps - steps.mean()).max() < max(0.33 * steps.mean(), 0.6)
    assert tuple(ramp_colours(name)[0]) == tuple(int(RAMPS[name][0][i : i + 2], 16) for i in (1, 3, 5))
    assert tuple(ramp_colours(name)[-1]) == tuple(int(RAMPS[name][-1][i : i + 2], 16) for i in (1, 3, 5))


def test_tint_runs_between_its_ends_and_back() -> None:
    z = np.array([[0.0, 100.0, 200.0, 300.0]], dtype=np.float32)
    up = tint(z, ReliefStyle(ramp="grey"), 100, 200)
    assert up[0, 0].tolist() == up[0, 1].tolist() == [74, 74, 74]
    assert up[0, 2].tolist() == up[0, 3].tolist() == [255, 255, 255]
    down = tint(z, ReliefStyle(ramp="grey", flipped=True), 100, 200)
    assert down[0, 0].tolist() == [255, 255, 255]


def test_contours_of_a_cone_are_circles() -> None:
    y, x = np.mgrid[0:201, 0:201].astype(np.float32)
    cone = 100 - np.hypot(x - 100, y - 100)
    lines = contour_lines(cone, 20.0, 500_000.0, 6_800_000.0, (1.0, 1.0))
    assert [level for level, _ in lines] == [-40, -20, 0, 20, 40, 60, 80, 100]
    for level, pieces in lines[2:7]:
        xy = np.concatenate(pieces)
        radius = np.hypot(xy[:, 0] - 500_100.5, xy[:, 1] - 6_799_899.5)
        assert radius == pytest.approx(100 - level, abs=0.02)


@pytest.mark.parametrize("turn", [12.0, -40.0])
def test_the_hillshade_of_a_turned_panel_is_shaded_in_its_own_frame(tmp_path: Path, turn: float) -> None:
    """Heights warped by GDAL to the turned grid, then gdaldem hillshade on that: no finished hillshade is turned."""
    z = ground()
    path, crs = tmp_path / "z.tif", project_crs("EPSG:32628")
    profile = {"driver": "GTiff", "width": 300, "height": 300, "count": 1, "dtype": "float32", "crs": crs.text}
    transform = from_origin(500_000, 6_800_000, 20, 20)
    with rasterio.open(path, "w", **profile, transform=transform) as out:
        out.write(z, 1)
    part = Part(MapPanel(scale=50_000, centre=(503_000, 6_797_000), rotation=turn), 10, 10, 60, 50, id=1)
    asked = panel_view(panel_of(part, crs, None), 4.0)
    warped = np.full((asked.height, asked.width), np.nan, dtype=np.float32)
    rasterio.warp.reproject(
        z,
        warped,
        src_transform=transform,
        src_crs=crs.text,
        dst_transform=rasterio.Affine(*asked.place),
        dst_crs=crs.text,
        resampling=rasterio.enums.Resampling.bilinear,
        dst_nodata=np.nan,
    )
    # The grid as if it stood upright: what matters to the light is how it lies on the page.
    with rasterio.open(
        tmp_path / "turned.tif",
        "w",
        **profile | {"width": asked.width, "height": asked.height, "nodata": np.nan},
        transform=from_origin(0, 0, *asked.cell),
    ) as out:
        out.write(warped, 1)
    subprocess.run(["gdaldem", "hillshade", tmp_path / "turned.tif", tmp_path / "shade.tif", "-q"], check=True)
    with rasterio.open(tmp_path / "shade.tif") as shade:
        theirs = shade.read(1).astype(float)
    style = ReliefStyle()
    data = elevation.view(HeightFile(path, crs.text, json.dumps(tuple(transform)[:6])), asked, style)
    assert data is not None
    ours = np.asarray(Image.open(io.BytesIO(data)).convert("RGBA")).astype(float)
    known = (ours[..., 3] == 255) & (theirs > 0)
    assert known[5:-5, 5:-5].mean() > 0.99
    lit = 255 * np.minimum(theirs / level_ground(style), 1.0)
    away = np.abs(ours[..., 0] - lit)[known]
    assert (away <= 2).mean() > 0.999

"""Showing pictures through a mapping."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from orvik.core.ground.crs import project_crs
from orvik.core.pictures.georeferencing import ControlPoint, Mapping, fit
from orvik.core.pictures.ground_view import GroundView
from orvik.exchange.rasters import raster, warp

CRS = project_crs("EPSG:32628")
WINDOW = (513_050.0, 6_802_100.0, 513_350.0, 6_802_250.0)


@pytest.fixture
def picture(tmp_path: Path) -> Path:
    """Smooth colours, so that a shift of a pixel shows."""
    rows, columns = np.mgrid[0:300, 0:400]
    rgb = np.stack([columns / 400 * 255, rows / 300 * 255, 127 + 100 * np.sin(columns / 40)], axis=-1)
    path = tmp_path / "smooth.png"
    Image.fromarray(rgb.astype(np.uint8)).save(path)
    return path


def pixels(data: bytes | None) -> np.ndarray:
    assert data is not None
    return np.asarray(Image.open(io.BytesIO(data)).convert("RGBA")).astype(int)


def test_both_ways_of_showing_agree(picture: Path) -> None:
    """The same affine mapping, warped by GDAL and sampled by us."""
    mapping = Mapping("affine", (1.02, 0.03, 513_000.0, 0.02, -0.99, 6_802_300.0))
    by_gdal = pixels(raster.view(picture, CRS.text, mapping.json, GroundView.of_window(CRS, WINDOW, 300, 150)))
    ours = pixels(warp.view(picture, CRS.text, mapping, GroundView.of_window(CRS, WINDOW, 300, 150)))
    assert np.abs(by_gdal - ours)[5:-5, 5:-5].max() <= 3


def test_a_projective_fit_shows_the_ground_where_it_is(picture: Path) -> None:
    corners = [(0, 0), (400, 0), (400, 300), (0, 300)]
    ground = [(513_000, 6_802_300), (513_410, 6_802_320), (513_390, 6_802_010), (513_010, 6_802_000)]
    points = [
        ControlPoint(float(c), float(r), float(x), float(y)) for (c, r), (x, y) in zip(corners, ground, strict=True)
    ]
    mapping = fit(points, "projective").mapping
    view = pixels(raster.view(picture, CRS.text, mapping.json, GroundView.of_window(CRS, WINDOW, 300, 150)))
    for i, j in ((20, 30), (150, 75), (280, 140)):
        place = np.array([[WINDOW[0] + i + 0.5, WINDOW[3] - j - 0.5]])
        column, row = mapping.pixels(place)[0]
        assert view[j, i, 0] == pytest.approx((column - 0.5) / 400 * 255, abs=1.5)
        assert view[j, i, 1] == pytest.approx((row - 0.5) / 300 * 255, abs=1.5)


def test_nothing_there_is_nothing_shown(picture: Path) -> None:
    mapping = Mapping("projective", (1.0, 0.0, 513_000.0, 0.0, -1.0, 6_802_300.0, 1e-9, 0.0, 1.0))
    assert warp.view(picture, CRS.text, mapping, GroundView.of_window(CRS, (0.0, 0.0, 100.0, 100.0), 50, 50)) is None

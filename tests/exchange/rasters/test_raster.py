from __future__ import annotations

import io
import json
from pathlib import Path

import numpy as np
import pytest
import rasterio
from PIL import Image
from rasterio.enums import Resampling
from rasterio.transform import from_bounds, from_origin
from rasterio.warp import reproject

from orvik.core.errors import FileRefused, OrvikError
from orvik.core.ground.crs import ProjectCrs, project_crs
from orvik.core.ground.crs_build import Parameters, built
from orvik.core.pictures.ground_view import GroundView
from orvik.exchange.rasters import elevation, raster
from orvik.exchange.rasters.elevation import HeightFile
from orvik.store.project import Project
from orvik.usecases.ground.sources import add_underlay


def tiff(path: Path, crs: str | None = "EPSG:32628", west: float = 511_000, north: float = 6_803_000) -> Path:
    """Red in the west half, blue in the east half, 10 m pixels."""
    pixels = np.zeros((3, 100, 100), dtype=np.uint8)
    pixels[0, :, :50] = 255
    pixels[2, :, 50:] = 255
    profile = {"driver": "GTiff", "width": 100, "height": 100, "count": 3, "dtype": "uint8"}
    if crs:
        profile |= {"crs": crs, "transform": from_origin(west, north, 10, 10)}
    with rasterio.open(path, "w", **profile) as out:
        out.write(pixels)
    return path


def seen(project: Project, window: tuple[float, float, float, float], size: int = 100) -> np.ndarray:
    row = project.sources()[-1]
    file = raster.files_folder(project.path) / row.file
    data = raster.view(file, row.crs, row.transform, GroundView.of_window(project.crs, window, size, size))
    assert data is not None
    return np.asarray(Image.open(io.BytesIO(data)))


def test_a_geotiff_lies_where_it_says(project: Project, tmp_path: Path) -> None:
    add_underlay(project, tiff(tmp_path / "a.tif"), None, "A")
    pixels = seen(project, (511_000, 6_802_000, 512_000, 6_803_000))
    assert tuple(pixels[50, 25]) == (255, 0, 0, 255)
    assert tuple(pixels[50, 75]) == (0, 0, 255, 255)
    wide = seen(project, (510_000, 6_801_000, 513_000, 6_804_000), 300)
    assert wide[10, 10, 3] == 0
    assert tuple(wide[150, 125]) == (255, 0, 0, 255)


def test_another_system_is_warped(project: Project, tmp_path: Path, crs: ProjectCrs) -> None:
    """The same ground written in longitude and latitude comes to the same place."""
    longitude, latitude = crs.to_geographic(np.array([511_000.0, 512_000.0]), np.array([6_803_000.0, 6_802_000.0]))
    path = tmp_path / "g.tif"
    pixels = np.zeros((3, 100, 100), dtype=np.uint8)
    pixels[1] = 200
    step = ((longitude[1] - longitude[0]) / 100, (latitude[0] - latitude[1]) / 100)
    profile = {
        "driver": "GTiff",
        "width": 100,
        "height": 100,
        "count": 3,
        "dtype": "uint8",
        "crs": "EPSG:4326",
        "transform": from_origin(longitude[0], latitude[0], *step),
    }
    with rasterio.open(path, "w", **profile) as out:
        out.write(pixels)
    add_underlay(project, path, None, "G")
    pixels = seen(project, (511_000, 6_802_000, 512_000, 6_803_000))
    assert (pixels[10:90, 10:90, 3] == 255).all()
    assert abs(int(pixels[50, 50, 1]) - 200) <= 1


def test_png_with_a_turned_world_file(project: Project, tmp_path: Path) -> None:
    picture = tmp_path / "scan.png"
    pixels = np.full((80, 100, 3), 250, dtype=np.uint8)
    pixels[40, 50] = (0, 0, 0)
    Image.fromarray(pixels).save(picture)
    angle = np.radians(3)
    a, b = 10 * np.cos(angle), 10 * np.sin(angle)
    world = tmp_path / "scan.pgw"
    world.write_text(f"{a}\n{b}\n{b}\n{-a}\n511000\n6803000\n")
    add_underlay(project, picture, world, "Scan")
    # The middle of pixel (50, 40) by the definition of a world file.
    x, y = 511_000 + a * 50 + b * 40, 6_803_000 + b * 50 - a * 40
    view = seen(project, (x - 50, y - 50, x + 50, y + 50), 101)
    dark = np.argwhere(view[:, :, 0] < 128)
    assert dark.mean(axis=0) == pytest.approx((50, 50), abs=1.5)


def test_overviews_are_used_and_agree(project: Project, tmp_path: Path) -> None:
    path = tiff(tmp_path / "a.tif")
    with rasterio.open(path, "r+") as out:
        out.build_overviews([2, 4, 8])
    add_underlay(project, path, None, "A")
    small = seen(project, (511_000, 6_802_000, 512_000, 6_803_000), 12)
    assert tuple(small[6, 2, :3]) == (255, 0, 0)
    assert tuple(small[6, 9, :3]) == (0, 0, 255)


def bad(tmp_path: Path, name: str) -> tuple[Path, Path | None]:
    path = tmp_path / "bad.tif"
    if name == "empty":
        path.write_bytes(b"")
    elif name == "text":
        path.write_text("this is not a picture")
    elif name == "cut off":
        whole = tiff(tmp_path / "whole.tif").read_bytes()
        path.write_bytes(whole[: len(whole) // 2])
    elif name == "elsewhere":
        tiff(path, west=511_000, north=680_300)
    elif name == "degrees in the world file":
        path = tmp_path / "bad.png"
        Image.new("RGB", (10, 10)).save(path)
        (tmp_path / "bad.pgw").write_text("0.001\n0\n0\n-0.001\n-14.7\n61.3\n")
        return path, tmp_path / "bad.pgw"
    elif name == "mirrored":
        path = tmp_path / "bad.png"
        Image.new("RGB", (10, 10)).save(path)
        (tmp_path / "bad.pgw").write_text("10\n0\n0\n10\n511000\n6803000\n")
        return path, tmp_path / "bad.pgw"
    elif name == "five numbers":
        path = tmp_path / "bad.png"
        Image.new("RGB", (10, 10)).save(path)
        (tmp_path / "bad.pgw").write_text("10\n0\n0\n-10\n511000\n")
        return path, tmp_path / "bad.pgw"
    return path, None


@pytest.mark.parametrize(
    ("name", "why"),
    [
        ("empty", "is empty"),
        ("text", "cannot be read"),
        ("cut off", "cannot be read"),
        ("elsewhere", "away from the sheet border"),
        ("degrees in the world file", "look like degrees"),
        ("mirrored", "mirrored"),
        ("five numbers", "six numbers"),
    ],
)
@pytest.mark.filterwarnings("ignore::rasterio.errors.NotGeoreferencedWarning")
def test_bad_pictures_leave_nothing(project: Project, tmp_path: Path, name: str, why: str) -> None:
    path, world = bad(tmp_path, name)
    revision = project.revision
    with pytest.raises(OrvikError, match=why):
        add_underlay(project, path, world, "Bad")
    assert project.revision == revision
    assert not raster.files_folder(project.path).exists()


@pytest.mark.filterwarnings("ignore::rasterio.errors.NotGeoreferencedWarning")
def test_a_scan_without_place_waits(project: Project, tmp_path: Path) -> None:
    path = tmp_path / "scan.tif"
    tiff(path, crs=None)
    add_underlay(project, path, None, "Scan")
    assert project.sources()[0].transform == ""


def test_a_missing_copy_is_named(project: Project, tmp_path: Path) -> None:
    add_underlay(project, tiff(tmp_path / "a.tif"), None, "A")
    row = project.sources()[0]
    (raster.files_folder(project.path) / row.file).unlink()
    with pytest.raises(FileRefused, match="missing"):
        seen(project, (511_000, 6_802_000, 512_000, 6_803_000))


def test_checksum_names_the_copy(project: Project, tmp_path: Path) -> None:
    import hashlib

    path = tiff(tmp_path / "a.tif")
    add_underlay(project, path, None, "A")
    row = project.sources()[0]
    assert row.checksum == hashlib.sha256(path.read_bytes()).hexdigest()
    assert row.file == row.checksum + ".tif"
    assert len(json.loads(row.transform)) == 6


def test_a_decompression_bomb_is_not_taken(project: Project, tmp_path: Path) -> None:
    """20 000 by 20 000 pixels of nothing in some hundred kilobytes."""
    path = tmp_path / "bomb.tif"
    profile = {
        "driver": "GTiff",
        "width": 20_000,
        "height": 20_000,
        "count": 1,
        "dtype": "uint8",
        "crs": "EPSG:32628",
        "transform": from_origin(510_000, 6_804_000, 0.25, 0.25),
        "compress": "deflate",
        "tiled": True,
        "SPARSE_OK": "TRUE",
    }
    with rasterio.open(path, "w", **profile):
        pass
    assert path.stat().st_size < 400_000_000 / 500
    with pytest.raises(FileRefused, match="may be made to do harm"):
        add_underlay(project, path, None, "Bomb")
    assert project.sources() == []


def test_a_picture_in_feet_lies_where_it_is(project: Project, tmp_path: Path) -> None:
    """The same ground in a system of US survey feet: units are converted, not mixed."""
    feet = built(
        Parameters(
            "tm",
            latitude=0,
            longitude=-15,
            scale=0.9996,
            false_easting=500_000 / (1200 / 3937),
            unit="US survey foot",
        )
    )
    foot = 1200 / 3937
    path = tmp_path / "feet.tif"
    profile = {
        "driver": "GTiff",
        "width": 100,
        "height": 100,
        "count": 3,
        "dtype": "uint8",
        "crs": feet.text,
        "transform": from_origin(511_000 / foot, 6_803_000 / foot, 10 / foot, 10 / foot),
    }
    with rasterio.open(path, "w", **profile) as out:
        out.write(np.full((3, 100, 100), 90, dtype=np.uint8))
    add_underlay(project, path, None, "Feet")
    row = project.sources()[0]
    window = (510_900.0, 6_801_900.0, 512_100.0, 6_803_100.0)
    data = raster.view(
        raster.files_folder(project.path) / row.file,
        row.crs,
        row.transform,
        GroundView.of_window(project.crs, window, 120, 120),
    )
    assert data is not None
    alpha = np.asarray(Image.open(io.BytesIO(data)).getchannel("A"))
    assert np.flatnonzero(alpha[60]).tolist() == list(range(10, 110))


@pytest.mark.parametrize("factors", [(), (2, 4, 8)])
def test_a_grid_in_degrees_is_read_at_the_resolution_of_the_view(tmp_path: Path, factors: tuple[int, ...]) -> None:
    """Heights of a tilted plane, in degrees, with and without overviews; GDAL's warp of the full grid to compare."""
    crs = project_crs("EPSG:32628")
    path = tmp_path / "plane.tif"
    west, north, cell = -14.9, 61.45, 0.0005
    columns, rows = np.meshgrid(np.arange(600), np.arange(400))
    z = (40 * np.sin(columns / 9) + 30 * np.cos(rows / 7)).astype(np.float32)
    profile = {
        "driver": "GTiff",
        "width": 600,
        "height": 400,
        "count": 1,
        "dtype": "float32",
        "crs": "EPSG:4326",
        "transform": from_origin(west, north, cell, cell),
        "tiled": True,
        "blockxsize": 128,
        "blockysize": 128,
    }
    with rasterio.open(path, "w", **profile) as out:
        out.write(z, 1)
        if factors:
            out.build_overviews(list(factors), Resampling.average)
    transform = json.dumps(list(profile["transform"])[:6])
    window = (511_000.0, 6_801_000.0, 513_000.0, 6_802_000.0)
    found = elevation.heights(HeightFile(path, "EPSG:4326", transform), GroundView.of_window(crs, window, 200, 100))
    target = np.empty((100, 200), dtype=np.float32)
    reproject(
        z,
        target,
        src_crs="EPSG:4326",
        src_transform=profile["transform"],
        dst_crs="EPSG:32628",
        dst_transform=from_bounds(*window, 200, 100),
        resampling=Resampling.bilinear,
    )
    assert np.abs(found - target).max() < 0.5


def test_a_grid_written_from_the_south_shows_the_same_ground(tmp_path: Path) -> None:
    crs = project_crs("EPSG:32628")
    z = np.arange(1200, dtype=np.float32).reshape(30, 40)
    down = from_origin(512_000, 6_802_000, 10, 10)
    up = rasterio.Affine(10, 0, 512_000, 0, 10, 6_802_000 - 300)
    views = []
    for name, transform, data in (("down", down, z), ("up", up, z[::-1])):
        path = tmp_path / f"{name}.tif"
        with rasterio.open(
            path,
            "w",
            driver="GTiff",
            width=40,
            height=30,
            count=1,
            dtype="float32",
            crs="EPSG:32628",
            transform=transform,
        ) as out:
            out.write(data, 1)
        facts = raster.examined(path, None, crs)
        assert facts.bounds == pytest.approx((512_000, 6_801_700, 512_400, 6_802_000))
        views.append(
            elevation.heights(
                HeightFile(path, facts.crs, json.dumps(facts.transform)),
                GroundView.of_window(crs, (512_050, 6_801_750, 512_350, 6_801_950), 30, 20),
            )
        )
    assert np.allclose(views[0], views[1])


@pytest.mark.parametrize(
    ("made", "why"),
    [
        ({"transform": rasterio.Affine(0, 0, 512_000, 0, 0, 6_802_000)}, "nowhere|georeferenc"),
        ({"transform": rasterio.Affine(1e-300, 0, 512_000, 0, -1e-300, 6_802_000)}, "nowhere"),
        ({"count": 4000}, "4000 bands"),
        ({"dtype": "complex64"}, "complex"),
    ],
)
def test_pictures_that_cannot_be(tmp_path: Path, made: dict[str, object], why: str) -> None:
    path = tmp_path / "odd.tif"
    profile = {
        "driver": "GTiff",
        "width": 2,
        "height": 2,
        "count": 1,
        "dtype": "uint8",
        "crs": "EPSG:32628",
        "transform": from_origin(512_000, 6_802_000, 10, 10),
    } | made
    with rasterio.open(path, "w", **profile) as out:
        out.write(np.zeros((profile["count"], 2, 2), dtype=profile["dtype"]))
    with pytest.raises(FileRefused, match=why):
        raster.examined(path, None, project_crs("EPSG:32628"))

"""The project's ground: against rasterio's own sampling, in feet, on two datums, over holes and seams."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
import rasterio
import rasterio.warp
import shapely
from rasterio.transform import from_origin
from scipy.interpolate import RegularGridInterpolator
from scipy.ndimage import gaussian_filter

from orvik.core.errors import ReliefRefused, StructureRefused
from orvik.core.pictures.height_facts import HEIGHT_UNITS, HeightFacts
from orvik.store.project import Project
from orvik.store.read_project import ReadProject, opened_for_reading
from orvik.usecases.ground.heights import ground_at, ground_heights
from orvik.usecases.ground.sources import add_underlay, set_aside, state_heights

WEST, NORTH, CELL, SIDE = 510_003.0, 6_804_007.0, 10.0, 400
WINDOW = (511_000.0, 6_801_000.0, 512_500.0, 6_802_000.0)


def rough(seed: int) -> np.ndarray:
    z = gaussian_filter(np.random.default_rng(seed).normal(0, 1, (SIDE, SIDE)), 8)
    return (z / z.std() * 50 + 200).astype(np.float32)


def written(path: Path, z: np.ndarray, crs: str = "EPSG:32628", unit: str = "", **more: object) -> Path:
    profile = {"driver": "GTiff", "dtype": "float32", "count": 1, "height": z.shape[0], "width": z.shape[1]}
    profile |= {"crs": crs, "transform": from_origin(WEST, NORTH, CELL, CELL), "nodata": -9999.0} | more
    with rasterio.open(path, "w", **profile) as out:
        out.write(np.where(np.isfinite(z), z, -9999.0).astype(np.float32), 1)
        if unit:
            out.units = (unit,)
    return path


def added(project: Project, path: Path) -> int:
    add_underlay(project, path, None, path.stem)
    return max(source.id or 0 for source in project.sources())


def height(read: ReadProject, x: float, y: float) -> float:
    found = ground_at(read, x, y)
    assert found is not None
    return found.height


def reference(z: np.ndarray, xy: np.ndarray) -> np.ndarray:
    x = WEST + (np.arange(z.shape[1]) + 0.5) * CELL
    y = NORTH - (np.arange(z.shape[0]) + 0.5) * CELL
    return np.asarray(RegularGridInterpolator((y[::-1], x), z[::-1].astype(float))(xy[:, ::-1]))


def test_heights_along_lines_and_at_places_are_those_of_the_file(project: Project, tmp_path: Path) -> None:
    """Bilinear between the file's own cells, by scipy; at middles, by rasterio's sampling to the last digit."""
    z = rough(1)
    path = written(tmp_path / "z.tif", z)
    added(project, path)
    xy = np.random.default_rng(2).uniform(WINDOW[:2], WINDOW[2:], (300, 2))
    with opened_for_reading(project.path) as read:
        found = ground_heights(read, WINDOW)
        assert found.grid.at(xy) == pytest.approx(reference(z, xy), abs=2e-3)
        line = shapely.LineString([(511_010, 6_801_020), (511_900, 6_801_400), (512_400, 6_801_100)])
        draped = found.grid.draped(line)
        assert draped[:, 2] == pytest.approx(reference(z, draped[:, :2]), abs=2e-3)
        for place in xy[:5]:
            assert height(read, *place) == pytest.approx(float(reference(z, place[None])[0]), abs=2e-3)
    middles = [(WEST + 1205.0, NORTH - 2005.0), (WEST + 1995.0, NORTH - 2895.0)]
    with rasterio.open(path) as source:
        theirs = [float(v[0]) for v in source.sample(middles)]
    assert found.grid.at(np.array(middles)) == pytest.approx(theirs)


@pytest.mark.parametrize(("unit", "word"), [("ft", "foot"), ("us-ft", "US survey foot"), ("m", "metre"), ("m", "")])
def test_units_are_read_from_the_file_and_converted(project: Project, tmp_path: Path, unit: str, word: str) -> None:
    z = rough(1)
    number = added(project, written(tmp_path / "z.tif", z / np.float32(HEIGHT_UNITS[unit]), unit=word))
    assert HeightFacts.of_json(project.source(number).heights).unit == unit
    place = (511_503.0, 6_801_507.0)
    with opened_for_reading(project.path) as read:
        assert height(read, *place) == pytest.approx(float(reference(z, np.array([place]))[0]), abs=0.01)


def test_a_compound_system_states_its_datum(project: Project, tmp_path: Path) -> None:
    """Heights in EPSG:32628 + EPSG:5703, NAVD88 height in metres, or + 6360, in US survey feet."""
    number = added(project, written(tmp_path / "a.tif", rough(1), crs="EPSG:32628+5703"))
    facts = HeightFacts.of_json(project.source(number).heights)
    assert (facts.datum, facts.unit) == ("NAVD88 height", "m")
    number = added(project, written(tmp_path / "b.tif", rough(1), crs="EPSG:32628+6360"))
    facts = HeightFacts.of_json(project.source(number).heights)
    assert (facts.datum, facts.unit) == ("NAVD88 height (ftUS)", "us-ft")


def test_several_grids_the_uppermost_first_and_two_datums_are_said(project: Project, tmp_path: Path) -> None:
    below, above = rough(1), rough(2) + 300
    above[:, 150:] = np.nan
    low = added(project, written(tmp_path / "low.tif", below))
    high = added(project, written(tmp_path / "high.tif", above))
    with opened_for_reading(project.path) as read:
        found = ground_heights(read, WINDOW)
        assert found.names == ("high", "low")
        assert found.doubts == ()
        assert found.grid.at(np.array([(511_200.0, 6_801_500.0)]))[0] > 350
        assert found.grid.at(np.array([(512_200.0, 6_801_500.0)]))[0] < 350
    state_heights(project, low, HeightFacts(datum="Mean sea level at Quennet"))
    with opened_for_reading(project.path) as read:
        (doubt,) = ground_heights(read, WINDOW).doubts
        assert "a datum that is not stated and Mean sea level at Quennet" in doubt
        # Where one grid alone answers, nothing is mixed.
        assert ground_heights(read, (511_900, 6_801_000, 512_000, 6_801_100)).doubts == ()
    state_heights(project, high, HeightFacts(asked=False))
    with opened_for_reading(project.path) as read:
        assert ground_heights(read, WINDOW).names == ("low",)
    set_aside(project, low, True)
    with opened_for_reading(project.path) as read, pytest.raises(StructureRefused, match="no heights"):
        ground_heights(read, WINDOW)


def test_holes_and_beyond_are_not_zero(project: Project, tmp_path: Path) -> None:
    z = rough(1)
    z[200:220, 120:140] = np.nan
    added(project, written(tmp_path / "z.tif", z))
    with opened_for_reading(project.path) as read:
        hole = (WEST + 1300.0, NORTH - 2100.0)
        assert ground_at(read, *hole) is None
        assert ground_at(read, 500_000.0, 6_801_000.0) is None
        window = (hole[0] - 300, hole[1] - 300, hole[0] + 300, hole[1] + 300)
        assert np.isnan(ground_heights(read, window).grid.at(np.array([hole])))[0]
        assert not np.isfinite(ground_heights(read, (520_000, 6_801_000, 521_000, 6_802_000)).grid.heights).any()


def waves(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """Hills of 100 m that are known at every place; between cells of 10 m they are missed by 0.03 m at the most."""
    return np.asarray(200 + 50 * np.sin(x / 300) * np.cos(y / 250))


def test_another_system_is_where_it_lies(project: Project, tmp_path: Path) -> None:
    """A grid in degrees, each cell as high as the ground is where PROJ puts it."""
    step = 0.0001
    bounds = rasterio.warp.transform_bounds("EPSG:32628", "EPSG:4326", WEST, NORTH - 4000, WEST + 4000, NORTH)
    west, south, east, north = bounds
    rows, columns = int((north - south) / step), int((east - west) / step)
    lon, lat = np.meshgrid(west + (np.arange(columns) + 0.5) * step, north - (np.arange(rows) + 0.5) * step)
    x, y = project.crs.from_geographic(lon.ravel(), lat.ravel())
    z = waves(x, y).reshape(rows, columns).astype(np.float32)
    path = written(tmp_path / "degrees.tif", z, crs="EPSG:4326", transform=from_origin(west, north, step, step))
    added(project, path)
    xy = np.random.default_rng(2).uniform(WINDOW[:2], WINDOW[2:], (300, 2))
    with opened_for_reading(project.path) as read:
        assert np.abs(ground_heights(read, WINDOW).grid.at(xy) - waves(*xy.T)).max() < 0.1


def test_a_large_window_is_asked_for_coarsely(project: Project, tmp_path: Path) -> None:
    added(project, written(tmp_path / "z.tif", rough(1)))
    with opened_for_reading(project.path) as read:
        large = ground_heights(read, (480_000, 6_780_000, 540_000, 6_840_000)).grid
        assert max(large.heights.shape) < 1600
        assert ground_heights(read, WINDOW, coarsest=55).grid.cell == (50, 50)


def test_what_cannot_be_stated_is_refused() -> None:
    for bad in ({"unit": "fathom"}, {"error": 0.0}, {"error": float("nan")}, {"datum": "x" * 81}):
        with pytest.raises(ReliefRefused):
            HeightFacts.of_json(json.dumps(bad))
    with pytest.raises(ReliefRefused, match="cannot be read"):
        HeightFacts.of_json('{"depth": 1}')
    assert HeightFacts.of_json("") == HeightFacts()


def test_slopes_are_those_of_planes(project: Project, tmp_path: Path) -> None:
    """Falling 1 in 10 to the east and 2 in 10 to the north: 12.60° towards 026.57 (computed by hand)."""
    x, y = np.meshgrid(np.arange(SIDE) * CELL, -np.arange(SIDE) * CELL)
    added(project, written(tmp_path / "plane.tif", (2000 - 0.1 * x - 0.2 * y).astype(np.float32)))
    with opened_for_reading(project.path) as read:
        found = ground_at(read, 511_503.0, 6_801_507.0)
        assert found is not None
        assert (found.slope, found.towards) == (pytest.approx(12.604, abs=0.02), pytest.approx(26.565, abs=0.1))
    z = np.full((SIDE, SIDE), 7.0, dtype=np.float32)
    added(project, written(tmp_path / "level.tif", z))
    with opened_for_reading(project.path) as read:
        level = ground_at(read, 511_503.0, 6_801_507.0)
        assert level is not None
        assert (level.height, level.slope, level.towards) == (7.0, 0.0, None)

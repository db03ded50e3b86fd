"""The land in outline, against places asked one by one in degrees, in systems of every sort."""

from __future__ import annotations

import numpy as np
import pyproj
import pytest
import shapely

from orvik.core.ground.crs import project_crs
from orvik.core.ground.land import land, land_in

# Cylindrical, transverse, conic, polar and oblique ones, equal-area and pseudo-cylindrical ones, across 180° and not.
SYSTEMS = {
    "EPSG:3857": (0.0, 20.0, 100e6),
    "EPSG:3832": (-178.0, 0.0, 60e6),
    "EPSG:32660": (179.5, 66.0, 5e6),
    "EPSG:32628": (-14.7, 61.3, 5e6),
    "EPSG:3034": (-14.7, 61.3, 12.5e6),
    "EPSG:3031": (0.0, -90.0, 40e6),
    "EPSG:3995": (0.0, 89.9, 40e6),
    "EPSG:2193": (173.0, -41.0, 10e6),
    "EPSG:27700": (-2.0, 54.0, 5e6),
    "EPSG:5070": (-96.0, 38.0, 20e6),
    "EPSG:27572": (2.0, 46.0, 5e6),
    "+proj=moll +lon_0=0 +datum=WGS84 +units=m +type=crs": (100.0, 10.0, 100e6),
}
HALF_MM = 60.0


def test_it_is_as_much_land_as_the_earth_has() -> None:
    """148.9 million km², as any atlas says (common knowledge, no source); the Caspian Sea is none of it."""
    whole = sum(abs(pyproj.Geod(ellps="WGS84").geometry_area_perimeter(part)[0]) for part in land())
    assert whole / 1e12 == pytest.approx(148.9, rel=0.02)
    places = {(51.0, 42.0): False, (0.0, -89.9): True, (0.0, 89.9): False, (179.9, 67.0): True, (-30.0, 40.0): False}
    tree = shapely.STRtree(land())
    for place, is_land in places.items():
        assert bool(len(tree.query(shapely.Point(place), predicate="intersects"))) is is_land, place


@pytest.mark.parametrize("code", SYSTEMS)
def test_every_system_shows_the_land_where_it_lies(code: str) -> None:
    longitude, latitude, scale = SYSTEMS[code]
    crs = project_crs(code)
    x, y = (float(v) for v in crs.from_geographic(longitude, latitude))
    half = HALF_MM / 1000 * scale / crs.metres_per_unit
    window = shapely.box(x - half, y - half, x + half, y + half)
    shown = shapely.union_all(land_in(crs, window, scale))
    rng = np.random.default_rng(5)
    places = rng.uniform((x - half, y - half), (x + half, y + half), (4000, 2))
    degrees = np.column_stack(crs.to_geographic(*places.T))
    again = np.column_stack(crs.from_geographic(*degrees.T))
    with np.errstate(invalid="ignore"):
        known = np.isfinite(degrees).all(axis=1) & (np.hypot(*(again - places).T) < 1.0)
    assert known.any()
    tree = shapely.STRtree(land())
    points = shapely.points(degrees[known])
    expected = np.zeros(len(points), dtype=bool)
    expected[tree.query(points, predicate="intersects")[0]] = True
    # Within 0.2 mm of a shore, chords instead of curves may tell otherwise; so may the seam of a map of all the earth.
    there = shapely.points(places[known])
    clear = shapely.distance(shown.boundary, there) > 0.2 / 1000 * scale / crs.metres_per_unit
    told = shapely.contains(shown, there)
    wrong = (told != expected) & clear
    assert wrong.sum() <= 0.002 * len(points), (degrees[known][wrong][:5], int(wrong.sum()))

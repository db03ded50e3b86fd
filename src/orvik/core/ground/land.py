"""The land of the earth in outline, for panels that show where a map lies.

The data file ``land.geojson`` is Natural Earth's land at 1:50 million (public domain), in degrees on WGS 84, cut at
180°; ``LAND-LICENCE.txt`` is that of the package which it comes from.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np
import shapely

from orvik.core.arrays import Flags, Floats, Objects
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.crs_change import CrsChange, way_in

# The scale that it is fit for, and smaller ones.
LARGEST_SCALE = 5_000_000
_FILE = Path(__file__).with_name("land.geojson")
# It is taken into other systems in tiles of so many degrees a side, and again in quarters of those that a system tears.
TILE, HALVINGS = 15.0, 5
# How far apart vertices are at the most along what was straight in degrees, and how close tiles are joined, as a share
# of the denominator in metres: 0.01 mm on the sheet.
DEGREES, JOINED = 0.5, 1e-5
# Metres between a place and itself, there and back: a system shows nothing where it is more.
SAME = 100.0
# Places a side at which a window is asked where on the globe it lies.
SAMPLES = 17
# Metres of a degree along a meridian, about; no map stretches an edge so many times.
DEGREE, STRETCH = 111_000.0, 50.0
# Takes longitude and latitude for what a file in degrees says.
DEGREES_WGS84 = "OGC:CRS84"


@lru_cache(maxsize=1)
def land() -> Objects:
    """Polygons of the land, in degrees on WGS 84: longitude, latitude."""
    parts: Objects = shapely.get_parts(shapely.from_geojson(_FILE.read_text(encoding="utf-8")))
    return parts


@lru_cache(maxsize=8)
def land_in(crs: ProjectCrs, window: shapely.Polygon, scale: float) -> Objects:
    """The land of a window of ground, with something around it, as the system shows it.

    Parameters
    ----------
    window
        In the system.
    scale
        Denominator of the scale that it is drawn at.
    """
    middle = shapely.get_coordinates(window.centroid)[0]
    way = way_in(DEGREES_WGS84, crs, (float(middle[0]), float(middle[1])))
    around = shapely.box(*shapely.bounds(shapely.buffer(window, 0.05 * float(np.sqrt(window.area)))))
    metre = 1.0 / crs.metres_per_unit
    taken: list[shapely.Geometry] = []
    within = _Cap.of(way, around)
    tiles = within.near(_tiles())
    for halving in range(HALVINGS + 1):
        there, whole = _carried(tiles, way, metre)
        near = there[whole]
        taken += list(near[shapely.intersects(near, around)])
        tiles = within.near(_quartered(tiles[~whole], TILE / 2 ** (halving + 1)))
        if not len(tiles):
            break
    joined = JOINED * scale * metre
    grown = shapely.union_all(shapely.buffer(np.array(taken, dtype=object), joined, join_style="mitre"))
    shown = shapely.buffer(grown, -joined, join_style="mitre")
    return np.array([p for p in shapely.get_parts(shown) if not p.is_empty], dtype=object)


@dataclass(frozen=True)
class _Cap:
    """A round piece of the globe: its middle as a unit vector, and its radius as an angle."""

    middle: Floats
    radius: float

    @staticmethod
    def of(way: CrsChange, window: shapely.Polygon) -> _Cap:
        """About all of a window that is a place on the earth."""
        west, south, east, north = window.bounds
        x, y = (v.ravel() for v in np.meshgrid(np.linspace(west, east, SAMPLES), np.linspace(south, north, SAMPLES)))
        places = way.back(np.column_stack([x, y]))
        vectors = _vectors(places[np.isfinite(places).all(axis=1)])
        mean = vectors.sum(axis=0)
        length = float(np.sqrt((mean**2).sum()))
        if length < 1e-9:
            return _Cap(np.array([1.0, 0.0, 0.0]), np.pi)
        # What lies between the places is not a further than from one to the next.
        radius = float(np.arccos(np.clip(vectors @ (mean / length), -1, 1)).max())
        return _Cap(mean / length, radius * (1 + 3 / SAMPLES))

    def near(self, tiles: Objects) -> Objects:
        """Tiles of which something may lie in it."""
        if not len(tiles):
            return tiles
        w, s, e, n = shapely.bounds(tiles).T
        reach = np.radians(np.hypot(e - w, n - s) / 2)
        away = np.arccos(np.clip(_vectors(np.column_stack([(w + e) / 2, (s + n) / 2])) @ self.middle, -1, 1))
        near: Objects = tiles[away <= self.radius + reach]
        return near


def _vectors(places: Floats) -> Floats:
    """Places in degrees as unit vectors, (n, 3)."""
    east, north = np.radians(places).T
    return np.column_stack([np.cos(north) * np.cos(east), np.cos(north) * np.sin(east), np.sin(north)])


@lru_cache(maxsize=1)
def _tiles() -> Objects:
    """The land cut along meridians and parallels."""
    return _cut(land(), TILE)


def _quartered(tiles: Objects, side: float) -> Objects:
    return _cut(tiles, side) if len(tiles) else tiles


def _cut(areas: Objects, side: float) -> Objects:
    """Areas cut into tiles of a side in degrees."""
    west, south, east, north = shapely.total_bounds(areas)
    xs = np.arange(np.floor(west / side), np.ceil(east / side)) * side
    ys = np.arange(np.floor(south / side), np.ceil(north / side)) * side
    x, y = (v.ravel() for v in np.meshgrid(xs, ys))
    boxes = shapely.box(x, y, x + side, y + side)
    box, area = shapely.STRtree(areas).query(boxes, predicate="intersects")
    parts = shapely.get_parts(shapely.intersection(areas[area], boxes[box]))
    tiles: Objects = parts[shapely.get_type_id(parts) == shapely.GeometryType.POLYGON]
    return tiles


def _carried(tiles: Objects, way: CrsChange, metre: float) -> tuple[Objects, Flags]:
    """Tiles in another system, and which of them it shows whole: each vertex comes back, and no edge is torn."""
    fine = shapely.segmentize(tiles, DEGREES)
    xy, owner = shapely.get_coordinates(fine, return_index=True)
    there = way.places(xy)
    again = way.back(there)
    with np.errstate(invalid="ignore"):
        east = (again[:, 0] - xy[:, 0] + 180) % 360 - 180
        off = DEGREE * np.hypot(east * np.cos(np.radians(xy[:, 1])), again[:, 1] - xy[:, 1])
        known = np.isfinite(there).all(axis=1) & (off <= SAME)
        same = owner[1:] == owner[:-1]
        torn = np.hypot(*np.diff(there, axis=0).T) > STRETCH * DEGREES * DEGREE * metre
    bad = np.unique(np.concatenate([owner[~known], owner[1:][same & torn]]))
    whole = np.ones(len(tiles), dtype=bool)
    whole[bad] = False
    out = np.empty(len(tiles), dtype=object)
    moved = shapely.set_coordinates(fine[whole].copy(), there[np.isin(owner, np.flatnonzero(whole))])
    out[whole] = shapely.make_valid(moved)
    return out, whole

"""Slits between areas: ground narrower than a tolerance, open at an end, as between two map sheets."""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely
from shapely.ops import split

from orvik.core.arrays import Flags, Objects, object_array

# Places nearer to each other than this, in project units, are one.
SAME = 1e-6
# Ground of less than this, in square project units, is the rounding of coordinates.
SPECK = 2e-3
# So many times longer than the tolerance is a slit between two areas, and no corner where they meet.
SLIT = 20.0


def is_narrow(polygons: Objects, tolerance: float) -> Flags:
    """Whether polygons are narrower than the tolerance all along: twice their area over their edge is their width."""
    length = np.maximum(shapely.length(polygons), 1e-12)
    narrow: Flags = (2 * shapely.area(polygons) / length < tolerance) | (shapely.area(polygons) < SPECK)
    return narrow


def slits_of(areas: Objects, overlaps: Objects, tolerance: float) -> Objects:
    """Ground between two areas that is narrower than the tolerance and open at an end, such as between two map sheets.

    What a stroke of the tolerance's width fills of the outer edge, where it is long and has an area on either side.
    """
    sound = np.concatenate([areas, overlaps])
    sound = sound[~shapely.is_empty(sound)]
    whole = shapely.coverage_union_all(sound)
    half = tolerance / 2
    closed = _wider(_wider(whole, half), -half)
    parts = shapely.get_parts(shapely.difference(closed, whole))
    parts = parts[(shapely.get_type_id(parts) == 3) & (shapely.length(parts) > 2 * SLIT * tolerance)]
    if not len(parts):
        return object_array([])
    # A hair wider, so that they end on the very edges of the areas.
    slits = shapely.get_parts(shapely.difference(_wider(parts, tolerance / 100), whole))
    slits = slits[shapely.length(slits) > 2 * SLIT * tolerance]
    slit, area = shapely.STRtree(sound).query(slits, predicate="intersects")
    beside = np.bincount(slit, minlength=len(slits))
    kept = np.flatnonzero((beside > 1) & is_narrow(slits, tolerance))
    pieces = [piece for i in kept.tolist() for piece in _cut(slits[i], sound[area[slit == i]], tolerance)]
    return object_array(pieces)


def _wider(geometry: Any, by: float) -> Any:
    """Geometry with so much more around it, corners kept; where an edge turns back on itself, GEOS divides by zero."""
    with np.errstate(divide="ignore", invalid="ignore"):
        return shapely.buffer(geometry, by, join_style="mitre")


def _cut(slit: shapely.Polygon, areas: Objects, tolerance: float) -> list[shapely.Polygon]:
    """A slit in pieces: across it from each corner where areas meet, so that each piece has one area on either side."""
    corners = np.asarray(shapely.points(np.unique(shapely.get_coordinates(slit), axis=0)), dtype=object)
    touching = shapely.dwithin(corners[:, None], areas[None, :], SAME)
    pieces = [slit]
    for corner, here in zip(corners[touching.sum(axis=1) > 1], touching[touching.sum(axis=1) > 1], strict=True):
        others = areas[~here]
        if not len(others):
            continue
        across = shapely.shortest_line(corner, others[int(np.argmin(shapely.distance(corner, others)))])
        if not SAME < across.length < 1.5 * tolerance:
            continue
        (x, y), (u, v) = shapely.get_coordinates(across).tolist()
        longer = shapely.LineString([(x - (u - x) / 10, y - (v - y) / 10), (u + (u - x) / 10, v + (v - y) / 10)])
        cut = [part for piece in pieces for part in split(piece, longer).geoms]
        pieces = [part for part in cut if isinstance(part, shapely.Polygon)]
    return pieces

"""Map units that touch on the ground, and how long the line is along which they do."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Objects
from orvik.core.features.feature import Features
from orvik.core.features.kind import UNIT_AREA

# An edge found by its reach alone is so many times longer than that; else two areas meet in a corner.
CORNER = 4.0


@dataclass(frozen=True)
class Meeting:
    """Two units, in alphabetical order, the length of their common edge in project units, and a place on it."""

    one: str
    other: str
    length: float
    at: tuple[float, float]


def meetings(areas: Features, reach: float) -> list[Meeting]:
    """Every pair of units that touches, the longest common edge first.

    Areas that share vertices are counted edge by edge; areas that lie beside one another within ``reach``, in project
    units, but share none, by the edge that runs there. Shorter than a few times the reach is a corner.
    """
    rows = [i for i, k in enumerate(areas.columns["kind"]) if k == UNIT_AREA and areas.columns["map_unit"][i]]
    if not rows:
        return []
    geometries = areas.geometries[rows]
    units = np.array([str(areas.columns["map_unit"][i]) for i in rows])
    lengths: dict[tuple[str, str], float] = defaultdict(float)
    places: dict[tuple[str, str], tuple[float, tuple[float, float]]] = {}

    def add(a: int, b: int, length: float, at: tuple[float, float], longest: float) -> None:
        one, other = sorted((str(units[a]), str(units[b])))
        lengths[one, other] += length
        if longest > places.get((one, other), (-1.0, at))[0]:
            places[one, other] = (longest, at)

    shared = _shared(geometries)
    for pair, (length, at, longest) in shared.items():
        if units[pair[0]] != units[pair[1]]:
            add(*pair, length, at, longest)
    tree = shapely.STRtree(geometries)
    ones, others = tree.query(geometries, predicate="dwithin", distance=reach)
    beside = [
        (a, b)
        for a, b in zip(ones.tolist(), others.tolist(), strict=True)
        if a < b and units[a] != units[b] and (a, b) not in shared
    ]
    if beside:
        first, second = (geometries[list(rows)] for rows in zip(*beside, strict=True))
        # Most of them meet in a corner: what runs along the other for less than a few times the reach.
        edges = shapely.intersection(shapely.boundary(first), shapely.buffer(second, reach * 1.01))
        for (a, b), edge in zip(beside, edges, strict=True):
            if edge.length > CORNER * reach:
                longest = max(shapely.get_parts(edge), key=shapely.length)
                middle = shapely.line_interpolate_point(longest, 0.5, normalized=True)
                add(a, b, float(edge.length), (float(middle.x), float(middle.y)), float(edge.length))
    found = [Meeting(one, other, length, places[one, other][1]) for (one, other), length in lengths.items()]
    return sorted(found, key=lambda m: (-m.length, m.one, m.other))


def _shared(geometries: Objects) -> dict[tuple[int, int], tuple[float, tuple[float, float], float]]:
    """Pairs of areas with edges between the same two vertices: length in all, and the middle of the longest edge."""
    rings, owner = shapely.get_rings(geometries, return_index=True)
    xy, ring = shapely.get_coordinates(rings, return_index=True)
    same = ring[1:] == ring[:-1]
    one, two, area = xy[:-1][same], xy[1:][same], owner[ring[:-1][same]]
    # An edge runs one way along one area and the other way along its neighbour: both in one order.
    swap = (one[:, 0] > two[:, 0]) | ((one[:, 0] == two[:, 0]) & (one[:, 1] > two[:, 1]))
    edges = np.where(swap[:, None], np.hstack([two, one]), np.hstack([one, two]))
    order = np.lexsort(edges.T)
    edges, area = edges[order], area[order]
    twin = np.flatnonzero((edges[1:] == edges[:-1]).all(axis=1) & (area[1:] != area[:-1]))
    if not len(twin):
        return {}
    length = np.hypot(edges[twin, 2] - edges[twin, 0], edges[twin, 3] - edges[twin, 1])
    pairs = np.sort(np.column_stack([area[twin], area[twin + 1]]), axis=1)
    codes, which = np.unique(pairs[:, 0] * np.int64(len(geometries)) + pairs[:, 1], return_inverse=True)
    found = np.column_stack(np.divmod(codes, len(geometries)))
    total = np.bincount(which, weights=length)
    # The longest edge of each pair comes last of its own.
    by_length = np.lexsort((length, which))
    longest = by_length[np.append(np.flatnonzero(np.diff(which[by_length])), len(by_length) - 1)]
    middle = (edges[twin[longest]][:, :2] + edges[twin[longest]][:, 2:]) / 2
    return {
        (a, b): (sum_, (x, y), most)
        for (a, b), sum_, (x, y), most in zip(
            found.tolist(), total.tolist(), middle.tolist(), length[longest].tolist(), strict=True
        )
    }

"""Map units that touch on the ground, and how long the line is along which they do."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Anything, Flags, Ints, Objects
from orvik.core.features.feature import Features
from orvik.core.features.kind import UNIT_AREA
from orvik.core.geometry.edges import edge_codes, vertex_codes

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
    beside = _beside(geometries, units, shared, reach)
    if len(beside):
        first, second = geometries[beside[:, 0]], geometries[beside[:, 1]]
        # Most of them meet in a corner: what runs along the other for less than a few times the reach.
        edges = shapely.intersection(shapely.boundary(first), shapely.buffer(second, reach * 1.01))
        for (a, b), edge in zip(beside.tolist(), edges, strict=True):
            if edge.length > CORNER * reach:
                longest = max(shapely.get_parts(edge), key=shapely.length)
                middle = shapely.line_interpolate_point(longest, 0.5, normalized=True)
                add(a, b, float(edge.length), (float(middle.x), float(middle.y)), float(edge.length))
    found = [Meeting(one, other, length, places[one, other][1]) for (one, other), length in lengths.items()]
    return sorted(found, key=lambda m: (-m.length, m.one, m.other))


def _beside(geometries: Objects, units: Anything, shared: Mapping[tuple[int, int], object], reach: float) -> Ints:
    """Pairs of areas of different units that lie within the reach of one another and share no edge, (n, 2)."""
    grown = shapely.bounds(geometries) + (-reach, -reach, reach, reach)
    ones, others = shapely.STRtree(geometries).query(shapely.box(*grown.T))
    pairs: Ints = np.column_stack([ones, others])
    pairs = pairs[(pairs[:, 0] < pairs[:, 1]) & (units[pairs[:, 0]] != units[pairs[:, 1]])]
    known = np.array(list(shared), dtype=np.int64).reshape(-1, 2) @ (len(geometries), 1)
    pairs = pairs[~np.isin(pairs @ (len(geometries), 1), known)]
    shapely.prepare(geometries[np.unique(pairs[:, 0])])
    near: Flags = shapely.dwithin(geometries[pairs[:, 0]], geometries[pairs[:, 1]], reach)
    return pairs[near]


def _shared(geometries: Objects) -> dict[tuple[int, int], tuple[float, tuple[float, float], float]]:
    """Pairs of areas with edges between the same two vertices: length in all, and the middle of the longest edge."""
    rings, owner = shapely.get_rings(geometries, return_index=True)
    xy, ring = shapely.get_coordinates(rings, return_index=True)
    same = ring[1:] == ring[:-1]
    one, two, area = xy[:-1][same], xy[1:][same], owner[ring[:-1][same]]
    # An edge runs one way along one area and the other way along its neighbour.
    codes = vertex_codes(xy)
    edge = edge_codes(codes[:-1][same], codes[1:][same], either_way=True)
    order = np.argsort(edge, kind="stable")
    edge, area, one, two = edge[order], area[order], one[order], two[order]
    alike = (one[1:] == two[:-1]) & (two[1:] == one[:-1]) | (one[1:] == one[:-1]) & (two[1:] == two[:-1])
    twin = np.flatnonzero((edge[1:] == edge[:-1]) & alike.all(axis=1) & (area[1:] != area[:-1]))
    if not len(twin):
        return {}
    length = np.hypot(*(two[twin] - one[twin]).T)
    pairs = np.sort(np.column_stack([area[twin], area[twin + 1]]), axis=1)
    codes, which = np.unique(pairs[:, 0] * np.int64(len(geometries)) + pairs[:, 1], return_inverse=True)
    found = np.column_stack(np.divmod(codes, len(geometries)))
    total = np.bincount(which, weights=length)
    # The longest edge of each pair comes last of its own.
    by_length = np.lexsort((length, which))
    longest = by_length[np.append(np.flatnonzero(np.diff(which[by_length])), len(by_length) - 1)]
    middle = (one[twin[longest]] + two[twin[longest]]) / 2
    return {
        (a, b): (sum_, (x, y), most)
        for (a, b), sum_, (x, y), most in zip(
            found.tolist(), total.tolist(), middle.tolist(), length[longest].tolist(), strict=True
        )
    }

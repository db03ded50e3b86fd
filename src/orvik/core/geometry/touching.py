"""Ends that touch: what lies within rounding of an edge is on it, and becomes a vertex there.

Where an end falls on a segment between two vertices its coordinates are rounded, so that it lies a little beside
the segment: a nanometre at eastings of half a million, more where they are larger. What the findings take for
touching must meet when faces are formed, too, or a face would stay open and nothing would say so.
"""

from __future__ import annotations

from collections import defaultdict

import numpy as np
import shapely

from orvik.core.arrays import Floats, Geometries, Ints, Nodes
from orvik.core.geometry.nodes import NODE, nodes_of, replaced_nodes


def with_ends_met(pieces: Geometries) -> Geometries:
    """Lines whose ends meet what they touch, to the last bit.

    An end within ``NODE`` of a vertex moves onto it; one that lies so near to a segment becomes a vertex of that
    line. What meets already is the very same geometry.

    Parameters
    ----------
    pieces
        Linestrings.
    """
    if len(pieces) < 2:
        return pieces
    counts = shapely.get_num_coordinates(pieces)
    stops = np.cumsum(counts)
    nodes = nodes_of(pieces)
    first, last = nodes[stops - counts], nodes[stops - 1]
    ends = np.unique(np.concatenate([first, last]))
    hits, rows = _beside(pieces, ends, first, last)
    moves: dict[complex, complex] = {}
    inner: list[tuple[complex, int]] = []
    for end, row in zip(ends[hits].tolist(), rows.tolist(), strict=True):
        held = nodes[stops[row] - counts[row] : stops[row]]
        apart = np.abs(held - end)
        nearest = int(np.argmin(apart))
        if apart[nearest] == 0:
            continue
        if apart[nearest] <= NODE:
            _move(moves, end, complex(held[nearest]), ends)
        else:
            inner.append((end, row))
    if not moves and not inner:
        return pieces
    met = pieces
    if moves:
        met = replaced_nodes(met, {end: _target(moves, end) for end in moves})
    return _with_vertices(met, [(_target(moves, end), row) for end, row in inner])


def _beside(pieces: Geometries, ends: Nodes, first: Nodes, last: Nodes) -> tuple[Ints, Ints]:
    """Ends and the pieces that they touch, without those that end there themselves: most do, and need no look."""
    x, y = ends.real, ends.imag
    hits, rows = shapely.STRtree(pieces).query(shapely.box(x - NODE, y - NODE, x + NODE, y + NODE))
    others = (ends[hits] != first[rows]) & (ends[hits] != last[rows])
    hits, rows = hits[others], rows[others]
    near = shapely.dwithin(shapely.points(x[hits], y[hits]), pieces[rows], NODE)
    return hits[near], rows[near]


def _move(moves: dict[complex, complex], end: complex, vertex: complex, ends: Nodes) -> None:
    """Note that an end goes to a vertex; of two ends that are as near as rounding, the western one stays."""
    one, two = _target(moves, end), _target(moves, vertex)
    if one == two:
        return
    at = int(np.searchsorted(ends, vertex))
    is_end = at < len(ends) and ends[at] == vertex
    if is_end and (one.real, one.imag) < (two.real, two.imag):
        one, two = two, one
    moves[one] = two


def _target(moves: dict[complex, complex], node: complex) -> complex:
    while node in moves:
        node = moves[node]
    return node


def _with_vertices(pieces: Geometries, wanted: list[tuple[complex, int]]) -> Geometries:
    """Lines with vertices at places on their segments."""
    by_row: dict[int, set[complex]] = defaultdict(set)
    for place, row in wanted:
        by_row[row].add(place)
    out = pieces.copy()
    for row, places in by_row.items():
        xy = shapely.get_coordinates(pieces[row])
        for place in places:
            xy = _inserted(xy, np.array([place.real, place.imag]))
        out[row] = shapely.LineString(xy)
    return out


def _inserted(xy: Floats, place: Floats) -> Floats:
    if (xy == place).all(axis=1).any():
        return xy
    start, step = xy[:-1], np.diff(xy, axis=0)
    along = ((place - start) * step).sum(axis=1) / np.maximum((step * step).sum(axis=1), 1e-300)
    foot = start + np.clip(along, 0, 1)[:, None] * step
    at = int(np.argmin(np.hypot(*(foot - place).T)))
    return np.insert(xy, at + 1, place, axis=0)

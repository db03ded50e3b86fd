"""Nodes: where edges of several features meet, one and the same place to the last bit in all of them.

Where two lines cross is computed, and with other lines beside them, or the other way round, its last bits may
differ. Edges that are to stay together take the nodes that were there first.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Any, cast

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from orvik.core.arrays import Geometries, Nodes
from orvik.core.features.feature import Feature
from orvik.core.geometry.shared_edges import with_shared_vertices

# What is so near to one another, in project units, touches: far above the rounding of coordinates, which is a
# billionth of a metre at eastings in the millions, and far below what a hand draws. Findings and forming share it.
NODE = 1e-6


def nodes_of(geometries: Geometries) -> Nodes:
    """All vertices as complex numbers, which compare and sort as a whole."""
    return np.ascontiguousarray(shapely.get_coordinates(geometries)).view(np.complex128).ravel()


def same_nodes(geometries: Geometries, there: Nodes) -> Geometries:
    """Geometries whose nodes are to the last bit those that were there, where these are as near as rounding."""
    if not len(geometries) or not len(there):
        return geometries
    now = nodes_of(geometries)
    moved = now.copy()
    for node, nearest in _nearest(np.setdiff1d(now, there), np.unique(there)):
        if nearest not in now:
            moved[now == node] = nearest
    return _moved(geometries, moved)


class _Known:
    """Nodes that are there already, asked by where they are: as many as there may be, a question costs the same."""

    def __init__(self) -> None:
        self._all: set[complex] = set()
        self._cells: dict[tuple[int, int], list[complex]] = defaultdict(list)

    def __contains__(self, node: complex) -> bool:
        return node in self._all

    def add(self, nodes: Iterable[complex]) -> None:
        """More of them."""
        for node in nodes:
            if node not in self._all:
                self._all.add(node)
                self._cells[self._cell(node)].append(node)

    def nearest(self, node: complex) -> complex | None:
        """The one that is as near as rounding and nearest; of several the westernmost, then the southernmost."""
        column, row = self._cell(node)
        near = (
            other
            for dx in (-1, 0, 1)
            for dy in (-1, 0, 1)
            for other in self._cells.get((column + dx, row + dy), ())
            if abs(other - node) <= NODE
        )
        return min(near, key=lambda other: (abs(other - node), other.real, other.imag), default=None)

    def sorted(self) -> Nodes:
        """All of them, from west to east and from south to north."""
        return np.unique(np.array(list(self._all), dtype=complex))

    @staticmethod
    def _cell(node: complex) -> tuple[int, int]:
        return math.floor(node.real / (2 * NODE)), math.floor(node.imag / (2 * NODE))


def _one_node(geometry: BaseGeometry, known: _Known) -> BaseGeometry:
    """The same for one of them, with no two nodes of its own as near as rounding either."""
    alone = _array([geometry])
    now = nodes_of(alone)
    targets: dict[complex, complex] = {}
    kept: list[complex] = []
    for node in np.unique(now).tolist():
        if node in known:
            continue
        twin = known.nearest(node)
        if twin is None:
            twin = _twin(node, kept)
        if twin is None:
            kept.append(node)
        else:
            targets[node] = twin
    if not targets:
        return geometry
    one = _renamed(geometry, targets)
    # An arm thinner than rounding would close; it stays as it is, and is seen when the whole is proven.
    return one if one.is_valid else geometry


def parted_at_arms(area: shapely.Polygon) -> list[shapely.Polygon]:
    """The bodies of an area that nothing but an arm thinner than rounding holds together; else the area alone."""
    kept: list[complex] = []
    targets: dict[complex, complex] = {}
    for node in np.unique(nodes_of(_array([area]))).tolist():
        twin = _twin(node, kept)
        if twin is None:
            kept.append(node)
        else:
            targets[node] = twin
    if not targets:
        return [area]
    one = _renamed(area, targets)
    if one.is_valid:
        return [area]
    return [part for part in shapely.get_parts(shapely.make_valid(one)).tolist() if isinstance(part, shapely.Polygon)]


def _renamed(geometry: BaseGeometry, targets: Mapping[complex, complex]) -> BaseGeometry:
    """A geometry with some of its nodes put elsewhere, and none twice in a row."""
    alone = _array([geometry])
    moved = nodes_of(alone).copy()
    for at in np.flatnonzero(np.isin(moved, np.array(list(targets), dtype=complex))).tolist():
        moved[at] = targets[complex(moved[at])]
    (one,) = _moved(alone, moved)
    return cast(BaseGeometry, shapely.remove_repeated_points(one, 0.0))


def _twin(node: complex, before: Sequence[complex]) -> complex | None:
    """The one of the nodes before, sorted by easting, that is as near as rounding."""
    for other in reversed(before):
        if node.real - other.real > NODE:
            return None
        if abs(node - other) <= NODE:
            return other
    return None


def _nearest(nodes: Nodes, there: Nodes) -> Iterator[tuple[complex, complex]]:
    """Nodes with the one of those that were there, sorted by easting, that is as near as rounding."""
    first, last = (np.searchsorted(there.real, nodes.real + reach) for reach in (-NODE, NODE))
    for node, a, b in zip(nodes, first, last, strict=True):
        window = there[a:b]
        if len(window):
            nearest = window[np.argmin(np.abs(window - node))]
            if abs(nearest - node) <= NODE:
                yield node, nearest


def replaced_nodes(geometries: Geometries, targets: Mapping[complex, complex]) -> Geometries:
    """Geometries with some of their nodes put elsewhere; what would have no length left stays as it is."""
    now = nodes_of(geometries)
    moved = now.copy()
    for at in np.flatnonzero(np.isin(now, np.array(list(targets), dtype=complex))).tolist():
        moved[at] = targets[complex(now[at])]
    out = shapely.remove_repeated_points(_moved(geometries, moved), 0.0)
    return np.where(shapely.length(out) > 0, out, geometries)


def _moved(geometries: Geometries, nodes: Nodes) -> Geometries:
    return shapely.set_coordinates(geometries.copy(), nodes.view(np.float64).reshape(-1, 2))


def same_edge(one: BaseGeometry, two: BaseGeometry) -> bool:
    """Whether two areas have the same edge but for nodes on it that only the second one has."""
    if shapely.get_num_interior_rings(one) != shapely.get_num_interior_rings(two):
        return False
    first, second = (nodes_of(np.array([g], dtype=object)) for g in (one, two))
    if not np.isin(first, second).all():
        return False
    more = np.setdiff1d(second, first)
    return bool(shapely.dwithin(shapely.points(more.real, more.imag), one.boundary, NODE).all())


def with_common_nodes(changed: Sequence[Feature], neighbours: Sequence[Feature]) -> tuple[list[Feature], list[Feature]]:
    """Areas and those beside them with every node of a shared edge in common.

    Parameters
    ----------
    changed
        Areas that an operation has made or cut.
    neighbours
        The areas around them. A node stays where the first of them has it.

    Returns
    -------
    changed, neighbours
        In the same order; what needs no new node is the very same feature.
    """
    cut = _array([f.geometry for f in changed])
    around = _array([f.geometry for f in neighbours])
    touching = np.unique(shapely.STRtree(cut).query(around, predicate="dwithin", distance=NODE)[0])
    known = _Known()
    made: list[Feature] = []
    for feature in (*(neighbours[i] for i in touching), *changed):
        geometry = _one_node(feature.geometry, known)
        made.append(feature if geometry == feature.geometry else feature.changed(geometry=geometry))
        known.add(nodes_of(_array([geometry])).tolist())
    there = known.sorted()
    places: Any = shapely.points(there.real, there.imag)
    tree = shapely.STRtree(places)
    made = [_with_nodes(f, there, tree) for f in made]
    near = list(neighbours)
    for i, feature in zip(touching.tolist(), made, strict=False):
        near[i] = feature
    return made[len(touching) :], near


def _with_nodes(area: Feature, nodes: Nodes, tree: shapely.STRtree) -> Feature:
    on_edge = nodes[tree.query(area.geometry.boundary, predicate="dwithin", distance=NODE)]
    wanted = np.setdiff1d(on_edge, nodes_of(_array([area.geometry])))
    changed = with_shared_vertices([(float(n.real), float(n.imag)) for n in wanted], [area])
    return changed[0] if changed else area


def _array(geometries: Sequence[BaseGeometry]) -> Geometries:
    made = np.empty(len(geometries), dtype=object)
    made[:] = geometries
    return made

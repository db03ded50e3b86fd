"""Which areas meet along their rims and how long, kept up with edits: only what has changed is looked at again."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Floats, Ints, Objects, object_array
from orvik.core.geometry.edges import among, edge_codes, vertex_codes

# Where more than this share of the areas has changed all are looked at again.
ANEW = 0.2


@dataclass(frozen=True)
class Meetings:
    """Pairs of areas by their numbers, each pair once, and how long they meet."""

    one: Ints
    two: Ints
    long: Floats


NONE = Meetings(np.empty(0, dtype=np.int64), np.empty(0, dtype=np.int64), np.empty(0))


class SharedRims:
    """The pairs of areas that share a part of their rims.

    What lies along a fault is none: a fault brings together what was laid down apart.
    """

    def __init__(self) -> None:
        self._areas: dict[int, object] = {}
        self._faults: dict[int, object] = {}
        self._held = NONE

    def of(self, ids: Ints, areas: Objects, faults: Objects) -> Meetings:
        """The pairs as these areas and faults have them.

        Parameters
        ----------
        ids, areas
            Numbers of the areas, each its own, and their polygons; an area that has not changed is the same object as
            when it was last asked for.
        faults
            Lines along which none counts, likewise.
        """
        now = dict(zip(ids.tolist(), areas, strict=True))
        lines = {id(line): line for line in faults}
        changed = {number for number, area in now.items() if self._areas.get(number) is not area}
        changed |= self._areas.keys() - now.keys()
        both = (*lines.items(), *self._faults.items())
        moved = [line for key, line in both if (key in lines) != (key in self._faults)]
        if changed or moved:
            self._held = self._followed(now, changed, object_array(list(lines.values())), object_array(moved))
        self._areas, self._faults = now, lines
        return self._held

    def _followed(self, now: dict[int, object], changed: set[int], faults: Objects, moved: Objects) -> Meetings:
        numbers = np.array(list(now), dtype=np.int64)
        areas = object_array(list(now.values()))
        if len(changed) > ANEW * len(now) or not len(now):
            return _meetings(numbers, areas, faults)
        tree = shapely.STRtree(areas)
        again = np.isin(numbers, np.array(sorted(changed), dtype=np.int64))
        again[np.unique(tree.query(moved, predicate="intersects")[1])] = True
        near = np.unique(np.concatenate([np.flatnonzero(again), tree.query(areas[again], predicate="intersects")[1]]))
        close = np.unique(shapely.STRtree(faults).query(areas[near], predicate="intersects")[1])
        fresh = _meetings(numbers[near], areas[near], faults[close])
        redone = np.array(sorted(changed | set(numbers[again].tolist())), dtype=np.int64)
        kept = ~(np.isin(self._held.one, redone) | np.isin(self._held.two, redone))
        new = np.isin(fresh.one, redone) | np.isin(fresh.two, redone)
        return Meetings(
            np.concatenate([self._held.one[kept], fresh.one[new]]),
            np.concatenate([self._held.two[kept], fresh.two[new]]),
            np.concatenate([self._held.long[kept], fresh.long[new]]),
        )


def _meetings(numbers: Ints, polygons: Objects, faults: Objects) -> Meetings:
    """All pairs among some areas."""
    if not len(polygons):
        return NONE
    rings, owner = shapely.get_rings(polygons, return_index=True)
    xy, ring = shapely.get_coordinates(rings, return_index=True)
    inner = ring[1:] == ring[:-1]
    vertices = vertex_codes(xy)
    codes = edge_codes(vertices[:-1], vertices[1:], either_way=True)[inner]
    long, area = np.hypot(*np.diff(xy, axis=0).T)[inner], owner[ring[:-1]][inner]
    of_faults, line = shapely.get_coordinates(faults, return_index=True)
    if len(of_faults):
        places = vertex_codes(of_faults)
        along = edge_codes(places[:-1], places[1:], either_way=True)[line[1:] == line[:-1]]
        keep = np.ones(len(codes), dtype=bool)
        keep[among(codes, np.unique(along))] = False
        codes, long, area = codes[keep], long[keep], area[keep]
    order = np.argsort(codes, kind="stable")
    same = np.flatnonzero(codes[order][1:] == codes[order][:-1])
    one, two = area[order[same]], area[order[same + 1]]
    pair = np.minimum(one, two) * len(polygons) + np.maximum(one, two)
    pairs, which = np.unique(pair[one != two], return_inverse=True)
    lengths = np.bincount(which, long[order[same]][one != two], minlength=len(pairs))
    return Meetings(
        numbers[pairs // len(polygons)], numbers[pairs % len(polygons)], np.asarray(lengths, dtype=np.float64)
    )

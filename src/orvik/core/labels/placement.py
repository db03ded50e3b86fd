"""Placing labels: each takes the best place that is free, in a fixed order, and one may give way to another."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Floats, Ints, Objects
from orvik.core.features.feature import Table
from orvik.core.labels.along import letter_boxes
from orvik.core.labels.candidates import CLEAR, Candidates, boxes, leader_starts
from orvik.core.labels.obstacles import NEVER, Obstacles
from orvik.core.labels.wish import AGAIN, Wish

# Letters and leaders keep this much apart from one another, in millimetres.
APART = 0.3
# Codes of one area stand no nearer than this, in millimetres.
AGAIN_AFTER = 55.0
# The cell of the grid by which neighbours are found, in millimetres.
CELL = 12.0


@dataclass(frozen=True)
class LabelPlace:
    """Where a label stands, in millimetres on the page.

    Attributes
    ----------
    leader
        From where to where its leader runs, (2, 2); None for no leader.
    letters
        The place and turn of each letter, (k, 3), where they follow a line; else None.
    over
        Whether it lies over a line.
    by_hand
        Whether a hand has put it there.
    """

    middle: tuple[float, float]
    angle: float
    leader: Floats | None = None
    letters: Floats | None = None
    over: bool = False
    by_hand: bool = False


def outlines(wishes: Sequence[Wish], candidates: Candidates, clear: float) -> Objects:
    """The ground that the letters of each candidate take."""
    halves = np.array([wish.half for wish in wishes]).reshape(-1, 2)[candidates.owners]
    out = boxes(candidates.middles, halves, candidates.angles, clear)
    for row, letters in candidates.letters.items():
        middles, letter_halves, turns = letter_boxes(wishes[int(candidates.owners[row])], letters)
        out[row] = shapely.union_all(boxes(middles, letter_halves, turns, clear))
    return out


def firsts(wishes: Sequence[Wish]) -> dict[tuple[Table, int], int]:
    """The first label of each feature, whose candidates those that are repeated share."""
    out: dict[tuple[Table, int], int] = {}
    for i, wish in enumerate(wishes):
        out.setdefault((wish.key.table, wish.key.id), i)
    return out


def place(
    wishes: Sequence[Wish],
    candidates: Candidates,
    obstacles: Obstacles,
    own: Ints,
    held: Sequence[tuple[int, LabelPlace]],
    within: shapely.Polygon | None = None,
) -> dict[int, LabelPlace]:
    """A place for as many of the wishes as have one.

    Parameters
    ----------
    candidates
        Their owners are numbers of wishes; repeated codes of an area share those of the first.
    own
        For each wish the key of the feature whose own line it may lie on; -1 for none.
    held
        Places that a hand has chosen; they stay.
    within
        The ground of the page that labels must lie on.
    """
    chooser = _Chooser(wishes, candidates, obstacles, own, within)
    return chooser.chosen(held)


class _Chooser:
    def __init__(
        self,
        wishes: Sequence[Wish],
        candidates: Candidates,
        obstacles: Obstacles,
        own: Ints,
        within: shapely.Polygon | None,
    ) -> None:
        self.wishes = wishes
        clear = outlines(wishes, candidates, CLEAR)
        over_cost, over = obstacles.costs(clear, own[candidates.owners])
        possible = over_cost < NEVER
        if within is not None:
            shapely.prepare(within)
            possible &= shapely.contains(within, clear)
        kept = np.flatnonzero(possible)
        candidates = candidates.only(kept)
        self.candidates = candidates
        self.over = over[kept]
        cost = candidates.costs + over_cost[kept]
        self.leaders: dict[int, shapely.LineString] = {}
        led = candidates.led
        if len(led):
            halves = np.array([wish.half for wish in wishes]).reshape(-1, 2)
            starts = leader_starts(candidates.middles[led], halves[candidates.owners[led]], candidates.ends[led])
            lines: Objects = np.asarray(shapely.linestrings(np.stack([starts, candidates.ends[led]], axis=1)))
            cost[led] += obstacles.leader_costs(lines)
            self.leaders = dict(zip(led.tolist(), lines.tolist(), strict=True))
        self.outlines = outlines(wishes, candidates, APART / 2)
        self.boxes = shapely.bounds(self.outlines).reshape(-1, 4)
        for row, line in self.leaders.items():
            w, s, e, n = line.bounds
            box = self.boxes[row]
            self.boxes[row] = (min(w, box[0]), min(s, box[1]), max(e, box[2]), max(n, box[3]))
        self.choices: dict[int, list[int]] = defaultdict(list)
        for row in np.lexsort((np.arange(len(cost)), cost)).tolist():
            self.choices[int(candidates.owners[row])].append(row)
        self.base = firsts(wishes)
        self.of_area: dict[int, list[int]] = defaultdict(list)
        for i, wish in enumerate(wishes):
            if wish.key.table == "areas":
                self.of_area[wish.key.id].append(i)
        self.grid: dict[tuple[int, int], set[int]] = defaultdict(set)
        # What stands: by wish, its candidate, or -1 for one that is held.
        self.taken: dict[int, int] = {}
        self.shapes: dict[int, tuple[shapely.Geometry, shapely.Geometry | None, tuple[float, ...]]] = {}

    def chosen(self, held: Sequence[tuple[int, LabelPlace]]) -> dict[int, LabelPlace]:
        """Where each wish stands that found a place."""
        out: dict[int, LabelPlace] = {}
        for i, standing in held:
            half = np.array([self.wishes[i].half])
            shape = boxes(np.array([standing.middle]), half, np.array([standing.angle]), APART / 2)[0]
            leader = shapely.LineString(standing.leader) if standing.leader is not None else None
            self._put(i, -1, shape, leader)
            out[i] = standing
        waiting = [i for i in range(len(self.wishes)) if i not in out]
        waiting.sort(key=lambda i: (self.wishes[i].priority, len(self._choices(i)), self.wishes[i].key))
        for i in waiting:
            self._place(i)
        return out | {i: self._standing(row) for i, row in sorted(self.taken.items()) if row >= 0}

    def _choices(self, i: int) -> list[int]:
        wish = self.wishes[i]
        return self.choices[self.base[wish.key.table, wish.key.id] if wish.priority == AGAIN else i]

    def _place(self, i: int) -> None:
        blocked: list[tuple[int, int]] = []
        for row in self._choices(i):
            if not self._far_from_siblings(i, row):
                continue
            blockers = self._blockers(row, 2)
            if not blockers:
                self._take(i, row)
                return
            if len(blockers) == 1:
                blocked.append((row, blockers[0]))
        for row, other in blocked:
            if self._gives_way(other, row, i):
                self._take(i, row)
                return

    def _gives_way(self, other: int, row: int, wanting: int) -> bool:
        """Move a label elsewhere, so that a place is free for another one; False where it has nowhere else."""
        was = self.taken[other]
        if was < 0 or self.wishes[other].priority == self.wishes[wanting].priority == AGAIN:
            return False
        self._remove(other)
        shape, leader = self.outlines[row], self.leaders.get(row)
        for choice in self._choices(other):
            if choice == was or self._meet(choice, shape, leader) or not self._far_from_siblings(other, choice):
                continue
            if not self._blockers(choice, 1):
                self._take(other, choice)
                return True
        self._take(other, was)
        return False

    def _far_from_siblings(self, i: int, row: int) -> bool:
        key = self.wishes[i].key
        if key.table != "areas":
            return True
        x, y = self.candidates.middles[row]
        for sibling in self.of_area[key.id]:
            if sibling == i or sibling not in self.shapes:
                continue
            w, s, e, n = self.shapes[sibling][2]
            if np.hypot((w + e) / 2 - x, (s + n) / 2 - y) < AGAIN_AFTER:
                return False
        return True

    def _take(self, i: int, row: int) -> None:
        self._put(i, row, self.outlines[row], self.leaders.get(row), tuple(self.boxes[row].tolist()))

    def _put(
        self,
        i: int,
        row: int,
        shape: shapely.Geometry,
        leader: shapely.Geometry | None,
        box: tuple[float, ...] | None = None,
    ) -> None:
        if box is None:
            box = _bounds(shape if leader is None else shapely.union(shape, leader))
        self.taken[i] = row
        self.shapes[i] = (shape, leader, box)
        for cell in _cells(box):
            self.grid[cell].add(i)

    def _remove(self, i: int) -> None:
        for cell in _cells(self.shapes[i][2]):
            self.grid[cell].discard(i)
        del self.taken[i], self.shapes[i]

    def _blockers(self, row: int, most: int) -> list[int]:
        """Labels that stand in the way of a candidate, up to so many."""
        w, s, e, n = self.boxes[row].tolist()
        out: list[int] = []
        seen: set[int] = set()
        for cell in _cells((w, s, e, n)):
            for i in self.grid.get(cell, ()):
                if i in seen:
                    continue
                seen.add(i)
                ow, os, oe, on = self.shapes[i][2]
                if ow < e and oe > w and os < n and on > s and self._meet(row, *self.shapes[i][:2]):
                    out.append(i)
                    if len(out) >= most:
                        return sorted(out)
        return sorted(out)

    def _meet(self, row: int, shape: shapely.Geometry, leader: shapely.Geometry | None) -> bool:
        mine, line = self.outlines[row], self.leaders.get(row)
        if mine.intersects(shape):
            return True
        if leader is not None and mine.intersects(leader):
            return True
        return line is not None and (line.intersects(shape) or (leader is not None and line.intersects(leader)))

    def _standing(self, row: int) -> LabelPlace:
        candidates = self.candidates
        x, y = candidates.middles[row].tolist()
        line = self.leaders.get(row)
        return LabelPlace(
            (x, y),
            float(candidates.angles[row]),
            shapely.get_coordinates(line) if line is not None else None,
            candidates.letters.get(row),
            bool(self.over[row]),
        )


def _bounds(shape: shapely.Geometry) -> tuple[float, ...]:
    return tuple(shapely.bounds(shape).tolist())


def _cells(box: tuple[float, ...]) -> Iterator[tuple[int, int]]:
    w, s, e, n = box
    for x in range(int(w // CELL), int(e // CELL) + 1):
        for y in range(int(s // CELL), int(n // CELL) + 1):
            yield x, y


def largest_factors(shapes: Sequence[tuple[Floats, Floats]], order: Sequence[int], factors: Sequence[float]) -> Floats:
    """How many times coarser than the scale they were placed at labels can be shown without touching one another.

    Parameters
    ----------
    shapes
        For each label the place that it stands by, and the box of its letters about that, (west, north, east, south),
        in millimetres.
    order
        Labels, those first that stay longest.
    factors
        Growing; the first is 1.
    """
    out = np.ones(len(shapes))
    standing = list(order)
    for factor in factors:
        grid: dict[tuple[int, int], list[tuple[float, ...]]] = defaultdict(list)
        kept: list[int] = []
        for i in standing:
            at, box = shapes[i]
            moved = (*(at / factor + box[:2]).tolist(), *(at / factor + box[2:]).tolist())
            cells = list(_cells(moved))
            if any(_overlap(moved, other) for cell in cells for other in grid[cell]):
                continue
            for cell in cells:
                grid[cell].append(moved)
            kept.append(i)
            out[i] = factor
        standing = kept
    return out


def _overlap(one: tuple[float, ...], other: tuple[float, ...]) -> bool:
    return one[0] < other[2] and one[2] > other[0] and one[1] < other[3] and one[3] > other[1]

"""Placing labels: each takes the best place that is free, in a fixed order, and one may give way to another."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Flags, Floats, Ints, Objects
from orvik.core.features.table import Table
from orvik.core.labels.along import letter_boxes
from orvik.core.labels.candidates import CLEAR, Candidates, boxes, leader_starts
from orvik.core.labels.label_request import AGAIN, LabelRequest, halves_of
from orvik.core.labels.obstacles import NEVER, Obstacles

# Letters and leaders keep this much apart from one another, in millimetres.
APART = 0.3
# Codes of one area stand no nearer than this, in millimetres.
AGAIN_AFTER = 55.0
# So many candidates are held against what they may lie over at once.
AT_ONCE = 15_000
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


def outlines(requests: Sequence[LabelRequest], candidates: Candidates, clear: float) -> Objects:
    """The ground that the letters of each candidate take."""
    halves = halves_of(requests)[candidates.owners]
    out = boxes(candidates.middles, halves, candidates.angles, clear)
    for row, letters in candidates.letters.items():
        out[row] = _of_letters(requests[int(candidates.owners[row])], letters, clear)
    return out


def _of_letters(request: LabelRequest, letters: Floats, clear: float) -> shapely.Geometry:
    middles, halves, turns = letter_boxes(request, letters)
    return shapely.union_all(boxes(middles, halves, turns, clear))


def firsts(requests: Sequence[LabelRequest]) -> dict[tuple[Table, int], int]:
    """The first label of each feature, whose candidates those that are repeated share."""
    out: dict[tuple[Table, int], int] = {}
    for i, request in enumerate(requests):
        out.setdefault((request.key.table, request.key.id), i)
    return out


def place(
    requests: Sequence[LabelRequest],
    candidates: Candidates,
    obstacles: Obstacles,
    own: Ints,
    held: Sequence[tuple[int, LabelPlace]],
    within: shapely.Polygon | None = None,
) -> dict[int, LabelPlace]:
    """A place for as many of the requests as have one.

    Parameters
    ----------
    candidates
        Their owners are numbers of requests; repeated codes of an area share those of the first.
    own
        For each request the key of the feature whose own line it may lie on; -1 for none.
    held
        Places that a hand has chosen; they stay.
    within
        The ground of the page that labels must lie on.
    """
    chooser = _Chooser(requests, candidates, obstacles, own, within)
    return chooser.chosen(held)


def _possible(
    requests: Sequence[LabelRequest],
    candidates: Candidates,
    obstacles: Obstacles,
    own: Ints,
    within: shapely.Polygon | None,
) -> tuple[Floats, Flags]:
    """What candidates cost for what they lie over, and which of them can be.

    Of large maps there are millions, so that their outlines are made some at a time.
    """
    cost, possible = np.zeros(len(candidates)), np.zeros(len(candidates), dtype=bool)
    if within is not None:
        shapely.prepare(within)
    for begin in range(0, len(candidates), AT_ONCE):
        rows = np.arange(begin, min(begin + AT_ONCE, len(candidates)))
        clear = outlines(requests, candidates.only(rows), CLEAR)
        cost[rows] = obstacles.costs(clear, own[candidates.owners[rows]])
        possible[rows] = cost[rows] < NEVER
        if within is not None:
            possible[rows] &= shapely.contains(within, clear)
    return cost, possible


class _Chooser:
    def __init__(
        self,
        requests: Sequence[LabelRequest],
        candidates: Candidates,
        obstacles: Obstacles,
        own: Ints,
        within: shapely.Polygon | None,
    ) -> None:
        self.requests = requests
        over_cost, possible = _possible(requests, candidates, obstacles, own, within)
        kept = np.flatnonzero(possible)
        candidates = candidates.only(kept)
        self.candidates = candidates
        self.over = over_cost[kept] > 0
        cost = candidates.costs + over_cost[kept]
        self.leaders: dict[int, shapely.LineString] = {}
        # The same from where to where: x, y, x, y.
        self.leader_ends: dict[int, list[float]] = {}
        led, halves = candidates.led, halves_of(requests)[candidates.owners]
        if len(led):
            starts = leader_starts(candidates.middles[led], halves[led], candidates.ends[led])
            lines: Objects = np.asarray(shapely.linestrings(np.stack([starts, candidates.ends[led]], axis=1)))
            cost[led] += obstacles.leader_costs(lines)
            self.leaders = dict(zip(led.tolist(), lines.tolist(), strict=True))
            ends = np.hstack([starts, candidates.ends[led]]).tolist()
            self.leader_ends = dict(zip(led.tolist(), ends, strict=True))
        self.halves = halves
        self.outlines: dict[int, shapely.Geometry] = {}
        # Around the letters, which is all that they are where these stand level, and around both with the leader.
        self.letter_boxes = self._bounds()
        self.level = candidates.angles == 0
        self.level[list(candidates.letters)] = False
        self.boxes = self.letter_boxes.copy()
        if len(led):
            self.boxes[led, :2] = np.minimum(np.minimum(self.boxes[led, :2], starts), candidates.ends[led])
            self.boxes[led, 2:] = np.maximum(np.maximum(self.boxes[led, 2:], starts), candidates.ends[led])
        # The rows of each request, the cheapest first.
        self.by_cost = np.lexsort((cost, candidates.owners))
        self.first = np.searchsorted(candidates.owners[self.by_cost], np.arange(len(requests) + 1))
        self.base = firsts(requests)
        self.of_area: dict[int, list[int]] = defaultdict(list)
        for i, request in enumerate(requests):
            if request.key.table == "areas":
                self.of_area[request.key.id].append(i)
        self.grid: dict[tuple[int, int], set[int]] = defaultdict(set)
        # What stands: by request, its candidate, or -1 for one that is held.
        self.taken: dict[int, int] = {}
        self.taken_boxes: dict[int, tuple[float, ...]] = {}
        # The letters of those that are held, and from where to where their leaders run.
        self.held: dict[int, tuple[shapely.Geometry, Floats | None]] = {}

    def _bounds(self) -> Floats:
        """The box around the letters of each candidate, (n, 4): west, north, east and south."""
        turns = np.radians(self.candidates.angles)[:, None]
        grown = self.halves + APART / 2
        reach = np.abs(np.cos(turns)) * grown + np.abs(np.sin(turns)) * grown[:, ::-1]
        bounds = np.hstack([self.candidates.middles - reach, self.candidates.middles + reach])
        for row in self.candidates.letters:
            bounds[row] = _bounds(self._outline(row))
        return bounds

    def _outline(self, row: int) -> shapely.Geometry:
        """The ground that the letters of a candidate take; few candidates are looked at so closely."""
        if row not in self.outlines:
            candidates, own = self.candidates, slice(row, row + 1)
            letters = candidates.letters.get(row)
            if letters is not None:
                shape = _of_letters(self.requests[int(candidates.owners[row])], letters, APART / 2)
            else:
                shape = boxes(candidates.middles[own], self.halves[own], candidates.angles[own], APART / 2)[0]
            self.outlines[row] = shape
        return self.outlines[row]

    def chosen(self, held: Sequence[tuple[int, LabelPlace]]) -> dict[int, LabelPlace]:
        """Where each request stands that found a place."""
        out: dict[int, LabelPlace] = dict(held)
        if held:
            middles = np.array([standing.middle for _, standing in held])
            angles = np.array([standing.angle for _, standing in held])
            shapes = boxes(middles, halves_of([self.requests[i] for i, _ in held]), angles, APART / 2)
            for (i, standing), shape, box in zip(held, shapes.tolist(), shapely.bounds(shapes).tolist(), strict=True):
                self.held[i] = (shape, standing.leader)
                self._put(i, -1, _grown(box, standing.leader))
        waiting = [i for i in range(len(self.requests)) if i not in out]
        waiting.sort(key=lambda i: (self.requests[i].priority, self._count(i), self.requests[i].key))
        for i in waiting:
            self._place(i)
        return out | {i: self._standing(row) for i, row in sorted(self.taken.items()) if row >= 0}

    def _owner(self, i: int) -> int:
        """The request whose candidates one has."""
        request = self.requests[i]
        return self.base[request.key.table, request.key.id] if request.priority == AGAIN else i

    def _count(self, i: int) -> int:
        owner = self._owner(i)
        return int(self.first[owner + 1] - self.first[owner])

    def _choices(self, i: int) -> list[int]:
        """Candidates of a request, the cheapest first."""
        owner = self._owner(i)
        rows: list[int] = self.by_cost[self.first[owner] : self.first[owner + 1]].tolist()
        return rows

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
        if was < 0 or self.requests[other].priority == self.requests[wanting].priority == AGAIN:
            return False
        self._remove(other)
        for choice in self._choices(other):
            if choice == was or self._meets(choice, row) or not self._far_from_siblings(other, choice):
                continue
            if not self._blockers(choice, 1):
                self._take(other, choice)
                return True
        self._take(other, was)
        return False

    def _far_from_siblings(self, i: int, row: int) -> bool:
        key = self.requests[i].key
        if key.table != "areas":
            return True
        x, y = self.candidates.middles[row]
        for sibling in self.of_area[key.id]:
            if sibling == i or sibling not in self.taken_boxes:
                continue
            w, s, e, n = self.taken_boxes[sibling]
            if np.hypot((w + e) / 2 - x, (s + n) / 2 - y) < AGAIN_AFTER:
                return False
        return True

    def _take(self, i: int, row: int) -> None:
        self._put(i, row, tuple(self.boxes[row].tolist()))

    def _put(self, i: int, row: int, box: tuple[float, ...]) -> None:
        self.taken[i] = row
        self.taken_boxes[i] = box
        for cell in _cells(box):
            self.grid[cell].add(i)

    def _remove(self, i: int) -> None:
        for cell in _cells(self.taken_boxes[i]):
            self.grid[cell].discard(i)
        del self.taken[i], self.taken_boxes[i]

    def _blockers(self, row: int, most: int) -> list[int]:
        """Labels that stand in the way of a candidate, up to so many."""
        w, s, e, n = self.boxes[row].tolist()
        out: list[int] = []
        for cell in _cells((w, s, e, n)):
            for i in self.grid.get(cell, ()):
                ow, os, oe, on = self.taken_boxes[i]
                if ow < e and oe > w and os < n and on > s and i not in out and self._meets_taken(row, i):
                    out.append(i)
                    if len(out) >= most:
                        return sorted(out)
        return sorted(out)

    def _meets_taken(self, row: int, i: int) -> bool:
        """Whether a candidate meets a label that stands."""
        there = self.taken[i]
        if there >= 0:
            return self._meets(row, there)
        shape, leader = self.held[i]
        theirs = (shape, None if leader is None else shapely.LineString(leader))
        return any(
            one is not None and other is not None and bool(shapely.intersects(one, other))
            for one in (self._outline(row), self.leaders.get(row))
            for other in theirs
        )

    def _meets(self, one: int, other: int) -> bool:
        """Whether two candidates meet, with their letters or with their leaders."""
        if self.level[one] and self.level[other]:
            if _overlap(self.letter_boxes[one].tolist(), self.letter_boxes[other].tolist()):
                return True
        elif shapely.intersects(self._outline(one), self._outline(other)):
            return True
        mine, theirs = self.leaders.get(one), self.leaders.get(other)
        if mine is not None and self._led_over(one, other):
            return True
        if theirs is not None and self._led_over(other, one):
            return True
        return mine is not None and theirs is not None and bool(shapely.intersects(mine, theirs))

    def _led_over(self, led: int, row: int) -> bool:
        """Whether the leader of a candidate runs over the letters of another."""
        if self.level[row]:
            return _runs_over(self.leader_ends[led], self.letter_boxes[row].tolist())
        return bool(shapely.intersects(self.leaders[led], self._outline(row)))

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


def _grown(box: Sequence[float], leader: Floats | None) -> tuple[float, ...]:
    """A box with a leader in it, too."""
    w, s, e, n = box
    if leader is None:
        return w, s, e, n
    (x0, y0), (x1, y1) = leader.tolist()
    return min(w, x0, x1), min(s, y0, y1), max(e, x0, x1), max(n, y0, y1)


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


def _runs_over(line: Sequence[float], box: Sequence[float]) -> bool:
    """Whether a straight line from one place to another meets a box (the clipping of Liang and Barsky, 1984)."""
    begin, end = 0.0, 1.0
    for i in (0, 1):
        at, step, low, high = line[i], line[i + 2] - line[i], box[i], box[i + 2]
        if step == 0.0:
            if not low <= at <= high:
                return False
            continue
        first, last = (low - at) / step, (high - at) / step
        begin, end = max(begin, min(first, last)), min(end, max(first, last))
    return begin <= end


def _overlap(one: Sequence[float], other: Sequence[float]) -> bool:
    return one[0] < other[2] and one[2] > other[0] and one[1] < other[3] and one[3] > other[1]

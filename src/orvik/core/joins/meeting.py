"""What meets across a border that two sheets share, and what does not."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import groupby

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from orvik.core.arrays import Floats
from orvik.core.coordinates import GroundXY
from orvik.core.features.kind import kind_of
from orvik.core.joins.neighbour import ONE_BORDER_MM, Edge, EdgeArea, EdgeLine

# All in millimetres on the sheet. What stands apart by no more than this meets: a third of a thin line.
MEETS_MM = 0.05
# A line is looked for so far along the border, and one that may be another thing only so far.
REACH_MM, REACH_OF_OTHERS_MM = 5.0, 0.5
# What touches the border lies so near to it.
TOUCHES_MM = 0.0001
# Units are compared so closely along the border, so far within it; a shorter stretch is not told of.
STEP_MM, WITHIN_MM, SHORTEST_MM = 0.2, 0.01, 0.6


@dataclass(frozen=True)
class Misfit:
    """What does not meet.

    Attributes
    ----------
    what
        ``offset``, ``kind`` or ``certainty`` of two lines; ``ends`` for a line of this sheet that the other does not
        go on with, ``begins`` for one of the other that this sheet does not; ``unit`` for ground.
    at
        Its place on the border.
    other
        Where the line of the other sheet comes to the border.
    mm
        How far apart on the sheet, or along how much of the border.
    number
        Of the line of this sheet.
    here, there
        The kinds, certainties or units that differ; empty for none.
    beside
        Whether nothing else comes to the border in between.
    """

    what: str
    at: GroundXY
    mm: float
    number: int | None = None
    other: GroundXY | None = None
    here: str = ""
    there: str = ""
    beside: bool = True


@dataclass(frozen=True)
class _Crossing:
    """Where a line comes to the border: how far along it, and which line."""

    s: float
    line: EdgeLine


@dataclass(frozen=True)
class SharedBorder:
    """The part of a sheet's border that a neighbour has, too; ``parts`` run along ``ring``."""

    ring: shapely.LinearRing
    parts: tuple[shapely.LineString, ...]
    mm: float
    within: float

    @property
    def length_mm(self) -> float:
        return sum(part.length for part in self.parts) / self.mm

    def place(self, s: float) -> GroundXY:
        """The place so far along the ring."""
        x, y = self.ring.interpolate(s % self.ring.length).coords[0]
        return float(x), float(y)

    def is_end(self, s: float) -> bool:
        """Whether a place is so near to an end of what is shared that it may be of another neighbour's border."""
        at = shapely.Point(self.place(s))
        reach = 2 * self.within * self.mm
        return any(at.distance(shapely.Point(part.coords[i])) <= reach for part in self.parts for i in (0, -1))

    def between(self, one: float, two: float) -> float:
        """From one distance along the ring to another, the shorter way, with its sign."""
        d = (two - one) % self.ring.length
        return d if d <= self.ring.length / 2 else d - self.ring.length


def shared_border(border: shapely.Polygon, edge: Edge, mm: float) -> SharedBorder:
    """What part of a border a neighbour has, too; no parts where the two do not touch along a line.

    Parameters
    ----------
    border
        Of the sheet that looks.
    mm
        A millimetre on the sheet in units of its system.
    """
    ring = border.exterior
    theirs: BaseGeometry
    if edge.ring is not None:
        theirs = edge.ring.exterior
    elif edge.areas:
        theirs = shapely.union_all([area.geometry for area in edge.areas])
    else:
        # Lines alone say no more than from where to where they come to the border.
        theirs = shapely.box(*shapely.total_bounds([line.geometry for line in edge.lines]))
    exact, rough = (_along(ring, theirs, reach * mm) for reach in (TOUCHES_MM, ONE_BORDER_MM))
    # Borders that are drawn in two systems are a little apart; those of one touch, and end at corners exactly.
    is_exact = sum(part.length for part in exact) >= sum(part.length for part in rough) - 4 * ONE_BORDER_MM * mm
    within = TOUCHES_MM if is_exact and exact else ONE_BORDER_MM
    parts = exact if within == TOUCHES_MM else rough
    # At a corner the ring goes on beyond the neighbour for as much as is looked around.
    long = tuple(part for part in parts if part.length > 2.5 * within * mm)
    return SharedBorder(ring, long, mm, within)


def _along(ring: shapely.LinearRing, other: BaseGeometry, reach: float) -> list[shapely.LineString]:
    if other.is_empty:
        return []
    near = shapely.intersection(ring, other.buffer(reach))
    merged = shapely.line_merge(near) if near.geom_type != "LineString" else near
    return [part for part in shapely.get_parts(merged) if part.geom_type == "LineString" and part.length > 0]


def misfits(shared: SharedBorder, here: Edge, there: Edge) -> list[Misfit]:
    """What does not meet across a border; in the order of the ring.

    Parameters
    ----------
    here, there
        What the two sheets show at it; where the other has nothing at all, nothing is compared.
    """
    if not shared.parts or there.is_empty:
        return []
    ours = _crossings(shared, here, shared.ring)
    theirs = _crossings(shared, there, there.ring.exterior if there.ring is not None else None)
    pairs, alone, others = _paired(shared, ours, theirs)
    mm, out = shared.mm, []
    stations = [crossing.s for crossing in ours]
    for one, two in pairs:
        d = shared.between(one.s, two.s)
        at, other = shared.place(one.s), shared.place(two.s)
        if one.line.kind != two.line.kind:
            out.append(Misfit("kind", at, abs(d) / mm, one.line.number, other, one.line.kind, two.line.kind))
        elif abs(d) > MEETS_MM * mm:
            free = not any(0 < shared.between(one.s, s) / d < 1 + 1e-9 for s in stations if s != one.s)
            kind = one.line.kind
            out.append(Misfit("offset", at, abs(d) / mm, one.line.number, other, kind, kind, free))
        said = _certainty(one.line), _certainty(two.line)
        if said[0] != said[1]:
            out.append(Misfit("certainty", at, abs(d) / mm, one.line.number, other, *said))
    if there.lines:
        ends = [c for c in alone if not shared.is_end(c.s)]
        out += [Misfit("ends", shared.place(c.s), 0.0, c.line.number, None, c.line.kind) for c in ends]
    begin = [c for c in others if not shared.is_end(c.s)]
    out += [Misfit("begins", shared.place(c.s), 0.0, None, shared.place(c.s), "", c.line.kind) for c in begin]
    if here.areas and there.areas:
        out += _units(shared, here.areas, there.areas, pairs)
    return sorted(out, key=lambda m: (shared.ring.project(shapely.Point(m.at)), m.what))


def _certainty(line: EdgeLine) -> str:
    return f"{line.certainty}, questionable" if line.questionable else line.certainty


def _crossings(shared: SharedBorder, edge: Edge, own: shapely.LinearRing | None) -> list[_Crossing]:
    """Where lines touch the border; and where one that does not ends beside it, with nothing that it ends at.

    Parameters
    ----------
    own
        The border of the sheet that they are of: at its other sides they may end.
    """
    lines = edge.lines
    border = shapely.MultiLineString(shared.parts)
    touches, reach = TOUCHES_MM * shared.mm, ONE_BORDER_MM * shared.mm
    tree = shapely.STRtree([line.geometry for line in lines])
    near = sorted(tree.query(border, predicate="dwithin", distance=reach).tolist(), key=lambda i: lines[i].number)
    found: list[_Crossing] = []
    for _, pieces in groupby(near, key=lambda i: lines[i].number):
        kept: list[_Crossing] = []
        beside: list[_Crossing] = []
        for i in pieces:
            line = lines[i]
            met = shapely.get_parts(shapely.intersection(line.geometry, border))
            ends = [shapely.Point(line.geometry.coords[i]) for i in (0, -1)] if not line.geometry.is_closed else []
            for place in [*(place for place in met if place.geom_type == "Point"), *ends]:
                off = place.distance(border)
                crossing = _Crossing(float(shared.ring.project(place)), line)
                if off <= touches:
                    kept.append(crossing)
                elif off > reach or shared.is_end(crossing.s) or (own is not None and own.distance(place) <= touches):
                    continue
                elif _is_free(tree, place, touches):
                    beside.append(crossing)
        found += _apart(shared, [(c, touches) for c in kept] + [(c, 2 * reach) for c in beside])
    return sorted(found, key=lambda crossing: crossing.s)


def _is_free(tree: shapely.STRtree, place: shapely.Point, reach: float) -> bool:
    """Whether only one line comes to a place."""
    return len(tree.query(place, predicate="dwithin", distance=reach)) == 1


def _apart(shared: SharedBorder, crossings: Sequence[tuple[_Crossing, float]]) -> list[_Crossing]:
    """Crossings of one line, each farther from those before than so much."""
    out: list[_Crossing] = []
    for crossing, least in crossings:
        if all(abs(shared.between(crossing.s, other.s)) > least for other in out):
            out.append(crossing)
    return out


def _paired(
    shared: SharedBorder, ours: Sequence[_Crossing], theirs: Sequence[_Crossing]
) -> tuple[list[tuple[_Crossing, _Crossing]], list[_Crossing], list[_Crossing]]:
    """Lines that go on in one another, the nearest first; and those of both sheets that have no other."""
    wanted = []
    for i, one in enumerate(ours):
        for j, two in enumerate(theirs):
            d = abs(shared.between(one.s, two.s)) / shared.mm
            if d > REACH_MM:
                continue
            same = one.line.kind == two.line.kind
            alike = kind_of(one.line.kind).bounds_units and kind_of(two.line.kind).bounds_units
            if same or d <= (REACH_MM if alike else REACH_OF_OTHERS_MM):
                unlike = _certainty(one.line) != _certainty(two.line)
                wanted.append((d + (0.0 if same else 2.0) + 0.01 * unlike, i, j))
    taken_i: set[int] = set()
    taken_j: set[int] = set()
    pairs = []
    for _, i, j in sorted(wanted):
        if i not in taken_i and j not in taken_j:
            taken_i.add(i)
            taken_j.add(j)
            pairs.append((ours[i], theirs[j]))
    alone = [crossing for i, crossing in enumerate(ours) if i not in taken_i]
    return pairs, alone, [crossing for j, crossing in enumerate(theirs) if j not in taken_j]


def _units(
    shared: SharedBorder,
    here: Sequence[EdgeArea],
    there: Sequence[EdgeArea],
    pairs: Sequence[tuple[_Crossing, _Crossing]],
) -> list[Misfit]:
    """Stretches of the border with one unit here and another there, where no offset line says why."""
    mm = shared.mm
    out = []
    for part in shared.parts:
        count = int(part.length / (STEP_MM * mm))
        if count < 1:
            continue
        step = part.length / count
        xy = shapely.get_coordinates(shapely.line_interpolate_point(part, (np.arange(count) + 0.5) * step))
        along = shapely.get_coordinates(shapely.line_interpolate_point(part, (np.arange(count) + 0.501) * step)) - xy
        normal = np.stack([-along[:, 1], along[:, 0]], axis=1)
        normal *= WITHIN_MM * mm / np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-12)
        # The ring's inside is ours, on whichever hand it lies.
        inside = shapely.contains_xy(shapely.Polygon(shared.ring), *(xy + normal).T)
        normal[~inside] *= -1
        reach = shared.within * mm * 1.5
        ours, theirs = _unit_at(here, xy + normal, reach), _unit_at(there, xy - normal, reach)
        s = shapely.line_locate_point(shared.ring, shapely.points(xy))
        explained = np.zeros(count, dtype=bool)
        for one, two in pairs:
            d = shared.between(one.s, two.s)
            low, high = min(0.0, d) - 2 * STEP_MM * mm, max(0.0, d) + 2 * STEP_MM * mm
            away = (s - one.s + shared.ring.length / 2) % shared.ring.length - shared.ring.length / 2
            explained |= (away >= low) & (away <= high)
        wrong = (ours != theirs) & ~explained
        for (unit, other, is_wrong), run in groupby(
            range(count), key=lambda i: (str(ours[i]), str(theirs[i]), bool(wrong[i]))
        ):
            rows = list(run)
            length = len(rows) * step / mm
            if is_wrong and length >= SHORTEST_MM:
                middle = xy[rows[len(rows) // 2]]
                out.append(Misfit("unit", (float(middle[0]), float(middle[1])), length, here=unit, there=other))
    return out


def _unit_at(areas: Sequence[EdgeArea], xy: Floats, reach: float) -> np.ndarray[tuple[int], np.dtype[np.object_]]:
    """The unit at each place, (n, 2), or the one that is nearest to it within reach; empty where there is none."""
    out = np.full(len(xy), "", dtype=object)
    tree = shapely.STRtree([area.geometry for area in areas])
    places, found = tree.query_nearest(shapely.points(xy), max_distance=reach, all_matches=False)
    out[places] = np.array([area.unit for area in areas], dtype=object)[found]
    return out

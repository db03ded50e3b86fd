"""Ends of lines that meet nothing: dangles, near misses and overshoots, with the place to fix them to."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import shapely
import shapely.ops

from orvik.core.arrays import Flags, Floats, Ints, Objects
from orvik.core.coordinates import GroundXY
from orvik.core.features.kind import SHEET_BORDER, SHORE, kind_of
from orvik.core.features.stretch import certainties
from orvik.core.features.table import FeatureKey
from orvik.core.findings.finding import NEAR_MM, CheckInput, Finding, Fix
from orvik.core.findings.rule import rule
from orvik.core.geometry.edges import vertex_codes
from orvik.core.geometry.nodes import NODE

rule(
    "dangle",
    "error",
    "linework",
    "A contact or a shoreline ends in the open, or within 1 mm of another line",
    features=("kind",),
    why="two units run into one, or ground leaks through the gap",
)
rule(
    "near_miss",
    "warning",
    "linework",
    "A fault ends within 0.3 mm of another line",
    features=("kind",),
    why="at the printed size it looks as if it met the line, and it does not",
    spoils="finish",
)

# A fault may end inside a unit; only a gap that a hand did not mean is told.
FAULT_MM = 0.3
# Of a gap that is smaller on the sheet, nobody sees that it is none.
UNSEEN_MM = 0.02


@dataclass(frozen=True)
class _End:
    row: int
    end: int
    place: GroundXY


@dataclass(frozen=True)
class _Ends:
    """Ends of lines: the row of each line, 0 or -1 for the first or the last vertex, and the places, (n, 2)."""

    rows: Ints
    ends: Ints
    places: Floats

    def only(self, kept: Flags) -> _Ends:
        return _Ends(self.rows[kept], self.ends[kept], self.places[kept])

    def each(self) -> Iterator[_End]:
        for row, end, (x, y) in zip(self.rows.tolist(), self.ends.tolist(), self.places.tolist(), strict=True):
            yield _End(row, end, (x, y))


def dangles(ground: CheckInput, rows: Ints | None = None) -> list[Finding]:
    """Ends of contacts and shorelines that meet nothing, and ends of faults that nearly meet something.

    Parameters
    ----------
    rows
        Rows of the lines to look at; all without it.
    """
    ends = _ends(ground, np.arange(len(ground.lines)) if rows is None else rows)
    if not len(ends.rows):
        return []
    ends = ends.only(~_on_ends(ground, ends.places))
    ends = ends.only(ground.within_frame(ends.places))
    points: Objects = np.asarray(shapely.points(ends.places))
    reach = np.maximum(NODE, _band_reach(ground))
    hits, others = ground.line_tree.query(points, predicate="dwithin", distance=float(reach.max()))
    gaps = shapely.distance(ground.lines.geometries[others], points[hits])
    meets = np.zeros(len(points), dtype=bool)
    meets[hits[(others != ends.rows[hits]) & (gaps <= reach[others])]] = True
    return [f for end in ends.only(~meets).each() for f in _finding(ground, end)]


def _on_ends(ground: CheckInput, places: Floats) -> Flags:
    """Which ends of lines are the end of another line, too, as most are: these meet something."""
    rows = np.arange(len(ground.lines))
    if len(places) < len(rows):
        rows = np.unique(ground.line_tree.query(shapely.points(places))[1])
    tips = vertex_codes(np.vstack(_tips(ground.lines.geometries[rows])))
    nodes, which = np.unique(tips, return_inverse=True)
    # Each line once for each place.
    one, two = which.reshape(2, -1)
    lines_at = np.bincount(np.concatenate([one, two[one != two]]), minlength=len(nodes))
    return np.asarray(lines_at[np.searchsorted(nodes, vertex_codes(places))] > 1)


def _tips(lines: Objects) -> tuple[Floats, Floats]:
    """The first and the last vertices of lines, (n, 2) each."""
    xy, stops = shapely.get_coordinates(lines), np.cumsum(shapely.get_num_coordinates(lines))
    return xy[np.concatenate([[0], stops[:-1]])], xy[stops - 1]


def _band_reach(ground: CheckInput) -> Floats:
    """How far from its centre line each line reaches: half the width of a band."""
    return np.array(
        [
            band.ground_width(ground.scales.publication, ground.metres_per_unit) / 2 if band else 0.0
            for band in ground.lines.columns["band"]
        ]
    )


def _ends(ground: CheckInput, rows: Ints) -> _Ends:
    """Both ends of all lines that bound units, but for what is closed or concealed there."""
    columns = ground.lines.columns
    kinds, whole, stretched = columns["kind"], columns["certainty"], columns["stretches"]
    rows = np.array([r for r in rows.tolist() if kinds[r] in ground.bounding and kinds[r] != SHEET_BORDER], np.int64)
    if not len(rows):
        return _Ends(rows, rows, np.zeros((0, 2)))
    first, last = _tips(ground.lines.geometries[rows])
    seen = np.repeat(np.array([[whole[r] != "concealed"] for r in rows.tolist()], dtype=bool), 2, axis=1)
    for i, row in enumerate(rows.tolist()):
        if stretched[row]:
            segments = int(shapely.get_num_coordinates(ground.lines.geometries[row])) - 1
            by_segment = certainties(whole[row], stretched[row], segments)
            seen[i] = by_segment[0] != "concealed", by_segment[-1] != "concealed"
    seen &= (first != last).any(axis=1)[:, None]
    of, which = np.nonzero(seen)
    return _Ends(rows[of], -which, np.where(which[:, None] == 0, first[of], last[of]))


def _finding(ground: CheckInput, end: _End) -> Iterator[Finding]:
    kind = str(ground.lines.columns["kind"][end.row])
    fault = kind_of(kind).may_end_open
    reach = ground.units_on_ground(FAULT_MM if fault else NEAR_MM)
    near = _nearest(ground, end, reach)
    name = ground.line_name(end.row).capitalize()
    me = ("lines", int(ground.lines.ids[end.row]))
    if near is None:
        if not fault:
            yield _in_the_open(ground, end, name, me)  # type: ignore[arg-type]
        return
    other, place, what, gap = near
    if fault and gap < ground.units_on_ground(UNSEEN_MM):
        # It meets what it was led to, as far as anybody can see, and bounds nothing that could leak.
        return
    with_whom = ground.line_name(other)
    words = ground.length_words(gap)
    label = {"trim": f"Trim to {with_whom}", "extend": f"Extend to {with_whom}", "join": f"Join to {with_whom}"}
    message = {
        "trim": f"{name} runs {words} past {with_whom}.",
        "extend": f"{name} ends {words} short of {with_whom}.",
        "join": f"{name} ends {words} from the end of {with_whom}.",
    }[what]
    yield Finding(
        "near_miss" if fault else "dangle",
        "warning" if fault else "error",
        message,
        end.place,
        (me, ("lines", int(ground.lines.ids[other]))),  # type: ignore[arg-type]
        Fix(what, label[what], place, end.end),
    )


def _in_the_open(ground: CheckInput, end: _End, name: str, me: FeatureKey) -> Finding:
    """What is said of an end that meets nothing near: beyond a shoreline that it has crossed it may have to go."""
    line = ground.lines.geometries[end.row]
    xy = shapely.get_coordinates(line)
    path = shapely.LineString(xy if end.end == 0 else xy[::-1])
    crossed: tuple[float, int, GroundXY] | None = None
    for row in sorted(ground.line_tree.query(line, predicate="intersects").tolist()):
        shore = ground.lines.columns["kind"][row] == SHORE
        if row == end.row or ground.lines.columns["kind"][row] not in ground.bounding:
            continue
        for place in shapely.get_coordinates(shapely.intersection(path, ground.lines.geometries[row])).tolist():
            along = float(shapely.line_locate_point(path, shapely.Point(place)))
            # What it crosses last before its end counts, whatever that is.
            if crossed is None or along < crossed[0]:
                crossed = (along, row if shore else -1, (place[0], place[1]))
    if crossed is None or crossed[1] < 0:
        return Finding("dangle", "error", f"{name} ends in the open; lead it on to another line.", end.place, (me,))
    along, row, place = crossed
    shore_name = ground.line_name(row)
    message = (
        f"{name} ends {ground.length_words(along)} beyond {shore_name}, in the open; trim it there, or lead it on."
    )
    other: FeatureKey = ("lines", int(ground.lines.ids[row]))
    fix = Fix("trim", f"Trim to {shore_name}", place, end.end)
    return Finding("dangle", "error", message, end.place, (me, other), fix)


def _nearest(ground: CheckInput, end: _End, reach: float) -> tuple[int, GroundXY, str, float] | None:
    """The other line that an end was meant for: its row, the place on it, the fix, and how far that is."""
    point = shapely.Point(end.place)
    # In order, so that of two that are as near it is always the same.
    rows = [
        row
        for row in sorted(ground.line_tree.query(point, predicate="dwithin", distance=reach).tolist())
        if row != end.row and ground.lines.columns["kind"][row] in ground.bounding
    ]
    if not rows:
        return None
    xy = shapely.get_coordinates(ground.lines.geometries[end.row])
    path = xy if end.end == 0 else xy[::-1]
    past = _overshoot(ground, path, rows, reach)
    if past is not None:
        return past
    best: tuple[float, int, GroundXY, str] | None = None
    for row in rows:
        other = shapely.get_coordinates(ground.lines.geometries[row])
        found = _target(path, other, ground.lines.geometries[row], point, reach)
        if best is None or found[0] < best[0]:
            best = (found[0], row, found[1], found[2])
    assert best is not None
    return best[1], best[2], best[3], best[0]


def _overshoot(
    ground: CheckInput, path: Floats, rows: list[int], reach: float
) -> tuple[int, GroundXY, str, float] | None:
    """The last crossing before the end, where the end is not a further past it than the reach."""
    line = shapely.LineString(path)
    tail = shapely.ops.substring(line, 0, min(reach, line.length * 0.5)) if line.length > 0 else line
    best: tuple[float, int, GroundXY] | None = None
    for row in rows:
        for place in shapely.get_coordinates(shapely.intersection(tail, ground.lines.geometries[row])).tolist():
            along = float(shapely.line_locate_point(line, shapely.Point(place)))
            if 0 < along <= reach and (best is None or along < best[0]):
                best = (along, row, (place[0], place[1]))
    return (best[1], best[2], "trim", best[0]) if best else None


def _target(
    path: Floats, other: Floats, line: shapely.LineString, point: shapely.Point, reach: float
) -> tuple[float, GroundXY, str]:
    """Where on another line an end belongs: its end, straight on, one of its vertices, or the nearest place."""
    here = path[0]
    gaps = np.hypot(*(other - here).T)
    closed = bool((other[0] == other[-1]).all())
    for i in (0, -1):
        if not closed and gaps[i] <= reach:
            return float(gaps[i]), (float(other[i, 0]), float(other[i, 1])), "join"
    course = here - path[1]
    course = course / max(float(np.hypot(*course)), 1e-12)
    ahead = shapely.intersection(shapely.LineString([here, here + course * reach]), line)
    places = shapely.get_coordinates(ahead)
    if len(places):
        near = places[int(np.argmin(np.hypot(*(places - here).T)))]
    else:
        near = shapely.get_coordinates(shapely.line_interpolate_point(line, shapely.line_locate_point(line, point)))[0]
    close = np.hypot(*(other - near).T)
    i = int(np.argmin(close))
    if close[i] <= reach * 0.1:
        near = other[i]
    return float(np.hypot(*(near - here))), (float(near[0]), float(near[1])), "extend"

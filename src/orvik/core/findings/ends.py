"""Ends of lines that meet nothing: dangles, near misses and overshoots, with the place to mend them to."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import shapely
import shapely.ops

from orvik.core.arrays import Floats, Ints
from orvik.core.features.kind import SHEET_BORDER, kind_of
from orvik.core.features.stretch import certainties
from orvik.core.findings.finding import NEAR_MM, Finding, Ground, Mend, Place
from orvik.core.geometry.nodes import NODE

# A fault may end inside a unit; only a gap that a hand did not mean is told.
FAULT_MM = 0.3


@dataclass(frozen=True)
class _End:
    row: int
    end: int
    place: Place


def dangles(ground: Ground, rows: Ints | None = None) -> list[Finding]:
    """Ends of contacts and shorelines that meet nothing, and ends of faults that nearly meet something.

    Parameters
    ----------
    rows
        Rows of the lines to look at; all without it.
    """
    found = list(_ends(ground, range(len(ground.lines)) if rows is None else rows.tolist()))
    if not found:
        return []
    on_sheet = ground.within_frame(np.array([e.place for e in found]))
    ends = [end for end, inside in zip(found, on_sheet.tolist(), strict=True) if inside]
    if not ends:
        return []
    points = shapely.points([e.place for e in ends])
    reach = _band_reach(ground)
    hits, others = ground.line_tree.query(points, predicate="dwithin", distance=max(NODE, reach.max(initial=0.0)))
    meets = np.zeros(len(ends), dtype=bool)
    for hit, other in zip(hits.tolist(), others.tolist(), strict=True):
        if other == ends[hit].row or meets[hit]:
            continue
        gap = shapely.distance(ground.lines.geometries[other], points[hit])
        meets[hit] = gap <= max(NODE, reach[other])
    return [f for i, end in enumerate(ends) if not meets[i] for f in _finding(ground, end)]


def _band_reach(ground: Ground) -> Floats:
    """How far from its centre line each line reaches: half the width of a band."""
    return np.array(
        [
            band.ground_width(ground.scales.publication, ground.metres_per_unit) / 2 if band else 0.0
            for band in ground.lines.columns["band"]
        ]
    )


def _ends(ground: Ground, rows: object) -> Iterator[_End]:
    columns = ground.lines.columns
    for row in rows:  # type: ignore[attr-defined]
        kind = columns["kind"][row]
        if kind not in ground.bounding or kind == SHEET_BORDER:
            continue
        xy = shapely.get_coordinates(ground.lines.geometries[row])
        if (xy[0] == xy[-1]).all():
            continue
        certainty_of = certainties(columns["certainty"][row], columns["stretches"][row], len(xy) - 1)
        for end in (0, -1):
            if certainty_of[end] != "concealed":
                yield _End(row, end, (float(xy[end, 0]), float(xy[end, 1])))


def _finding(ground: Ground, end: _End) -> Iterator[Finding]:
    kind = str(ground.lines.columns["kind"][end.row])
    fault = kind_of(kind).may_end_open
    reach = ground.units_on_ground(FAULT_MM if fault else NEAR_MM)
    near = _nearest(ground, end, reach)
    name = ground.line_name(end.row).capitalize()
    me = ("lines", int(ground.lines.ids[end.row]))
    if near is None:
        if not fault:
            message = f"{name} ends in the open; lead it on to another line."
            yield Finding("dangle", "error", message, end.place, (me,))  # type: ignore[arg-type]
        return
    other, place, what, gap = near
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
        Mend(what, label[what], place, end.end),
    )


def _nearest(ground: Ground, end: _End, reach: float) -> tuple[int, Place, str, float] | None:
    """The other line that an end was meant for: its row, the place on it, the mend, and how far that is."""
    point = shapely.Point(end.place)
    rows = [
        int(r)
        for r in ground.line_tree.query(point, predicate="dwithin", distance=reach)
        if r != end.row and ground.lines.columns["kind"][r] in ground.bounding
    ]
    if not rows:
        return None
    xy = shapely.get_coordinates(ground.lines.geometries[end.row])
    path = xy if end.end == 0 else xy[::-1]
    past = _overshoot(ground, path, rows, reach)
    if past is not None:
        return past
    best: tuple[float, int, Place, str] | None = None
    for row in rows:
        other = shapely.get_coordinates(ground.lines.geometries[row])
        found = _target(path, other, ground.lines.geometries[row], point, reach)
        if best is None or found[0] < best[0]:
            best = (found[0], row, found[1], found[2])
    assert best is not None
    return best[1], best[2], best[3], best[0]


def _overshoot(ground: Ground, path: Floats, rows: list[int], reach: float) -> tuple[int, Place, str, float] | None:
    """The last crossing before the end, where the end is no further past it than the reach."""
    line = shapely.LineString(path)
    tail = shapely.ops.substring(line, 0, min(reach, line.length * 0.5)) if line.length > 0 else line
    best: tuple[float, int, Place] | None = None
    for row in rows:
        for place in shapely.get_coordinates(shapely.intersection(tail, ground.lines.geometries[row])).tolist():
            along = float(shapely.line_locate_point(line, shapely.Point(place)))
            if 0 < along <= reach and (best is None or along < best[0]):
                best = (along, row, (place[0], place[1]))
    return (best[1], best[2], "trim", best[0]) if best else None


def _target(
    path: Floats, other: Floats, line: shapely.LineString, point: shapely.Point, reach: float
) -> tuple[float, Place, str]:
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

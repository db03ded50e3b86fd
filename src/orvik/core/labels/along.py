"""Places for names along lines: on the line, which they interrupt, or beside it, following its bends."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.labels.candidates import CLEAR, Candidates
from orvik.core.labels.label_request import LabelRequest

# Where along a line a name may stand, as shares of its length, the best first.
SHARES = (0.5, 0.42, 0.58, 0.34, 0.66, 0.26, 0.74, 0.18, 0.82)
# A line that swerves by less than this share of the letters' size is straight to them.
STRAIGHT = 0.12
# Letters that follow one another turn by no more than this, in degrees.
MOST_BEND = 22.0


def along(line: shapely.LineString, request: LabelRequest, owner: int) -> Candidates:
    """Places for a name along a line in millimetres on the page; none where the line is shorter than its name."""
    width, height = request.run.width, 2 * request.half[1]
    room = line.length
    if room < width * 1.05:
        return Candidates.together([])
    made: list[tuple[Floats, float, float, Floats | None]] = []
    for order, share in enumerate(SHARES):
        middle = min(max(share * room, width / 2), room - width / 2)
        # Beside it, the upper side comes first; the lower one will do.
        for side in (0.0,) if request.placing == "along" else (1.0, -1.0):
            standing = _set_along(line, request, middle, side * (height / 2 + CLEAR + 0.35))
            if standing is not None:
                at, angle, letters, bend = standing
                made.append((at, angle, 0.15 * order + 0.25 * (side < 0) + bend / MOST_BEND, letters))
    if not made:
        return Candidates.together([])
    found = Candidates.of(
        np.full(len(made), owner),
        np.array([at for at, *_ in made]),
        np.array([cost for *_, cost, _ in made]),
        np.array([angle for _, angle, *_ in made]),
    )
    by_row = {i: places for i, (_, _, _, places) in enumerate(made) if places is not None}
    return replace(found, letters=by_row)


def _set_along(
    line: shapely.LineString, request: LabelRequest, middle: float, off: float
) -> tuple[Floats, float, Floats | None, float] | None:
    """Letters along a line about a place on it: their middle and turn, the place and turn of each letter where the line
    bends, and by how much it bends at most between two of them; None where it bends too much.

    ``off`` is how far above the line, as it is read, their middles stand.
    """
    width = request.run.width
    begin, end = middle - width / 2, middle + width / 2
    ends = shapely.get_coordinates(shapely.line_interpolate_point(line, np.array([begin, end])))
    # Read from below: from left to right on the page.
    forward = bool(ends[1, 0] >= ends[0, 0])
    chord = ends[1] - ends[0] if forward else ends[0] - ends[1]
    angle = float(np.degrees(np.arctan2(chord[1], chord[0])))
    upward = np.array([np.sin(np.radians(angle)), -np.cos(np.radians(angle))])
    steps = np.linspace(begin, end, max(5, int(width / 0.8)))
    course = shapely.get_coordinates(shapely.line_interpolate_point(line, steps))
    swerve = (course - course.mean(axis=0)) @ upward
    if float(np.ptp(swerve)) <= STRAIGHT * request.run.size or (request.placing == "along" and np.ptp(swerve) < 0.5):
        highest = float(swerve.max()) if off > 0 else float(swerve.min()) if off < 0 else 0.0
        return course.mean(axis=0) + upward * (off + highest), angle, None, 0.0
    return _curved(line, request, begin, forward, off)


def _curved(
    line: shapely.LineString, request: LabelRequest, begin: float, forward: bool, off: float
) -> tuple[Floats, float, Floats, float] | None:
    xs = np.array(request.run.x)
    widths = np.diff(np.append(xs, xs[0] + request.run.width))
    middles = xs + widths / 2 - xs[0]
    at = begin + middles if forward else begin + request.run.width - middles
    # The direction over a length of some letters, so that small wrinkles do not make them dance.
    half = max(request.run.size * 0.9, float(widths.max()))
    before = shapely.get_coordinates(shapely.line_interpolate_point(line, np.maximum(at - half, 0)))
    after = shapely.get_coordinates(shapely.line_interpolate_point(line, np.minimum(at + half, line.length)))
    way = after - before if forward else before - after
    turns = np.degrees(np.unwrap(np.arctan2(way[:, 1], way[:, 0])))
    bend = float(np.abs(np.diff(turns)).max(initial=0.0))
    if bend > MOST_BEND or float(np.abs(turns).max()) > 100:
        return None
    places = (before + after + 2 * shapely.get_coordinates(shapely.line_interpolate_point(line, at))) / 4
    radians = np.radians(turns)
    places = places + np.column_stack([np.sin(radians), -np.cos(radians)]) * off
    # On the outer side of a bend letters spread, on the inner they close up: more than a fifth is too much.
    apart = np.hypot(*np.diff(places, axis=0).T)
    wanted = np.diff(middles)
    if len(wanted) and bool((apart < 0.8 * wanted).any()):
        return None
    letters = np.column_stack([places, turns])
    return places.mean(axis=0), float(turns.mean()), letters, bend


def letter_boxes(request: LabelRequest, letters: Floats) -> tuple[Floats, Floats, Floats]:
    """Middles, half sizes and turns of the boxes of letters that follow a line."""
    xs = np.array(request.run.x)
    widths = np.diff(np.append(xs, xs[0] + request.run.width))
    halves = np.column_stack([widths / 2, np.full(len(xs), request.half[1])])
    return letters[:, :2], halves, letters[:, 2]

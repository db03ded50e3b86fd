"""Where two lines run along each other: the parts of one that lie within the width of a hair along the other."""

from __future__ import annotations

import numpy as np
import shapely

from orvik.core.arrays import Flags, Floats, Objects

# How far the courses of two lines may part where they run along each other, in degrees.
ALONG_DEGREES = 20.0
# So many places are looked at at once.
AT_ONCE = 400_000
# A part shorter than so many widths of the reach is a crossing or a meeting, not a run.
LEAST_WIDTHS = 4.0


def shared_parts(line: shapely.LineString, other: shapely.LineString, reach: float) -> list[tuple[float, float]]:
    """The parts of a line that run along another, as distances along it from its start.

    Parameters
    ----------
    reach
        How near two lines are drawn as one, in project units.

    Returns
    -------
    Pairs of distances, in order; parts that a crossing at an angle or a shared end makes are left out.
    """
    near = shapely.intersection(line, shapely.buffer(other, reach, quad_segs=2))
    parts = [p for p in shapely.get_parts(near) if p.geom_type == "LineString" and p.length > 0]
    merged = shapely.line_merge(shapely.multilinestrings(parts)) if parts else None
    found: list[tuple[float, float]] = []
    for part in shapely.get_parts(merged) if merged is not None else ():
        xy = shapely.get_coordinates(part)
        start, stop = xy[0], xy[-1]
        a = float(shapely.line_locate_point(line, shapely.Point(start)))
        b = float(shapely.line_locate_point(line, shapely.Point(stop)))
        if line.is_closed and abs(abs(b - a) - part.length) > reach:
            # The part runs over the first vertex of a ring.
            found += [(max(a, b), line.length), (0.0, min(a, b))]
            continue
        found.append((min(a, b), max(a, b)))
    return [(a, b) for a, b in _joined(found, reach) if b - a > LEAST_WIDTHS * reach and _runs_along(line, other, a, b)]


def may_run_along(lines: Objects, others: Objects, least: Floats, reach: float) -> Flags:
    """Whether a line may run along another over a stated length at least: a quick look, before ``shared_parts``.

    Parameters
    ----------
    lines, others
        As many of these as of those.
    least
        For each pair the length in project units; places along the line are a third of it apart, so that no part is
        missed.
    """
    count = np.maximum(2, np.ceil(3 * shapely.length(lines) / least)).astype(np.int64)
    near = np.zeros(len(lines), dtype=bool)
    groups = np.cumsum(count) // AT_ONCE
    for group in np.unique(groups):
        rows = np.flatnonzero(groups == group)
        each = np.repeat(rows, count[rows])
        first = np.repeat(np.cumsum(count[rows]) - count[rows], count[rows])
        share = (np.arange(len(each)) - first + 0.5) / count[each]
        places = shapely.line_interpolate_point(lines[each], share, normalized=True)
        close = each[shapely.dwithin(others[each], places, reach)]
        near[rows] = np.bincount(close, minlength=len(lines))[rows] > 2
    return near


def _joined(parts: list[tuple[float, float]], gap: float) -> list[tuple[float, float]]:
    out: list[tuple[float, float]] = []
    for a, b in sorted(parts):
        if out and a - out[-1][1] <= gap:
            out[-1] = (out[-1][0], max(out[-1][1], b))
        else:
            out.append((a, b))
    return out


def _runs_along(line: shapely.LineString, other: shapely.LineString, a: float, b: float) -> bool:
    """Whether the courses of both agree over most of a part."""
    at = np.linspace(a, b, 23)[1:-1]
    step = (b - a) / 50
    own = _course(line, at, step)
    there = shapely.line_locate_point(other, shapely.line_interpolate_point(line, at))
    beside = _course(other, np.clip(there, step, max(other.length - step, step)), step)
    apart = np.abs((own - beside + 90) % 180 - 90)
    return bool(np.mean(apart <= ALONG_DEGREES) >= 0.7)


def _course(line: shapely.LineString, at: Floats, step: float) -> Floats:
    ends = [
        shapely.get_coordinates(shapely.line_interpolate_point(line, np.clip(at + s, 0, line.length)))
        for s in (-step, step)
    ]
    d = ends[1] - ends[0]
    return np.asarray(np.degrees(np.arctan2(d[:, 0], d[:, 1])))

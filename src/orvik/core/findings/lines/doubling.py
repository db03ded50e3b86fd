"""Where two lines run along each other: the parts of one that lie within the width of a hair along the other."""

from __future__ import annotations

import numpy as np
import shapely

from orvik.core.arrays import Floats, Ints, Objects

# How far the courses of two lines may part where they run along each other, in degrees.
ALONG_DEGREES = 20.0
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
    Pairs of distances, in order; parts that a crossing at an angle or a shared end makes are left out. One that runs
    over the first vertex of a closed line ends beyond its length.
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
    joined = _joined(found, reach)
    if line.is_closed and len(joined) > 1 and joined[0][0] <= reach and joined[-1][1] >= line.length - reach:
        joined = [*joined[1:-1], (joined[-1][0], line.length + joined[0][1])]
    return [(a, b) for a, b in joined if b - a > LEAST_WIDTHS * reach and _runs_along(line, other, a, b)]


def may_run_along(rows: Ints, tree: shapely.STRtree, least: Floats, reach: float) -> tuple[Ints, Ints]:
    """Which lines may run along which others over a stated length at least: a quick look, before ``shared_parts``.

    Parameters
    ----------
    rows
        Which lines of the tree to ask for.
    tree
        All lines.
    least
        For each line asked for, the length in project units.

    Returns
    -------
    Rows of the tree, those asked for first; every pair once.
    """
    lines: Objects = tree.geometries[rows]
    least = np.maximum(least, LEAST_WIDTHS * reach)
    long = shapely.length(lines) >= least
    rows, lines, least = rows[long], lines[long], least[long]
    # Where a part is broken for a reach, as ``shared_parts`` allows, it is not much further off.
    far = 2 * reach
    # A part that is so long holds one of the places that are so far apart.
    of, places = _places(lines, least)
    hits, others = tree.query(places, predicate="dwithin", distance=far)
    one = of[hits]
    apart = rows[one] != others
    pairs = np.unique(np.column_stack([one[apart], others[apart]]), axis=0)
    # And of those four times as close four, or with rounding three.
    of, places = _places(lines[pairs[:, 0]], least[pairs[:, 0]] / 4)
    near = of[shapely.dwithin(tree.geometries[pairs[of, 1]], places, far)]
    pairs = pairs[np.bincount(near, minlength=len(pairs)) >= 3]
    return rows[pairs[:, 0]], pairs[:, 1]


def _places(lines: Objects, apart: Floats) -> tuple[Ints, Objects]:
    """Places along lines, at most so far apart: the line of each, and the point. The ends are none."""
    count = np.maximum(1, np.ceil(shapely.length(lines) / apart) - 1).astype(np.int64)
    of = np.repeat(np.arange(len(lines)), count)
    number = np.arange(len(of)) - np.repeat(np.cumsum(count) - count, count)
    return of, shapely.line_interpolate_point(lines[of], (number + 1) / (count[of] + 1), normalized=True)


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
    at = np.where(at > line.length, at - line.length, at)
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

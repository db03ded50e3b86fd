"""Places for the code of an area: within it where it has room, else outside with a leader."""

from __future__ import annotations

import numpy as np
import shapely

from orvik.core.arrays import Floats, Ints, Objects
from orvik.core.ink.paths import Paths
from orvik.core.labels.candidates import CLEAR, Candidates, boxes

# Levels at which areas are looked through, at the least and at the most.
LEAST_LEVELS, MOST_LEVELS = 3, 14
# Places side by side in one stretch of a level.
SIDE_BY_SIDE = 7
# Where none of these is free, places so far apart in millimetres, first the one and then the other, and at the most so
# many either way.
CLOSE, MOST_CLOSE = (1.0, 0.25), 160
# With fewer places inside than this, places outside are looked for as well.
FEW = 4
# What a place outside costs more than the worst one inside.
OUTSIDE = 8.0
# How far from its area's middle a code outside may stand, in millimetres.
REACHES = (3.5, 5.5, 8.0, 12.0)
DIRECTIONS = 16


def inside(areas: Objects, owners: Ints, halves: Floats, apart: float | None = None) -> Candidates:
    """Places where a code lies whole within its area, those of most room costing least.

    Parameters
    ----------
    areas
        Polygons, one for each code.
    owners, halves
        Which request each is for, and half its width and height.
    apart
        How far places are apart in millimetres; None for as many as mostly do.
    """
    at, middles = _proposed(areas, halves, apart)
    shapely.prepare(areas)
    whole = shapely.contains_properly(areas[at], boxes(middles, halves[at], np.zeros(len(at)), CLEAR))
    at, middles = at[whole], middles[whole]
    room = shapely.distance(shapely.boundary(areas)[at], boxes(middles, halves[at], np.zeros(len(at))))
    # From the place of most room on, so that a code does not hide in a corner that is only just wide enough.
    best = np.zeros((len(areas), 2))
    order = np.lexsort((middles[:, 0], room))
    best[at[order]] = middles[order]
    off = np.hypot(*(middles - best[at]).T)
    return Candidates.of(owners[at], middles, 1.5 / (0.3 + room) + 0.02 * off)


def outside(areas: Objects, owners: Ints, halves: Floats, found: Candidates) -> Candidates:
    """Places beside areas that hold few places for their codes, each with a leader into its area."""
    counts = np.bincount(found.owners, minlength=int(owners.max(initial=-1)) + 1)[owners]
    few = np.flatnonzero(counts < FEW)
    if not len(few):
        return Candidates.together([])
    ends = anchors(areas[few])
    angles = np.radians(np.arange(DIRECTIONS) * 360 / DIRECTIONS)
    way = np.column_stack([np.sin(angles), -np.cos(angles)])
    at = np.repeat(np.arange(len(few)), DIRECTIONS * len(REACHES))
    turn = np.tile(np.repeat(np.arange(DIRECTIONS), len(REACHES)), len(few))
    reach = np.tile(np.array(REACHES), len(few) * DIRECTIONS)
    # As far from the middle in every direction, whatever the letters' width.
    middles = ends[at] + way[turn] * reach[:, None] + way[turn] * np.array([1.0, 0.4]) * halves[few][at]
    near = boxes(middles, halves[few][at], np.zeros(len(at)), 2 * CLEAR)
    clear = ~shapely.intersects(areas[few][at], near)
    # Level or at a slant is read more easily than straight above and below.
    steep = np.abs(way[turn][:, 1]) > 0.95
    costs = OUTSIDE + reach * 0.3 + 0.5 * steep
    return Candidates.of(owners[few][at][clear], middles[clear], costs[clear], ends=ends[at][clear])


def anchors(areas: Objects) -> Floats:
    """A place well within each area."""
    size = np.sqrt(np.maximum(shapely.area(areas), 1e-9))
    return shapely.get_coordinates(shapely.get_point(shapely.maximum_inscribed_circle(areas, size / 20), 0))


def _proposed(areas: Objects, halves: Floats, apart: float | None) -> tuple[Ints, Floats]:
    """Which area, and the middle of each place that may do: in the stretches of level lines within areas."""
    bounds = shapely.bounds(areas).reshape(-1, 4)
    tall = bounds[:, 3] - bounds[:, 1]
    free = tall - 2 * halves[:, 1]
    between, most = (halves[:, 1], MOST_LEVELS) if apart is None else (np.full(len(areas), apart), MOST_CLOSE)
    rows = np.where(free > 0, np.clip(np.ceil(free / between), LEAST_LEVELS, most), 0).astype(np.int64)
    step = np.where(rows > 0, free / np.maximum(rows, 1), 1.0)
    first = bounds[:, 1] + halves[:, 1] + step / 2
    at, y, begin, end = _stretches(areas, first, step, rows)
    width = 2 * halves[at, 0]
    fits = end - begin >= width
    at, y, begin, end, width = at[fits], y[fits], begin[fits], end[fits], width[fits]
    spare = end - begin - width
    beside, most = (np.maximum(1.2 * width, 8.0), SIDE_BY_SIDE) if apart is None else (apart, MOST_CLOSE)
    count = np.clip(np.floor(spare / beside) + 1, 1, most).astype(np.int64)
    which = np.repeat(np.arange(len(at)), count)
    number = np.arange(len(which)) - np.repeat(np.cumsum(count) - count, count)
    x = begin[which] + width[which] / 2 + spare[which] * (number + 0.5) / count[which]
    return at[which], np.column_stack([x, y[which]])


def _stretches(areas: Objects, first: Floats, step: Floats, rows: Ints) -> tuple[Ints, Floats, Floats, Floats]:
    """The stretches of level lines that lie within areas: which area, the level, and from where to where.

    ``first``, ``step`` and ``rows`` say for each area where its lowest level is, how far they are apart, and how many.
    """
    rings, of = shapely.get_rings(areas, return_index=True)
    paths = Paths.of_lines(rings)
    ring = np.repeat(np.arange(len(rings)), np.diff(paths.starts))
    edge = np.flatnonzero(ring[:-1] == ring[1:])
    one, two = paths.xy[edge], paths.xy[edge + 1]
    area = of[ring[edge]]
    low, high = np.minimum(one[:, 1], two[:, 1]), np.maximum(one[:, 1], two[:, 1])
    # An edge crosses the levels from its lower end on, and not that at its upper end: corners count once.
    begin = np.clip(np.ceil((low - first[area]) / step[area]), 0, rows[area]).astype(np.int64)
    end = np.clip(np.ceil((high - first[area]) / step[area]), 0, rows[area]).astype(np.int64)
    count = end - begin
    which = np.repeat(np.arange(len(edge)), count)
    level = begin[which] + np.arange(len(which)) - np.repeat(np.cumsum(count) - count, count)
    y = first[area[which]] + level * step[area[which]]
    rise = two[which, 1] - one[which, 1]
    x = one[which, 0] + (y - one[which, 1]) / rise * (two[which, 0] - one[which, 0])
    order = np.lexsort((x, level, area[which]))
    area, y, x = area[which][order], y[order], x[order]
    return area[0::2], y[0::2], x[0::2], x[1::2]

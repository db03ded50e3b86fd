"""Where ornaments stand along lines: whole between ends and sharp corners, and evenly apart."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely

from orvik.core.arrays import Flags, Floats, Ints
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import Ornaments, Stamp
from orvik.core.symbols.portrayal.dashes import SLACK, Dashes
from orvik.core.symbols.symbol import Ornament

# A bend of more than this is a corner, which no ornament may lie across.
CORNER = 50.0
# Under an ornament that stands once, a line may stand off the straight by this share of the ornament's length.
BEND = 0.12
# How many times coarser than where it was placed an ornament may still be shown, if nothing else thins it out.
COARSEST = 64.0


@dataclass(frozen=True)
class Places:
    """Where ornaments stand, one row for each.

    Attributes
    ----------
    at
        (n, 2) in the frame of the paths.
    angles
        The line's direction there, in degrees clockwise from the direction of growing y.
    paths
        Which path each is of.
    coarser
        How many times coarser than the scale they were placed at they may still be shown.
    """

    at: Floats
    angles: Floats
    paths: Ints
    coarser: Floats


def reach_along(stamp: Stamp) -> float:
    """How long a stamp is along its line, in millimetres."""
    ys = np.concatenate([item.paths.xy[:, 1] for item in stamp.items]) if stamp.items else np.zeros(1)
    return float(2 * np.abs(ys).max())


def reach_across(ornaments: Sequence[Ornament]) -> float:
    """How far ornaments reach from their line to either side, in millimetres."""
    xs = [np.abs(item.paths.xy[:, 0]).max() for o in ornaments for item in o.stamp.items]
    return float(max(xs, default=0.0))


def placed(
    ornament: Ornament,
    paths: Paths,
    mm_per_unit: float,
    trends: Floats | None = None,
    dashes: Dashes | None = None,
) -> Places:
    """The places of one ornament on many lines.

    Parameters
    ----------
    paths
        The whole lines, before anything is cut, in a frame with y upwards; ornaments stand to the right of them.
    mm_per_unit
        Millimetres on the sheet of one unit of the frame, at the scale that the lines are placed for.
    trends
        For ``plunge``: the direction of each line's plunge in the frame, in degrees clockwise from y; NaN for none.
    dashes
        How the paths are dashed: ornaments stand on marks. None for lines without gaps.
    """
    long = reach_along(ornament.stamp)
    if not len(paths):
        return _none()
    if ornament.place in ("ends", "plunge"):
        return _at_ends(ornament, _Course.of(paths, mm_per_unit), long, trends)
    if dashes is not None and not dashes.period.any():
        dashes = None
    if ornament.place == "repeat":
        paths, dashes = _from_corner(paths, dashes)
    course = _Course.of(paths, mm_per_unit, dashes)
    return _repeated(ornament, course, long) if ornament.place == "repeat" else _once(ornament, course, long)


@dataclass(frozen=True)
class _Course:
    """Paths by their length: for every vertex, how far along all paths it lies, in millimetres."""

    xy: Floats
    mm_per_unit: float
    along: Floats
    first: Ints
    last: Ints
    dashes: Dashes | None = None

    @staticmethod
    def of(paths: Paths, mm_per_unit: float, dashes: Dashes | None = None) -> _Course:
        steps = np.hypot(*np.diff(paths.xy, axis=0).T) * mm_per_unit if len(paths.xy) > 1 else np.zeros(0)
        steps[paths.starts[1:-1] - 1] = 0.0
        along = np.concatenate([[0.0], np.cumsum(steps)])
        return _Course(paths.xy, mm_per_unit, along, paths.starts[:-1], paths.starts[1:] - 1, dashes)

    @property
    def lengths(self) -> Floats:
        """Of each path."""
        out: Floats = self.along[self.last] - self.along[self.first]
        return out

    def runs(self) -> tuple[Ints, Ints, Ints]:
        """First and last vertex of each stretch between ends and corners, and the path that it is of."""
        corner = _corners(self.xy)
        corner[self.first] = True
        corner[self.last] = True
        ends = np.flatnonzero(corner)
        begins, stops = ends[:-1], ends[1:]
        path = np.searchsorted(self.first, begins, side="right") - 1
        same = stops <= self.last[path]
        return begins[same], stops[same], path[same]

    def point(self, at: Floats, begins: Ints, stops: Ints) -> Floats:
        """The place so far along, within a stretch of vertices each."""
        before = np.clip(np.searchsorted(self.along, at, side="right") - 1, begins, stops - 1)
        span = self.along[before + 1] - self.along[before]
        share = np.where(span > 0, (at - self.along[before]) / np.where(span > 0, span, 1.0), 0.0)
        share = np.clip(share, 0.0, 1.0)[:, None]
        out: Floats = self.xy[before] * (1 - share) + self.xy[before + 1] * share
        return out

    def placed(self, at: Floats, begins: Ints, stops: Ints, long: float) -> tuple[Floats, Floats]:
        """Places, and the line's direction over the length that a stamp covers of it."""
        half = np.maximum(long / 2, 0.05)
        one = self.point(np.maximum(at - half, self.along[begins]), begins, stops)
        two = self.point(np.minimum(at + half, self.along[stops]), begins, stops)
        angles = np.degrees(np.arctan2(*(two - one).T))
        return self.point(at, begins, stops), angles


def _corners(xy: Floats) -> Flags:
    """Vertices where a line turns sharply; the ends are none."""
    out = np.zeros(len(xy), dtype=bool)
    steps = np.diff(xy, axis=0)
    one, two = steps[:-1], steps[1:]
    cross = one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0]
    dot = (one * two).sum(axis=1)
    out[1:-1] = np.abs(np.arctan2(cross, dot)) > np.radians(CORNER)
    return out


def _from_corner(paths: Paths, dashes: Dashes | None) -> tuple[Paths, Dashes | None]:
    """Closed lines begin at a corner, if they have one, so that the stretch that crosses their beginning is one."""
    first, last = paths.starts[:-1], paths.starts[1:] - 1
    closed = np.flatnonzero((paths.xy[first] == paths.xy[last]).all(axis=1) & (last - first > 2))
    if not len(closed):
        return paths, dashes
    xy = paths.xy.copy()
    for i in closed.tolist():
        ring = paths[i]
        around = np.vstack([ring[-2:-1], ring])
        corners = np.flatnonzero(_corners(around))
        if len(corners) and corners[0] != 1:
            begin = int(corners[0]) - 1
            xy[first[i] : last[i] + 1] = np.vstack([ring[begin:], ring[1 : begin + 1]])
            dashes = dashes.turned(int(first[i]), int(last[i]), begin) if dashes is not None else None
    return Paths(xy, paths.starts), dashes


def _how_many(lengths: Floats, spacing: float, long: float) -> Ints:
    """As many as come nearest to the spacing, and one at least where one has room.

    A length that lies halfway between two numbers takes the greater, and that is not left to rounding: the same
    line has as many wherever it stands among others.
    """
    nearest = np.floor(lengths / spacing + 0.5 + SLACK)
    out: Ints = np.where(lengths >= long - SLACK, np.maximum(1, nearest), 0).astype(np.int64)
    return out


def _repeated(ornament: Ornament, course: _Course, long: float) -> Places:
    begins, stops, path = course.runs()
    length = course.along[stops] - course.along[begins]
    count = _how_many(length, ornament.spacing, long)
    # However long the ornament is, it never lies over the next one.
    count = np.minimum(count, np.floor(length / max(long, 1e-6) + SLACK).astype(np.int64))
    run = np.repeat(np.arange(len(count)), count)
    number = np.arange(len(run)) - np.repeat(np.cumsum(count) - count, count)
    step = length[run] / count[run]
    shift = (number + ornament.phase) * step
    whole = (shift >= long / 2 - SLACK) & (shift <= length[run] - long / 2 + SLACK)
    run, number, shift = run[whole], number[whole], shift[whole]
    at = course.along[begins[run]] + shift
    if course.dashes is not None:
        at, run, number, count = _on_marks(course, course.dashes, (begins, stops), (at, run, number, count), long)
    places, angles = course.placed(at, begins[run], stops[run], long)
    return Places(places, angles, path[run], _coarser(number, count[run], length[run], long))


def _on_marks(
    course: _Course,
    dashes: Dashes,
    ends: tuple[Ints, Ints],
    found: tuple[Floats, Ints, Ints, Ints],
    long: float,
) -> tuple[Floats, Ints, Ints, Ints]:
    """Repeated ornaments of each stretch put onto marks: as many marks apart as come nearest to the spacing.

    Returns
    -------
    As ``found``: how far along each stands, its stretch and its number there; and how many each stretch has.
    """
    at, run, number, count = found
    begins, stops = ends
    count = count.copy()
    out: list[tuple[Floats, int]] = []
    for i in np.unique(run).tolist():
        here = at[run == i]
        low, high = float(course.along[begins[i]]), float(course.along[stops[i]])
        closed = bool((course.xy[begins[i]] == course.xy[stops[i]]).all())
        between = int(begins[i]), int(stops[i])
        kept = None if closed else dashes.marks_between(*between, int(count[i]), long, course.along)
        if kept is None or not len(kept):
            # What closes, or is dashed in part, is gone along evenly, and each ornament finds the nearest mark.
            room = low + long / 2, high - long / 2
            kept = np.array([dashes.onto_mark(place, course.along, *room) for place in here.tolist()])
            # Where two kinds of dashes meet, none may come to lie over the next one.
            kept = np.delete(kept, np.flatnonzero(np.diff(kept) < long - SLACK) + 1)
        out.append((kept, i))
        count[i] = len(kept)
    run = np.repeat([i for _, i in out], [len(places) for places, _ in out]).astype(np.int64)
    number = np.concatenate([np.arange(len(places)) for places, _ in out]) if out else number[:0]
    return np.concatenate([places for places, _ in out]) if out else at[:0], run, number, count


def _coarser(number: Ints, count: Ints, length: Floats, long: float) -> Floats:
    """Every other one goes first, then every other of the rest; the middle one while the line is longer than it."""
    from_middle = np.abs(number - count // 2)
    # The largest power of two that divides it.
    level = np.where(from_middle > 0, from_middle & -from_middle, 1 << 30).astype(float)
    out: Floats = np.minimum(np.minimum(level, length / max(long, 0.1)), COARSEST)
    return np.maximum(out, 1.0)


def _once(ornament: Ornament, course: _Course, long: float) -> Places:
    """One for each length of spacing, all the same on a line; one that would lie across a corner moves off it."""
    lengths = course.lengths
    count = _how_many(lengths, ornament.spacing, long)
    path = np.repeat(np.arange(len(count)), count)
    number = np.arange(len(path)) - np.repeat(np.cumsum(count) - count, count)
    wanted = course.along[course.first[path]] + (number + ornament.phase) * lengths[path] / count[path]
    begins, stops, of_path = course.runs()
    at, run = np.full(len(path), np.nan), np.zeros(len(path), dtype=np.int64)
    room = course.along[stops] - course.along[begins] >= long - SLACK
    begins, stops, of_path = begins[room], stops[room], of_path[room]
    for i in range(len(path)):
        low, high = np.searchsorted(of_path, path[i], side="left"), np.searchsorted(of_path, path[i], side="right")
        if low == high:
            continue
        free = np.clip(wanted[i], course.along[begins[low:high]] + long / 2, course.along[stops[low:high]] - long / 2)
        nearest = int(np.argmin(np.abs(free - wanted[i])))
        at[i], run[i] = free[nearest], low + nearest
    _onto_straight(course, at, run, path, (begins, stops, of_path), long)
    for i in np.flatnonzero(np.isfinite(at)).tolist() if course.dashes is not None else ():
        ends = course.along[begins[run[i]]] + long / 2, course.along[stops[run[i]]] - long / 2
        at[i] = course.dashes.onto_mark(float(at[i]), course.along, float(ends[0]), float(ends[1]))  # type: ignore[union-attr]
    kept = np.isfinite(at)
    places, angles = course.placed(at[kept], begins[run[kept]], stops[run[kept]], long)
    coarser = _coarser(number[kept], count[path[kept]], lengths[path[kept]], long)
    return Places(places, angles, path[kept], coarser)


def _onto_straight(
    course: _Course, at: Floats, run: Ints, path: Ints, runs: tuple[Ints, Ints, Ints], long: float
) -> None:
    """Move what stands where a line bends too much below it to the nearest place where it does not; NaN for none."""
    begins, stops, of_path = runs
    there = np.flatnonzero(np.isfinite(at))
    bent = there[_sagitta(course, at[there], begins[run[there]], stops[run[there]], long) > BEND * long]
    for i in bent.tolist():
        places, rows = [np.zeros(0)], [np.zeros(0, dtype=np.int64)]
        for row in np.flatnonzero(of_path == path[i]).tolist():
            low, high = course.along[begins[row]] + long / 2, course.along[stops[row]] - long / 2
            places.append(np.linspace(low, high, 2 + int((high - low) / max(long / 4, 0.1))))
            rows.append(np.full(len(places[-1]), row))
        free, row_of = np.concatenate(places), np.concatenate(rows)
        fits = _sagitta(course, free, begins[row_of], stops[row_of], long) <= BEND * long
        for other in at[path == path[i]].tolist():
            # Another one of the same line that has been moved may stand there.
            fits &= ~(np.abs(free - other) < long) if np.isfinite(other) and other != at[i] else fits
        free, row_of = free[fits], row_of[fits]
        nearest = int(np.argmin(np.abs(free - at[i]))) if len(free) else -1
        at[i], run[i] = (free[nearest], row_of[nearest]) if len(free) else (np.nan, run[i])


def _sagitta(course: _Course, at: Floats, begins: Ints, stops: Ints, long: float) -> Floats:
    """How far a line stands off the straight between the ends of a stamp, at its middle."""
    one, two = (course.point(at + shift, begins, stops) for shift in (-long / 2, long / 2))
    out: Floats = np.hypot(*(course.point(at, begins, stops) - (one + two) / 2).T) * course.mm_per_unit
    return out


def _at_ends(ornament: Ornament, course: _Course, long: float, trends: Floats | None) -> Places:
    """At the ends, pointing outwards; a plunge at the end that it points to."""
    half = np.full(len(course.first), max(long, 0.5))
    begin, stop = course.along[course.first], course.along[course.last]
    inward = [
        course.point(np.minimum(begin + half, stop), course.first, course.last),
        course.point(np.maximum(stop - half, begin), course.first, course.last),
    ]
    ends = [course.xy[course.first], course.xy[course.last]]
    out = [np.degrees(np.arctan2(*(end - within).T)) for end, within in zip(ends, inward, strict=True)]
    wanted = np.zeros((2, len(course.first)), dtype=bool)
    if ornament.place == "plunge":
        wanted_way = trends if trends is not None else np.full(len(course.first), np.nan)
        known = np.isfinite(wanted_way)
        apart = [np.abs((angle - np.where(known, wanted_way, 0.0) + 180) % 360 - 180) for angle in out]
        wanted[0], wanted[1] = known & (apart[0] < apart[1]), known & (apart[0] >= apart[1])
    else:
        wanted[:] = True
    rows = [np.flatnonzero(which) for which in wanted]
    path = np.concatenate(rows)
    return Places(
        np.vstack([end[which] for end, which in zip(ends, rows, strict=True)]),
        np.concatenate([angle[which] for angle, which in zip(out, rows, strict=True)]),
        path,
        np.clip(course.lengths[path] / max(long, 0.1), 1.0, COARSEST),
    )


def as_ink(ornament: Ornament, places: Places, publication: int, keys: Ints) -> Ornaments:
    """Ornaments that were placed at a publication scale; ``keys`` are those of their features."""
    # A hair more than the scale itself, which no rounding takes them out of.
    return Ornaments(ornament.stamp, places.at, places.angles, places.coarser * publication * 1.001, keys)


def whole_within(ornaments: Ornaments, ground: shapely.Polygon) -> Ornaments:
    """Those ornaments that lie whole on some ground of the page; what would cross its edge is left out.

    Both in millimetres on the page, with y downwards.
    """
    if not len(ornaments.at):
        return ornaments
    outline = np.vstack([item.paths.xy for item in ornaments.stamp.items])
    angles = np.radians(ornaments.angles)
    cos, sin = np.cos(angles)[:, None], np.sin(angles)[:, None]
    x = ornaments.at[:, :1] + outline[:, 0] * cos - outline[:, 1] * sin
    y = ornaments.at[:, 1:] + outline[:, 0] * sin + outline[:, 1] * cos
    shapely.prepare(ground)
    keep = shapely.contains_xy(ground, x, y).all(axis=1)
    keys = ornaments.keys[keep] if ornaments.keys is not None else None
    return replace(
        ornaments, at=ornaments.at[keep], angles=ornaments.angles[keep], largest=ornaments.largest[keep], keys=keys
    )


def _none() -> Places:
    return Places(np.zeros((0, 2)), np.zeros(0), np.zeros(0, dtype=np.int64), np.zeros(0))

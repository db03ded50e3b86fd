"""Where what is drawn on a section meets the map: ends that were put where lines cross, and whether they still do.

Which line of the map an end belongs to is remembered, so that after a move of the map the end is known to be wrong, and
where it belongs.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.coordinates import GroundXY
from orvik.core.structure.section.section import SectionOfMap

# An end is where a line crosses if it is so near, in metres: the rounding of coordinates as they are stored.
MET = 1e-3


@dataclass(frozen=True)
class MeetingPlace:
    """Where a line of the map crosses a section, at the ground: metres along and up.

    Attributes
    ----------
    line
        Its number on the map.
    label
        What the ring calls it: ``Kw | Jh`` or ``fault 51``.
    """

    line: int
    place: GroundXY
    label: str


# By the end of a line, the number of the line of the map that it was put to; None for none.
Ends = tuple[int | None, int | None]
NO_ENDS: Ends = (None, None)


def meeting_places(found: SectionOfMap) -> list[MeetingPlace]:
    """Where lines of the map cross a section, as far as the ground's height is known there."""
    along = np.array([crossing.along for crossing in found.crossings])
    ups = found.profile.at(along) if len(along) else along
    return [
        MeetingPlace(crossing.line, (crossing.along, up), crossing.label)
        for crossing, up in zip(found.crossings, ups.tolist(), strict=True)
        if math.isfinite(up)
    ]


def ends_met(
    line: shapely.LineString, places: Sequence[MeetingPlace], before: tuple[shapely.LineString, Ends] | None = None
) -> Ends:
    """Which lines of the map the ends of a line meet.

    Parameters
    ----------
    before
        The line as it was, with what its ends met: an end that has not moved keeps what it was put to, wherever that
        is now.
    """
    xy = shapely.get_coordinates(line)
    kept: Mapping[GroundXY, int | None] = {}
    if before is not None:
        was = shapely.get_coordinates(before[0])
        kept = {_place(was[end]): met for end, met in zip((0, -1), before[1], strict=True)}
    return _met(_place(xy[0]), places, kept), _met(_place(xy[-1]), places, kept)


def _met(end: GroundXY, places: Sequence[MeetingPlace], kept: Mapping[GroundXY, int | None]) -> int | None:
    near = min(places, key=lambda one: math.dist(one.place, end), default=None)
    if near is not None and math.dist(near.place, end) <= MET:
        return near.line
    return kept.get(end)


def _place(xy: np.ndarray[tuple[int], np.dtype[np.float64]]) -> GroundXY:
    return float(xy[0]), float(xy[1])


@dataclass(frozen=True)
class Parted:
    """An end that no longer meets what it was put to.

    Attributes
    ----------
    line
        The number of the line on the section.
    last
        Whether it is the last end of it, or the first.
    meets
        The line of the map.
    place
        Where the end is.
    now
        Where that line crosses now, nearest to the end; None where it crosses no more.
    label
        What crosses there; empty where nothing does.
    """

    line: int
    last: bool
    meets: int
    place: GroundXY
    now: GroundXY | None
    label: str = ""

    @property
    def away(self) -> float | None:
        """How far, in metres."""
        return None if self.now is None else math.dist(self.place, self.now)


def parted(lines: Mapping[int, tuple[shapely.LineString, Ends]], places: Sequence[MeetingPlace]) -> list[Parted]:
    """The ends of lines that no longer meet what they were put to, in the order of the section."""
    found = []
    for number, (line, ends) in lines.items():
        xy = shapely.get_coordinates(line)
        for last, meets in zip((False, True), ends, strict=True):
            if meets is None:
                continue
            end = _place(xy[-1 if last else 0])
            near = min((p for p in places if p.line == meets), key=lambda p: math.dist(p.place, end), default=None)
            if near is None:
                found.append(Parted(number, last, meets, end, None))
            elif math.dist(near.place, end) > MET:
                found.append(Parted(number, last, meets, end, near.place, near.label))
    return sorted(found, key=lambda one: (one.place, one.line))


def met_count(lines: Mapping[int, tuple[shapely.LineString, Ends]], places: Sequence[MeetingPlace]) -> int:
    """At how many crossings of the map something of the section ends."""
    ends = {
        (met, _place(shapely.get_coordinates(line)[end]))
        for line, both in lines.values()
        for end, met in zip((0, -1), both, strict=True)
    }
    return sum(any(line == place.line and math.dist(at, place.place) <= MET for line, at in ends) for place in places)

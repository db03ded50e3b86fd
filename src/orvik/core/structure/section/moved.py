"""Lines of a section moved so that their ends meet the map again.

An end goes to where its line of the map crosses now; the rest of the line goes along, the less the further away it is,
so that an end which has nothing to follow stays. What ends on such a line goes along with it.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping

import numpy as np
import shapely

from orvik.core.arrays import Flags, Floats
from orvik.core.features.feature import Feature
from orvik.core.structure.section.meeting import MET, Parted

# A line that ends on one that ends on one that moves: so far is followed.
GENERATIONS = 8


def moved_to_map(lines: Mapping[int, Feature], parted: Iterable[Parted]) -> list[Feature]:
    """The lines that have to move, as they will be.

    Parameters
    ----------
    lines
        All lines of the section by number.
    parted
        Ends that no longer meet; those that have nowhere to go stay.
    """
    shifts: dict[int, Floats] = {}
    for end in parted:
        if end.now is None or end.line not in lines:
            continue
        both = shifts.setdefault(end.line, np.zeros((2, 2)))
        both[1 if end.last else 0] = np.subtract(end.now, end.place)
    fixed: dict[int, Flags] = {number: np.asarray(both.any(axis=1)) for number, both in shifts.items()}
    fresh = set(shifts)
    for _ in range(GENERATIONS):
        fresh = _led_along(lines, shifts, fixed, fresh)
        if not fresh:
            break
    return [_moved(lines[number], both) for number, both in sorted(shifts.items())]


def _led_along(
    lines: Mapping[int, Feature], shifts: dict[int, Floats], fixed: dict[int, Flags], fresh: set[int]
) -> set[int]:
    """Let ends go along that lie on lines which have just been moved; gives the lines that these are of."""
    led: set[int] = set()
    for number, feature in lines.items():
        xy = shapely.get_coordinates(feature.geometry)
        for end in (0, 1):
            if number in fixed and fixed[number][end]:
                continue
            place = shapely.Point(xy[-1 if end else 0])
            for other in fresh - {number}:
                line = lines[other].geometry
                if line.distance(place) <= MET:
                    share = line.project(place, normalized=True)
                    shift = shifts[other][0] * (1 - share) + shifts[other][1] * share
                    if not shift.any():
                        continue
                    shifts.setdefault(number, np.zeros((2, 2)))[end] = shift
                    fixed.setdefault(number, np.zeros(2, dtype=bool))[end] = True
                    led.add(number)
                    break
    return led


def _moved(feature: Feature, shifts: Floats) -> Feature:
    xy = shapely.get_coordinates(feature.geometry)
    way = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(xy, axis=0).T))])
    share = (way / way[-1])[:, None]
    return feature.changed(geometry=shapely.LineString(xy + shifts[0] * (1 - share) + shifts[1] * share))

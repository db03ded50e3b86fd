"""What a line of a section says: how it dips along the section, and how thick what lies above it is. At true scale."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.structure.section.carried import CarriedReading

# A reading speaks for a line within so many metres along the section.
BESIDE = 500.0


@dataclass(frozen=True)
class LineMeasures:
    """Of one line of a section.

    Attributes
    ----------
    apparent_dip
        From end to end, in degrees, positive down the way the section runs.
    thickness
        From its middle up to the next line, at right angles to it, in metres; None where nothing lies above.
    above
        The number of that line.
    reading
        The nearest reading that is carried onto the section; None where none is near.
    """

    apparent_dip: float
    thickness: float | None = None
    above: int | None = None
    reading: CarriedReading | None = None

    @property
    def true_thickness(self) -> float | None:
        """The thickness with the dip of the reading: T cos d / cos a, for a bed that dips by d, and by a along it.

        Two planes a height h apart lie h cos d apart, and h cos a in the plane of the section (geometry). None without
        a reading.
        """
        if self.thickness is None or self.reading is None:
            return None
        apparent = math.radians(self.reading.apparent_dip)
        return self.thickness * math.cos(math.radians(self.reading.true_dip)) / math.cos(apparent)


def dip_of(line: shapely.LineString) -> float:
    """The apparent dip of a line from end to end, in degrees; positive down the way the section runs.

    >>> round(dip_of(shapely.LineString([(0, 0), (100, -100)])), 6)
    45.0
    >>> round(dip_of(shapely.LineString([(100, -100), (0, 0)])), 6)
    45.0
    >>> round(dip_of(shapely.LineString([(0, 0), (100, 100)])), 6)
    -45.0
    """
    xy = shapely.get_coordinates(line)
    along, up = xy[-1] - xy[0]
    if along < 0:
        along, up = -along, -up
    return math.degrees(math.atan2(-up, along))


def measures_of(
    line: shapely.LineString,
    others: Sequence[tuple[int, shapely.LineString]],
    readings: Sequence[CarriedReading],
) -> LineMeasures:
    """Measure a line.

    Parameters
    ----------
    others
        The other lines of the section, by number.
    readings
        Those that are carried onto it.
    """
    middle = line.interpolate(0.5, normalized=True)
    near = min(readings, key=lambda r: math.dist((r.along, r.up), (middle.x, middle.y)), default=None)
    if near is not None and abs(near.along - middle.x) > BESIDE:
        near = None
    thickness, above = _up_from(line, middle, others)
    return LineMeasures(dip_of(line), thickness, above, near)


def _up_from(
    line: shapely.LineString, middle: shapely.Point, others: Sequence[tuple[int, shapely.LineString]]
) -> tuple[float | None, int | None]:
    """How far from a place of a line the next one lies, at right angles to it and upwards, and which that is."""
    step = 0.01
    a, b = (line.interpolate(max(0.0, min(1.0, 0.5 + s)), normalized=True) for s in (-step, step))
    run = np.array([b.x - a.x, b.y - a.y])
    long = float(np.hypot(*run))
    if long == 0:
        return None, None
    normal = np.array([-run[1], run[0]]) / long
    if normal[1] < 0:
        normal = -normal
    foot = np.array([middle.x, middle.y])
    ray = shapely.LineString([foot + normal * 1e-6, foot + normal * 1e5])
    best: tuple[float | None, int | None] = (None, None)
    for other, course in others:
        if ray.intersects(course):
            away = float(middle.distance(ray.intersection(course)))
            if best[0] is None or away < best[0]:
                best = (away, other)
    return best

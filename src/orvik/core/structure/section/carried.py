"""Readings beside a section, carried onto it along their strike or along a fold axis, as apparent dips."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.features.attitude import Attitude
from orvik.core.structure.plane import Plane
from orvik.core.structure.section.section_line import SectionLine

# A strike that runs nearer along the section than this, in degrees, carries nowhere near: the shortest way is taken.
ALONG = 20.0


@dataclass(frozen=True)
class FoldAxis:
    """Trend from true north and plunge, in degrees."""

    trend: float
    plunge: float


@dataclass(frozen=True)
class StationReading:
    """A plane that was read at a place of the map.

    Attributes
    ----------
    point
        Its number.
    place
        Easting, northing and up in metres.
    convergence
        Grid convergence there, in degrees.
    """

    point: int
    kind: str
    place: tuple[float, float, float]
    attitude: Attitude
    convergence: float


@dataclass(frozen=True)
class CarriedReading:
    """A reading on the section.

    Attributes
    ----------
    along, up
        Where its plane comes to the section, in metres.
    apparent_dip
        In degrees at true scale, positive down the way the section runs.
    true_dip
        In degrees.
    away
        How far it was carried, in metres.
    straight
        Whether it was carried the shortest way, because its strike runs along the section.
    """

    point: int
    kind: str
    along: float
    up: float
    apparent_dip: float
    true_dip: float
    away: float
    straight: bool


def carried(
    line: SectionLine, readings: list[StationReading], corridor: float, axis: FoldAxis | None = None
) -> list[CarriedReading]:
    """Readings within a corridor on both sides of a section, in its order.

    A plane holds its height along its strike, and a cylindrical fold its shape along its axis (common practice); so a
    reading goes level along its strike, or down the plunge of an axis.

    Parameters
    ----------
    corridor
        In metres on each side, at right angles.
    axis
        Carries all readings; each goes along its own strike without it.
    """
    found = []
    for reading in readings:
        one = _one(line, reading, corridor, axis)
        if one is not None:
            found.append(one)
    return sorted(found, key=lambda reading: (reading.along, reading.point))


def _one(line: SectionLine, reading: StationReading, corridor: float, axis: FoldAxis | None) -> CarriedReading | None:
    place = np.array(reading.place[:2])
    away = shapely.distance(line.legs, shapely.Point(place))
    leg = int(away.argmin())
    if float(away[leg]) > corridor:
        return None
    section = float(line.directions(np.array(leg)))
    azimuth = axis.trend if axis is not None else reading.attitude.azimuth
    way = azimuth - reading.convergence
    straight = abs(math.sin(math.radians(way - section))) < math.sin(math.radians(ALONG))
    if straight:
        way = section + 90.0
    foot, reach = _met(line, leg, place, way)
    if foot is None or abs(reach) > 3 * corridor + 1.0:
        # Carried so far it would speak of other rock; the shortest way is honest, and said.
        straight, way = True, section + 90.0
        foot, reach = _met(line, leg, place, way)
    if foot is None:
        return None
    plane = Plane.of_attitude(reading.place, reading.attitude, reading.convergence)
    sinks = math.tan(math.radians(axis.plunge)) if axis is not None and not straight else 0.0
    return CarriedReading(
        reading.point,
        reading.kind,
        foot,
        reading.place[2] - reach * sinks,
        plane.apparent_dip(section),
        reading.attitude.inclination or 0.0,
        abs(reach),
        straight,
    )


def _met(line: SectionLine, leg: int, place: Floats, way: float) -> tuple[float | None, float]:
    """Where a way from a place meets a leg, along the section, and how far that is; None where it passes it by."""
    begin, step = line.xy[leg], line.xy[leg + 1] - line.xy[leg]
    towards = np.array([math.sin(math.radians(way)), math.cos(math.radians(way))])
    turn = float(step[0] * towards[1] - step[1] * towards[0])
    if abs(turn) < 1e-9:
        return None, 0.0
    off = place - begin
    share = float(off[0] * towards[1] - off[1] * towards[0]) / turn
    reach = float(off[0] * step[1] - off[1] * step[0]) / turn
    if not -1e-9 <= share <= 1 + 1e-9:
        return None, 0.0
    return float(line.stations[leg] + share * line.steps[leg]), reach

"""Attitudes: strike and dip by the right-hand rule, from true north."""

from __future__ import annotations

import math
from dataclasses import dataclass

from orvik.core.errors import ReadingRefused

_POINTS = ("north", "northeast", "east", "southeast", "south", "southwest", "west", "northwest")
# The sixteen points of the compass, in degrees from north.
COMPASS = {
    name: 22.5 * i
    for i, name in enumerate(
        ("N", "NNE", "NE", "ENE", "E", "ESE", "SE", "SSE", "S", "SSW", "SW", "WSW", "W", "WNW", "NW", "NNW")
    )
}
# A point of the compass names a quarter of it: a plane dips to it if it dips within so many degrees of it.
QUARTER = 45.0


@dataclass(frozen=True)
class Attitude:
    """The attitude of a plane, or of a line.

    Attributes
    ----------
    azimuth
        Strike in degrees from true north, 0 up to but not 360; the plane dips to its right.
    inclination
        Dip in degrees below the horizontal, 0 to 90; None where only the direction was read.
    linear
        Whether it is a line, with its trend and plunge.
    """

    azimuth: float
    inclination: float | None
    linear: bool = False

    def __post_init__(self) -> None:
        if not 0 <= self.azimuth < 360:
            raise ReadingRefused(
                f"A strike of {self.azimuth:g} is not a direction; strikes run from 000 to 359, and 360 is 000."
            )
        if self.inclination is not None and not 0 <= self.inclination <= 90:
            raise ReadingRefused(
                f"A dip of {self.inclination:g} is not possible; dips run from 0 (horizontal) to 90 (vertical)."
            )

    @property
    def dip_direction(self) -> float:
        """The direction in which the plane dips, in degrees from true north."""
        return (self.azimuth + 90) % 360

    @property
    def text(self) -> str:
        """Strike with three figures and dip: ``005/66``; the strike alone where there is no dip."""
        return three_figures(self.azimuth) + self._dip_text

    @property
    def direction_text(self) -> str:
        """Dip direction with three figures and dip: ``095/66``."""
        return three_figures(self.dip_direction) + self._dip_text

    @property
    def _dip_text(self) -> str:
        return "" if self.inclination is None else f"/{self.inclination:g}"

    @property
    def words(self) -> str:
        """The reading in words: ``strikes 350, dips 60 to the east``."""
        if self.linear:
            if self.inclination == 90:
                return "plunges straight down"
            toward = f"{three_figures(self.azimuth)} ({compass_point(self.azimuth)})"
            if self.inclination is None:
                return f"points to {toward}"
            return (
                f"horizontal, trends {toward}"
                if self.inclination == 0
                else f"plunges {self.inclination:g} towards {toward}"
            )
        strike = f"strikes {three_figures(self.azimuth)}"
        if self.inclination is None:
            return f"{strike}, dips to the {compass_point(self.dip_direction)}"
        if self.inclination == 0:
            return "horizontal"
        if self.inclination == 90:
            return f"{strike}, vertical"
        return f"{strike}, dips {self.inclination:g} to the {compass_point(self.dip_direction)}"


def compass_point(azimuth: float) -> str:
    """The nearest of the eight compass points to a direction in degrees."""
    return _POINTS[round(azimuth % 360 / 45) % 8]


def letters_of(azimuth: float) -> str:
    """The nearest of the eight compass points as letters: ``NE``."""
    return ("N", "NE", "E", "SE", "S", "SW", "W", "NW")[round(azimuth % 360 / 45) % 8]


def apart(one: float, two: float) -> float:
    """The angle between two directions in degrees, 0 to 180."""
    return abs((one - two + 180) % 360 - 180)


def right_hand_strike(strike: float, towards: float, slack: float) -> float | None:
    """The one of the two directions of a strike that has the dip to its right.

    >>> right_hand_strike(170.0, 260.0, 0.0)
    170.0
    >>> right_hand_strike(350.0, 260.0, 0.0)
    170.0

    Parameters
    ----------
    strike
        Either direction of the strike, in degrees.
    towards
        Where the plane dips to, as stated.
    slack
        How far the stated direction may be from a right angle to the strike.

    Returns
    -------
    A strike in degrees, or None where the two contradict each other.
    """
    for way in (strike % 360, (strike + 180) % 360):
        if apart(way + 90, towards) <= slack + 1e-9:
            return way
    return None


def three_figures(azimuth: float) -> str:
    """A direction as it is read and spoken, with three figures before the point: ``005``, ``005.5``."""
    whole, fraction = f"{azimuth:.6f}".rstrip("0").split(".")
    return whole.zfill(3) + (f".{fraction}" if fraction else "")


def drawn_strike(
    start: tuple[float, float], end: tuple[float, float], side: tuple[float, float], convergence: float
) -> int:
    """The strike of a symbol that was drawn over on the scan, in whole degrees from true north.

    >>> drawn_strike((0, 0), (0, 100), side=(50, 0), convergence=0.0)
    0
    >>> drawn_strike((0, 0), (0, 100), side=(-50, 0), convergence=0.0)
    180

    Parameters
    ----------
    start, end
        Two places along the strike, on the grid.
    side
        A place on the side that the plane dips to.
    convergence
        Grid convergence there in degrees: a true azimuth is that on the grid and the convergence.

    Raises
    ------
    ReadingRefused
        The two places are one, or the side lies on the line through them.
    """
    dx, dy = end[0] - start[0], end[1] - start[1]
    across = dx * (side[1] - start[1]) - dy * (side[0] - start[0])
    if dx == dy == 0 or across == 0:
        raise ReadingRefused("Draw along the strike first, then click beside the line, where it dips to.")
    # To the right of the direction the cross product is negative.
    grid = math.degrees(math.atan2(dx, dy)) + (0.0 if across < 0 else 180.0)
    return round(grid + convergence) % 360

"""Attitudes: strike and dip by the right-hand rule, from true north."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

from .errors import ReadingRefused

_POINTS = ("north", "northeast", "east", "southeast", "south", "southwest", "west", "northwest")
_READING = re.compile(r"\s*(-?\d+(?:[.,]\d+)?)\s*°?\s*[/\s,;]\s*(-?\d+(?:[.,]\d+)?)\s*°?\s*")


_QUADRANT = re.compile(
    r"\s*(?:(?P<plain>NS|SN|EW|WE)|(?P<from>[NS])\s*(?P<turn>\d+(?:[.,]\d+)?)\s*(?P<to>[EW]))"
    r"\s*[/,;\s]\s*(?P<dip>\d+(?:[.,]\d+)?)\s*(?P<side>NE|NW|SE|SW|N|S|E|W)?\s*"
)
_COMPASS = {"N": 0, "NE": 45, "E": 90, "SE": 135, "S": 180, "SW": 225, "W": 270, "NW": 315}
# Kinds whose reading is a line's trend and plunge, not a plane's strike and dip.
LINEAR = frozenset({"lineation"})


@dataclass(frozen=True)
class Attitude:
    """The attitude of a plane, or of a line.

    Attributes
    ----------
    azimuth
        Strike in degrees from true north, 0 up to but not 360; the plane dips to its right.
    inclination
        Dip in degrees below the horizontal, 0 to 90.
    linear
        Whether it is a line, with its trend and plunge.
    """

    azimuth: float
    inclination: float
    linear: bool = False

    def __post_init__(self) -> None:
        if not 0 <= self.azimuth < 360:
            raise ReadingRefused(
                f"A strike of {self.azimuth:g} is no direction; strikes run from 000 to 359, and 360 is 000."
            )
        if not 0 <= self.inclination <= 90:
            raise ReadingRefused(
                f"A dip of {self.inclination:g} is not possible; dips run from 0 (flat) to 90 (upright)."
            )

    @property
    def dip_direction(self) -> float:
        """The direction in which the plane dips, in degrees from true north."""
        return (self.azimuth + 90) % 360

    @property
    def text(self) -> str:
        """Strike with three figures and dip: ``005/66``."""
        return f"{three_figures(self.azimuth)}/{self.inclination:g}"

    @property
    def words(self) -> str:
        """The reading in words: ``strikes 350, dips 60 to the east``."""
        if self.linear:
            if self.inclination == 90:
                return "plunges straight down"
            toward = f"{three_figures(self.azimuth)} ({compass_point(self.azimuth)})"
            return f"lies flat, trends {toward}" if self.inclination == 0 else f"plunges {self.inclination:g} towards {toward}"
        strike = f"strikes {three_figures(self.azimuth)}"
        if self.inclination == 0:
            return "lies flat"
        if self.inclination == 90:
            return f"{strike}, stands upright"
        return f"{strike}, dips {self.inclination:g} to the {compass_point(self.dip_direction)}"


def compass_point(azimuth: float) -> str:
    """The nearest of the eight compass points to a direction in degrees."""
    return _POINTS[round(azimuth % 360 / 45) % 8]


def three_figures(azimuth: float) -> str:
    """A direction as it is read and spoken, with three figures before the point: ``005``, ``005.5``."""
    whole, fraction = f"{azimuth:.6f}".rstrip("0").split(".")
    return whole.zfill(3) + (f".{fraction}" if fraction else "")


def parse_reading(text: str, dip_direction: bool = False, kind: str = "bedding") -> Attitude:
    """The attitude typed as ``350/60``, ``5 66`` or ``N10W 60E``; a strike of 360 is 000.

    Parameters
    ----------
    text
        Strike and dip by the right-hand rule; or a bearing from north or south with a dip and the side that
        it dips to; of a lineation trend and plunge.
    dip_direction
        Whether the first figure is the dip direction instead of the strike.
    kind
        The kind of point that is read.

    Raises
    ------
    ReadingRefused
        It is not a reading, or a figure cannot be.
    """
    linear = kind in LINEAR
    match = _READING.fullmatch(text)
    if match is None:
        quadrant = _QUADRANT.fullmatch(text.upper().replace("°", ""))
        if quadrant is None:
            what = "trend and plunge as 120/30" if linear else "strike and dip as 350/60 or N10W 60E"
            raise ReadingRefused(f"“{text.strip()}” is not a reading; type {what}.")
        return _from_quadrant(quadrant, linear)
    azimuth, inclination = (float(part.replace(",", ".")) for part in match.groups())
    azimuth = 0.0 if azimuth == 360 else azimuth
    if dip_direction and not linear:
        Attitude(azimuth, inclination)
        azimuth = (azimuth - 90) % 360
    return Attitude(azimuth, inclination, linear)


def _from_quadrant(match: re.Match[str], linear: bool) -> Attitude:
    """A bearing counted from north or south, with the side of the dip where there is one."""
    words = match.groupdict()
    if words["plain"]:
        bearing = 0.0 if words["plain"] in ("NS", "SN") else 90.0
    else:
        turn = float(words["turn"].replace(",", "."))
        if turn > 90:
            raise ReadingRefused(f"A bearing turns at most 90 from north or south, not {turn:g}.")
        base, sign = (0.0, 1.0) if words["from"] == "N" else (180.0, -1.0)
        bearing = (base + sign * (turn if words["to"] == "E" else -turn)) % 360
    inclination = float(words["dip"].replace(",", "."))
    side = words["side"]
    if linear:
        return Attitude(bearing, inclination, True)
    if not side:
        if inclination not in (0.0, 90.0):
            raise ReadingRefused("Such a reading needs the side that it dips to: N10W 60E.")
        return Attitude(bearing, inclination)
    ahead = (_COMPASS[side] - bearing) % 360
    if min(abs(ahead), abs(ahead - 180), abs(ahead - 360)) < 1:
        raise ReadingRefused(f"A plane that strikes {three_figures(bearing)} cannot dip to {side}; check the two.")
    return Attitude(bearing if 0 < ahead < 180 else (bearing + 180) % 360, inclination)


def drawn_strike(
    start: tuple[float, float], end: tuple[float, float], side: tuple[float, float], convergence: float
) -> int:
    """The strike of a sign that was drawn over on the scan, in whole degrees from true north.

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

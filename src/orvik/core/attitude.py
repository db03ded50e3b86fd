"""Attitudes: strike and dip by the right-hand rule, from true north."""

from __future__ import annotations

import re
from dataclasses import dataclass

from .errors import ReadingRefused

_POINTS = ("north", "northeast", "east", "southeast", "south", "southwest", "west", "northwest")
_READING = re.compile(r"\s*(-?\d+(?:[.,]\d+)?)\s*°?\s*[/\s,;]\s*(-?\d+(?:[.,]\d+)?)\s*°?\s*")


@dataclass(frozen=True)
class Attitude:
    """A plane's attitude.

    Attributes
    ----------
    azimuth
        Strike in degrees from true north, 0 up to but not 360; the plane dips to its right.
    inclination
        Dip in degrees below the horizontal, 0 to 90.
    """

    azimuth: float
    inclination: float

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


def parse_reading(text: str) -> Attitude:
    """The attitude typed as ``350/60``, ``5 66`` or ``005/66``; a strike of 360 is 000.

    Raises
    ------
    ReadingRefused
        It is not two numbers, or one of them cannot be.
    """
    match = _READING.fullmatch(text)
    if match is None:
        raise ReadingRefused(f"“{text.strip()}” is not a reading; type strike and dip as 350/60.")
    azimuth, inclination = (float(part.replace(",", ".")) for part in match.groups())
    return Attitude(0.0 if azimuth == 360 else azimuth, inclination)

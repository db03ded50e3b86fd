"""Magnetic declination, from the World Magnetic Model 2025 of NOAA and the British Geological Survey."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from functools import lru_cache
from typing import TYPE_CHECKING

from orvik.core.errors import SheetRefused

if TYPE_CHECKING:
    from pygeomag import GeoMag

# The model holds for these five years (decimal years).
FIRST, LAST = 2025.0, 2030.0
MODEL = "World Magnetic Model 2025"
# Below this horizontal intensity, in nanotesla, a compass is not to be relied on (the model's caution zone).
WEAK_NT = 6000.0
# A full circle has so many mils.
MILS = 6400


@dataclass(frozen=True)
class Declination:
    """Where a compass points at a place on a day.

    Attributes
    ----------
    degrees
        Magnetic north from true north, east positive.
    yearly
        How much that grows in a year, in degrees.
    horizontal
        Horizontal intensity in nanotesla.
    """

    degrees: float
    yearly: float
    horizontal: float

    @property
    def weak(self) -> bool:
        """Whether the horizontal field is too weak for a compass to be relied on."""
        return self.horizontal < WEAK_NT


def declination(longitude: float, latitude: float, day: date, height: float = 0.0) -> Declination:
    """The declination at a place.

    Parameters
    ----------
    longitude, latitude
        In degrees, WGS 84.
    height
        In metres above the ellipsoid.

    Raises
    ------
    SheetRefused
        The day lies outside the five years that the model holds for.
    """
    year = decimal_year(day)
    if not FIRST <= year <= LAST:
        raise SheetRefused(
            f"{day.isoformat()} lies outside the years that the {MODEL} holds for; type a day from "
            f"{FIRST:.0f}-01-01 to {LAST:.0f}-01-01."
        )
    here = _field(latitude, longitude, height, year)
    # The model grows evenly within its years, so that half a year each way is the change of one.
    before, after = (_field(latitude, longitude, height, year + half)[0] for half in (-0.5, 0.5))
    return Declination(here[0], (after - before + 180) % 360 - 180, here[1])


def decimal_year(day: date) -> float:
    """A day as a year with its fraction.

    >>> decimal_year(date(2026, 7, 2))
    2026.4986301369863
    """
    start, end = date(day.year, 1, 1), date(day.year + 1, 1, 1)
    return day.year + (day - start).days / (end - start).days


def mils(degrees: float) -> int:
    """An angle in mils, 6 400 to the circle, without its sign.

    >>> mils(8.4375)
    150
    """
    return round(abs(degrees) * MILS / 360)


@lru_cache(maxsize=1)
def _model() -> GeoMag:
    from pygeomag import GeoMag

    return GeoMag(coefficients_file="wmm/WMM_2025.COF")


def _field(latitude: float, longitude: float, height: float, year: float) -> tuple[float, float]:
    """Declination in degrees and horizontal intensity in nanotesla."""
    found = _model().calculate(
        glat=latitude, glon=longitude, alt=height / 1000, time=year, allow_date_outside_lifespan=True
    )
    return float(found.d), float(found.h)

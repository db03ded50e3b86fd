"""Declination against the published test values of the World Magnetic Model 2025.

wmm2025.csv holds date, height above the ellipsoid in km, latitude, longitude, horizontal intensity in nT and
declination in degrees of the 100 rows of NOAA's WMM2025 test values, as the tests of the npm package geomagnetism
0.2.0 (Apache-2.0) carry them.
"""

from __future__ import annotations

import csv
from datetime import date, timedelta
from pathlib import Path

import pytest

from orvik.core.errors import SheetRefused
from orvik.core.ground import magnetic

ROWS = list(csv.DictReader((Path(__file__).parent / "wmm2025.csv").read_text().splitlines()))


def day_of(year: float) -> date:
    """The day on which a decimal year falls."""
    start = date(int(year), 1, 1)
    return start + timedelta(days=round((year - int(year)) * (date(int(year) + 1, 1, 1) - start).days))


@pytest.mark.parametrize("row", ROWS, ids=lambda row: f"{row['lat']},{row['lon']}")
def test_published_values(row: dict[str, str]) -> None:
    found = magnetic.declination(
        float(row["lon"]), float(row["lat"]), day_of(float(row["date"])), float(row["alt"]) * 1000
    )
    # Half a day is as near as a date comes to a decimal year.
    assert (found.degrees - float(row["decl"]) + 180) % 360 - 180 == pytest.approx(0, abs=0.011)
    assert found.horizontal == pytest.approx(float(row["h"]), abs=1.0)


@pytest.mark.parametrize(("latitude", "longitude", "degrees"), [(80, 0, 1.28), (0, 120, -0.16), (-80, -120, 68.78)])
def test_values_from_memory(latitude: float, longitude: float, degrees: float) -> None:
    """NOAA's test values for 2025.0 at height 0 (memory; reproduced with a public port of the model)."""
    assert magnetic.declination(longitude, latitude, date(2025, 1, 1)).degrees == pytest.approx(degrees, abs=0.006)


def test_the_change_of_a_year_is_what_a_year_changes() -> None:
    one, other = (magnetic.declination(-14.7, 61.3, date(year, 3, 1)) for year in (2026, 2027))
    assert other.degrees - one.degrees == pytest.approx(one.yearly, abs=1e-3)


@pytest.mark.parametrize("day", [date(2024, 12, 31), date(2030, 1, 2), date(1999, 1, 1)])
def test_a_day_that_the_model_does_not_hold_for_is_refused(day: date) -> None:
    with pytest.raises(SheetRefused, match="lies outside the years"):
        magnetic.declination(0, 50, day)


def test_near_the_magnetic_poles_the_field_is_weak() -> None:
    assert magnetic.declination(135, 86, date(2026, 1, 1)).weak
    assert not magnetic.declination(-14.7, 61.3, date(2026, 1, 1)).weak

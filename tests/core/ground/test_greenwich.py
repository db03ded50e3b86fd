"""Systems on old meridians and in grads, all of the database, against PROJ."""

from __future__ import annotations

import sqlite3
import warnings
from collections.abc import Iterable
from contextlib import closing
from functools import lru_cache
from pathlib import Path

import numpy as np
import pyproj
import pytest
from pyproj.database import query_crs_info
from pyproj.enums import PJType

from orvik.core.errors import CrsRefused
from orvik.core.ground.border import geographic_border, ground_of, series_corners
from orvik.core.ground.crs import project_crs
from orvik.core.ground.crs_build import Parameters, built, upright_along
from orvik.core.ground.greenwich import counts_from_greenwich, meridian_degrees, projected_from_greenwich
from tests.examples import drawn

# Of PROJ's database: what counts from elsewhere than Greenwich on this planet, or in grads.
LISTED = """
    SELECT p.auth_name || ':' || p.code FROM projected_crs AS p
    JOIN geodetic_crs AS g ON g.auth_name = p.geodetic_crs_auth_name AND g.code = p.geodetic_crs_code
    JOIN geodetic_datum AS d ON d.auth_name = g.datum_auth_name AND d.code = g.datum_code
    WHERE d.prime_meridian_auth_name <> 'IAU_2015' AND d.prime_meridian_code <> 8901
       OR g.coordinate_system_code IN (SELECT coordinate_system_code FROM axis WHERE uom_code = 9105)
    ORDER BY 1"""


# Each was once read wrongly.
ONCE_WRONG = ("EPSG:27572", "EPSG:27561", "EPSG:26591", "EPSG:20790", "EPSG:27391", "EPSG:5221")


@lru_cache(maxsize=1)
def listed() -> list[str]:
    """The systems that PROJ's database lists so."""
    file = Path(pyproj.datadir.get_data_dir()) / "proj.db"
    with closing(sqlite3.connect(f"{file.as_uri()}?mode=ro", uri=True)) as database:
        return [text for (text,) in database.execute(LISTED)]


@lru_cache(maxsize=1)
def odd_systems() -> list[str]:
    """Of the projected systems whose base is on another meridian or not in degrees those that can be used."""
    return [text for text in drawn(listed(), 24, ONCE_WRONG) if is_odd(text)]


def is_odd(text: str) -> bool:
    """Whether a system can be used and does not count in degrees from Greenwich."""
    base = pyproj.CRS(text).geodetic_crs
    if base is None or counts_from_greenwich(base):
        return False
    try:
        project_crs(text)
    except CrsRefused:
        return False
    return True


def places_of(text: str) -> Iterable[np.ndarray]:
    """Twenty-five places over the area of use, in degrees from Greenwich."""
    area = project_crs(text).area
    assert area is not None
    at = np.linspace(0.1, 0.9, 5)
    if area.east - area.west > 90:
        # One states the whole world as its area; its grid is meant for France.
        return (v.ravel() for v in np.meshgrid(2 + 5 * at, 44 + 5 * at))
    longitude, latitude = np.meshgrid(
        area.west + (area.east - area.west) * at, area.south + (area.north - area.south) * at
    )
    return longitude.ravel(), latitude.ravel()


def test_there_are_such_systems() -> None:
    assert len(listed()) > 75
    assert set(ONCE_WRONG) <= set(odd_systems())


@pytest.mark.sweep
def test_none_is_overlooked() -> None:
    """Asked one by one, all ten thousand."""
    systems = query_crs_info(pj_types=[PJType.PROJECTED_CRS], allow_deprecated=True)
    texts = {f"{info.auth_name}:{info.code}" for info in systems}
    assert {text for text in texts if is_odd(text)} == set(odd_systems())


def test_every_system_gives_and_takes_degrees_from_greenwich() -> None:
    """Against PROJ's own strings, whose +pm makes its longitudes Greenwich's."""
    for text in odd_systems():
        crs = project_crs(text)
        longitude, latitude = places_of(text)
        x, y = crs.from_geographic(longitude, latitude)
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", UserWarning)
            reference = pyproj.Proj(text)
        want = reference(longitude, latitude)
        away = np.hypot(x * crs.metres_per_unit - want[0] * crs.metres_per_unit, y - want[1])
        assert np.nanmax(away) < 1e-3, text
        back = crs.to_geographic(x, y)
        # PROJ's way back of the Laborde grid is good to a few centimetres.
        assert np.abs(back[0] - longitude).max() < 5e-7, text
        assert np.abs(back[1] - latitude).max() < 5e-7, text


def test_every_system_is_the_same_grid_when_stated_from_greenwich() -> None:
    for text in odd_systems():
        crs = project_crs(text)
        restated = projected_from_greenwich(pyproj.CRS(text))
        assert restated.geodetic_crs is not None
        assert counts_from_greenwich(restated.geodetic_crs), text
        longitude, latitude = places_of(text)
        way = pyproj.Transformer.from_crs(restated.geodetic_crs, restated, always_xy=True)
        away = np.hypot(*np.subtract(way.transform(longitude, latitude), crs.from_geographic(longitude, latitude)))
        assert away.max() < 1e-3, text


def test_every_system_has_its_area_of_use_on_the_grid() -> None:
    for text in odd_systems():
        crs = project_crs(text)
        bounds = crs.area_bounds()
        assert bounds is not None, text
        if crs.area is not None and crs.area.east - crs.area.west > 90:
            continue
        x, y = crs.from_geographic(*places_of(text))
        assert (bounds[0] <= x).all(), text
        assert (x <= bounds[2]).all(), text
        assert (bounds[1] <= y).all(), text
        assert (y <= bounds[3]).all(), text


# Longitude of each meridian east of Greenwich: IOGP's EPSG dataset, prime meridians (from memory; PROJ).
@pytest.mark.parametrize(
    ("text", "degrees"),
    [
        ("EPSG:27572", 2 + 20 / 60 + 14.025 / 3600),
        ("EPSG:27500", 2 + 20 / 60 + 13.95 / 3600),
        ("EPSG:20790", -(9 + 7 / 60 + 54.862 / 3600)),
        ("EPSG:27391", 10 + 43 / 60 + 22.5 / 3600),
        ("EPSG:31287", 0.0),
        ("EPSG:31251", -(17 + 40 / 60)),
        ("EPSG:2062", -(3 + 41 / 60 + 14.55 / 3600)),
        ("EPSG:21500", 4 + 22 / 60 + 4.71 / 3600),
        ("EPSG:21780", 7 + 26 / 60 + 22.5 / 3600),
        ("EPSG:5330", 106 + 48 / 60 + 27.79 / 3600),
    ],
)
def test_meridians_and_their_units(text: str, degrees: float) -> None:
    assert meridian_degrees(pyproj.CRS(text)) == pytest.approx(degrees, abs=1e-6)


def test_a_border_typed_in_degrees_lies_where_it_says() -> None:
    """EPSG:27572 has its origin on Paris at 46.8° N, where it counts 600 000 and 2 200 000 (from memory; PROJ)."""
    crs = project_crs("EPSG:27572")
    border = geographic_border(crs, "2°00'E", "46°30'N", "2°30'E", "47°00'N")
    west, south, east, north = ground_of(crs, border)
    assert (west, south, east, north) == pytest.approx((2.0, 46.5, 2.5, 47.0), abs=1e-6)
    x, y = crs.from_geographic(2 + 20 / 60 + 14.025 / 3600, 46.8)
    assert (float(x), float(y)) == pytest.approx((600_000, 2_200_000), abs=0.01)
    longitude, latitude = crs.to_geographic(600_000.0, 2_200_000.0)
    assert series_corners(float(longitude), float(latitude), 30)["west"] == "2°00'00\"E"


def test_a_system_of_ones_own_over_an_old_meridian_is_where_its_degrees_say() -> None:
    """The same parameters over the same datum give one grid, whatever meridian the base counts from."""
    for paris, greenwich in (("EPSG:4807", "EPSG:4275"), ("EPSG:4805", "EPSG:4312"), ("EPSG:4803", "EPSG:4207")):
        for method in ("lcc", "lcc1", "albers", "tm", "stereographic", "laea"):
            made = [
                built(Parameters(method, 46.0, 9.5, parallel_1=45.0, parallel_2=47.5, base=base))
                for base in (paris, greenwich)
            ]
            one, other = (np.array(crs.from_geographic([9.0, 10.2], [45.5, 46.7])) for crs in made)
            assert np.abs(one - other).max() < 1e-3, (paris, method)


def test_a_line_stands_upright_over_an_old_meridian() -> None:
    base = pyproj.CRS("EPSG:4807").to_wkt()
    crs = upright_along((2.0, 46.0), (2.7, 46.9), base, "Along")
    x, y = crs.from_geographic([2.0, 2.7], [46.0, 46.9])
    assert abs(float(x[1] - x[0])) < 1e-3 * abs(float(y[1] - y[0]))

from __future__ import annotations

import pytest
import shapely

from orvik.core.drawing.validity import checked
from orvik.core.errors import CoordinateRefused, FeatureRefused, OrvikError, ReadingRefused
from orvik.core.features.feature import Feature
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.reading import parse_reading
from orvik.core.ground.crs import ProjectCrs
from orvik.core.symbols.book_file import standard

GOOD = Feature("lines", shapely.LineString([(513_000, 6_803_000), (514_000, 6_803_500)]), "contact")
POINT = Feature("points", shapely.Point(513_000, 6_803_000), "bedding", azimuth=350, inclination=60)


def test_good_ones_pass(crs: ProjectCrs) -> None:
    assert checked(GOOD, crs, standard(), set()) == GOOD
    assert checked(POINT, crs, standard(), set()) == POINT


def test_heights_are_dropped(crs: ProjectCrs) -> None:
    high = GOOD.changed(geometry=shapely.force_3d(GOOD.geometry, 5.0))
    assert not shapely.has_z(checked(high, crs, standard(), set()).geometry)


@pytest.mark.parametrize(
    ("change", "why"),
    [
        ({"geometry": shapely.LineString()}, "no vertices"),
        ({"geometry": shapely.Point(513_000, 6_803_000)}, "is a Point"),
        ({"geometry": shapely.LineString([(0, 0), (float("nan"), 1)])}, "not a number"),
        ({"geometry": shapely.LineString([(-14.7, 61.3), (-14.6, 61.4)])}, "look like degrees"),
        ({"geometry": shapely.LineString([(9e9, 9e9), (9e9, 8e9)])}, "far outside"),
        ({"geometry": shapely.LineString([(513_000, 6_803_000)] * 2)}, "no length"),
        (
            {
                "geometry": shapely.LineString(
                    [(513_000, 6_803_000), (513_100, 6_803_100), (513_100, 6_803_000), (513_000, 6_803_100)]
                )
            },
            "crosses itself",
        ),
        ({"kind": "wall"}, "not a kind"),
        ({"certainty": "sure"}, "not a certainty"),
        ({"map_unit": "Xx"}, "no map unit"),
        ({"kind": "border"}, "must close"),
        ({"note": "x" * 5000}, "longer than"),
    ],
)
def test_bad_ones_are_refused_in_words(crs: ProjectCrs, change: dict[str, object], why: str) -> None:
    with pytest.raises(OrvikError, match=why):
        checked(GOOD.changed(**change), crs, standard(), {"Kp"})


def test_bad_areas(crs: ProjectCrs) -> None:
    bow = shapely.Polygon([(513_000, 6_803_000), (513_100, 6_803_100), (513_100, 6_803_000), (513_000, 6_803_100)])
    with pytest.raises(FeatureRefused, match="not sound"):
        checked(Feature("areas", bow, "unit_area"), crs, standard(), set())


def test_readings_must_be_possible(crs: ProjectCrs) -> None:
    for change in ({"azimuth": 400.0}, {"inclination": 91.0}, {"azimuth": -1.0}):
        with pytest.raises(ReadingRefused):
            checked(POINT.changed(**change), crs, standard(), set())
    with pytest.raises(FeatureRefused, match="needs a strike and a dip"):
        checked(POINT.changed(azimuth=None), crs, standard(), set())


@pytest.mark.parametrize("text", ["400/20", "350/95", "350", "N10W", "", "350/60/20", "-10/20"])
def test_unreadable_readings(text: str) -> None:
    with pytest.raises(ReadingRefused):
        parse_reading(text)


def test_strike_of_360_is_000() -> None:
    assert parse_reading("360/45").azimuth == 0


@pytest.mark.parametrize(("code", "colour"), [("", "#FFFFFF"), ("two words", "#FFFFFF"), ("Kp", "red")])
def test_units_need_code_and_colour(code: str, colour: str) -> None:
    with pytest.raises(FeatureRefused):
        MapUnit(code, "Name", "", colour)


def test_far_away_points_are_refused(crs: ProjectCrs) -> None:
    with pytest.raises(CoordinateRefused):
        checked(POINT.changed(geometry=shapely.Point(5e7, 5e7)), crs, standard(), set())

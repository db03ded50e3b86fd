"""Small pieces of ground for tests: features with numbers, and a survey of them."""

from __future__ import annotations

from collections.abc import Sequence

import shapely

from orvik.core.features.feature import Feature, Features
from orvik.core.features.kind import BOUNDING
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.table import TABLES
from orvik.core.findings.survey import Survey, SurveyContext
from orvik.core.ground.scale import Scales

UNITS = {
    code: MapUnit(code, code, "", "#BBD5A6", position=i) for i, code in enumerate(("Qt", "Kp", "Kw", "Jh", "pCg"), 1)
}
SETTING = SurveyContext(UNITS, Scales(25_000, 6_250), 1.0, BOUNDING)
Places = Sequence[tuple[float, float]]


def line(number: int, places: Places, kind: str = "contact", **values: object) -> Feature:
    return Feature("lines", shapely.LineString(places), kind, id=number).changed(**values)


def border(west: float, south: float, east: float, north: float, number: int = 1) -> Feature:
    corners = [(west, south), (east, south), (east, north), (west, north), (west, south)]
    return line(number, corners, "border")


def tag(number: int, x: float, y: float, unit: str) -> Feature:
    return Feature("points", shapely.Point(x, y), "unit_tag", id=number, map_unit=unit)


def area(number: int | None, polygon: shapely.Polygon, unit: str | None, **values: object) -> Feature:
    return Feature("areas", polygon, "unit_area", id=number, map_unit=unit).changed(**values)


def columns(features: Sequence[Feature]) -> dict[str, Features]:
    return {t: Features.of(t, sorted((f for f in features if f.table == t), key=lambda f: f.id or 0)) for t in TABLES}


def survey(*features: Feature, setting: SurveyContext = SETTING) -> Survey:
    return Survey(columns(features), setting)  # type: ignore[arg-type]

"""What a section crosses: random maps against shapely's own overlay, and the odd lines."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from orvik.core.errors import StructureRefused
from orvik.core.features.feature import Feature, Features
from orvik.core.features.stretch import Stretch as LineStretch
from orvik.core.structure.section.crossings import SAME, crossings_of, stretches_of
from orvik.core.structure.section.section_line import SectionLine
from tests.examples import SEED

NONE = Features.of("areas", [])


def some_line(rng: np.random.Generator, count: int = 4) -> shapely.LineString:
    return shapely.LineString(rng.uniform(0, 1000, (count, 2)))


def of(*xy: tuple[float, float]) -> SectionLine:
    return SectionLine.of(shapely.LineString(xy), 1.0)


@pytest.mark.parametrize("number", range(100))
def test_crossings_are_those_of_shapely(number: int) -> None:
    """Places by GEOS' overlay of the whole line, distances by its linear referencing, leg by leg."""
    rng = np.random.default_rng(SEED + number)
    drawn = some_line(rng)
    line = SectionLine.of(drawn, 1.0)
    others = [Feature("lines", some_line(rng, 6), "contact", id=i + 1) for i in range(12)]
    found = crossings_of(line, Features.of("lines", others), [], 1.0)
    for other in others:
        mine = sorted(c.along for c in found if c.line == other.id)
        wanted = []
        for leg, begins in zip(line.legs, line.stations, strict=False):
            for place in shapely.get_parts(shapely.intersection(leg, other.geometry)):
                if not place.is_empty:
                    wanted.append(begins + shapely.line_locate_point(leg, place))
        # Two closer than a millimetre are one.
        apart = [along for k, along in enumerate(sorted(wanted)) if not k or along - sorted(wanted)[k - 1] > SAME]
        assert mine == pytest.approx(apart, abs=1e-6)
    for crossing in found:
        place = shapely.Point(line.at(np.array([crossing.along]))[0])
        assert place.distance(others[crossing.line - 1].geometry) < 1e-6


@pytest.mark.parametrize("number", range(50))
def test_stretches_are_those_of_shapely(number: int) -> None:
    rng = np.random.default_rng(SEED + 1000 + number)
    drawn = some_line(rng)
    line = SectionLine.of(drawn, 1.0)
    blobs = [shapely.Point(rng.uniform(0, 1000, 2)).buffer(rng.uniform(20, 200)) for _ in range(9)]
    areas = [Feature("areas", blob, "unit_area", map_unit=f"U{i}", id=i + 1) for i, blob in enumerate(blobs)]
    found = stretches_of(line, Features.of("areas", areas), 1.0)
    for area in areas:
        mine = sum(s.ends - s.begins for s in found if s.area == area.id)
        wanted = sum(float(shapely.intersection(leg, area.geometry).length) for leg in line.legs)
        assert mine == pytest.approx(wanted, abs=1e-6)


def test_units_stand_before_and_behind_a_contact_and_a_fault_has_its_number() -> None:
    areas = [
        Feature("areas", shapely.box(0, 0, 500, 100), "unit_area", map_unit="Kw", id=1),
        Feature("areas", shapely.box(500, 0, 1000, 100), "unit_area", map_unit="Jh", id=2),
        Feature("areas", shapely.box(600, 0, 700, 100), "landslide_body", id=3),
    ]
    lines = [
        Feature("lines", shapely.LineString([(500, 0), (500, 100)]), "contact", id=7),
        Feature("lines", shapely.LineString([(800, 0), (800, 100)]), "fault", id=8),
        Feature("lines", shapely.LineString([(300, 0), (300, 100)]), "road", id=9),
        Feature("lines", shapely.LineString([(0, 50), (1000, 50)]), "border", id=10),
    ]
    line = of((0, 50), (1000, 50))
    stretches = stretches_of(line, Features.of("areas", areas), 1.0)
    assert [(s.unit, s.begins, s.ends) for s in stretches] == [("Kw", 0, 500), ("Jh", 500, 1000), ("", 600, 700)]
    found = crossings_of(line, Features.of("lines", lines), stretches, 1.0)
    # Roads and the border are no rock.
    assert [(c.label, c.along) for c in found] == [("Kw | Jh", 500), ("fault 8", 800)]
    # The other way round the units change places.
    back = of((1000, 50), (0, 50))
    turned = crossings_of(back, Features.of("lines", lines), stretches_of(back, Features.of("areas", areas), 1.0), 1.0)
    assert [(c.label, c.along) for c in turned] == [("fault 8", 200), ("Jh | Kw", 500)]


def test_a_crossing_has_the_certainty_of_its_stretch() -> None:
    xy = [(0, 0), (100, 0), (200, 0), (300, 0)]
    contact = Feature("lines", shapely.LineString(xy), "contact", id=1, stretches=(LineStretch(1, 2, "inferred"),))
    lines = Features.of("lines", [contact])
    certainties = [crossings_of(of((x, -50), (x, 50)), lines, [], 1.0)[0].certainty for x in (50, 150, 250)]
    assert certainties == ["certain", "inferred", "certain"]


def test_a_line_through_a_bend_is_crossed_once_and_one_along_a_leg_at_both_ends() -> None:
    line = of((0, 0), (500, 0), (500, 500))
    through = Feature("lines", shapely.LineString([(400, -100), (600, 100)]), "fault", id=1)
    along = Feature("lines", shapely.LineString([(100, 0), (200, 0)]), "fault", id=2)
    found = crossings_of(line, Features.of("lines", [through, along]), [], 1.0)
    assert [(c.line, c.along) for c in found] == [(2, 100), (2, 200), (1, 500)]


def test_a_section_that_crosses_itself_has_a_place_twice() -> None:
    line = of((0, 0), (1000, 0), (1000, 500), (500, 500), (500, -500))
    assert line.crosses_itself
    fault = Feature("lines", shapely.LineString([(450, -50), (550, 50)]), "fault", id=1)
    found = crossings_of(line, Features.of("lines", [fault]), [], 1.0)
    assert [round(c.along) for c in found] == [500, 2500]


def test_a_line_without_length_is_refused() -> None:
    with pytest.raises(StructureRefused, match="no length"):
        of((5, 5), (5, 5))


def test_feet_are_metres() -> None:
    """In a system of feet, distances along are metres all the same."""
    feet = 0.3048
    line = SectionLine.of(shapely.LineString([(0, 0), (1000, 0)]), feet)
    fault = Feature("lines", shapely.LineString([(500, -10), (500, 10)]), "fault", id=1)
    assert line.length == pytest.approx(304.8)
    assert crossings_of(line, Features.of("lines", [fault]), [], feet)[0].along == pytest.approx(152.4)
    assert stretches_of(line, NONE, feet) == []

"""Contacts drawn against their dips on a believable island: each is told of, and nothing is told of it as it is."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
import shapely

from orvik.core.features.feature import Feature
from orvik.core.findings.finding import Finding
from orvik.core.findings.survey import Survey
from orvik.exchange.rasters.raster import files_folder
from orvik.store.read_project import opened_for_reading
from orvik.usecases.compile.survey import survey_of
from orvik.usecases.structure.map_heights import HeightsFollower

NEW = ("course", "against_contact", "dip_of_fault")
BEDDED = ("Jc", "Jh", "Kw", "Kp")


@pytest.fixture(scope="module")
def survey(demo_original: Path) -> Iterator[Survey]:
    with opened_for_reading(demo_original) as project:
        yield survey_of(project, HeightsFollower())


@pytest.fixture(scope="module")
def along(demo_original: Path) -> list[tuple[Feature, list[Feature]]]:
    """Contacts between bedded rocks with the beds read within 200 m of them, with no other line between."""
    with opened_for_reading(demo_original) as project:
        features = project.all_features()
        lines, points, areas = (project.whole(t, features[t].ids.tolist()) for t in ("lines", "points", "areas"))
    beds = [f for f in points.values() if f.kind == "bedding" and f.note.startswith("Station")]
    bounds = shapely.union_all([f.geometry for f in lines.values() if f.kind in ("contact", "normal_fault", "fault")])
    found: list[tuple[Feature, list[Feature]]] = []
    for line in lines.values():
        beside = [f.map_unit for f in areas.values() if f.kind == "unit_area" and _shares(f, line)]
        if line.kind != "contact" or len(beside) != 2 or not set(beside) <= set(BEDDED):
            continue
        near = []
        for bed in beds:
            way = shapely.shortest_line(bed.geometry, line.geometry)
            clear = shapely.intersection(way, bounds)
            if way.length < 200 and shapely.length(clear) < 1e-6 and len(shapely.get_coordinates(clear)) <= 1:
                near.append(bed)
        if near and line.geometry.length > 300:
            found.append((line, near))
    return found


def _shares(area: Feature, line: Feature) -> bool:
    return bool(
        shapely.intersection(shapely.boundary(area.geometry), line.geometry).length > 0.5 * line.geometry.length
    )


def told(survey: Survey) -> list[Finding]:
    return [f for f in survey.findings if f.rule in NEW]


def with_change(survey: Survey, before: list[Feature], after: list[Feature]) -> list[Finding]:
    survey.update(after)
    found = told(survey)
    survey.update(before)
    return found


def test_nothing_is_told_of_the_island_as_it_is(survey: Survey) -> None:
    assert told(survey) == []


def test_readings_turned_against_their_contacts_are_all_found(
    survey: Survey, along: list[tuple[Feature, list[Feature]]]
) -> None:
    """All that were read along a contact, turned by 50 degrees, as from a compass whose declination was forgotten."""
    seeded = 0
    for line, beds in along:
        turned = [
            bed.changed(azimuth=((bed.azimuth or 0.0) + 50.0) % 360) for bed in beds if (bed.inclination or 0) > 20
        ]
        if not turned:
            continue
        found = with_change(survey, beds, turned)
        assert any(("lines", line.id) in (*f.features, *f.beside) for f in found), line
        seeded += 1
    assert seeded >= 10


@pytest.mark.parametrize("share", [1.0, 2.0], ids=["straight", "mirrored"])
def test_a_contact_that_runs_the_wrong_way_round_its_valleys_is_found(
    survey: Survey, along: list[tuple[Feature, list[Feature]]], share: float
) -> None:
    """Where the relief bends a contact by 60 m and more beside two beds: drawn straight, or mirrored at its chord."""
    seeded = 0
    for line, beds in along:
        xy = shapely.get_coordinates(line.geometry)
        way = (xy[-1] - xy[0]) / max(np.hypot(*(xy[-1] - xy[0])), 1e-9)
        aside = np.array([-way[1], way[0]])
        off = (xy - xy[0]) @ aside
        wrong = xy - share * off[:, None] * aside
        # What runs past the beds is told by other rules: they lie in the wrong unit then.
        swept = shapely.buffer(shapely.Polygon(np.vstack([xy, wrong[::-1]])), 0)
        if np.ptp(off) < 60 or len(beds) < 2 or any(shapely.intersects(swept, bed.geometry) for bed in beds):
            continue
        drawn = line.changed(geometry=shapely.LineString(wrong), stretches=(), knots=())
        found = with_change(survey, [line], [drawn])
        assert any(("lines", line.id) in (*f.features, *f.beside) for f in found), line
        seeded += 1
    assert seeded >= 5


def test_a_fault_cannot_have_any_dip(survey: Survey, demo_original: Path) -> None:
    with opened_for_reading(demo_original) as project:
        points = project.whole("points", project.features("points").ids.tolist())
    plane = next(f for f in points.values() if f.kind == "fault_plane")
    lying = plane.changed(inclination=20.0)
    for wrong in (lying, plane.changed(azimuth=((plane.azimuth or 0) + 90) % 360)):
        (found,) = with_change(survey, [plane], [wrong])
        assert (found.rule, found.features) == ("dip_of_fault", (("points", plane.id),))


def test_a_dip_that_is_stated_of_a_fault_is_held_against_its_course(survey: Survey, demo_original: Path) -> None:
    with opened_for_reading(demo_original) as project:
        lines = project.whole("lines", project.features("lines").ids.tolist())
    fault = max((f for f in lines.values() if f.kind == "fault"), key=lambda f: float(f.geometry.length))
    assert with_change(survey, [fault], [fault.changed(inclination=71.0)]) == []
    (found,) = with_change(survey, [fault], [fault.changed(inclination=15.0)])
    assert (found.rule, found.features) == ("dip_of_fault", (("lines", fault.id),))
    assert "is stated to dip 15°" in found.message


def test_heights_that_were_away_are_asked_again(demo: Path) -> None:
    follower = HeightsFollower()
    folder, away = files_folder(demo), demo.with_name("away")
    with opened_for_reading(demo) as project:
        folder.rename(away)
        assert follower(project) is None
        away.rename(folder)
        there = follower(project)
        assert there is not None
        # And not read again as long as nothing is said of others.
        assert follower(project) is there


def test_without_heights_nothing_is_told(demo_original: Path) -> None:
    with opened_for_reading(demo_original) as project:
        blind = survey_of(project)
    assert len(blind.features["points"])
    assert told(blind) == []

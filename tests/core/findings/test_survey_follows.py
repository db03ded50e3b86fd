"""A survey that has followed edits says what one from the beginning says, and so does what it keeps up for it."""

from __future__ import annotations

from dataclasses import fields, replace
from pathlib import Path
from typing import ClassVar

import numpy as np
import pytest
import shapely

from orvik.core.faces.points_in_areas import PointsInAreas
from orvik.core.faces.shared_rims import SharedRims
from orvik.core.features.feature import Feature, Features
from orvik.core.features.kind import SHEET_BORDER
from orvik.core.features.table import TABLES
from orvik.core.findings.finding import CheckInput
from orvik.core.findings.rule import MapCheck, map_checks
from orvik.core.findings.single import PrintedText
from orvik.core.findings.survey import Survey, SurveyContext
from orvik.core.ground.scale import Scales
from orvik.core.structure.map_heights import MapHeights
from orvik.store.read_project import opened_for_reading
from orvik.usecases.compile.survey import survey_of
from orvik.usecases.structure.map_heights import HeightsFollower
from tests.examples import SEED, drawn


def an_edit(rng: np.random.Generator, survey: Survey, number: int) -> tuple[list[Feature], list[tuple[str, int]]]:
    """What a hand does to some feature: moved, of another kind, unit or certainty, cut short, drawn anew, deleted."""
    table = ("lines", "areas", "points")[int(rng.integers(3))]
    held: Features = survey.features[table]  # type: ignore[index]
    rows = [row for row, kind in enumerate(held.columns["kind"]) if kind != SHEET_BORDER]
    feature = held.feature(int(rng.choice(rows)))
    way = int(rng.integers(6))
    if way == 0:
        return [], [(table, feature.number)]
    if way == 1 and table == "lines":
        kinds = ("fault", "contact", "normal_fault", "right_lateral_fault", "anticline", "stream")
        return [feature.changed(kind=kinds[int(rng.integers(len(kinds)))], stretches=())], []
    if way == 2 and table != "lines" and feature.map_unit:
        units = list(survey.setting.units)
        return [feature.changed(map_unit=units[int(rng.integers(len(units)))])], []
    if way == 3 and table == "lines":
        cut = shapely.ops.substring(feature.geometry, 0.1, 0.9, normalized=True)
        return [feature.changed(geometry=cut)], []
    if way == 4:
        return [
            feature.changed(id=10_000 + number, geometry=shapely.transform(feature.geometry, lambda xy: xy + 80.0))
        ], []
    if way == 5 and table == "points":
        return [feature.changed(azimuth=float(rng.integers(360)), map_unit=("Nowhere", None)[int(rng.integers(2))])], []
    shift = rng.normal(0, 30, 2)
    return [feature.changed(geometry=shapely.transform(feature.geometry, lambda xy: xy + shift))], []


@pytest.mark.parametrize("seed", drawn(range(SEED, SEED + 40), 2))
def test_a_survey_that_followed_edits_is_as_one_from_the_beginning(demo_original: Path, seed: int) -> None:
    rng = np.random.default_rng(seed)
    with opened_for_reading(demo_original) as project:
        survey = survey_of(project)
    assert survey.findings is not None
    for number in range(12):
        kept, deleted = an_edit(rng, survey, number)
        survey.update(kept, deleted)  # type: ignore[arg-type]
        if number % 3 == 2:
            anew = Survey({t: survey.features[t] for t in TABLES}, survey.setting)
            said, wanted = ({(f.key, f.message) for f in one.findings} for one in (survey, anew))
            # What is unsound lies apart, and is no part of the features.
            assert {one for one in said ^ wanted if not one[0].startswith("unsound")} == set()


def other_settings(was: SurveyContext) -> dict[str, SurveyContext]:
    """By each field of what a survey takes from the project, what it takes where that one is another."""
    heights = was.heights
    assert heights is not None
    others = {
        # One that features are of is gone.
        "units": dict(list(was.units.items())[1:]),
        "scales": Scales(5_000, 1_000),
        "metres_per_unit": 0.3048,
        "bounding": was.bounding - {"fault"},
        "kinds": {**was.kinds, "lines": was.kinds["lines"] - {"contact"}},
        "faults": (("lines", 1, "holds no geometry"),),
        "texts": (*was.texts, PrintedText("The name of a unit", "\U0001f30b Beds")),
        "noted": {**was.noted, "points": frozenset({"bedding"})},
        # Where hills were, there are valleys.
        "heights": MapHeights(replace(heights.grid, heights=-heights.grid.heights), heights.error, heights.crs),
    }
    return {name: replace(was, **{name: value}) for name, value in others.items()}  # type: ignore[arg-type]


@pytest.mark.parametrize("name", [one.name for one in fields(SurveyContext)])
def test_every_setting_is_followed(demo_original: Path, name: str) -> None:
    with opened_for_reading(demo_original) as project:
        survey = survey_of(project, HeightsFollower())
    assert survey.setting.heights is not None
    rows = np.flatnonzero([kind == "bedding" for kind in survey.features["points"].columns["kind"]])
    noted = survey.features["points"].feature(int(rows[0])).changed(note="seen \U0001f30b")
    survey.update([noted])
    before = {(f.key, f.message) for f in survey.findings}
    other = other_settings(survey.setting)[name]
    # Together with an edit, as when another program has written to the file.
    moved = survey.features["lines"].feature(len(survey.features["lines"]) - 1)
    survey.update([moved.changed(geometry=shapely.transform(moved.geometry, lambda xy: xy + 40.0))], [], other)
    anew = Survey({t: survey.features[t] for t in TABLES}, other)
    said, wanted = ({(f.key, f.message) for f in one.findings} for one in (survey, anew))
    assert said == wanted
    assert said != before


@pytest.mark.parametrize("seed", drawn(range(SEED, SEED + 40), 1))
def test_what_tags_say_of_the_ground_beside_a_fault_is_followed(demo_original: Path, seed: int) -> None:
    """Tags alone change the units of faces, and so the blocks on both sides of faults."""
    rng = np.random.default_rng(seed)
    with opened_for_reading(demo_original) as project:
        survey = survey_of(project)
    # Dip-slip faults, whose blocks are judged by the units beside them.
    lines = survey.features["lines"]
    faults = [lines.feature(row) for row, kind in enumerate(lines.columns["kind"]) if kind == "fault"]
    survey.update([fault.changed(kind="normal_fault", stretches=()) for fault in faults])
    assert survey.findings is not None
    for number in range(12):
        points = survey.features["points"]
        tags = [row for row, kind in enumerate(points.columns["kind"]) if kind == "unit_tag"]
        tag = points.feature(int(rng.choice(tags)))
        survey.update([tag.changed(map_unit=str(rng.choice(list(survey.setting.units))))])
        if number % 2 == 0:
            contact = lines.feature(int(rng.choice(np.flatnonzero(np.array(lines.columns["kind"]) == "contact"))))
            survey.update([contact.changed(certainty="approximate")])
        anew = Survey({t: survey.features[t] for t in TABLES}, survey.setting)
        said, wanted = ({(f.key, f.message) for f in one.findings} for one in (survey, anew))
        assert said == wanted


class Watched(CheckInput):
    """What a check is given, and which tables it reads of it."""

    read: ClassVar[set[str]] = set()

    def __getattribute__(self, name: str) -> object:
        if name in ("lines", "areas", "points"):
            Watched.read.add(name)
        elif name == "faces":
            Watched.read |= {"lines", "points"}
        return super().__getattribute__(name)


@pytest.fixture(scope="module")
def ground(demo_original: Path) -> CheckInput:
    with opened_for_reading(demo_original) as project:
        return survey_of(project).ground


@pytest.mark.parametrize("check", map_checks, ids=lambda check: check.__name__)
def test_every_check_is_asked_again_where_what_it_reads_has_changed(ground: CheckInput, check: MapCheck) -> None:
    Watched.read.clear()
    check(Watched(**{one.name: getattr(ground, one.name) for one in fields(CheckInput)}))
    assert Watched.read <= set(map_checks[check])


@pytest.mark.parametrize("seed", range(6))
def test_pairs_are_those_of_a_look_from_the_beginning(seed: int) -> None:
    """Random mosaics of squares, of which some change, go and come."""
    rng = np.random.default_rng([SEED, seed])
    squares = {i: shapely.box(i % 12, i // 12, i % 12 + 1, i // 12 + 1) for i in range(144)}
    points = {i: shapely.Point(rng.uniform(0, 12, 2)) for i in range(200)}
    faults = [shapely.LineString([(x, y), (x, y + 1)]) for x, y in rng.integers(1, 11, (20, 2)).tolist()]
    rims, holding = SharedRims(), PointsInAreas()
    for _ in range(12):
        for number in rng.choice(144, 3).tolist():
            if number in squares and rng.random() < 0.4:
                del squares[number]
            else:
                x, y = number % 12, number // 12
                squares[number] = shapely.box(x, y, x + 1, y + 1)
        points[int(rng.integers(200))] = shapely.Point(rng.uniform(0, 12, 2))
        if rng.random() < 0.5:
            faults = faults[1:] + [shapely.LineString([(5, 5), (6, 5)])]
        ids, areas = np.array(sorted(squares)), np.array([squares[i] for i in sorted(squares)], dtype=object)
        lines = np.array(faults, dtype=object)
        there = rims.of(ids, areas, lines)
        found = {(int(a), int(b), round(c, 9)) for a, b, c in np.column_stack([there.one, there.two, there.long])}
        wanted = set()
        cut = shapely.union_all(lines)
        for a, b in zip(*np.triu_indices(len(ids), 1), strict=True):
            shared = shapely.intersection(areas[a].boundary, areas[b].boundary).difference(cut)
            if shared.length > 1e-9:
                wanted.add((int(ids[a]), int(ids[b]), round(float(shared.length), 9)))
        assert found == wanted
        spots = np.array([points[i] for i in range(200)], dtype=object)
        held = holding.of(np.arange(200), spots, ids, areas)
        by_shapely = shapely.STRtree(areas).query(spots, predicate="intersects")
        assert {*map(tuple, np.transpose(held).tolist())} == {*map(tuple, by_shapely.T.tolist())}

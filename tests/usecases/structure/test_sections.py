"""Sections of the demo against the model that its map is of, and of projects with odd heights and odd systems."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest
import shapely

from orvik.core.errors import NotFound, StructureRefused
from orvik.core.features.feature import Feature
from orvik.core.structure.section.carried import FoldAxis
from orvik.core.structure.section.section import Section
from orvik.demo.island import Island, island
from orvik.store import rows
from orvik.store.project import Project, opened_for_writing
from orvik.store.read_project import opened_for_reading
from orvik.store.tables.sections import sections
from orvik.usecases.structure.sections import (
    ask_of_section,
    letter_of,
    section_asked,
    section_lines,
    section_of_letter,
    section_of_map,
)
from tests.core.structure.relief import CELL, hills
from tests.usecases.structure.test_planes import SYSTEMS, made


@pytest.fixture(scope="module")
def ground() -> Island:
    return island()


@pytest.mark.parametrize("letter", ["A", "B"])
def test_the_demo_s_sections_are_those_of_its_model(demo_original: Path, ground: Island, letter: str) -> None:
    """Units along the section, away from their ends and from drift, and apparent dips as the model has them."""
    with opened_for_reading(demo_original) as project:
        line = next(line for line in section_lines(project) if letter_of(line) == letter)
        found = section_of_map(project, line.number)
        points = project.whole("points", [reading.point for reading in found.readings])
        crs = project.crs
    assert found.title == f"{letter}–{letter}′"
    assert found.doubts == ()
    bedrock = [s for s in found.stretches if s.unit and s.unit not in ("Qt", "Qal")]
    seen = 0
    for stretch in bedrock:
        along = np.arange(stretch.begins + 15.0, stretch.ends - 15.0, 10.0)
        xy, up = found.line.at(along), found.profile.at(along)
        units = ground.rock.unit(xy, up)
        assert (units == stretch.unit).mean() > 0.97, stretch
        seen += len(along)
    assert seen > 200
    bends = found.line.bends.tolist()
    assert len(bends) == (0 if letter == "A" else 1)
    beds = [reading for reading in found.readings if reading.kind == "bedding"]
    assert len(beds) >= 4
    for reading in beds:
        feature = points[reading.point]
        x, y = shapely.get_coordinates(feature.geometry)[0].tolist()
        strike, dip = ground.beds(x, y)
        section = float(found.line.directions(found.line.leg_at(np.array([reading.along])))[0])
        true = math.degrees(math.atan(math.tan(math.radians(dip)) * math.sin(math.radians(section - strike))))
        assert reading.apparent_dip == pytest.approx(true, abs=9), feature.note
        assert abs(float(crs.convergence(x, y))) < 2


@pytest.mark.parametrize("text", SYSTEMS)
def test_lengths_and_heights_are_metres_in_any_system(tmp_path: Path, text: str) -> None:
    path, (x, y), unit = made(tmp_path, text)
    half = 60 * CELL / unit
    with opened_for_writing(path) as project:
        drawn = shapely.LineString([(x - half, y), (x + half, y)])
        project.apply("line", [rows.feature_change(Feature("lines", drawn, "section_line", note="C"), project.srs_id)])
        (line,) = section_lines(project)
    with opened_for_reading(path) as project:
        found = section_of_map(project, line.number)
    assert found.line.length == pytest.approx(120 * CELL, rel=1e-6)
    grid = hills(21)
    along = np.linspace(0, found.line.length, 200)
    wanted = grid.at(np.column_stack([75 * CELL - 60 * CELL + along, np.full(200, 75 * CELL)]))
    assert np.abs(found.profile.at(along) - wanted).max() < 0.5
    # The contact through the middle is crossed, and the reading in the middle stands on the section.
    assert any(crossing.kind == "contact" for crossing in found.crossings)
    assert found.readings[0].along == pytest.approx(found.line.length / 2, abs=1)


def test_what_is_asked_of_a_section_is_one_entry_and_undo_takes_it_back(demo: Path) -> None:
    with opened_for_writing(demo) as project:
        line = section_lines(project)[0].number
        assert section_asked(project, line) == Section(line)
        wanted = Section(line, 2.5, -600.0, 400.0, FoldAxis(52.0, 3.0))
        revision = project.revision
        entry = ask_of_section(project, wanted)
        assert entry is not None
        assert entry.label == "set section A–A′"
        assert project.revision == revision + 1
        (held,) = sections(project)
        assert held == Section(line, 2.5, -600.0, 400.0, FoldAxis(52.0, 3.0), held.id)
        assert ask_of_section(project, Section(line, 2.5, -600.0, 400.0, FoldAxis(52.0, 3.0), held.id)) is None
        ask_of_section(project, Section(line, 1.0))
        assert [(one.exaggeration, one.axis) for one in sections(project)] == [(1.0, None)]
    with opened_for_reading(demo) as project:
        assert section_of_map(project, line).base == -300.0


@pytest.mark.parametrize(
    ("wrong", "words"),
    [
        ({"exaggeration": 0.0}, "between 0.1 and 100"),
        ({"exaggeration": float("nan")}, "between 0.1 and 100"),
        ({"base": -1e9}, "deeper than the crust"),
        ({"corridor": -1.0}, "0 to 50 000 m"),
        ({"axis": FoldAxis(400.0, 5.0)}, "trend of 0 to 360"),
    ],
)
def test_figures_that_no_section_has_are_refused(demo: Path, wrong: dict[str, object], words: str) -> None:
    with opened_for_writing(demo) as project:
        line, revision = section_lines(project)[0].number, project.revision
        with pytest.raises(StructureRefused, match=words):
            ask_of_section(project, Section(line, **wrong))  # type: ignore[arg-type]
        with pytest.raises(NotFound, match="no line of a section"):
            ask_of_section(project, Section(next(i for i in range(1, 99) if i != line)))
        assert project.revision == revision


def test_sections_are_found_by_their_letters(demo: Path) -> None:
    with opened_for_reading(demo) as project:
        assert [letter_of(line) for line in section_lines(project)] == ["A", "B"]
        assert section_of_letter(project, "B").title == "B–B′"
        with pytest.raises(NotFound, match="the map has A, B"):
            section_of_letter(project, "C")


def test_beyond_the_heights_a_section_says_so_and_without_any_it_is_refused(demo: Path, project: Project) -> None:
    drawn = [
        Feature("lines", shapely.LineString([(516_000, 6_802_000), (540_000, 6_802_000)]), "section_line", note="C"),
        Feature("lines", shapely.LineString([(540_000, 6_802_000), (550_000, 6_802_000)]), "section_line", note="D"),
        Feature(
            "lines",
            shapely.LineString(
                [(512_000, 6_801_000), (514_000, 6_803_000), (512_000, 6_803_000), (514_000, 6_801_000)]
            ),
            "section_line",
            note="E",
        ),
    ]
    with opened_for_writing(demo) as written:
        written.apply("draw", [rows.feature_change(feature, written.srs_id) for feature in drawn])
        numbers = {letter_of(line): line.number for line in section_lines(written)}
    with opened_for_reading(demo) as read:
        assert "missing along 9" in section_of_map(read, numbers["C"]).doubts[0]
        nowhere = section_of_map(read, numbers["D"])
        assert "No heights are known along this section" in nowhere.doubts[0]
        assert nowhere.crossings == ()
        assert "crosses itself" in " ".join(section_of_map(read, numbers["E"]).doubts)
    project.apply("line", [rows.feature_change(drawn[0], project.srs_id)])
    with opened_for_reading(project.path) as read, pytest.raises(StructureRefused, match="no heights"):
        section_of_map(read, section_lines(read)[0].number)


def test_a_map_that_moves_moves_the_section_and_undo_brings_it_back(demo: Path) -> None:
    with opened_for_reading(demo) as project:
        line = section_lines(project)[0].number
        before = section_of_map(project, line)
    crossed = next(c for c in before.crossings if c.label == "Kp | Kw")
    with opened_for_writing(demo) as project:
        contact = project.feature("lines", crossed.line)
        moved = shapely.transform(contact.geometry, lambda xy: xy + [60.0, -70.0])
        project.apply("move", [rows.feature_change(contact.changed(geometry=moved), project.srs_id)])
    with opened_for_reading(demo) as project:
        after = section_of_map(project, line)
    assert next(c for c in after.crossings if c.line == crossed.line).along > crossed.along + 30
    with opened_for_writing(demo) as project:
        project.undo()
    with opened_for_reading(demo) as project:
        assert section_of_map(project, line).crossings == before.crossings

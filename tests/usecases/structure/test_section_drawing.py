"""Sections drawn, formed, and made to follow the map: on the demo, on other islands, and by hand."""

from __future__ import annotations

from contextlib import closing
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import shapely

from orvik.core.errors import FeatureRefused
from orvik.core.features.feature import Feature
from orvik.core.features.table import TABLES
from orvik.core.structure.section.below import Below
from orvik.core.structure.section.checks import section_findings
from orvik.core.structure.section.meeting import meeting_places, met_count
from orvik.core.structure.section.section import SectionOfMap
from orvik.demo.below import draw_sections
from orvik.demo.island import Island, island
from orvik.demo.symbols import SECTION_LINES
from orvik.store import rows
from orvik.store.journal import Change
from orvik.store.project import Project, opened_for_writing
from orvik.store.sections import SectionProject
from orvik.usecases.structure.section_drawing import follow_map, form_section
from orvik.usecases.structure.sections import letter_of, section_lines, section_of_letter, section_of_map
from tests.examples import MANY, SEED
from tests.islands import grown
from tests.proof.test_seeded_errors import SOUND


def findings(project: Project, found: SectionOfMap) -> list[str]:
    return [finding.rule for finding in section_findings(found, list(project.units_by_code()))]


def opened(project: Project, letter: str = "A") -> SectionProject:
    found = section_of_letter(project, letter)
    places = meeting_places(found)
    return SectionProject(project, found.section.line_id, lambda: places)


@pytest.fixture(scope="module")
def ground() -> Island:
    return island()


@pytest.mark.parametrize("letter", ["A", "B"])
def test_the_demo_s_sections_agree_with_its_map_and_its_model(demo: Path, ground: Island, letter: str) -> None:
    """Units below the ground are the model's, faces leave no gap, and no check says anything."""
    with opened_for_writing(demo) as project:
        found = section_of_letter(project, letter)
        assert findings(project, found) == []
        below = Below(found)
        areas = found.drawn["areas"]
        covered = shapely.union_all(areas.geometries)
        assert covered.symmetric_difference(below.whole).area < 1.0
        assert shapely.area(areas.geometries).sum() == pytest.approx(below.whole.area, rel=1e-6)
        west, south, east, _ = below.whole.bounds
        rng = np.random.default_rng(SEED)
        places = np.column_stack([rng.uniform(west, east, 4000), rng.uniform(south, found.top, 4000)])
        places = places[shapely.contains_xy(below.whole.buffer(-8.0), *places.T)]
        units = ground.rock.unit(found.line.at(places[:, 0]), places[:, 1])
        place, row = shapely.STRtree(areas.geometries).query(shapely.points(places), predicate="within")
        drawn = np.full(len(places), "", dtype="<U3")
        drawn[place] = [areas.columns["map_unit"][i] for i in row]
        rock = ~np.isin(drawn, ("Qt", "Qal"))
        assert (drawn == units)[rock].mean() > 0.99
        assert rock.sum() > 2000
        assert met_count(found.ends_put, meeting_places(found)) >= 12


@pytest.mark.parametrize("seed", SOUND if MANY else SOUND[SEED % len(SOUND) :][:2])
def test_sections_of_other_islands_are_sound(tmp_path: Path, seed: int) -> None:
    path = tmp_path / "island.gpkg"
    grown(path, seed)
    with opened_for_writing(path) as project:
        lines = [Feature("lines", shapely.LineString(xy), "section_line", note=n) for n, xy in SECTION_LINES.items()]
        project.apply("lines", rows.feature_changes(lines, project.srs_id))
        draw_sections(project, island(seed))
        for line in section_lines(project):
            found = section_of_map(project, line.number)
            assert findings(project, found) == [], letter_of(line)
            assert len(found.drawn["areas"]) >= 6


def moved_contact(project: Project, found: SectionOfMap, by: float) -> int:
    """Move a contact that crosses a section along it; gives its number."""
    put = {number for _, ends in found.ends_put.values() for number in ends}
    crossing = next(c for c in found.crossings if c.line in put and c.label.count("|") == 1 and "Qt" not in c.label)
    direction = np.radians(float(found.line.directions(found.line.leg_at(np.array([crossing.along])))[0]))
    line = project.feature("lines", crossing.line)
    shifted = shapely.transform(line.geometry, lambda xy: xy + by * np.array([np.sin(direction), np.cos(direction)]))
    project.apply("move", [rows.feature_change(line.changed(geometry=shifted), project.srs_id)])
    return crossing.line


@pytest.mark.parametrize("by", [8.0, -15.0])
def test_a_section_follows_its_map_in_one_step_and_undo_brings_it_back(demo: Path, by: float) -> None:
    with opened_for_writing(demo) as project, closing(opened(project)) as space:
        before = space.all_features()
        moved = moved_contact(project, section_of_letter(project, "A"), by)
        found = section_of_letter(project, "A")
        told = section_findings(found, list(project.units_by_code()))
        ends = [one for one in told if one.rule == "parted"]
        assert {one.follows for one in ends} == {True}
        assert all(f"{abs(by):.0f} m" in one.message for one in ends)
        revision = project.revision
        space = opened(project)
        entry = follow_map(space, found)
        assert entry is not None
        assert (project.revision, entry.label) == (revision + 1, "follow the map in section A–A′")
        followed = section_of_letter(project, "A")
        assert "parted" not in findings(project, followed)
        assert moved in {number for _, both in followed.ends_put.values() for number in both}
        below = Below(followed)
        assert shapely.union_all(followed.drawn["areas"].geometries).symmetric_difference(below.whole).area < 1.0
        assert follow_map(space, followed) is None
        project.undo()
        again = space.all_features()
        for table in TABLES:
            assert again[table].ids.tolist() == before[table].ids.tolist()
            assert all(a.equals(b) for a, b in zip(again[table].geometries, before[table].geometries, strict=True))
        space.close()


def test_it_follows_the_heights_too(demo: Path) -> None:
    """Ground that is found to be twelve metres higher: all ends at the ground go along, and meet again."""
    with opened_for_writing(demo) as project:
        found = section_of_letter(project, "B")
        raised = replace(found, profile=replace(found.profile, height=found.profile.height + 12.0))
        told = [one for one in section_findings(raised, list(project.units_by_code())) if one.rule == "parted"]
        assert len(told) >= 12
        assert all("12.0 m higher" in one.message and one.follows for one in told)
        places = meeting_places(raised)
        with closing(SectionProject(project, found.section.line_id, lambda: places)) as space:
            assert follow_map(space, raised) is not None
        there = project.drawn_ends(found.section.line_id)
        met = replace(raised, drawn=project.drawn_features(found.section.line_id), ends_put=there)
        assert "parted" not in findings(project, met)
        assert met_count(there, places) == met_count(found.ends_put, meeting_places(found))


def test_a_section_on_which_nothing_is_drawn_is_not_formed(demo: Path) -> None:
    with opened_for_writing(demo) as project:
        line = Feature(
            "lines", shapely.LineString([(511_000, 6_802_500), (512_000, 6_802_900)]), "section_line", note="C"
        )
        project.apply("line", [rows.feature_change(line, project.srs_id)])
        space = opened(project, "C")
        with closing(space), pytest.raises(FeatureRefused, match="Nothing is drawn"):
            form_section(space, section_of_letter(project, "C"))


def test_units_come_from_the_map_above_and_from_tags_below_drift(demo: Path) -> None:
    with opened_for_writing(demo) as project:
        space = opened(project)
        with closing(space):
            areas = space.features("areas")
            gone = [Change("areas", int(i), None) for i in areas.ids]
            gone += [Change("points", int(i), None) for i in space.features("points").ids]
            space.apply("clear", gone)
            formed = form_section(space, section_of_letter(project, "A"))
            assert formed is not None
            # Those below the drift have no unit of the map's, and none without a tag.
            assert 0 < formed.new < len(areas)
            codes = space.features("areas").columns["map_unit"]
            assert all(codes)
            assert form_section(space, section_of_letter(project, "A")) is None
            space.apply(
                "tag",
                rows.feature_changes(
                    [
                        Feature("points", shapely.Point(4000.0, -250.0), "unit_tag", map_unit="Jh"),
                    ],
                    space.srs_id,
                ),
            )
            again = form_section(space, section_of_letter(project, "A"))
            assert again is not None
            assert again.new == 1

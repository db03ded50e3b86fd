"""What is drawn on sections in the project file: read and changed as a map is, apart from it, in one journal."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import closing
from dataclasses import replace
from pathlib import Path

import numpy as np
import pyogrio
import pytest
import shapely

from orvik.core.errors import CoordinateRefused, NotFound
from orvik.core.features.feature import Feature
from orvik.core.features.table import SECTION_TABLES, TABLES
from orvik.core.geometry.snapping import SnapIndex
from orvik.core.structure.section.meeting import MeetingPlace
from orvik.core.structure.section.section import Section
from orvik.core.structure.section.section_plane import SectionPlane
from orvik.store import rows
from orvik.store.project import Project
from orvik.store.sections import SectionProject
from orvik.usecases.compile.features import FeatureEdit, keep_features
from orvik.usecases.compile.kinds import remove_kind
from orvik.usecases.structure.sections import ask_of_section
from orvik.usecases.symbols.units import change_unit, remove_unit

LINE = shapely.LineString([(511_000, 6_801_000), (513_000, 6_803_000)])
PLACES = [MeetingPlace(2, (100.0, 50.0), "Kp | Qt"), MeetingPlace(7, (900.0, 20.0), "fault 7")]


@pytest.fixture
def section(project: Project) -> Iterator[SectionProject]:
    """A section of the small project, crossed by two lines."""
    entry = project.apply("section", [rows.feature_change(Feature("lines", LINE, "section_line", note="A"), 32628)])
    opened = SectionProject(project, entry.changes[0].id, lambda: PLACES)
    yield opened
    opened.close()


def drawn(section: SectionProject, *features: Feature) -> list[int]:
    entry = section.apply("draw", rows.feature_changes(features, section.srs_id))
    return [change.id for change in entry.changes]


def contact(*xy: tuple[float, float]) -> Feature:
    return Feature("lines", shapely.LineString(xy), "contact")


def test_it_reads_as_a_map_does_and_the_map_does_not_see_it(project: Project, section: SectionProject) -> None:
    before = {table: len(project.features(table)) for table in TABLES}
    box = shapely.box(0.0, -200.0, 1000.0, 0.0)
    line, area, point = drawn(
        section,
        contact((100.0, 50.0), (300.0, -200.0)),
        Feature("areas", box, "unit_area", map_unit="Kp"),
        Feature("points", shapely.Point(500.0, -50.0), "unit_tag", map_unit="Qt"),
    )
    assert {table: len(project.features(table)) for table in TABLES} == before
    assert {table: section.features(table).ids.tolist() for table in TABLES} == {
        "lines": [line],
        "areas": [area],
        "points": [point],
    }
    assert section.feature("areas", area).geometry.equals(box)
    assert section.extent() == (0.0, -200.0, 1000.0, 50.0)
    assert section.count("lines") == 1
    # Another section sees nothing of it, whatever its number.
    with closing(SectionProject(project, 999, list)) as other:
        assert not any(len(features) for features in other.all_features().values())
        with pytest.raises(NotFound):
            other.feature("lines", line)
    assert all(np.array_equal(project.drawn_features(section.line_id)[t].ids, section.features(t).ids) for t in TABLES)


def test_an_edit_is_one_entry_that_undo_takes_back(project: Project, section: SectionProject) -> None:
    revision = project.revision
    (line,) = drawn(section, contact((100.0, 50.0), (300.0, -200.0)))
    assert (project.revision, project.undo_label) == (revision + 1, "draw")
    assert section.revision == project.revision
    assert section.changed_after("lines", line, revision)
    assert not section.changed_after("lines", line, revision + 1)
    # A line of the map of the same number is another one.
    assert not project.changed_after("lines", line, revision)
    project.undo()
    assert section.count("lines") == 0
    project.redo()
    assert section.feature("lines", line).kind == "contact"


def test_all_use_cases_of_the_map_hold_on_a_section(project: Project, section: SectionProject) -> None:
    """A vertex on the edge of another is given to that, in the same entry."""
    first, second = contact((0.0, 0.0), (200.0, 0.0)), contact((100.0, 0.0), (100.0, -50.0))
    (line,) = drawn(section, first)
    index = SnapIndex(section.all_features())
    entry = keep_features(section, index, FeatureEdit("draw", [second], nodes=[(100.0, 0.0)]), section.revision)
    assert {change.table for change in entry.changes} == {"lines"}
    assert shapely.get_num_coordinates(section.feature("lines", line).geometry) == 3
    assert project.latest is not None
    assert {change.table for change in project.latest.changes} == {"section_lines"}


def test_ends_remember_what_of_the_map_they_were_put_to(project: Project, section: SectionProject) -> None:
    (line,) = drawn(section, contact((100.0, 50.0), (300.0, -200.0)))
    assert section.drawn_ends(section.line_id)[line][1] == (2, None)
    # Turned round, moved at the other end, and with the map gone from there: it is the same end.
    turned = section.feature("lines", line).changed(geometry=shapely.LineString([(400.0, -300.0), (100.0, 50.0)]))
    PLACES[0] = MeetingPlace(2, (140.0, 50.0), "Kp | Qt")
    try:
        section.apply("turn", [rows.feature_change(turned, section.srs_id)])
        assert section.drawn_ends(section.line_id)[line][1] == (None, 2)
        # What is moved away by hand belongs to nothing any more; what is put elsewhere belongs there.
        away = turned.changed(geometry=shapely.LineString([(900.0, 20.0), (120.0, 40.0)]))
        section.apply("move", [rows.feature_change(away, section.srs_id)])
        assert section.drawn_ends(section.line_id)[line][1] == (7, None)
    finally:
        PLACES[0] = MeetingPlace(2, (100.0, 50.0), "Kp | Qt")
    project.undo()
    assert section.drawn_ends(section.line_id)[line][1] == (None, 2)


def test_what_is_drawn_goes_with_its_section_and_comes_back_with_it(project: Project, section: SectionProject) -> None:
    (line,) = drawn(section, contact((100.0, 50.0), (300.0, -200.0)))
    index = SnapIndex(project.all_features())
    edit = FeatureEdit("delete", [], [("lines", section.line_id)])
    entry = keep_features(project, index, edit, project.revision)
    assert {(change.table, change.id) for change in entry.changes} == {
        ("lines", section.line_id),
        ("section_lines", line),
    }
    assert section.count("lines") == 0
    project.undo()
    assert section.count("lines") == 1
    # A line of a section that has the number of a section line takes nothing along.
    assert section.drawn_ids("lines", section.line_id) == []


def test_units_and_kinds_know_of_sections(project: Project, section: SectionProject) -> None:
    area = Feature("areas", shapely.box(0.0, -200.0, 1000.0, 0.0), "unit_area", map_unit="Qt")
    (number,) = drawn(section, area)
    (row, till) = next((row, unit) for row, unit in project.units() if unit.code == "Qt")
    with pytest.raises(Exception, match="1 features belong to Qt"):
        remove_unit(project, row)
    change_unit(project, row, replace(till, code="Qtt"))
    assert section.feature("areas", number).map_unit == "Qtt"
    project.undo()
    assert section.feature("areas", number).map_unit == "Qt"
    with pytest.raises(NotFound):
        remove_kind(project, "nothing")


def test_drafts_of_sections_are_not_those_of_the_map(project: Project, section: SectionProject) -> None:
    section.set_draft("window", "half a line")
    assert project.draft("window") is None
    assert section.draft("window") == "half a line"
    assert project.drafts_left(frozenset()) == []
    assert section.drafts_left(frozenset()) == [("window", "half a line")]
    assert section.drafts_left(frozenset({"window"})) == []
    section.set_draft("window", None)
    assert section.draft("window") is None


@pytest.mark.parametrize("place", [(0.0, 2e5), (0.0, -2e5), (1e9, 0.0), (float("nan"), 0.0)])
def test_places_that_no_section_has_are_refused(place: tuple[float, float]) -> None:
    with pytest.raises(CoordinateRefused):
        SectionPlane().check_place(*place)
    SectionPlane().check_places(np.array([[0.0, -4000.0], [20_000.0, 3000.0]]))


def test_other_programs_find_sections_and_what_is_drawn_on_them(project: Project, section: SectionProject) -> None:
    """GDAL lists them as layers: the sections in the map's system, what is drawn in undefined Cartesian coordinates."""
    drawn(
        section,
        contact((100.0, 50.0), (300.0, -200.0)),
        Feature("areas", shapely.box(0.0, -200.0, 1000.0, 0.0), "unit_area", map_unit="Kp"),
        Feature("points", shapely.Point(500.0, -50.0), "unit_tag", map_unit="Qt"),
    )
    ask_of_section(project, Section(section.line_id, 2.5))
    project.checkpoint()
    listed = dict(pyogrio.list_layers(project.path).tolist())
    assert {"sections", *SECTION_TABLES.values()} <= set(listed)
    meta, _, shapes, values = pyogrio.raw.read(project.path, layer="sections")
    assert "32628" in str(meta["crs"])
    assert shapely.from_wkb(shapes[0]).equals(LINE)
    assert dict(zip(meta["fields"], (v[0] for v in values), strict=True))["exaggeration"] == 2.5
    for table, name in SECTION_TABLES.items():
        meta, _, shapes, _ = pyogrio.raw.read(project.path, layer=name)
        assert len(shapes) == 1
        assert "32628" not in str(meta["crs"])
        assert shapely.from_wkb(shapes[0]).equals(section.features(table).geometries[0])
    with closing(sqlite3.connect(project.path)) as file:
        srs = dict(file.execute("SELECT table_name, srs_id FROM gpkg_geometry_columns").fetchall())
    assert {srs[name] for name in SECTION_TABLES.values()} == {-1}
    assert srs["sections"] == srs["lines"] == project.srs_id


def test_a_view_in_the_place_of_the_sections_is_not_opened(project: Project, tmp_path: Path) -> None:
    project.close()
    with closing(sqlite3.connect(project.path)) as file:
        file.execute("DROP VIEW sections")
        file.execute("CREATE VIEW sections AS SELECT id, geom FROM lines")
        file.commit()
    with pytest.raises(Exception, match="sections"):
        Project.open(project.path)

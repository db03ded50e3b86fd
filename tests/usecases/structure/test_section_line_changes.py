"""The line of a section reversed, lengthened, and put into another system: what is drawn goes along, undone, too."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import closing
from pathlib import Path

import numpy as np
import pytest
import shapely

from orvik.core.errors import NotFound
from orvik.core.features.feature import Feature
from orvik.core.features.table import TABLES
from orvik.core.geometry.snapping import SnapIndex
from orvik.core.ground.crs import project_crs
from orvik.core.structure.section.checks import section_findings
from orvik.store import rows
from orvik.store.project import Project, opened_for_writing
from orvik.store.sections import SectionProject
from orvik.usecases.compile.features import FeatureEdit, keep_features
from orvik.usecases.compile.line_edits import lines_reversed
from orvik.usecases.project.relocation import relocation
from orvik.usecases.structure.sections import section_lines, section_of_map


def messages(project: Project, number: int) -> list[str]:
    found = section_of_map(project, number)
    return [one.message for one in section_findings(found, list(project.units_by_code()))]


def lengthened(line: shapely.LineString) -> shapely.LineString:
    xy = shapely.get_coordinates(line)
    return shapely.LineString(np.vstack([xy[0] - 0.05 * (xy[1] - xy[0]), xy[1:]]))


@pytest.mark.parametrize("change", [shapely.reverse, lengthened], ids=["reversed", "lengthened"])
@pytest.mark.parametrize("letter", [0, 1], ids=["A", "B"])
def test_what_is_drawn_stays_where_it_is_on_the_ground(
    demo: Path, letter: int, change: Callable[[shapely.LineString], shapely.LineString]
) -> None:
    with opened_for_writing(demo) as project:
        line = section_lines(project)[letter]
        before = project.drawn_features(line.number)
        edit = FeatureEdit("change", [line.changed(geometry=change(line.geometry))])
        revision = project.revision
        keep_features(project, SnapIndex(project.all_features()), edit, revision)
        assert project.revision == revision + 1
        after = project.drawn_features(line.number)
        assert [len(after[t]) for t in TABLES] == [len(before[t]) for t in TABLES]
        # The map is crossed where it was, and so the ends still meet; only what ended with the old line may hang there.
        told = [one for one in messages(project, line.number) if "hangs" not in one]
        assert told == []
        assert shapely.is_valid(after["areas"].geometries).all()
        project.undo()
        again = project.drawn_features(line.number)
        for table in TABLES:
            assert all(a.equals(b) for a, b in zip(again[table].geometries, before[table].geometries, strict=True))


def test_reversing_by_hand_is_the_same(demo: Path) -> None:
    with opened_for_writing(demo) as project:
        line = section_lines(project)[0]
        length = section_of_map(project, line.number).line.length
        before = project.drawn_features(line.number)["lines"].geometries[0]
        keep_features(project, SnapIndex(project.all_features()), lines_reversed([line]), project.revision)
        after = project.drawn_features(line.number)["lines"].geometries[0]
        mirrored = shapely.get_coordinates(before) * [-1, 1] + [length, 0]
        assert shapely.get_coordinates(after) == pytest.approx(mirrored, abs=1e-6)


def test_in_another_system_the_section_is_as_long_as_its_line_there(demo: Path) -> None:
    """Lengths on the grid of one system are not those of another: here by 4 in 10 000 and more."""
    with opened_for_writing(demo) as project:
        line = section_lines(project)[1]
        plan = relocation(project, project_crs("EPSG:3035"))
        before = section_of_map(project, line.number)
        project.apply("move", plan.changes)
        found = section_of_map(project, line.number)
        assert abs(found.line.length - before.line.length) > 1.0
        east = max(float(shapely.bounds(found.drawn[t].geometries)[:, 2].max()) for t in ("lines", "areas"))
        assert east == pytest.approx(found.line.length, abs=0.01)
        # This system stretches each leg by another factor.
        wanted = np.interp([c.along for c in before.crossings], before.line.stations, found.line.stations)
        told = np.array([c.along for c in found.crossings]) - wanted
        assert np.abs(told).max() < 0.5


def test_a_section_that_is_gone_takes_no_more_drawing(demo: Path) -> None:
    """One draws on it, another deletes its line meanwhile, or makes another kind of it."""
    contact = Feature("lines", shapely.LineString([(100.0, 0.0), (200.0, -50.0)]), "contact")
    with opened_for_writing(demo) as project:
        line = section_lines(project)[0]
        with closing(SectionProject(project, line.number, list)) as space:
            keep_features(
                project, SnapIndex(project.all_features()), FeatureEdit("delete", [], [line.key]), project.revision
            )
            with pytest.raises(NotFound, match="no longer on the map"):
                space.apply("draw", rows.feature_changes([contact], space.srs_id))
            project.undo()
            space.apply("draw", rows.feature_changes([contact], space.srs_id))
            road = line.changed(kind="road")
            project.apply("make a road of it", [rows.feature_change(road, project.srs_id)])
            with pytest.raises(NotFound, match="no longer on the map"):
                space.apply("draw", rows.feature_changes([contact], space.srs_id))


def test_a_line_that_comes_to_end_on_it_changes_nothing_that_is_drawn(demo: Path) -> None:
    """It gets a vertex there, which is no bend, and what is drawn is not written again."""
    with opened_for_writing(demo) as project:
        line = section_lines(project)[0]
        before = section_of_map(project, line.number)
        (x, y) = before.line.at(np.array([700.0]))[0].tolist()
        contact = Feature("lines", shapely.LineString([(x, y), (x + 300.0, y + 40.0)]), "contact", capture_scale=6250)
        edit = FeatureEdit("draw", [contact], nodes=[(x, y)])
        entry = keep_features(project, SnapIndex(project.all_features()), edit, project.revision)
        assert {change.table for change in entry.changes} == {"lines"}
        assert len(project.feature("lines", line.number).geometry.coords) == 3
        assert section_of_map(project, line.number).line.bends.tolist() == []

"""Explanations of sheets: what comes new to the map is counted until it is looked at, unless the list is fixed."""

from __future__ import annotations

import shapely

from orvik.core.features.feature import Feature
from orvik.core.sheet.page.new_sheet import NewSheet
from orvik.store import rows
from orvik.store.project import Project
from orvik.usecases.sheet.explanations import explanation_view, look_at_rows, new_row_count
from orvik.usecases.sheet.parts import PartChange, add_part, change_part
from orvik.usecases.sheet.sheets import add_sheet


def test_a_symbol_that_comes_new_is_counted_until_it_is_looked_at(project: Project) -> None:
    """On a sheet that no hand has touched, and in an explanation that is placed by hand."""
    add_sheet(project, NewSheet("One", "A3"))
    sheet = project.sheets()[-1].id or 0
    placed = add_part(project, sheet, "explanation").changes[0].id
    assert new_row_count(project, sheet) == 0
    # Neither does the choice of another panel make all its rows new.
    empty = add_part(project, sheet, "map_panel").changes[0].id
    change_part(project, empty, PartChange(typed={"east": "700 000", "north": "6 700 000"}))
    main = next(p.id for p in project.parts(sheet) if p.kind == "map_panel" and p.id != empty)
    for panel in (empty, main):
        change_part(project, placed, PartChange(typed={"panel": str(panel)}))
        assert new_row_count(project, sheet) == 0
    border = project.border()
    assert border is not None
    x, y = shapely.Polygon(border).centroid.coords[0]
    spring = Feature("points", shapely.Point(x, y), "spring")
    project.apply("add a spring", [rows.feature_change(spring, project.srs_id)])
    assert new_row_count(project, sheet) == 2
    view = explanation_view(project, placed)
    assert [row.name for row in view.rows if row.key in view.new] == ["Spring"]
    look_at_rows(project, placed)
    assert new_row_count(project, sheet) == 1
    (other,) = [p.id or 0 for p in project.parts(sheet) if p.kind == "explanation" and p.id != placed]
    change_part(project, other, PartChange(typed={"fixed": "true"}))
    assert new_row_count(project, sheet) == 0
    assert "Spring" not in [row.name for row in explanation_view(project, other).rows]

"""Emphases of a project: given to panels and printed in them, while units and symbols stay as they are."""

from __future__ import annotations

import pytest

from orvik.core.errors import NotFound, SymbolRefused
from orvik.core.ink.primitives import Fill, walk
from orvik.core.sheet.page.new_sheet import NewSheet
from orvik.core.symbols.emphasis import RankLook
from orvik.store.project import Project
from orvik.store.tables.emphasis import emphasis_rows
from orvik.usecases.sheet.composing import composed
from orvik.usecases.sheet.panels import panels_of
from orvik.usecases.sheet.sheets import add_sheet
from orvik.usecases.symbols.emphasis import (
    begin_emphasis,
    emphasis_named,
    give_to_panel,
    items_of,
    remove_emphasis,
    set_look,
    set_rank,
)
from orvik.usecases.symbols.emphasis_picture import emphasis_picture


def tints(project: Project, sheet: int) -> set[str]:
    """The colours that fill the units of a sheet's panel, and the boxes of its explanation."""
    groups = composed(project, sheet).groups
    return {item.colour.upper() for group in groups for item in walk(group.items) if isinstance(item, Fill)}


def test_a_panel_is_printed_in_its_emphasis_and_so_is_its_explanation(project: Project) -> None:
    add_sheet(project, NewSheet("One", "A3"))
    sheet = project.sheets()[-1].id or 0
    areas = project.features("areas").columns["map_unit"]
    unit = next(unit for _, unit in project.units() if unit.code in areas)
    assert unit.colour in tints(project, sheet)
    begin_emphasis(project, "Faults")
    set_look(project, "Faults", 2, RankLook(10, 40, 50))
    (panel,) = [p.part.id or 0 for p in panels_of(project) if p.sheet.name == "One"]
    give_to_panel(project, "Faults", panel, True)
    assert give_to_panel(project, "Faults", panel, True) is None
    pale = emphasis_named(project, "Faults").units(project.units_by_code())[unit.code].colour
    shown = tints(project, sheet)
    assert pale in shown
    assert unit.colour not in shown
    set_rank(project, "Faults", f"unit {unit.code}", "subject")
    assert unit.colour in tints(project, sheet)
    assert unit.colour in emphasis_picture(project, emphasis_named(project, "Faults"), "a")
    remove_emphasis(project, "Faults")
    assert panels_of(project)[-1].settings.emphasis == ""
    project.undo()
    assert panels_of(project)[-1].settings.emphasis == "Faults"


def test_what_cannot_be_is_refused(project: Project) -> None:
    begin_emphasis(project, "")
    assert [emphasis.name for _, emphasis in emphasis_rows(project)] == ["Emphasis 1"]
    with pytest.raises(SymbolRefused, match="already"):
        begin_emphasis(project, "Emphasis 1")
    with pytest.raises(NotFound):
        set_look(project, "Emphasis 1", 7, RankLook())
    with pytest.raises(SymbolRefused, match="0 to 100"):
        set_look(project, "Emphasis 1", 0, RankLook(opacity=300))
    with pytest.raises(NotFound, match="no such unit or kind"):
        set_rank(project, "Emphasis 1", "unit nothing", "subject")
    with pytest.raises(NotFound):
        emphasis_named(project, "gone")
    assert all(item.startswith(("unit ", "kind ")) for item in items_of(project))
    assert set_rank(project, "Emphasis 1", next(iter(items_of(project))), "ground") is None

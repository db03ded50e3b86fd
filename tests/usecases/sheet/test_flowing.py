"""Texts that go on in further frames, on their sheet and on the next: nothing lost, nothing twice, ends told once."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from orvik.core.errors import SheetRefused
from orvik.core.ink.primitives import Text, walk
from orvik.core.sheet.page.new_sheet import NewSheet
from orvik.core.sheet.page.part import FlowSettings
from orvik.core.sheet.parts import PART_KINDS
from orvik.store.journal import Change
from orvik.store.project import Project
from orvik.usecases.proof.sheet_findings import findings_of_sheet
from orvik.usecases.sheet.arranging import copy_parts
from orvik.usecases.sheet.composing import composed
from orvik.usecases.sheet.explanations import RowChange, add_row, change_row, explanation_view
from orvik.usecases.sheet.parts import PartChange, add_part, change_part
from orvik.usecases.sheet.sheets import add_sheet


@pytest.fixture
def project(demo: Path) -> Iterator[Project]:
    project = Project.open(demo)
    yield project
    project.close()


def words(project: Project, part_id: int) -> str:
    part = project.part(part_id)
    groups = composed(project, part.sheet_id or 0, 20.0).groups
    return " ".join(
        t.run.chars for g in groups if g.name == f"part-{part_id}" for t in walk([g]) if isinstance(t, Text)
    )


def text_sheet(project: Project) -> int:
    """A sheet without a map."""
    return add_sheet(project, NewSheet("Text", "A3", False, "empty"))[0].changes[0].id


def only(project: Project, kind: str, sheet: int = 1) -> int:
    (part,) = [p for p in project.parts(sheet) if p.kind == kind]
    return part.number


def rules(project: Project, sheet: int) -> set[str]:
    return {finding.rule for finding in findings_of_sheet(project, sheet, [])}


def test_a_description_goes_on_on_the_next_sheet(project: Project) -> None:
    number = only(project, "description")
    whole = words(project, number)
    names = [unit.name for _, unit in project.units() if unit.name in whole]
    part = project.part(number)
    change_part(project, number, PartChange(place={"height": part.height / 3}))
    assert "description_cut" in rules(project, 1)
    sheet = text_sheet(project)
    further = add_part(project, sheet, "description").changes[0].id
    settings = project.part(further).settings
    assert isinstance(settings, FlowSettings)
    assert settings.goes_on
    first, second = words(project, number), words(project, further)
    assert "description_cut" not in rules(project, 1) | rules(project, sheet)
    # Each unit has its name once, in one of the two, in their order.
    assert [name for name in names if name in first] + [name for name in names if name in second] == names
    assert all((name in first) != (name in second) for name in names)
    # A line may end behind a hyphen.
    kept, told = (set(text.replace("- ", "-").split()) for text in (f"{first} {second}", whole))
    assert kept >= told - {"—", "Description", "of", "map", "units"}
    # Too small as well: told there, where a hand can mend it, and nowhere else.
    change_part(project, further, PartChange(place={"height": 6.0}))
    assert "description_cut" in rules(project, sheet)
    assert "description_cut" not in rules(project, 1)


def test_an_explanation_goes_on_in_a_second_frame_and_on_another_sheet(project: Project) -> None:
    number = only(project, "explanation")
    rows = [row.key for row in explanation_view(project, number).rows]
    part = project.part(number)
    change_part(project, number, PartChange(place={"height": part.height / 3}))
    assert "row_cut" in rules(project, 1)
    sheet = text_sheet(project)
    further = add_part(project, sheet, "explanation").changes[0].id
    change_part(project, further, PartChange(typed={"goes_on": "true"}, place={"width": 250.0, "height": 300.0}))
    assert "row_cut" not in rules(project, 1) | rules(project, sheet)
    first, second = (explanation_view(project, one).layout for one in (number, further))
    stood = [p.block.row.key for layout in (first, second) for p in layout.placed if p.block.row is not None]
    assert stood == rows
    assert first.k == second.k
    # A row that is worded in the second frame is one of the explanation that goes on there.
    key = stood[-1]
    change_row(project, further, key, RowChange(name="Worded anew"))
    assert "Worded anew" in words(project, further)
    assert explanation_view(project, number).rows[-1].name == "Worded anew"


@pytest.mark.parametrize("kind", [name for name, made in PART_KINDS.items() if getattr(made, "reads_far", False)])
def test_what_speaks_of_a_panel_of_another_sheet_says_the_same_there(project: Project, kind: str) -> None:
    """All kinds that may: placed on a sheet without a map, each prints what it would beside that."""
    sheet = text_sheet(project)
    far = add_part(project, sheet, kind).changes[0].id
    own = only(project, kind)
    settings = project.part(own).settings
    values = settings.to_dict() | {"group": 0}
    there = project.part(far)
    change_part(project, far, PartChange(place={"width": 300.0, "height": 400.0}))
    assert there.settings.panel == values["panel"]  # type: ignore[attr-defined]
    if isinstance(there.settings, FlowSettings):
        change_part(project, far, PartChange(typed={"goes_on": ""}))
    mine = {word for word in words(project, own).split() if len(word) > 4 and word.isalpha()}
    assert len(mine & set(words(project, far).split())) > 0.7 * len(mine)


def test_a_panel_of_another_sheet_that_is_gone_is_told(project: Project) -> None:
    sheet = text_sheet(project)
    far = add_part(project, sheet, "correlation").changes[0].id
    with pytest.raises(SheetRefused, match="no panel"):
        change_part(project, far, PartChange(typed={"panel": "9999"}))
    before = rules(project, sheet)
    project.apply("remove", [Change("parts", only(project, "map_panel"), None)])
    assert "empty_part" in rules(project, sheet) - before


def test_a_row_of_nothing_is_told_on_the_sheet_it_stands_on(project: Project) -> None:
    sheet = text_sheet(project)
    far = add_part(project, sheet, "explanation").changes[0].id
    view = explanation_view(project, far)
    offers = view.offers
    # Nothing is offered that a row explains already.
    assert not set(offers) & {key for row in view.rows for key in (row.key, *row.covers)}
    add_row(project, far, next(key for key in offers if key.startswith("symbol ")))
    assert "nothing_shown" in rules(project, sheet)
    assert "nothing_shown" not in rules(project, 1)


@pytest.mark.parametrize("kind", sorted(PART_KINDS))
def test_a_copy_on_a_sheet_without_a_map_speaks_of_its_panel_where_it_may(project: Project, kind: str) -> None:
    """All kinds that stand on the demo's first sheet."""
    found = [part for part in project.parts(1) if part.kind == kind and not part.settings.lies_on_panel]
    if not found or "panel" not in found[0].settings.entries():
        return
    sheet = text_sheet(project)
    copy_parts(project, [found[0].number], sheet)
    (copy,) = project.parts(sheet)
    before, after = (part.settings.to_dict().get("panel") for part in (found[0], copy))
    assert after == (before if copy.settings.reads_far else None)  # type: ignore[attr-defined]

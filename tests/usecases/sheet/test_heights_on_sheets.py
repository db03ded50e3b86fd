"""Credits say from what the heights count that their panel shows."""

from __future__ import annotations

from pathlib import Path

from orvik.core.ink.primitives import Text, walk
from orvik.core.pictures.height_facts import HeightFacts
from orvik.core.sheet.parts.credits import CreditNote
from orvik.demo.build import HEIGHTS
from orvik.store.project import Project
from orvik.store.read_project import opened_for_reading
from orvik.usecases.ground.sources import state_heights
from orvik.usecases.sheet.composing import composed
from orvik.usecases.sheet.parts import PartChange, change_part


def said(demo: Path, **settings: str) -> list[str]:
    """The lines of the credits on the demo's regional sheet, with some settings changed."""
    project = Project.open(demo)
    sheet = project.sheets()[1]
    (note,) = [part for part in project.parts(sheet.number) if isinstance(part.settings, CreditNote)]
    if settings:
        change_part(project, note.number, PartChange(typed=settings))
    project.close()
    with opened_for_reading(demo) as read:
        groups = composed(read, sheet.number).groups
    (group,) = [group for group in groups if group.name == f"part-{note.number}"]
    return [item.run.chars for item in walk([group]) if isinstance(item, Text)]


def test_the_datum_that_is_stated_is_printed_unless_another_is_typed(demo: Path) -> None:
    assert f"Heights from {HEIGHTS.datum}" in said(demo)
    typed = said(demo, vertical_datum="the threshold of the church")
    assert "Heights from the threshold of the church" in typed
    assert f"Heights from {HEIGHTS.datum}" not in typed
    said(demo, vertical_datum="")
    project = Project.open(demo)
    (relief,) = [source for source in project.sources() if source.relief]
    state_heights(project, relief.number, HeightFacts())
    project.close()
    assert not any(line.startswith("Heights from") for line in said(demo))

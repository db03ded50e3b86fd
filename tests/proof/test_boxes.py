"""Letters that no face has are told wherever they would be printed: on sheets, in explanations, on the map."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from orvik.core.errors import OrvikError
from orvik.core.findings.page.lettering import letters_without_glyph
from orvik.core.ink.primitives import Text, walk
from orvik.core.sheet.page.entries import Words
from orvik.store import rows
from orvik.store.project import opened_for_writing
from orvik.usecases.proof.proof import all_findings
from orvik.usecases.proof.sheet_findings import ground_of

CHINESE = "李伟"


def test_every_text_of_every_part_that_reaches_the_ink_is_told(corner: Path) -> None:
    """All fields that hold words, by reflection: whichever is printed has its finding."""
    printed: set[str] = set()
    with opened_for_writing(corner) as project:
        sheet = project.sheets()[0].id or 0
        for part in project.parts(sheet):
            for name, made in part.settings.entries().items():
                if not isinstance(made, Words) or name == "system":
                    continue
                try:
                    settings = part.settings.changed({name: CHINESE})
                except OrvikError:
                    # No such day, and the like.
                    continue
                project.apply("odd", [rows.part_change(part.changed(settings=settings))])
                ground = ground_of(project, sheet)
                inked = any(
                    CHINESE[0] in item.run.chars
                    for group in ground.ink.values()
                    for item in walk(group.items)
                    if isinstance(item, Text)
                )
                assert bool(letters_without_glyph(ground)) == inked, (part.settings.kind, name)
                if inked:
                    printed.add(f"{part.settings.kind} {name}")
                project.undo()
    assert {"text text", "source_diagram caption", "title text"} <= printed


@pytest.mark.parametrize("what", ["name", "description", "heading"])
def test_texts_of_units_are_told_on_the_map(corner: Path, what: str) -> None:
    with opened_for_writing(corner) as project:
        number, unit = project.units()[0]
        assert not [f for f in all_findings(project) if f.rule == "letters"]
        project.apply("odd", [rows.unit_change(number, replace(unit, **{what: CHINESE}))])
        told = [f for f in all_findings(project) if f.rule == "letters"]
        assert len(told) == 1
        assert what in told[0].message

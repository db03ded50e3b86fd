"""Files of sheets: there with the edit that speaks of them, and still there for what undoing brings back."""

from __future__ import annotations

import io
from pathlib import Path

import pytest
from PIL import Image

from orvik.core.errors import SheetRefused
from orvik.core.ink.primitives import Fill, Picture, walk
from orvik.core.sheet.parts.picture import PictureOf
from orvik.exchange.sheets.sheet_files import picture_or_drawing
from orvik.store.files import file_names
from orvik.store.project import Project
from orvik.usecases.sheet.composing import composed
from orvik.usecases.sheet.parts import PartChange, add_part, change_part, give_file

SECTION = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 6"><path d="M1 5h7l-3-4z" fill="#369"/></svg>'


def test_a_file_comes_with_its_edit_and_outlives_undoing(demo: Path) -> None:
    project = Project.open(demo)
    number = add_part(project, 1, "picture").changes[0].id
    png = io.BytesIO()
    Image.new("RGB", (30, 20), "#336699").save(png, "PNG")
    before = project.revision
    give_file(project, number, "file", picture_or_drawing("photograph.png", png.getvalue()))
    give_file(project, number, "file", picture_or_drawing("section.svg", SECTION))
    assert project.revision == before + 2

    def shown() -> type:
        group = next(g for g in composed(project, 1, 30).groups if g.name == f"part-{number}")
        return type(next(iter(walk(group.items))))

    assert shown() is Fill
    project.undo()
    assert shown() is Picture
    project.redo()
    assert shown() is Fill
    # The same again is not an edit and no second file.
    assert give_file(project, number, "file", picture_or_drawing("again.svg", SECTION)) is None
    assert list(file_names(project, "picture", "drawing").values()) == ["photograph.png", "section.svg"]
    change_part(project, number, PartChange(locked=True))
    with pytest.raises(SheetRefused, match="locked"):
        give_file(project, number, "file", picture_or_drawing("other.svg", SECTION.replace(b"369", b"963")))
    assert len(file_names(project, "picture", "drawing")) == 2
    part = project.part(number)
    assert isinstance(part.settings, PictureOf)
    project.close()

"""The same project gives the same PDF byte for byte: in another process, at another time, with every kind of part."""

from __future__ import annotations

import io
import os
import subprocess
import sys
from pathlib import Path

import pytest
from PIL import Image

from orvik.core.lettering import FONTS
from orvik.core.sheet.parts import PART_KINDS
from orvik.exchange.sheets.font_file import font_of
from orvik.exchange.sheets.sheet_files import picture_or_drawing
from orvik.store.project import Project
from orvik.usecases.sheet.parts import PartChange, add_part, change_part, give_file
from orvik.usecases.sheet.sheets import give_font

ARROW = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 4 9"><path d="M2 0l2 9-2-2-2 2z" fill="#a33"/></svg>'


@pytest.fixture
def with_everything(demo: Path) -> Path:
    """The demo's first sheet with every kind of part, a picture, a drawing and a font of its own."""
    project = Project.open(demo)
    numbers = {kind: add_part(project, 1, kind).changes[0].id for kind in PART_KINDS}
    png = io.BytesIO()
    Image.effect_mandelbrot((60, 40), (-2, -1.2, 1, 1.2), 40).save(png, "PNG")
    give_file(project, numbers["picture"], "file", picture_or_drawing("a.png", png.getvalue()))
    give_file(project, numbers["north_arrow"], "file", picture_or_drawing("a.svg", ARROW))
    give_font(project, 1, font_of("a.ttf", (FONTS / "Companion-SemiBold.ttf").read_bytes()))
    change_part(project, numbers["title"], PartChange(typed={"set_as": "own", "face": "own"}))
    change_part(project, numbers["text"], PartChange(typed={"set_as": "heading"}))
    project.close()
    return demo


def exported(project: Path, target: Path, seed: str) -> bytes:
    command = [
        sys.executable,
        "-m",
        "orvik.cli",
        "export",
        str(project),
        "--sheet",
        "Harrack Head",
        "--to",
        str(target),
    ]
    subprocess.run(command, check=True, env=os.environ | {"PYTHONHASHSEED": seed}, capture_output=True)
    return target.read_bytes()


@pytest.mark.parametrize("ending", ["pdf", "svg"])
def test_the_same_project_gives_the_same_file(with_everything: Path, tmp_path: Path, ending: str) -> None:
    one = exported(with_everything, tmp_path / f"one.{ending}", "1")
    other = exported(with_everything, tmp_path / f"other.{ending}", "77")
    assert len(one) > 100_000
    assert one == other

"""SVG of the demo's sheet: sound XML, self-contained, and the same places as the PDF."""

from __future__ import annotations

import re
import xml.etree.ElementTree as ElementTree
from pathlib import Path

import numpy as np
import pytest

from orvik.press import svg
from orvik.press.pdf import page_pdf
from orvik.store.project import Project
from orvik.usecases.printing import composed
from tests.press.measure import segments

SVG = "{http://www.w3.org/2000/svg}"


@pytest.fixture
def sheet(demo: Path) -> tuple[str, bytes]:
    project = Project.open(demo, read_only=True)
    try:
        composition = composed(project, 1, 60)
        made, groups = composition.sheet, composition.groups
        drawn = svg.document(groups, made.width, made.height, "Harrack <Head> & more")
        return drawn, page_pdf(groups, made.width, made.height, "Harrack Head")
    finally:
        project.close_reader()


def test_it_is_sound_and_brings_all_it_needs(sheet: tuple[str, bytes]) -> None:
    root = ElementTree.fromstring(sheet[0])
    assert root.get("width") == "420mm"
    assert root.findtext(f"{SVG}title") == "Harrack <Head> & more"
    used = {e.get("href") or "" for e in root.iter() if e.get("href")}
    ids = {e.get("id") for e in root.iter() if e.get("id")}
    assert all(h.startswith("data:") or h.removeprefix("#") in ids for h in used)
    assert "http" not in sheet[0].replace("http://www.w3.org/2000/svg", "")
    clips = set(re.findall(r"url\(#([\w-]+)\)", sheet[0]))
    assert clips <= ids


def test_every_line_lies_where_the_pdf_has_it(sheet: tuple[str, bytes]) -> None:
    root = ElementTree.fromstring(sheet[0])
    ours = []
    # Symbols are drawn about their own origin and placed by use.
    symbols = {path for defs in root.iter(f"{SVG}defs") for path in defs.iter(f"{SVG}path")}
    for path in root.iter(f"{SVG}path"):
        if path not in symbols and path.get("fill") == "none":
            for piece in re.findall(r"M[^M]+", path.get("d") or ""):
                ours.append(np.array([[float(v) for v in p.split()] for p in re.split(r"[ML]", piece.rstrip("Z"))[1:]]))
    theirs = [np.array(p) for p in segments(sheet[1]) if len(p) > 1]
    long = [p for p in ours if len(p) > 12]
    assert len(long) > 30
    by_length: dict[int, list[np.ndarray]] = {}
    for path in theirs:
        by_length.setdefault(len(path), []).append(path)
    for path in long:
        assert any(np.abs(other - path).max() < 0.002 for other in by_length.get(len(path), [])), path[:2]

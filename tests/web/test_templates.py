"""The text of the templates: lines that fit a screen, and no attribute broken in the middle of its words."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from orvik.web.frame import pages

WEB = Path(pages.__file__).parents[1]
TEMPLATES = sorted(WEB.glob("*/templates/*.html"))
LONGEST = 120
# Words that are shown or read out: a line break within them would be, too.
SHOWN = re.compile(r'\b(?:placeholder|aria-label|title)="([^"]*)"')


@pytest.mark.parametrize("path", TEMPLATES, ids=lambda path: f"{path.parts[-3]}/{path.name}")
def test_lines_are_short_and_words_whole(path: Path) -> None:
    text = path.read_text()
    long = [number for number, line in enumerate(text.splitlines(), 1) if len(line) > LONGEST]
    assert not long, f"lines longer than {LONGEST}: {long}"
    assert not [words for words in SHOWN.findall(text) if "\n" in words]


def test_colours_stand_in_the_tokens_alone() -> None:
    """Styles and scripts name a colour; what it is stands once."""
    files = [*WEB.glob("*/static/*.js"), *WEB.glob("*/static/*.css")]
    assert len(files) > 30
    found = [
        f"{path.name}:{number}"
        for path in files
        if path.name != "tokens.css"
        for number, line in enumerate(path.read_text().splitlines(), 1)
        if re.search(r"#[0-9A-Fa-f]{6}\b|\brgba?\(", line)
    ]
    assert not found

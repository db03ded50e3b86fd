"""Setting text against fontTools' own reading of the font files."""

from __future__ import annotations

import pytest
from fontTools.ttLib import TTFont

from orvik.core.lettering import BOLD, FONTS, ITALIC, ROMAN, cap_height, run, wrapped


@pytest.mark.parametrize("font", [ROMAN, ITALIC, BOLD])
def test_advances_are_the_font_s(font: str) -> None:
    """Figures have no kerning between one another: their places are sums of their advances."""
    table = TTFont(FONTS / f"{font}.ttf")
    names, metrics, em = table.getBestCmap(), table["hmtx"], table["head"].unitsPerEm
    letters = run("3141592", font, 10.0)
    pen = 0.0
    for char, x in zip(letters.chars, letters.x, strict=True):
        assert x == pytest.approx(pen, abs=0.12)
        pen += metrics[names[ord(char)]][0] * 10.0 / em
    assert letters.width == pytest.approx(pen, abs=0.15)


def test_alignment_and_spacing() -> None:
    left, middle, right = (run("Harrack", ROMAN, 5.0, align) for align in ("left", "centre", "right"))
    assert left.width == middle.width == right.width
    assert middle.x[0] == pytest.approx(-left.width / 2, abs=1e-3)
    assert right.x[0] == pytest.approx(-left.width, abs=1e-3)
    assert run("Harrack", ROMAN, 5.0, spacing=1.0).width == pytest.approx(left.width + 6, abs=1e-6)


@pytest.mark.parametrize("font", [ROMAN, ITALIC, BOLD])
def test_capitals_are_as_high_as_the_font_says(font: str) -> None:
    table = TTFont(FONTS / f"{font}.ttf")
    assert cap_height(10.0) == pytest.approx(10 * table["OS/2"].sCapHeight / table["head"].unitsPerEm, abs=0.15)


def test_lines_fit_their_width() -> None:
    text = "Invented geology, drawn from a fixed random seed.\nHeights in metres."
    for width in (20.0, 45.0, 200.0):
        lines = wrapped(text, ROMAN, 2.4, width)
        assert all(run(line, ROMAN, 2.4).width <= width or " " not in line for line in lines)
        assert " ".join(lines).split() == text.split()

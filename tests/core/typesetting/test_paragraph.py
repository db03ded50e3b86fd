"""Lines against HarfBuzz: as wide as it says, no wider than their room, none where fewer would do."""

from __future__ import annotations

import numpy as np
import pytest
import uharfbuzz as hb

from orvik.core.lettering import BOLD, FONTS, ITALIC, ROMAN
from orvik.core.typesetting.paragraph import Line, lines_of
from orvik.core.typesetting.spans import Span, Style, spans_of
from tests.examples import SEED

WORDS = [
    "alluvium",
    "till",
    "gravel",
    "sand",
    "silt",
    "mudstone",
    "siltstone",
    "sandstone",
    "conglomerate",
    "gneiss",
    "biotite",
    "cross-bedded",
    "rippled",
    "laminated",
    "medium-grained",
    "quartz–feldspar",
    "the",
    "of",
    "and",
    "with",
    "in",
    "to",
    "a",
    "is",
    "well-sorted",
    "ammonites",
    "limestone",
    "240",
    "m",
    "thick",
    "F~7~",
    "*Gryphaea*",
    "**base**",
    "10^6^",
    "years",
    "überkippt",
    "Ærø",
    "naïve",
]


def shaped(text: str, font: str, size: float) -> float:
    """The width of a text by HarfBuzz alone, in millimetres."""
    face = hb.Face(hb.Blob.from_file_path(str(FONTS / f"{font}.ttf")))
    buffer = hb.Buffer()
    buffer.add_str(text)
    buffer.guess_segment_properties()
    hb.shape(hb.Font(face), buffer, {"liga": False, "clig": False, "ccmp": False, "kern": True})
    return float(sum(position.x_advance for position in buffer.glyph_positions or ()) * size / face.upem)


def text(rng: np.random.Generator, words: int) -> str:
    return " ".join(rng.choice(WORDS, words))


def greedy(words: list[str], size: float, width: float) -> int:
    """How many lines plain words need, each filled as far as it goes."""
    lines, line = 1, ""
    for word in words:
        longer = f"{line} {word}" if line else word
        if line and shaped(longer, ROMAN, size) > width + 1e-6:
            lines, line = lines + 1, word
        else:
            line = longer
    return lines


@pytest.mark.parametrize("number", range(200))
def test_no_line_is_wider_than_its_room_but_a_single_word_s(number: int) -> None:
    rng = np.random.default_rng((SEED, number))
    size, width = float(rng.uniform(1.8, 5.0)), float(rng.uniform(8.0, 120.0))
    first, hang = (float(v) for v in rng.choice([0.0, 3.0, 6.0], 2))
    typed = text(rng, int(rng.integers(1, 90)))
    lines = lines_of(spans_of(typed), size, width, first, hang)
    for at, line in enumerate(lines):
        assert line.indent == (first if at == 0 else hang)
        assert line.room == pytest.approx(width - line.indent)
        measured = sum(shaped(p.run.chars, p.run.font, p.run.size) for p in line.pieces if not p.run.fonts)
        if not any(p.run.fonts for p in line.pieces):
            assert line.width == pytest.approx(measured, abs=0.01)
        if line.width > line.room + 1e-3:
            assert line.is_overfull
            # No place to break it at.
            assert " " not in line.text.strip() or line.text.split(" ", 1)[1].split(" ")[0] in ("m", "to")
    # Nothing is lost, whatever the breaks.
    said = "".join(span.text for span in spans_of(typed))
    assert "".join(line.text for line in lines).replace(" ", "") == said.replace(" ", "")


@pytest.mark.parametrize("number", range(40))
def test_as_few_lines_as_a_greedy_setter_needs_and_more_even(number: int) -> None:
    rng = np.random.default_rng((SEED, number, 1))
    words = [str(word) for word in rng.choice([w for w in WORDS if w.isalpha() and w.isascii()], 60)]
    width = float(rng.uniform(25.0, 80.0))
    lines = lines_of([Span(" ".join(words))], 2.75, width)
    assert len(lines) <= greedy(words, 2.75, width)


def words_of(lines: list[Line]) -> list[str]:
    return [line.text for line in lines]


def test_where_lines_break_and_where_they_do_not() -> None:
    # After a hyphen and a dash, before a word; a figure stays with its unit, and a space that does not break, too.
    narrow = lines_of([Span("cross-bedded")], 3.0, 10.0)
    assert words_of(narrow) == ["cross-", "bedded"]
    assert words_of(lines_of([Span("Till—Grey")], 3.0, 8.0)) == ["Till—", "Grey"]
    for text in ("up to 240 m", "up to\u00a0240 m"):
        assert all(not line.endswith("240") for line in words_of(lines_of([Span(text)], 3.0, 9.5)))
    assert words_of(lines_of([Span("one\ntwo")], 3.0, 50.0)) == ["one", "two"]
    assert words_of(lines_of([], 3.0, 50.0)) == [""]


def test_styles_within_a_word_stay_together_and_have_their_faces() -> None:
    (line,) = lines_of(spans_of("**Till** (*Pleistocene*) 10^6^"), 3.0, 100.0)
    assert [piece.run.font for piece in line.pieces] == [BOLD, ROMAN, ITALIC, ROMAN, ROMAN]
    assert line.pieces[-1].rise > 0
    assert line.pieces[-1].run.size < line.pieces[0].run.size
    lines = lines_of([Span("aaaa "), Span("bb"), Span("cc", Style(bold=True)), Span("dd")], 3.0, 14.0)
    assert words_of(lines) == ["aaaa", "bbccdd"]


def test_five_thousand_words_are_set() -> None:
    rng = np.random.default_rng(SEED)
    lines = lines_of(spans_of(text(rng, 5000)), 2.75, 80.0)
    assert not any(line.is_overfull for line in lines)
    assert sum(line.width for line in lines) / sum(line.room for line in lines) > 0.9

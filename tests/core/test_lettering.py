"""Any text can be set: empty, decomposed, in letters that the sheet's faces lack."""

from __future__ import annotations

import unicodedata

import pytest

from orvik.core.lettering import BOLD, ITALIC, ROMAN, missing_letters, run


def test_nothing_is_a_run_without_letters() -> None:
    empty = run("", ROMAN, 3.0, "centre")
    assert (empty.chars, empty.x, empty.width) == ("", (), 0.0)
    assert list(empty.pieces()) == []


@pytest.mark.parametrize("text", ["étage", "Žďár", "Ṣaḥrāʾ", "Ñuñoa", "Ǎ"])
def test_composed_and_decomposed_letters_come_out_the_same(text: str) -> None:
    assert run(unicodedata.normalize("NFD", text), ROMAN, 3.0) == run(unicodedata.normalize("NFC", text), ROMAN, 3.0)


@pytest.mark.parametrize("font", [ROMAN, ITALIC, BOLD])
@pytest.mark.parametrize("text", ["αβΩ", "Жук", "Ꞓs", "SiO₂", "σ₁→σ₃", "≥ 5 m", "ɣ", "m⁻¹"])
def test_letters_of_other_alphabets_are_set_in_the_companion(text: str, font: str) -> None:
    letters = run(text, font, 3.0)
    assert letters.chars == text
    assert {name.split("-")[0] for name in letters.fonts} <= {"Spectral", "Companion"}
    assert "".join(chars for _, chars, _ in letters.pieces()) == text
    assert list(letters.x) == sorted(letters.x)
    assert missing_letters(text, font) == ""


def test_a_mark_without_a_letter_of_its_own_stands_where_its_letter_stands() -> None:
    letters = run("q\u0304z", ROMAN, 10.0)
    assert len(letters.chars) == 3
    assert letters.width == pytest.approx(run("qz", ROMAN, 10.0).width, abs=0.05)


def test_what_no_face_has_is_named() -> None:
    assert missing_letters("Qal 漢 漢 字") == "漢字"
    assert missing_letters("two\nlines\t") == ""

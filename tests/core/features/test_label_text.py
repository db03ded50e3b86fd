"""Raised, lowered and overlined letters of labels: typed on any keyboard, printed in letters that the faces have."""

from __future__ import annotations

import random

import pytest
from fontTools.ttLib import TTFont

from orvik.core.errors import FeatureRefused
from orvik.core.features.label_text import _LOWERED, _RAISED, OVERLINE, label_text, typed_label
from orvik.core.lettering import BOLD, FONTS, ITALIC, ROMAN, missing_letters, run


def test_every_letter_can_be_printed_in_every_face() -> None:
    for face in (ROMAN, ITALIC, BOLD):
        assert missing_letters("".join((*_RAISED.values(), *_LOWERED.values(), f"J{OVERLINE}")), face) == ""


def test_an_overline_takes_no_room_and_stands_on_its_letter() -> None:
    plain, lined = run("Jh", ROMAN, 3.0), run(label_text("over{J}h"), ROMAN, 3.0)
    assert lined.chars == f"J{OVERLINE}h"
    # The letter comes from the companion face, which is as wide within a tenth.
    assert lined.width == pytest.approx(plain.width, rel=0.25)
    # The line is drawn around the middle of its glyph, and that lies over the letter.
    face = TTFont(FONTS / "Companion-Regular.ttf")
    glyph = face["glyf"][face.getBestCmap()[ord(OVERLINE)]]
    middle = lined.x[1] + 3.0 * (glyph.xMin + glyph.xMax) / 2 / face["head"].unitsPerEm
    assert 0.2 * lined.x[2] < middle < 0.8 * lined.x[2]


def test_what_is_typed_comes_back_as_it_was_meant() -> None:
    rng = random.Random(9)
    for _ in range(400):
        pieces = []
        for _ in range(rng.randint(1, 4)):
            kind = rng.choice(["plain", "up", "down", "over"])
            if kind == "plain":
                pieces.append(rng.choice(["J", "K", "Qal", "h", "2", "\ua792"]))
            elif kind == "over":
                pieces.append("over{" + rng.choice(["J", "Kw"]) + "}")
            else:
                table, sign = (_RAISED, "^") if kind == "up" else (_LOWERED, "_")
                letter = rng.choice(sorted(table))
                pieces.append(sign + (letter if rng.random() < 0.5 else "{" + letter + "}"))
        label = label_text("".join(pieces))
        assert "^" not in label
        assert "_" not in label
        assert label_text(typed_label(label)) == label


@pytest.mark.parametrize("typed", ["J^Q", "J_b", "J_{hq}", "J^{}", "K^é", "_ "])
def test_what_has_no_such_form_is_refused(typed: str) -> None:
    with pytest.raises(FeatureRefused, match=r"cannot be (raised|lowered)"):
        label_text(typed)


@pytest.mark.parametrize("typed", ["Jh", "", "Qal?", "J^", "K_", "{J}"])
def test_what_is_no_notation_stays(typed: str) -> None:
    assert label_text(typed) == typed

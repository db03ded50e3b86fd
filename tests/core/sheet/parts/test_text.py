"""Body text: within its frame, in lists, aligned, and without a single word at its end."""

from __future__ import annotations

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.ink.primitives import Text
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.page.text_ink import LEADING, text_ink, without_widow
from orvik.core.sheet.parts.text import RunningText

PART = Part(RunningText(), 20.0, 30.0, 60.0, 40.0)
WORDS = st.lists(st.text("abcdefgh", min_size=1, max_size=9), min_size=1, max_size=40).map(" ".join)


def lines_of(text: str, **values: str) -> list[Text]:
    return [item for item in text_ink(text, PART, size=3.0, **values) if isinstance(item, Text)]  # type: ignore[arg-type]


@given(WORDS, st.sampled_from(["left", "centre", "right"]))
def test_lines_stay_in_their_frame_and_lose_no_word(text: str, align: str) -> None:
    shown = lines_of(text, align=align)
    assert " ".join(line.run.chars for line in shown).split() == text.split()
    for line in shown:
        left = line.at[0] + line.run.x[0]
        assert left >= 20 - 0.01
        assert left + line.run.width <= 80.01
    assert [round(b.at[1] - a.at[1], 6) for a, b in itertools.pairwise(shown)] == [round(3.0 * LEADING, 6)] * (
        len(shown) - 1
    )


@given(st.lists(WORDS, min_size=1, max_size=6))
def test_no_word_is_lost_where_a_widow_is_fixed(lines: list[str]) -> None:
    fixed = without_widow(lines)
    assert " ".join(fixed).split() == " ".join(lines).split()
    assert len(fixed) == len(lines)


def test_items_of_a_list_stand_in() -> None:
    long = "grey, thick-bedded sandstone with thin beds of mudstone and of coal"
    shown = lines_of(f"Units\n- {long}\n2. {long}")
    marks = [line for line in shown if line.run.chars in ("•", "2.")]
    assert [line.run.chars for line in marks] == ["•", "2."]
    inside = [line.at[0] for line in shown if line.run.chars not in ("•", "2.", "Units")]
    assert len(inside) > 2
    assert set(inside) == {20 + 1.5 * 3.0}
    assert all(mark.at[0] == 20 for mark in marks)


@pytest.mark.parametrize("count", [1, 10_000])
def test_a_very_long_text_is_set(count: int) -> None:
    text = " ".join(["word"] * count)
    assert sum(len(line.run.chars.split()) for line in lines_of(text)) == count

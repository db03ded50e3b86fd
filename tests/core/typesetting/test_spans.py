"""What is typed with marks, and what is meant by it."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.typesetting.spans import Span, Style, escaped, plain_text, spans_of
from tests.examples import examples


@pytest.mark.parametrize(
    ("typed", "spans"),
    [
        ("plain", [Span("plain")]),
        ("**Wray** Siltstone", [Span("Wray", Style(bold=True)), Span(" Siltstone")]),
        ("*Inoceramus* sp.", [Span("Inoceramus", Style(italic=True)), Span(" sp.")]),
        ("H~2~O", [Span("H"), Span("2", Style(rise=-1)), Span("O")]),
        ("^40^Ar", [Span("40", Style(rise=1)), Span("Ar")]),
        ("++Correlation++", [Span("Correlation", Style(capitals=True))]),
        ("*a **b** c*", [Span("a ", Style(italic=True)), Span("b", Style(True, True)), Span(" c", Style(italic=True))]),
        # What is no mark: a product, a lone sign, one that opens before a space or is escaped.
        ("2 * 3 * 4", [Span("2 * 3 * 4")]),
        ("about ~5 m, then ~10 m", [Span("about ~5 m, then ~10 m")]),
        ("C++ and **", [Span("C++ and **")]),
        (r"\*not\* slanted", [Span("*not* slanted")]),
        ("", []),
    ],
)
def test_marks(typed: str, spans: list[Span]) -> None:
    assert list(spans_of(typed)) == spans


@examples(200)
@given(st.text(st.sampled_from("ab *~^+\\\n"), max_size=40))
def test_no_letter_is_lost_and_what_is_escaped_is_as_typed(text: str) -> None:
    letters = [c for c in text if c in "ab\n"]
    assert [c for c in plain_text(spans_of(text)) if c in "ab\n"] == letters
    assert plain_text(spans_of(escaped(text))) == text

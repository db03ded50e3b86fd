"""One row for a kind: what it says of each kind of the book, and that its ink stays its own."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

import pytest

from orvik.core.ink.primitives import Text, walk
from orvik.core.lettering import BOLD, cap_height
from orvik.core.sheet.parts.explanation.kind_rows import kind_rows
from orvik.core.sheet.parts.explanation.row_edits import RowEdits
from orvik.core.sheet.parts.explanation.row_ink import RowLook, Where, row_height, row_ink
from orvik.core.sheet.parts.explanation.rows import ExplanationRow, new_keys, symbol_rows
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.specimen import Form, reach_of
from orvik.core.symbols.symbol import Symbol

BOOK = standard()
KINDS = {key: symbols for key, symbols in BOOK.by_kind.items() if symbols[0].explained and not symbols[0].aid}
# Every form that a symbol can be shown in.
FORMS = [Form(*flags) for flags in itertools.product((False, True), repeat=4)]


def joined(symbols: Sequence[Symbol], forms: Sequence[Form] = (Form(),)) -> list[ExplanationRow]:
    return kind_rows(symbols, {symbol.id: forms for symbol in symbols}, BOOK, True)


def test_a_contact_is_explained_in_the_words_of_the_trade() -> None:
    """Common practice of geologic surveys; the example is the one of our brief."""
    (row,) = joined(KINDS["lines", "contact"], [Form(), Form(questionable=True)])
    assert f"{row.name}: {row.text[0].lower()}{row.text[1:]}" == (
        "Contact: solid where certain, long dashed where approximate, short dashed where inferred, dotted where "
        "concealed, queried where identity is questionable"
    )
    assert row.heading == "Contacts"
    assert len(row.joined) == 5


@pytest.mark.parametrize(
    ("kind", "certainties", "words"),
    [
        ("contact", ("certain",), ""),
        ("contact", ("inferred",), "Dashed where inferred"),
        ("contact", ("certain", "approximate"), "Solid where certain, dashed where approximate"),
        ("normal_fault", ("certain",), "Bar and ball on the downthrown block"),
        (
            "normal_fault",
            ("certain", "concealed"),
            "Solid where certain, dotted where concealed; bar and ball on the downthrown block",
        ),
        ("thrust", ("approximate",), "Dashed where approximate; teeth on the upper plate"),
        ("shoreline", ("certain", "approximate"), "Solid where certain, dashed where approximate; mean high water"),
        # All three are dots: the specimen tells them apart.
        (
            "gradational_contact",
            ("certain", "approximate", "concealed"),
            "Certain, approximate, concealed, from left to right; "
            "one unit passes into the other within the dotted band",
        ),
    ],
)
def test_only_what_is_shown_is_told(kind: str, certainties: Sequence[str], words: str) -> None:
    (row,) = joined([symbol for symbol in KINDS["lines", kind] if symbol.certainty in certainties])
    assert row.text == words


@pytest.mark.parametrize("key", sorted(KINDS), ids=" ".join)
def test_every_kind_of_the_book_tells_its_certainties_apart_and_speaks_of_the_ground(key: tuple[str, str]) -> None:
    symbols = KINDS[key]  # type: ignore[index]
    for row in joined(symbols, FORMS):
        assert row.name
        # Advice for who draws is not printed.
        assert not {"note", "printed", "compiling"} & set(row.text.lower().replace(",", "").split()), row.text
        assert not row.text.endswith(".")
        assert row.text[:1] == row.text[:1].upper()
        own = [symbol for symbol in symbols if any(symbol is shown for shown, _ in row.joined)]
        if key[0] == "lines" and len(own) > 1:
            for symbol in own:
                assert row.text.lower().count(symbol.certainty) == 1, row.text
        if any(caption.of == "inclination" for symbol in own for caption in symbol.captions) and key[0] == "points":
            assert "figure gives" in row.text
        # What it explains is what rows for each symbol would.
        apart = [one.key for symbol in own for one in symbol_rows(symbol, FORMS)]
        assert set(row.covers) == set(apart)


@pytest.mark.parametrize("full", [1.0, 0.5])
@pytest.mark.parametrize("key", sorted(KINDS), ids=" ".join)
def test_no_ink_of_a_row_touches_the_next(key: tuple[str, str], full: float) -> None:
    look = RowLook(BOOK, True, full)
    for row, k, width in itertools.product(joined(KINDS[key], FORMS), (1.0, 0.75), (60.0, 90.0)):  # type: ignore[index]
        height = row_height(row, width * k, k, look)
        items = list(walk(row_ink(row, Where(10.0, 20.0, width * k), k, look)))
        above, below = reach_of(items)
        assert above >= 20.0 - 0.02, row.name
        assert below <= 20.0 + height - 0.5 * k, row.name
        for item in items:
            if isinstance(item, Text):
                assert item.at[0] + item.offset[0] + item.run.x[0] + item.run.width <= 10.0 + width * k + 0.05
        assert any(isinstance(item, Text) and item.run.font == BOLD for item in items)


def test_the_figure_of_a_sign_stands_clear_of_the_signs_around_it() -> None:
    """A column of readings, each with its figure: no figure within another row's ink."""
    look = RowLook(BOOK)
    rows = [row for (table, _), symbols in KINDS.items() if table == "points" for row in joined(symbols)]
    y = 0.0
    last = 0.0
    for row in rows:
        above, below = reach_of(list(walk(row_ink(row, Where(0.0, y, 80.0), 1.0, look))))
        assert above >= last + 0.3 or not last, row.name
        last = below
        y += row_height(row, 80.0, 1.0, look)


def test_its_key_does_not_depend_on_what_else_is_shown() -> None:
    for symbols in KINDS.values():
        for symbol in symbols:
            (alone,) = joined([symbol])
            assert alone.key in {row.key for row in joined(symbols)}


def test_a_further_certainty_is_nothing_new_and_a_kind_that_was_listed_one_by_one_neither() -> None:
    contact = KINDS["lines", "contact"]
    (row,) = joined(contact[:1])
    known = RowEdits(known=(row.key, *row.covers))
    assert new_keys(joined(contact), known) == []
    one_by_one = [one for symbol in contact[:1] for one in symbol_rows(symbol, [Form()])]
    assert new_keys(one_by_one, known) == []
    assert new_keys(joined(contact), RowEdits(known=tuple(one.key for one in one_by_one))) == []
    assert new_keys(joined(KINDS["lines", "fault"]), known) == ["kind lines fault"]


def test_letters_of_sentences_are_large_enough_to_be_read() -> None:
    look = RowLook(BOOK)
    (row,) = joined(KINDS["lines", "contact"])
    sizes = {i.run.size for i in walk(row_ink(row, Where(0, 0, 80), 1.0, look)) if isinstance(i, Text)}
    assert min(cap_height(size) for size in sizes) >= 1.8

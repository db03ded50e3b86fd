"""Rows of an explanation that join what features of one kind look like, with a sentence that tells it apart."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from orvik.core.features.feature import CERTAINTIES
from orvik.core.sheet.parts.explanation.rows import ExplanationRow, symbol_rows
from orvik.core.sheet.parts.explanation.sentences import Shown, line_sentence, point_sentence, told
from orvik.core.symbols.specimen import Form
from orvik.core.symbols.symbol import Symbol
from orvik.core.symbols.symbol_book import SymbolBook


def kind_rows(
    symbols: Sequence[Symbol], forms: Mapping[str, Sequence[Form]], book: SymbolBook, headings: bool
) -> list[ExplanationRow]:
    """One row for a kind of lines with all its certainties, for a reading with its estimated and doubtful forms.

    Parameters
    ----------
    symbols
        Those shown, in the order of the book.
    forms
        How features show each of them, by its id.
    headings
        Whether the families of the book stand above them.
    """
    groups: dict[str, list[Symbol]] = {}
    for symbol in symbols:
        groups.setdefault(_group(symbol, book), []).append(symbol)
    rows = [_row(key, group, forms, book, headings) for key, group in groups.items()]
    # Lines, areas and points of one family stand below one heading, where the first of them stands in the book; what
    # the project has made for itself comes last.
    order = {family: i for i, family in enumerate(dict.fromkeys(row.heading for row in rows))}
    return sorted(rows, key=lambda row: (_kind_of(row) in book.custom_kinds, order[row.heading]))


def _kind_of(row: ExplanationRow) -> str:
    return row.shows.kind if isinstance(row.shows, Symbol) else ""


def _group(symbol: Symbol, book: SymbolBook) -> str:
    """The key of the row that a symbol is joined in."""
    rule = "-".join(symbol.id.split("-", 2)[:2]) if symbol.id.startswith("rule-") else ""
    of = " ".join(word for word in (symbol.table, symbol.kind, rule) if word)
    if symbol.table == "areas" or (symbol.table == "points" and symbol.kind in book.custom_kinds):
        return f"kind {of} {symbol.id}"
    if symbol.table == "points" and symbol.inclination is not None:
        return f"kind {of} {symbol.inclination[0]:g}-{symbol.inclination[1]:g}"
    return f"kind {of}"


def _row(
    key: str, symbols: Sequence[Symbol], forms: Mapping[str, Sequence[Form]], book: SymbolBook, headings: bool
) -> ExplanationRow:
    shown: list[Shown] = [(symbol, form) for symbol in symbols for form in forms[symbol.id]]
    first = symbols[0]
    sentence = {"lines": line_sentence, "points": point_sentence}.get(first.table)
    return ExplanationRow(
        key,
        first,
        _name(symbols, book),
        text=sentence(shown) if sentence else told(first),
        heading=first.family if headings else "",
        joined=tuple(_drawn(shown)),
        covers=tuple(row.key for symbol in symbols for row in symbol_rows(symbol, forms[symbol.id])),
    )


def _name(symbols: Sequence[Symbol], book: SymbolBook) -> str:
    first = symbols[0]
    if first.table == "lines" and not first.id.startswith("rule-"):
        return book.kind_title(first.table, first.kind)
    name = first.title
    for certainty in CERTAINTIES:
        name = name.removesuffix(f", {certainty}")
    return name


def _drawn(shown: Sequence[Shown]) -> list[Shown]:
    """What the specimen shows: of each symbol the form that shows most, bands and lines apart, and one in doubt."""
    plain: dict[tuple[str, bool], Shown] = {}
    for symbol, form in shown:
        at = (symbol.id, form.band)
        if not form.questionable and (at not in plain or _much(form) > _much(plain[at][1])):
            plain[at] = (symbol, form)
    doubted = [one for one in shown if one[1].questionable]
    if not plain:
        return doubted[:1]
    return [*sorted(plain.values(), key=lambda one: not one[1].band), *doubted[:1]]


def _much(form: Form) -> tuple[bool, bool]:
    return form.dips, form.plunges

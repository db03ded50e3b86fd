"""Which symbols features take, and how they look in each: what an explanation has to explain."""

from __future__ import annotations

from collections.abc import Iterator

from orvik.core.features.feature import Features
from orvik.core.symbols.portrayal.line_ink import part_symbols
from orvik.core.symbols.specimen import Form
from orvik.core.symbols.symbol import Symbol
from orvik.core.symbols.symbol_book import SymbolBook


def shown_forms(features: Features, book: SymbolBook) -> dict[str, list[Form]]:
    """The forms in which features show each symbol, by its id; plain ones first, those in doubt last."""
    found: dict[str, set[Form]] = {}
    for symbol, form in _lines(features, book) if features.table == "lines" else _others(features, book):
        if not symbol.left_out:
            found.setdefault(symbol.id, set()).add(form)
    return {name: sorted(forms, key=_order) for name, forms in found.items()}


def _order(form: Form) -> tuple[bool, ...]:
    return form.questionable, not form.band, form.dips, form.plunges


def _lines(lines: Features, book: SymbolBook) -> Iterator[tuple[Symbol, Form]]:
    columns = lines.columns
    whole = book.symbols_of(lines)
    for row, symbol in part_symbols(lines, book):
        band = columns["band"][row]
        dips = band is not None and bool(band.dips) and columns["inclination"][row] is not None
        plunges = columns["azimuth"][row] is not None and any(o.place == "plunge" for o in symbol.ornaments)
        form = Form(band is not None, dips and symbol.certainty != "concealed", plunges)
        if columns["questionable"][row] and symbol is whole[row]:
            # The query of a line stands in its middle, in the colour of the line as a whole.
            form = Form(form.band, form.dips, form.plunges, True)
        yield symbol, form


def _others(features: Features, book: SymbolBook) -> Iterator[tuple[Symbol, Form]]:
    for row, symbol in enumerate(book.symbols_of(features)):
        written = any(caption.of == "inclination" for caption in symbol.captions)
        has = features.columns["inclination"][row] is not None if written else False
        yield symbol, Form(questionable=bool(features.columns["questionable"][row]) and has)

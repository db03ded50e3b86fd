"""The rows that a panel gives rise to: what it really shows."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from orvik.core.features.kind import UNIT_AREA
from orvik.core.features.map_unit import stratigraphic_order
from orvik.core.features.table import Table
from orvik.core.sheet.panels.map_context import MapContext
from orvik.core.sheet.panels.printed_units import UNITS, shown_units
from orvik.core.sheet.parts.explanation.kind_rows import kind_rows
from orvik.core.sheet.parts.explanation.rows import ExplanationRow, symbol_rows, unit_row
from orvik.core.symbols.shown_forms import shown_forms
from orvik.core.symbols.specimen import Form
from orvik.core.symbols.symbol import Symbol

# Symbols follow the units in this order.
TABLE_ORDER: tuple[Table, ...] = ("lines", "areas", "points")
ROWS_FOR = {"kind": "each kind, in a sentence", "symbol": "each symbol"}
# The layer of a panel that symbols of a table are printed in.
PRINTED_IN: Mapping[Table, str] = {"lines": "linework", "areas": UNITS, "points": "attitudes"}


def rows_of(
    context: MapContext, layers: Sequence[Symbol], opacities: Mapping[str, float], headings: str, by: str
) -> list[ExplanationRow]:
    """The rows that a panel gives rise to: units in stratigraphic order, then lines, areas and points, then layers.

    Parameters
    ----------
    context
        The map as the panel shows it.
    layers
        The symbols of the reference layers that it prints.
    opacities
        How strongly it prints each of its layers, 0 to 1, where not in full: what is not printed has no row, and
        boxes have the colour that comes of the tints on white.
    headings
        A name of ``HEADINGS``.
    by
        A name of ``ROWS_FOR``.
    """
    shown = {table: found for table, found in context.features.items() if opacities.get(PRINTED_IN[table], 1.0) > 0}
    units = stratigraphic_order([context.units[code] for code in shown_units(context, opacities)])
    forms: dict[str, list[Form]] = {}
    for features in shown.values():
        forms |= shown_forms(features, context.book)
    listed = [symbol for symbol in context.book.listed if symbol.id in forms and _is_explained(symbol)]
    symbols = [symbol for table in TABLE_ORDER for symbol in listed if symbol.table == table]
    if by == "kind":
        signs = kind_rows(symbols, forms, context.book, headings != "none")
    else:
        signs = [row for symbol in symbols for row in symbol_rows(symbol, forms[symbol.id])]
    return [
        *(unit_row(unit, context.units, opacities, headings) for unit in units),
        *signs,
        *(ExplanationRow(f"layer {symbol.id}", symbol, symbol.title) for symbol in layers),
    ]


def _is_explained(symbol: Symbol) -> bool:
    """Whether a symbol has a row: what is not printed has none, and unit areas have their boxes."""
    return symbol.explained and not symbol.aid and symbol.kind != UNIT_AREA

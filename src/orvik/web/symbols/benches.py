"""The benches of Symbols, and what their pages have in common: the column at the left and the selected unit."""

from __future__ import annotations

from typing import Any

from orvik.store.tables.emphasis import emphasis_rows
from orvik.store.tables.symbol_book import drawn_symbols
from orvik.store.tables.symbol_rules import rule_rows
from orvik.web.session.workspace import Workspace
from orvik.web.symbols.units import column_values, slip_values


def bench_values(workspace: Workspace, bench: str) -> dict[str, Any]:
    """What the page of a bench shows beside its own."""
    values = column_values(workspace)
    units = values["units"]
    benches = [
        ("book", "", "Symbol book", len({(symbol.table, symbol.kind) for symbol in workspace.book.symbols})),
        ("draw", "/draw", "Draw a symbol", len(drawn_symbols(workspace.project)) or None),
        ("conditions", "/conditions", "Conditional symbols", len(rule_rows(workspace.project)) or None),
        # Counted by a worker, and asked for when the page is there.
        ("colours", "/colours", "Colours that meet", None),
        ("emphases", "/emphases", "Emphasis", len(emphasis_rows(workspace.project)) or None),
        ("labels", "/labels", "Labels", None),
    ]
    return {"bench": bench, "benches": benches, **values, **slip_values(workspace, units[0] if units else None)}

"""The benches of Signs, and what their pages have in common: the column at the left and the unit in hand."""

from __future__ import annotations

from typing import Any

from orvik.store.emphasis import theme_rows
from orvik.store.symbol_book import drawn_signs
from orvik.store.symbol_rules import rule_rows
from orvik.web.session.workspace import Workspace
from orvik.web.signs.units import column_values, slip_values


def bench_values(workspace: Workspace, bench: str) -> dict[str, Any]:
    """What the page of a bench shows beside its own."""
    values = column_values(workspace)
    units = values["units"]
    benches = [
        ("book", "", "Sign book", len({(sign.table, sign.kind) for sign in workspace.book.signs})),
        ("draw", "/draw", "Draw a sign", len(drawn_signs(workspace.project)) or None),
        ("conditions", "/conditions", "Signs on condition", len(rule_rows(workspace.project)) or None),
        # Counted by a worker, and asked for when the page is there.
        ("colours", "/colours", "Colours that meet", None),
        ("themes", "/themes", "Themes", len(theme_rows(workspace.project)) or None),
        ("labels", "/labels", "Labels", None),
    ]
    return {"bench": bench, "benches": benches, **values, **slip_values(workspace, units[0] if units else None)}

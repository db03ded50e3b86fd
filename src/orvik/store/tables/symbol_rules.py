"""Conditional symbols as they are kept."""

from __future__ import annotations

import sqlite3

from orvik.core.symbols.symbol_rule import SymbolRule
from orvik.store import rows
from orvik.store.journal import Change
from orvik.store.reader import Fault, Reader


def rule_rows(project: Reader) -> list[tuple[int, SymbolRule]]:
    """The conditional symbols of a project with the ids of their rows, in order; a row that holds none is left out."""
    return [(row["id"], _rule(row)) for row in project.symbol_rules() if not rows.refusals(_rule, row)]


def row_faults(project: Reader) -> list[Fault]:
    """Rows that hold no conditional symbol, each with what is wrong with it."""
    return [
        Fault("symbol_rules", row["id"], why) for row in project.symbol_rules() for why in rows.refusals(_rule, row)
    ]


def rule_change(row_id: int | None, rule: SymbolRule, position: int) -> Change:
    """The change that keeps a conditional symbol, new or changed."""
    values = {"family": rule.table, "kind": rule.kind, "body": rule.body, "position": position}
    return Change("symbol_rules", row_id, values)


def _rule(row: sqlite3.Row) -> SymbolRule:
    return SymbolRule.of(row["family"], row["kind"], row["body"])

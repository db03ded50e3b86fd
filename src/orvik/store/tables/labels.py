"""Labels as they are kept: what hands have done to them, and what the labels of kinds say."""

from __future__ import annotations

import math
import sqlite3
from collections.abc import Mapping

from orvik.core.errors import FeatureRefused
from orvik.core.features.table import TABLES, Table
from orvik.core.labels.label_move import LabelMove
from orvik.core.labels.label_request import LabelKey
from orvik.core.labels.label_requests import Written
from orvik.core.labels.label_rule import LabelRule
from orvik.store import rows
from orvik.store.journal import Change
from orvik.store.reader import Fault, Reader
from orvik.store.tables.symbol_book import symbol_book_of


def written_of(project: Reader) -> Written:
    """What is written on the map of a project."""
    return Written(symbol_book_of(project), project.units_by_code(), project.crs, label_rules(project))


def label_moves(project: Reader) -> list[tuple[int, LabelMove]]:
    """What hands have done to labels, with the ids of the rows; a row that holds nothing of the kind is left out."""
    return [(row["id"], _move(row)) for row in project.label_moves() if not rows.refusals(_move, row)]


def move_change(row_id: int | None, move: LabelMove) -> Change:
    """The change that keeps a move, new or changed; one that leaves nothing of it is taken away."""
    if move.empty:
        return Change("label_moves", row_id, None)
    x, y = move.at if move.at is not None else (None, None)
    values = {
        "family": move.key.table,
        "feature": move.key.id,
        "number": move.key.number,
        "scope": move.scope,
        "x": x,
        "y": y,
        "angle": move.angle,
        "hidden": int(move.hidden),
    }
    return Change("label_moves", row_id, values)


def label_rules(project: Reader) -> Mapping[tuple[Table, str], LabelRule]:
    """What the labels of kinds say, where that is not as their symbols have it."""
    return {(rule.table, rule.kind): rule for _, rule in rule_rows(project)}


def rule_rows(project: Reader) -> list[tuple[int, LabelRule]]:
    """The rules with the ids of their rows."""
    return [(row["id"], _rule(row)) for row in project.label_rules() if not rows.refusals(_rule, row)]


def rule_change(row_id: int | None, rule: LabelRule) -> Change:
    """The change that keeps a rule, new or changed."""
    values = {
        "family": rule.table,
        "kind": rule.kind,
        "pattern": rule.pattern,
        "size": rule.size,
        "italic": int(rule.italic),
        "placing": rule.placing,
    }
    return Change("label_rules", row_id, values)


def row_faults(project: Reader) -> list[Fault]:
    """Rows that hold no move and no rule of labels, each with what is wrong with it."""
    moves = [Fault("label_moves", row["id"], why) for row in project.label_moves() for why in rows.refusals(_move, row)]
    rules = [Fault("label_rules", row["id"], why) for row in project.label_rules() for why in rows.refusals(_rule, row)]
    return moves + rules


def _move(row: sqlite3.Row) -> LabelMove:
    placed = row["x"] is not None and row["y"] is not None
    at = (float(row["x"]), float(row["y"])) if placed else None
    if at is not None and not all(math.isfinite(v) for v in at):
        raise FeatureRefused("This label is nowhere.")
    key = LabelKey(_table(row["family"]), int(row["feature"]), int(row["number"]))
    return LabelMove(key, int(row["scope"]), at, row["angle"], bool(row["hidden"]))


def _rule(row: sqlite3.Row) -> LabelRule:
    values = row["pattern"], float(row["size"]), bool(row["italic"]), row["placing"]
    return LabelRule(_table(row["family"]), row["kind"], *values)


def _table(name: str) -> Table:
    for table in TABLES:
        if table == name:
            return table
    raise FeatureRefused("Labels are of lines, areas or points.")

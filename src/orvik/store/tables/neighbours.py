"""Neighbouring sheets in the project file."""

from __future__ import annotations

import sqlite3

from orvik.core.joins.neighbour import Edge, Neighbour
from orvik.store import rows
from orvik.store.journal import Change
from orvik.store.reader import Fault, Reader

_NAMES = ("name", "sheet_number", "place", "file", "read")


def neighbours(project: Reader) -> list[Neighbour]:
    """The neighbouring sheets; rows that hold nothing of the sort are left out."""
    return [_neighbour(row) for row in project.neighbours() if not rows.refusals(_neighbour, row)]


def row_faults(project: Reader) -> list[Fault]:
    """Rows that hold no neighbour, each with what is wrong with it."""
    return [
        Fault("neighbours", row["id"], why) for row in project.neighbours() for why in rows.refusals(_neighbour, row)
    ]


def neighbour_change(kept: Neighbour) -> Change:
    """The change that keeps a neighbour, in a row of its own or one that is there."""
    values = {name: getattr(kept, name) for name in _NAMES}
    edge = kept.edge.json if kept.edge != Edge() else ""
    return Change("neighbours", kept.id, values | {"edge": edge})


def _neighbour(row: sqlite3.Row) -> Neighbour:
    values = {name: str(row[name]) for name in _NAMES}
    edge = Edge.of_json(row["edge"]) if row["edge"] else Edge()
    return Neighbour(**values, edge=edge, id=row["id"])

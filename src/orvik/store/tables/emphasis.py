"""Emphases as they are kept."""

from __future__ import annotations

import sqlite3

from orvik.core.symbols.emphasis import Emphasis
from orvik.store import rows
from orvik.store.journal import Change
from orvik.store.reader import Fault, Reader


def emphasis_rows(project: Reader) -> list[tuple[int, Emphasis]]:
    """The emphases of a project with the ids of their rows; a row that holds none is left out."""
    return [(row["id"], _emphasis(row)) for row in project.emphases() if not rows.refusals(_emphasis, row)]


def row_faults(project: Reader) -> list[Fault]:
    """Rows that hold no emphasis, each with what is wrong with it."""
    return [Fault("emphases", row["id"], why) for row in project.emphases() for why in rows.refusals(_emphasis, row)]


def emphasis_change(row_id: int | None, emphasis: Emphasis, position: int) -> Change:
    """The change that keeps an emphasis, new or changed."""
    return Change("emphases", row_id, {"name": emphasis.name, "body": emphasis.body, "position": position})


def _emphasis(row: sqlite3.Row) -> Emphasis:
    return Emphasis.of(row["name"], row["body"])

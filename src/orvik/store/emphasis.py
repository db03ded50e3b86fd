"""Themes as they are kept."""

from __future__ import annotations

import sqlite3

from orvik.core.symbols.emphasis import Theme
from orvik.store import rows
from orvik.store.journal import Change
from orvik.store.reader import Fault, Reader


def theme_rows(project: Reader) -> list[tuple[int, Theme]]:
    """The themes of a project with the ids of their rows; a row that holds none is left out."""
    return [(row["id"], _theme(row)) for row in project.themes() if not rows.refusals(_theme, row)]


def row_faults(project: Reader) -> list[Fault]:
    """Rows that hold no theme, each with what is wrong with it."""
    return [Fault("themes", row["id"], why) for row in project.themes() for why in rows.refusals(_theme, row)]


def theme_change(row_id: int | None, theme: Theme, position: int) -> Change:
    """The change that keeps a theme, new or changed."""
    return Change("themes", row_id, {"name": theme.name, "body": theme.body, "position": position})


def _theme(row: sqlite3.Row) -> Theme:
    return Theme.of(row["name"], row["body"])

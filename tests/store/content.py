"""All that a project file holds, to compare it before and after."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from pathlib import Path

from orvik.core.features.table import SECTION_TABLES, TABLES
from orvik.store.journal import JOURNALED


def content(path: Path) -> dict[str, list[tuple[object, ...]]]:
    """Every row of every table that edits change, and the R-trees."""
    connection = sqlite3.connect(path)
    try:
        tables = [*sorted(JOURNALED), *(f"rtree_{t}_geom" for t in (*TABLES, *SECTION_TABLES.values()))]
        return {t: connection.execute(f"SELECT * FROM {t} ORDER BY 1").fetchall() for t in tables}
    finally:
        connection.close()


def copied(path: Path, target: Path) -> None:
    """A whole copy of a project file, also while it is open elsewhere."""
    with closing(sqlite3.connect(path)) as source, closing(sqlite3.connect(target)) as copy:
        source.backup(copy)

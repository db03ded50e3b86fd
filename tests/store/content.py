"""All that a project file holds, to compare it before and after."""

from __future__ import annotations

import sqlite3
from pathlib import Path

from orvik.core.features.feature import TABLES


def content(path: Path) -> dict[str, list[tuple[object, ...]]]:
    """Every row of every table that edits change, and the R-trees."""
    connection = sqlite3.connect(path)
    try:
        tables = [*TABLES, "units", "sources", "sheets", "parts", "project", "kinds", "stations"]
        tables += [f"rtree_{t}_geom" for t in TABLES]
        return {t: connection.execute(f"SELECT * FROM {t} ORDER BY id").fetchall() for t in tables}
    finally:
        connection.close()

"""Bringing a project file of an earlier form up to the present one."""

from __future__ import annotations

import sqlite3

from .creation import ATTRIBUTE_TABLES, SCHEMA, statements

_NEW_COLUMNS = {
    "lines": ("stretches", "knots", "band", "fields"),
    "areas": ("fields",),
    "points": ("fields",),
}


def is_current(connection: sqlite3.Connection) -> bool:
    """Whether a file has all that the present form has."""
    held = {row[0] for row in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    return set(ATTRIBUTE_TABLES) <= held and not any(_missing(connection, table) for table in _NEW_COLUMNS)


def upgrade(connection: sqlite3.Connection) -> None:
    """Add the columns and tables that are missing, in one transaction; what is there stays as it is."""
    if is_current(connection):
        return
    connection.execute("BEGIN IMMEDIATE")
    try:
        for table in _NEW_COLUMNS:
            for name in _missing(connection, table):
                connection.execute(f"ALTER TABLE {table} ADD COLUMN {name} TEXT NOT NULL DEFAULT ''")
        held = {row[0] for row in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
        script = statements(SCHEMA.read_text(encoding="utf-8"))
        for table in ATTRIBUTE_TABLES:
            if table in held:
                continue
            connection.execute(next(s for s in script if f"CREATE TABLE {table} (" in s))
            connection.execute(
                "INSERT INTO gpkg_contents (table_name, data_type, identifier) VALUES (?, 'attributes', ?)",
                (table, table),
            )
        connection.execute("COMMIT")
    except BaseException:
        connection.execute("ROLLBACK")
        raise


def _missing(connection: sqlite3.Connection, table: str) -> list[str]:
    held = {row[1] for row in connection.execute(f"PRAGMA table_info({table})")}
    return [name for name in _NEW_COLUMNS[table] if name not in held]

"""Bringing a project file of an earlier form up to the present one."""

from __future__ import annotations

import re
import sqlite3
from functools import lru_cache

from orvik.store.creation import ATTRIBUTE_TABLES, SCHEMA, statements


@lru_cache(maxsize=1)
def _present() -> dict[str, dict[str, str]]:
    """Each table of the schema with the definitions of its columns."""
    scratch = sqlite3.connect(":memory:")
    try:
        scratch.executescript(SCHEMA.read_text(encoding="utf-8"))
        names = [row[0] for row in scratch.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
        return {
            name: {
                column: f"{kind} {'NOT NULL' if required else ''} {f'DEFAULT {default}' if default is not None else ''}"
                for _, column, kind, required, default, _ in scratch.execute(f"PRAGMA table_info({name})")
            }
            for name in names
            if not name.startswith("sqlite_")
        }
    finally:
        scratch.close()


def is_current(connection: sqlite3.Connection) -> bool:
    """Whether a file has all that the present form has."""
    return all(set(columns) <= _held(connection, table) for table, columns in _present().items())


def upgrade(connection: sqlite3.Connection) -> None:
    """Add the columns, tables and indexes that are missing; what is there stays as it is."""
    if not is_current(connection):
        _add_all(connection)
    _add_indexes(connection)


def _add_indexes(connection: sqlite3.Connection) -> None:
    """Indexes make reading quick and change nothing else."""
    there = {row[0] for row in connection.execute("SELECT name FROM sqlite_master WHERE type = 'index'")}
    for statement in statements(SCHEMA.read_text(encoding="utf-8")):
        name = re.match(r"CREATE INDEX (\w+) ", statement.strip())
        if name and name[1] not in there:
            connection.execute(statement)


def _add_all(connection: sqlite3.Connection) -> None:
    """Tables and columns that are missing, in one transaction."""
    script = statements(SCHEMA.read_text(encoding="utf-8"))
    connection.execute("BEGIN IMMEDIATE")
    try:
        for table, columns in _present().items():
            held = _held(connection, table)
            if not held:
                connection.execute(next(s for s in script if f"CREATE TABLE {table} (" in s))
                if table in ATTRIBUTE_TABLES:
                    connection.execute(
                        "INSERT INTO gpkg_contents (table_name, data_type, identifier) VALUES (?, 'attributes', ?)",
                        (table, table),
                    )
                continue
            for name in columns:
                if name not in held:
                    connection.execute(f"ALTER TABLE {table} ADD COLUMN {name} {columns[name]}")
        connection.execute("COMMIT")
    except BaseException:
        connection.execute("ROLLBACK")
        raise


def _held(connection: sqlite3.Connection, table: str) -> set[str]:
    return {row[1] for row in connection.execute(f"PRAGMA table_info({table})")}

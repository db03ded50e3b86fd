"""Bringing a project file of an earlier form up to the present one, a numbered step at a time.

A step says what it adds as it was when it was written; what the schema says today is no part of it. Files from before
forms were numbered may have some of a step already: what is there stays as it is.
"""

from __future__ import annotations

import sqlite3

from orvik.core.errors import ProjectRefused
from orvik.store.forms.steps import MIGRATIONS, Migration

PRESENT = MIGRATIONS[-1].to


def form_of(connection: sqlite3.Connection) -> int:
    """The form that a file states; 1 for one from before forms were numbered."""
    if "forms" not in _names(connection, "table"):
        return 1
    return int(connection.execute("SELECT coalesce(max(id), 1) FROM forms").fetchone()[0])


def migrate(connection: sqlite3.Connection) -> None:
    """Take a file to the present form, in one transaction; what is in it stays as it is.

    Raises
    ------
    ProjectRefused
        The file is of a later form.
    """
    form = form_of(connection)
    if form > PRESENT:
        raise ProjectRefused("This project was made by a later Orvik; open it with that one, or one later still.")
    if form == PRESENT:
        return
    connection.execute("BEGIN IMMEDIATE")
    try:
        for migration in MIGRATIONS:
            if migration.to > form:
                _carry_out(connection, migration)
        state(connection)
        connection.execute("COMMIT")
    except BaseException:
        connection.execute("ROLLBACK")
        raise


def state(connection: sqlite3.Connection) -> None:
    """Note in a file that it has the present form."""
    connection.execute("INSERT INTO forms (id) VALUES (?)", (PRESENT,))


def _carry_out(connection: sqlite3.Connection, migration: Migration) -> None:
    for statement in migration.tables:
        name = statement.split()[2]
        if name not in _names(connection, "table"):
            connection.execute(statement)
            connection.execute(
                "INSERT INTO gpkg_contents (table_name, data_type, identifier) VALUES (?, 'attributes', ?)",
                (name, name),
            )
    for table, columns in migration.columns.items():
        held = {row[1] for row in connection.execute(f"PRAGMA table_info({table})")}
        for name, definition in columns.items():
            if name not in held:
                connection.execute(f"ALTER TABLE {table} ADD COLUMN {name} {definition}")
    there = _names(connection, "index")
    for statement in migration.indexes:
        if statement.split()[2] not in there:
            connection.execute(statement)
    for statement in migration.statements:
        connection.execute(statement)
    if migration.then is not None:
        migration.then(connection)


def _names(connection: sqlite3.Connection, kind: str) -> set[str]:
    return {row[0] for row in connection.execute("SELECT name FROM sqlite_master WHERE type = ?", (kind,))}

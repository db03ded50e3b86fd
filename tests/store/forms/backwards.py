"""A project file of the present form put back to how form 13 named things."""

from __future__ import annotations

import json
import sqlite3
from typing import Any

from orvik.core.symbols.renamed import NAMES
from orvik.store.forms.renaming import COLUMNS, TABLES

_OLD = {now: old for old, now in NAMES.items()}
# All columns that hold JSON; written down here again, so that one which the migration forgets is found.
JSON_COLUMNS = ("body", "settings", "layout", "sheet", "state", "look")


def old_words(value: Any) -> Any:
    """What JSON gives, with the names of form 13."""
    if isinstance(value, dict):
        return {_OLD.get(name, _old_key(name)): old_words(held) for name, held in value.items()}
    if isinstance(value, list):
        return [_old_key(one) if isinstance(one, str) else old_words(one) for one in value]
    return value


def _old_key(name: str) -> str:
    return "sign " + name.removeprefix("symbol ") if name.startswith("symbol ") else name


def old_text(text: str) -> str:
    """A text of JSON with the names of form 13."""
    return json.dumps(old_words(json.loads(text)), ensure_ascii=False, separators=(",", ":")) if text else text


def back_to_18(connection: sqlite3.Connection) -> None:
    """Put a file back to where sections were a table of what is asked of them, and nothing was drawn on them."""
    connection.execute("DROP VIEW sections")
    connection.execute("ALTER TABLE section_settings RENAME TO sections")
    for name in ("section_lines", "section_areas", "section_points"):
        connection.execute(f"DROP TABLE rtree_{name}_geom")
        connection.execute(f"DROP TABLE {name}")
        for listed in ("gpkg_contents", "gpkg_geometry_columns", "gpkg_extensions"):
            connection.execute(f"DELETE FROM {listed} WHERE table_name = ?", (name,))
    connection.execute("DELETE FROM gpkg_geometry_columns WHERE table_name = 'sections'")
    connection.execute("DELETE FROM gpkg_contents WHERE table_name = 'sections'")
    connection.execute(
        "UPDATE gpkg_contents SET table_name = 'sections', identifier = 'sections' "
        "WHERE table_name = 'section_settings'"
    )
    connection.execute("UPDATE journal SET changes = replace(changes, '[\"section_settings\", ', '[\"sections\", ')")
    connection.execute("DELETE FROM forms")
    connection.execute("INSERT INTO forms (id) VALUES (18)")


def back_to_13(connection: sqlite3.Connection) -> None:
    """Put a file back; its connection has our functions. The rows stay what they are."""
    back_to_18(connection)
    for (table,) in connection.execute("SELECT table_name FROM gpkg_contents").fetchall():
        for column in [row[1] for row in connection.execute(f"PRAGMA table_info({table})")]:
            if column in JSON_COLUMNS:
                for number, text in connection.execute(f"SELECT id, {column} FROM {table}").fetchall():
                    connection.execute(f"UPDATE {table} SET {column} = ? WHERE id = ?", (old_text(text), number))
    for number, changes, blobs in connection.execute("SELECT id, changes, blobs FROM journal").fetchall():
        packed = [_old_change(blobs, *one) for one in json.loads(changes)]
        connection.execute("UPDATE journal SET changes = ? WHERE id = ?", (json.dumps(packed), number))
    for table, columns in COLUMNS.items():
        for old, now in columns.items():
            connection.execute(f"ALTER TABLE {table} RENAME COLUMN {now} TO {old}")
    for old, now in TABLES.items():
        connection.execute(f"ALTER TABLE {now} RENAME TO {old}")
        connection.execute(
            "UPDATE gpkg_contents SET table_name = ?, identifier = ? WHERE table_name = ?", (old, old, now)
        )
    for index in ("journal_turns", "journal_barriers"):
        connection.execute(f"DROP INDEX {index}")
    connection.execute("ALTER TABLE journal DROP COLUMN blobs")
    connection.execute("DELETE FROM forms")
    connection.execute("INSERT INTO forms (id) VALUES (13)")


def _old_change(blobs: bytes, table: str, number: int, *states: Any) -> list[Any]:
    was = {now: old for old, now in TABLES.items()}.get(table, table)
    out: list[Any] = [was, number]
    for state in states:
        row = state
        if isinstance(state, dict):
            back = {now: old for old, now in COLUMNS.get(table, {}).items()}
            row = {back.get(k, k): v for k, v in state.items()}
            row = {k: _hex(blobs, v) for k, v in row.items()}
            row = {k: old_text(v) if k in JSON_COLUMNS and isinstance(v, str) else v for k, v in row.items()}
        out.append(row)
    return out


def _hex(blobs: bytes, value: Any) -> Any:
    """Geometry as form 13 had it in its journal: hexadecimal, wherever it stood."""
    if not isinstance(value, dict):
        return value
    first, length = value["blob"]
    return {"hex": blobs[first : first + length].hex()}

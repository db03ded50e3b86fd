"""Tables, columns and settings of a project file under the names that they have from form 14 on, and so its journal."""

from __future__ import annotations

import json
import re
import sqlite3
from collections.abc import Mapping
from contextlib import suppress
from typing import Any

from orvik.core.symbols.renamed import renamed

# What the tables of form 13 that have other names now are called; and columns, by their table's present name.
TABLES: Mapping[str, str] = {
    "signs": "symbols",
    "sign_rules": "symbol_rules",
    "themes": "emphases",
    "resting_rules": "turned_off_rules",
}
COLUMNS: Mapping[str, Mapping[str, str]] = {
    "kinds": {"sign": "symbol"},
    "units": {"pattern_strength": "pattern_opacity"},
    "stack": {"strength": "opacity"},
    "drafts": {"seat": "window_id"},
}
# Columns that hold JSON in which there may be old names, by the tables' present names.
_HOLDING: Mapping[str, str] = {
    "symbols": "body",
    "symbol_rules": "body",
    "emphases": "body",
    "parts": "settings",
    "sheets": "layout",
    "templates": "sheet",
    "acceptances": "state",
    "sources": "look",
}
_WORDS = ("sign", "strength", "theme", "resting_rules")
# How findings of the letters of a note were known: by what the kind of their feature was called.
_NOTE = re.compile(r"letters::The note of (.+) (\d+)")


def rename(connection: sqlite3.Connection) -> None:
    """Give tables, columns and settings their present names, in rows and in the journal, so that undoing finds them."""
    there = {row[0] for row in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    for old, new in TABLES.items():
        # The names are of the lists above.
        if old in there and new not in there:
            connection.execute(f"ALTER TABLE {old} RENAME TO {new}")
            connection.execute(
                "UPDATE gpkg_contents SET table_name = ?, identifier = ? WHERE table_name = ?", (new, new, old)
            )
    for table, columns in COLUMNS.items():
        held = {row[1] for row in connection.execute(f"PRAGMA table_info({table})")}
        for old, new in columns.items():
            if old in held and new not in held:
                connection.execute(f"ALTER TABLE {table} RENAME COLUMN {old} TO {new}")
    for table, column in _HOLDING.items():
        listed = connection.execute(f"SELECT id, {column} FROM {table}").fetchall()
        for number, text in listed:
            now = _text_now(text)
            if now != text:
                connection.execute(f"UPDATE {table} SET {column} = ? WHERE id = ?", (now, number))
    for number, key in connection.execute("SELECT id, key FROM acceptances").fetchall():
        connection.execute("UPDATE acceptances SET key = ? WHERE id = ?", (_key_now(connection, key), number))
    _rename_journal(connection)


def _key_now(connection: sqlite3.Connection, key: str) -> str:
    """The key of an acceptance as its finding has it now: with the tables' names, and without what a kind is called."""
    for old, new in TABLES.items():
        key = key.replace(f"::{old} ", f"::{new} ")
    if (note := _NOTE.fullmatch(key)) is None:
        return key
    for table in ("lines", "areas", "points"):
        found = connection.execute(f"SELECT kind FROM {table} WHERE id = ?", (int(note[2]),)).fetchone()
        if found is not None and str(found[0]).replace("_", " ") == note[1]:
            return f"letters::note of {table} {note[2]}"
    return key


def _rename_journal(connection: sqlite3.Connection) -> None:
    """Entry by entry: a journal may be larger than the map."""
    asked = " OR ".join("instr(changes, ?)" for _ in _WORDS)
    for (number,) in connection.execute(f"SELECT id FROM journal WHERE {asked}", _WORDS).fetchall():
        (text,) = connection.execute("SELECT changes FROM journal WHERE id = ?", (number,)).fetchone()
        packed = [_change_now(connection, table, row_id, states) for table, row_id, *states in json.loads(text)]
        now = json.dumps(packed, ensure_ascii=False)
        if now != text:
            connection.execute("UPDATE journal SET changes = ? WHERE id = ?", (now, number))


def _change_now(connection: sqlite3.Connection, table: str, row_id: Any, states: list[Any]) -> list[Any]:
    now = TABLES.get(table, table)
    return [now, row_id, *(_row_now(connection, now, state) for state in states)]


def _row_now(connection: sqlite3.Connection, table: str, row: Any) -> Any:
    if not isinstance(row, Mapping):
        return row
    columns = COLUMNS.get(table, {})
    out = {columns.get(name, name): value for name, value in row.items()}
    holding = _HOLDING.get(table)
    if holding in out:
        out[holding] = _text_now(out[holding])
    if table == "acceptances" and isinstance(out.get("key"), str):
        out["key"] = _key_now(connection, out["key"])
    return out


def _text_now(text: Any) -> Any:
    """What is no JSON, or names nothing old, is left to the letter."""
    if isinstance(text, str) and any(word in text for word in _WORDS):
        with suppress(ValueError, RecursionError):
            held = json.loads(text)
            now = renamed(held)
            if now != held:
                return json.dumps(now, ensure_ascii=False, separators=(",", ":"))
    return text

"""Tables, columns and settings of a project file under the names that they have from form 14 on, and so its journal."""

from __future__ import annotations

import json
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
    for old, new in TABLES.items():
        connection.execute(
            "UPDATE acceptances SET key = replace(key, ?, ?) WHERE instr(key, ?)",
            (f"::{old} ", f"::{new} ", f"::{old} "),
        )
    _rename_journal(connection)


def _rename_journal(connection: sqlite3.Connection) -> None:
    """Entry by entry: a journal may be larger than the map."""
    asked = " OR ".join("instr(changes, ?)" for _ in _WORDS)
    for (number,) in connection.execute(f"SELECT id FROM journal WHERE {asked}", _WORDS).fetchall():
        (text,) = connection.execute("SELECT changes FROM journal WHERE id = ?", (number,)).fetchone()
        packed = [_change_now(table, row_id, states) for table, row_id, *states in json.loads(text)]
        now = json.dumps(packed, ensure_ascii=False)
        if now != text:
            connection.execute("UPDATE journal SET changes = ? WHERE id = ?", (now, number))


def _change_now(table: str, row_id: Any, states: list[Any]) -> list[Any]:
    now = TABLES.get(table, table)
    return [now, row_id, *(_row_now(now, state) for state in states)]


def _row_now(table: str, row: Any) -> Any:
    if not isinstance(row, Mapping):
        return row
    columns = COLUMNS.get(table, {})
    out = {columns.get(name, name): value for name, value in row.items()}
    holding = _HOLDING.get(table)
    if holding in out:
        out[holding] = _text_now(out[holding])
    if table == "acceptances" and isinstance(out.get("key"), str):
        for old, new in TABLES.items():
            out["key"] = out["key"].replace(f"::{old} ", f"::{new} ")
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

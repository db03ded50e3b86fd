"""Kinds that were one thing twice, made one in a project file: features, looks, pens, sheets, and the journal."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterator, Mapping
from contextlib import suppress
from typing import Any

from orvik.core.symbols.joined_kinds import JOINED, SYMBOLS, kind_now, read_now, worn_of

# Tables of form 12 whose rows name a kind of points, with the column that says of which family a row is.
_NAMING: Mapping[str, str] = {"points": "", "stations": "", "pens": "", "label_rules": "family", "sign_rules": "family"}
# Columns of form 12 that hold JSON in which kinds or their symbols may be named.
_HOLDING: Mapping[str, str] = {
    "sign_rules": "body",
    "signs": "body",
    "themes": "body",
    "parts": "settings",
    "templates": "sheet",
    "acceptances": "state",
}


def join_kinds(connection: sqlite3.Connection) -> None:
    """Give all that names a joined kind its present name, in rows and in the journal, so that undoing finds it, too.

    A label rule of the kind that is gone gives way to one that its namesake has or has had, and so does a condition
    under which the one looked like the other: such a row stays as it is, and speaks of nothing.
    """
    labels = {row[0] for row in connection.execute("SELECT kind FROM label_rules WHERE family = 'points'")}
    for _, packed in _entries(connection, "label_rules"):
        labels |= {state["kind"] for table, _, *states in packed if table == "label_rules" for state in states if state}
    both = {old for old, new in JOINED.items() if new in labels}
    claimed: set[str] = set()
    for (body,) in connection.execute("SELECT body FROM signs"):
        with suppress(ValueError, RecursionError):
            claimed |= set(worn_of(json.loads(body)))
    for table, column in [*((table, "kind") for table in _NAMING), *_HOLDING.items()]:
        cursor = connection.cursor()
        cursor.row_factory = sqlite3.Row
        for old in JOINED:
            sql = f"SELECT * FROM {table} WHERE instr({column}, ?)"  # The names are of the two lists above.
            for row in cursor.execute(sql, (old,)).fetchall():
                before = dict(row)
                after = _joined(table, before, both, claimed)
                for name in (name for name in after if after[name] != before[name]):
                    connection.execute(f"UPDATE {table} SET {name} = ? WHERE id = ?", (after[name], before["id"]))
    for old in JOINED:
        for number, packed in _entries(connection, old):
            joined = [
                [table, row_id, *(state and _joined(table, state, both, claimed) for state in states)]
                for table, row_id, *states in packed
            ]
            text = json.dumps(joined, ensure_ascii=False)
            connection.execute("UPDATE journal SET changes = ? WHERE id = ?", (text, number))


def _entries(connection: sqlite3.Connection, word: str) -> Iterator[tuple[int, list[Any]]]:
    """The entries of the journal that have a word in them, one by one: a journal may be larger than the map."""
    for (number,) in connection.execute("SELECT id FROM journal WHERE instr(changes, ?)", (word,)).fetchall():
        (changes,) = connection.execute("SELECT changes FROM journal WHERE id = ?", (number,)).fetchone()
        yield number, json.loads(changes)


def _joined(table: str, row: Mapping[str, Any], both: set[str], claimed: set[str]) -> dict[str, Any]:
    out = dict(row)
    if table in _NAMING and out.get("kind") in JOINED and out.get(_NAMING[table], "points") == "points":
        out["kind"] = out["kind"] if table == "label_rules" and out["kind"] in both else kind_now(out["kind"])
    text = out.get(_HOLDING.get(table, ""))
    # What names none is left to the letter.
    if isinstance(text, str) and any(name in text for name in (*JOINED, *SYMBOLS)):
        with suppress(ValueError, RecursionError):  # What is no JSON names no kind.
            held = json.loads(text)
            now = read_now(held, sorted(claimed))
            if now != held:
                out[_HOLDING[table]] = json.dumps(now, ensure_ascii=False, separators=(",", ":"))
    return dict(row) if table == "sign_rules" and _looks_like_itself(out) else out


def _looks_like_itself(rule: Mapping[str, Any]) -> bool:
    """Whether a condition gives its kind the look of that very kind, which none may."""
    with suppress(ValueError, RecursionError, KeyError):
        body = json.loads(rule["body"])
        return isinstance(body, dict) and body.get("look") == "kind" and body.get("worn") == rule["kind"]
    return False

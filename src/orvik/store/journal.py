"""The journal: every change is an entry, in the same transaction as the change; undo and redo read it."""

from __future__ import annotations

import getpass
import json
import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any

from orvik.core.errors import NotFound

Row = dict[str, Any]
# So many changes are written as text, and rows added, at a time.
TOGETHER = 200
# What values are that stand for no row.
PLAIN = frozenset({str, bytes, int, float, bool, type(None)})

# What goes with a row: tables whose rows name it, in a column of this name.
OWNED = {
    "sheets": ("sheet_id", ("parts", "followed_templates", "margin_notes", "proofs")),
    "margin_notes": ("note_id", ("answers",)),
}
# Tables that edits may change; names go into SQL, so nothing else is let through.
JOURNALED = frozenset(
    {
        "lines",
        "areas",
        "points",
        "units",
        "sources",
        "neighbours",
        "sheets",
        "parts",
        "project",
        "views",
        "section_settings",
        "section_lines",
        "section_areas",
        "section_points",
        "kinds",
        "pens",
        "symbols",
        "symbol_rules",
        "emphases",
        "mappings",
        "templates",
        "followed_templates",
        "label_moves",
        "label_rules",
        "stations",
        "acceptances",
        "margin_notes",
        "answers",
        "proofs",
        "turned_off_rules",
    }
)


@dataclass(frozen=True)
class Made:
    """In the values of a change: the id of the row that an earlier change of the same entry adds or names."""

    change: int


@dataclass(frozen=True)
class MadeJson:
    """In the values of a change: a JSON text, in whose values such ids may stand."""

    values: Mapping[str, Any]


@dataclass(frozen=True)
class Change:
    """One row to be: ``values`` None deletes, ``id`` None inserts, otherwise the given columns change."""

    table: str
    id: int | Made | None
    values: Mapping[str, Any] | None


@dataclass(frozen=True)
class RowChange:
    """One row as it was and as it is; None where it was not or is not."""

    table: str
    id: int
    before: Row | None
    after: Row | None

    def inverted(self) -> RowChange:
        return RowChange(self.table, self.id, self.after, self.before)


@dataclass(frozen=True)
class Entry:
    """One journal entry; ``id`` is the revision after it."""

    id: int
    at: str
    kind: str
    label: str
    of: int | None = None
    changes: tuple[RowChange, ...] = ()
    author: str = ""


def machine_user() -> str:
    """Who works at this machine, as its system knows them; empty where it does not say."""
    try:
        return getpass.getuser()[:60]
    except (OSError, KeyError, ImportError):
        return ""


def written(
    connection: sqlite3.Connection,
    author: str,
    kind: str,
    label: str,
    changes: Sequence[RowChange],
    of: int | None,
) -> Entry:
    """Add an entry within the transaction at hand."""
    at = datetime.now(UTC).isoformat(timespec="milliseconds")
    blobs = Blobs()
    # A few at a time: whoever points at the map meanwhile waits for none of a hundred thousand rows.
    some = (changes[i : i + TOGETHER] for i in range(0, len(changes), TOGETHER))
    texts = (json.dumps([_packed(change, blobs) for change in part], ensure_ascii=False) for part in some)
    text = f"[{', '.join(part[1:-1] for part in texts)}]"
    cursor = connection.execute(
        "INSERT INTO journal (at, author, kind, of, label, changes, blobs) VALUES (?, ?, ?, ?, ?, ?, ?)",
        (at, author, kind, of, label, text, bytes(blobs.data)),
    )
    return Entry(int(cursor.lastrowid or 0), at, kind, label, of, tuple(changes), author)


def changes_of(connection: sqlite3.Connection, entry_id: int) -> list[RowChange]:
    """The row changes of an entry."""
    row = connection.execute("SELECT changes, blobs FROM journal WHERE id = ?", (entry_id,)).fetchone()
    if row is None:
        raise NotFound(f"The journal has no entry {entry_id}.")
    return [RowChange(t, i, _unpacked(b, row[1]), _unpacked(a, row[1])) for t, i, b, a in json.loads(row[0])]


def rows_of(connection: sqlite3.Connection, entry_id: int) -> set[tuple[str, int]]:
    """Tables and ids of the rows that an entry changed."""
    (text,) = connection.execute("SELECT changes FROM journal WHERE id = ?", (entry_id,)).fetchone()
    return {(table, row_id) for table, row_id, *_ in json.loads(text)}


def apply_changes(connection: sqlite3.Connection, changes: Sequence[Change]) -> list[RowChange]:
    """Carry out changes in order, and say what they did.

    The ids of rows that are added are known to those that follow; deleting a sheet deletes its parts first.

    Raises
    ------
    NotFound
        A row to change is no longer there, or a table is not one that edits may change.
    """
    done: list[RowChange] = []
    ids: list[int] = []
    while len(ids) < len(changes):
        change = changes[len(ids)]
        table = _table(change.table)
        run = _added_alike(changes, len(ids))
        if run:
            made = _inserted(connection, table, [_with_ids(values, ids) for values in run])
            done += [RowChange(table, after["id"], None, after) for after in made]
            ids += [after["id"] for after in made]
            continue
        number = ids[change.id.change] if isinstance(change.id, Made) else change.id
        if number is None:
            raise NotFound(f"There is no row of {table} to delete.")
        values = None if change.values is None else _with_ids(change.values, ids)
        before = row(connection, table, number)
        if before is None:
            raise NotFound(f"That is no longer in the project ({table} {number}).")
        if values is not None:
            names = ", ".join(f"{name} = ?" for name in values)
            connection.execute(f"UPDATE {table} SET {names} WHERE id = ?", (*values.values(), number))
        else:
            column, tables = OWNED.get(table, ("", ()))
            for owned in tables:
                found = connection.execute(f"SELECT id FROM {owned} WHERE {column} = ?", (number,)).fetchall()
                done += apply_changes(connection, [Change(owned, one, None) for (one,) in found])
            connection.execute(f"DELETE FROM {table} WHERE id = ?", (number,))
        done.append(RowChange(table, number, before, row(connection, table, number)))
        ids.append(number)
    return done


def _added_alike(changes: Sequence[Change], begin: int) -> list[Mapping[str, Any]]:
    """What the changes from one on put into new rows of its table, as long as these have the same columns.

    Those that name a row of their own run are left to the next.
    """
    first = changes[begin]
    out: list[Mapping[str, Any]] = []
    for change in changes[begin : begin + TOGETHER]:
        values = change.values
        if values is None or change.id is not None or change.table != first.table:
            break
        if out and values.keys() != out[0].keys():
            break
        if any(_names(value, begin) for value in values.values() if type(value) not in PLAIN):
            break
        out.append(values)
    return out


def _names(value: Any, begin: int) -> bool:
    """Whether a value holds the id of a row that the changes from one on add."""
    if isinstance(value, Made):
        return value.change >= begin
    if isinstance(value, MadeJson):
        return any(_names(v, begin) for v in value.values.values())
    return isinstance(value, list) and any(_names(v, begin) for v in value)


def _inserted(connection: sqlite3.Connection, table: str, rows: Sequence[Mapping[str, Any]]) -> list[Row]:
    """Add rows with the same columns; gives them as they stand, which the table has numbered one after the other."""
    (last,) = connection.execute(
        f"SELECT max(coalesce((SELECT seq FROM sqlite_sequence WHERE name = ?), 0), "
        f"coalesce((SELECT max(id) FROM {table}), 0))",
        (table,),
    ).fetchone()
    names = tuple(rows[0])
    marks = ", ".join("?" * len(names))
    connection.executemany(
        f"INSERT INTO {table} ({', '.join(names)}) VALUES ({marks})",
        (tuple(row[name] for name in names) for row in rows),
    )
    cursor = connection.execute(f"SELECT * FROM {table} WHERE id > ? ORDER BY id", (last,))
    columns = [column[0] for column in cursor.description]
    made = [dict(zip(columns, values, strict=True)) for values in cursor.fetchall()]
    if len(made) != len(rows):
        # Another program's table that has come to the end of its numbers takes any that is free.
        raise sqlite3.DatabaseError(f"the rows of {table} cannot be numbered on")
    return made


def _with_ids(values: Mapping[str, Any], ids: Sequence[int]) -> Mapping[str, Any]:
    """Values with the ids of rows that were added in the place of what stands for them."""
    return {name: value if type(value) in PLAIN else _resolved(value, ids) for name, value in values.items()}


def _resolved(value: Any, ids: Sequence[int]) -> Any:
    if isinstance(value, Made):
        return ids[value.change]
    if isinstance(value, MadeJson):
        return json.dumps({k: _resolved(v, ids) for k, v in value.values.items()}, ensure_ascii=False, sort_keys=True)
    return [_resolved(v, ids) for v in value] if isinstance(value, list) else value


def restore(connection: sqlite3.Connection, change: RowChange) -> None:
    """Put a row into the state ``after``, whatever it was."""
    table = _table(change.table)
    if change.after is None:
        connection.execute(f"DELETE FROM {table} WHERE id = ?", (change.id,))
    elif change.before is None:
        names = ", ".join(change.after)
        marks = ", ".join("?" * len(change.after))
        connection.execute(f"INSERT INTO {table} ({names}) VALUES ({marks})", tuple(change.after.values()))
    else:
        names = ", ".join(f"{name} = ?" for name in change.after)
        connection.execute(f"UPDATE {table} SET {names} WHERE id = ?", (*change.after.values(), change.id))


def row(connection: sqlite3.Connection, table: str, row_id: int) -> Row | None:
    """A row as a dictionary."""
    cursor = connection.execute(f"SELECT * FROM {_table(table)} WHERE id = ?", (row_id,))
    values = cursor.fetchone()
    return dict(zip((d[0] for d in cursor.description), values, strict=True)) if values else None


def _table(name: str) -> str:
    if name not in JOURNALED:
        raise NotFound(f"There is no table {name} to change.")
    return name


@dataclass
class Blobs:
    """What is no text in the rows of an entry, one after another; what stands there twice is written once."""

    data: bytearray = field(default_factory=bytearray)
    _known: dict[bytes, list[int]] = field(default_factory=dict)

    def place(self, value: bytes) -> list[int]:
        """Where a value stands: its first byte and its length."""
        if value not in self._known:
            self._known[value] = [len(self.data), len(value)]
            self.data += value
        return self._known[value]


def _packed(change: RowChange, blobs: Blobs) -> list[Any]:
    return [change.table, change.id, _row_packed(change.before, blobs), _row_packed(change.after, blobs)]


def _row_packed(values: Row | None, blobs: Blobs) -> Row | None:
    if values is None:
        return None
    return {k: {"blob": blobs.place(v)} if isinstance(v, bytes) else v for k, v in values.items()}


def _unpacked(values: Row | None, blobs: bytes) -> Row | None:
    if values is None:
        return None
    return {k: _slice(blobs, *v["blob"]) if isinstance(v, dict) else v for k, v in values.items()}


def _slice(blobs: bytes, first: int, length: int) -> bytes:
    return blobs[first : first + length]

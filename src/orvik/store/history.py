"""Which entries can be undone and redone: asked of the journal from its end, so that a long one opens at once."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable

from orvik.store.journal import Entry

# So many entries that can be undone are read at a time.
AT_ONCE = 200
Select = Callable[[str, tuple[int, ...]], list[sqlite3.Row]]


class History:
    """Entries that can be undone and redone, the next one last.

    An edit that stands can be undone: one since the last barrier whose last turn, if it has any, was a redo. What was
    undone since the last edit can be redone.
    """

    def __init__(self, select: Select) -> None:
        self._select = select
        (row,) = select("SELECT coalesce(max(id), 0) AS id FROM journal WHERE kind = 'barrier'", ())
        self._barrier = int(row["id"])
        self._undo = self._standing_below(2**62)
        self._redo = self._undone()

    @property
    def undo_top(self) -> Entry | None:
        """What undo would turn back."""
        return self._undo[-1] if self._undo else None

    @property
    def redo_top(self) -> Entry | None:
        """What redo would carry out again."""
        return self._redo[-1] if self._redo else None

    def took(self, entry: Entry) -> None:
        """Follow an entry that was written."""
        if entry.kind == "edit":
            self._undo.append(entry)
            self._redo.clear()
        elif entry.kind == "undo":
            turned = self._undo.pop()
            self._redo.append(turned)
            if not self._undo:
                self._undo = self._standing_below(turned.id)
        elif entry.kind == "redo":
            self._undo.append(self._redo.pop())
        else:
            self._barrier = entry.id
            self._undo.clear()
            self._redo.clear()

    def _standing_below(self, number: int) -> list[Entry]:
        """The last edits before a number that stand, in order."""
        sql = """SELECT id, at, kind, label, of FROM journal AS edit
                 WHERE kind = 'edit' AND id > ? AND id < ? AND coalesce(
                   (SELECT kind FROM journal WHERE of = edit.id ORDER BY id DESC LIMIT 1), 'redo') = 'redo'
                 ORDER BY id DESC LIMIT ?"""
        return [Entry(*row) for row in reversed(self._select(sql, (self._barrier, number, AT_ONCE)))]

    def _undone(self) -> list[Entry]:
        """What was undone since the last edit and not redone, in the order of undoing."""
        (row,) = self._select(
            "SELECT coalesce(max(id), 0) AS id FROM (SELECT id FROM journal WHERE kind IN ('edit', 'barrier') "
            "ORDER BY id DESC LIMIT 1)",
            (),
        )
        sql = """SELECT edit.id, edit.at, edit.kind, edit.label, edit.of
                 FROM journal AS turn JOIN journal AS edit ON edit.id = turn.of
                 WHERE turn.id > ? AND turn.kind = 'undo'
                   AND NOT EXISTS (SELECT 1 FROM journal AS later WHERE later.of = turn.of AND later.id > turn.id)
                 ORDER BY turn.id"""
        return [Entry(*found) for found in self._select(sql, (int(row["id"]),))]

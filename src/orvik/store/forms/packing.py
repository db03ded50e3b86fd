"""Geometry in the journal as blobs: until form 13 it stood there as hexadecimal text, before and after a change."""

from __future__ import annotations

import json
import sqlite3
from typing import Any

from orvik.store.journal import Blobs


def pack_journal(connection: sqlite3.Connection) -> None:
    """Take the hexadecimal texts out of all entries, one by one: a journal may be larger than the map."""
    listed = connection.execute("""SELECT id FROM journal WHERE instr(changes, '{"hex":')""").fetchall()
    for (number,) in listed:
        (text,) = connection.execute("SELECT changes FROM journal WHERE id = ?", (number,)).fetchone()
        blobs = Blobs()
        packed = [[table, row_id, *(_packed(s, blobs) for s in states)] for table, row_id, *states in json.loads(text)]
        connection.execute(
            "UPDATE journal SET changes = ?, blobs = ? WHERE id = ?",
            (json.dumps(packed, ensure_ascii=False), bytes(blobs.data), number),
        )


def _packed(row: dict[str, Any] | None, blobs: Blobs) -> dict[str, Any] | None:
    if row is None:
        return None
    return {k: {"blob": blobs.place(bytes.fromhex(v["hex"]))} if isinstance(v, dict) else v for k, v in row.items()}

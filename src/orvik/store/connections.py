"""Connections to a project file: one that writes, one that reads beside it, or one that only reads."""

from __future__ import annotations

import os
import sqlite3
from functools import partial
from pathlib import Path

from orvik.core.errors import ProjectRefused
from orvik.store import identity

# How long a statement waits for another program, in milliseconds.
BUSY_MS = 5000


def can_be_written(path: Path) -> bool:
    """Whether a file and its folder can be written: the log lies beside the file."""
    return os.access(path, os.W_OK) and os.access(path.parent, os.W_OK)


def connected(path: Path, writable: bool) -> sqlite3.Connection:
    """A connection that may be used in any thread; raises ProjectRefused."""
    mode = "rw" if writable else "ro"
    if not writable and not os.access(path.parent, os.W_OK) and not identity.log_of(path).exists():
        # Nothing can be put beside it, not even what readers share.
        mode = "ro&immutable=1"
    try:
        connection = sqlite3.connect(
            f"{path.resolve().as_uri()}?mode={mode}", uri=True, isolation_level=None, check_same_thread=False
        )
    except sqlite3.Error as error:
        raise ProjectRefused(f"{path.name} cannot be opened ({error}).") from error
    # What another program has left that is not an UTF-8 is shown with its odd letters marked.
    connection.text_factory = _text
    return connection


# Without a frame of Python for each of a hundred thousand texts.
_text = partial(str, encoding="utf-8", errors="replace")


def reading_beside(path: Path) -> sqlite3.Connection:
    """A connection that only reads, beside the one that writes."""
    connection = connected(path, writable=True)
    connection.execute("PRAGMA query_only = ON")
    connection.execute(f"PRAGMA busy_timeout = {BUSY_MS}")
    return connection


def data_version(connection: sqlite3.Connection) -> int:
    """A number that changes when another connection has written to the file."""
    return int(connection.execute("PRAGMA data_version").fetchone()[0])

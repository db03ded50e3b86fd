"""The file behind an open project: whether it is still the one that was opened, and whose log lies beside it.

SQLite keeps the latest edits in a write-ahead log beside the file. A file that is put in the place of the one that
is open, or of one whose log a crash has left, must never meet that log: its pages would be spoilt. A small mark
beside the file says which project the log belongs to and what revision the file had by itself when the log began.
"""

from __future__ import annotations

import contextlib
import fcntl
import json
import os
import shutil
import sqlite3
import time
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import IO

from orvik.core.errors import ProjectRefused


@dataclass(frozen=True)
class Mark:
    """Which project a log belongs to: when its first entry was kept, and the file's own revision without the log."""

    first: str
    base: int


def log_of(path: Path) -> Path:
    """The write-ahead log of a project file."""
    return path.with_name(f"{path.name}-wal")


def mark_of(path: Path) -> Path:
    """Where the mark of a project file lies."""
    return path.with_name(f".{path.name}.mark")


def standing(path: Path) -> Mark | None:
    """What a file holds by itself, without its log; None where that cannot be read."""
    try:
        connection = sqlite3.connect(f"{path.resolve().as_uri()}?mode=ro&immutable=1", uri=True)
        try:
            row = connection.execute(
                "SELECT coalesce((SELECT at FROM journal ORDER BY id LIMIT 1), ''), coalesce(max(id), 0) FROM journal"
            ).fetchone()
        finally:
            connection.close()
    except sqlite3.Error:
        return None
    return Mark(str(row[0]), int(row[1]))


def written(path: Path, mark: Mark) -> None:
    """Put the mark beside the file."""
    part = mark_of(path).with_suffix(".part")
    with contextlib.suppress(OSError):
        part.write_text(json.dumps(asdict(mark)))
        os.replace(part, mark_of(path))


def read(path: Path) -> Mark | None:
    """The mark beside a file, if there is one."""
    try:
        return Mark(**json.loads(mark_of(path).read_text()))
    except (OSError, ValueError, TypeError):
        return None


def belongs(mark: Mark, now: Mark) -> bool:
    """Whether what a file holds by itself is the project that a mark speaks of, at its revision or later."""
    return (mark.first == now.first or not mark.first) and now.base >= mark.base


def part_from_strange_log(path: Path) -> Path | None:
    """Set a log aside that was left beside a file which it does not belong to; gives where it lies now.

    A backup that is copied over a project after a crash finds the log of the project that it replaces.
    """
    log = log_of(path)
    if not log.is_file() or log.stat().st_size == 0:
        return None
    mark, now = read(path), standing(path)
    if mark is None or now is None or belongs(mark, now):
        return None
    aside = path.with_name(f"{path.stem}.log-of-another-file.{int(time.time())}")
    os.replace(log, aside)
    path.with_name(f"{path.name}-shm").unlink(missing_ok=True)
    mark_of(path).unlink(missing_ok=True)
    return aside


class Watch:
    """Tells whether the file at a path is still the one that was opened."""

    def __init__(self, path: Path) -> None:
        self.path = path
        stat = path.stat()
        self._file = (stat.st_dev, stat.st_ino)
        self._state = (stat.st_size, stat.st_mtime_ns)
        self.mark = standing(path) or Mark("", 0)

    def settle(self) -> None:
        """Take note that the file itself has been written by its own log."""
        stat = self.path.stat()
        self._state = (stat.st_size, stat.st_mtime_ns)
        self.mark = standing(self.path) or self.mark
        written(self.path, self.mark)

    def check(self) -> None:
        """Raise ProjectRefused if the file is gone or is another one."""
        for attempt in range(4):
            why = self._trouble()
            if not why:
                return
            if why == "gone" or attempt == 3:
                break
            # Another program may be moving its log into the file just now.
            time.sleep(0.05)
        what = "has been deleted or moved away" if why == "gone" else "has been replaced by another file"
        raise ProjectRefused(
            f"Not kept: {self.path.name} {what} while it was open. What was kept before is in the file that was there; "
            "load this page again to go on with what is there now."
        )

    def _trouble(self) -> str:
        try:
            stat = self.path.stat()
        except OSError:
            return "gone"
        if (stat.st_dev, stat.st_ino) != self._file:
            return "another"
        if (stat.st_size, stat.st_mtime_ns) == self._state:
            return ""
        now = standing(self.path)
        if now is None or not belongs(self.mark, now):
            return "another"
        self._state = (stat.st_size, stat.st_mtime_ns)
        return ""


def let_go(connection: sqlite3.Connection, path: Path) -> None:
    """Close a connection to a file that is no longer its own, so that its log never reaches what is there now."""
    log = log_of(path)
    with contextlib.suppress(OSError):
        if log.is_file() and log.stat().st_size:
            shutil.copyfile(log, path.with_name(f"{path.stem}.log-of-another-file.{int(time.time())}"))
            # With nothing to read in it, closing moves nothing into the file.
            os.truncate(log, 0)
    with contextlib.suppress(sqlite3.Error):
        connection.close()
    log.unlink(missing_ok=True)
    path.with_name(f"{path.name}-shm").unlink(missing_ok=True)
    mark_of(path).unlink(missing_ok=True)


def locked(path: Path) -> IO[bytes] | None:
    """Hold a project for one application alone; None where the folder cannot be written.

    Raises
    ------
    ProjectRefused
        Another one holds it.
    """
    try:
        handle = path.with_name(f".{path.name}.lock").open("ab")
    except OSError:
        return None
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        handle.close()
        raise ProjectRefused(
            f"{path.name} is open in another Orvik on this machine; go on there, or stop that one first."
        ) from None
    return handle

"""The file behind an open project: whether it is still the one that was opened, and whose log lies beside it.

SQLite keeps the latest edits in a write-ahead log beside the file. A file that is put in the place of the one that
is open, or of one whose log a crash has left, must never meet that log: its pages would be spoilt. The file holds a
random token, another one each time that the log has moved into it, so that a copy that has gone on elsewhere is told
from the file that has grown by its own log. A small mark beside the file says which project the log belongs to, what
revision the file had by itself when the log began, and by which tokens it is known.
"""

from __future__ import annotations

import contextlib
import fcntl
import json
import os
import shutil
import sqlite3
import time
from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
from pathlib import Path
from typing import IO, Any

from orvik.core.errors import ProjectRefused
from orvik.whole_file import write_whole


@dataclass(frozen=True)
class Mark:
    """Which project a log belongs to.

    Attributes
    ----------
    first
        When its first entry was kept.
    base
        The file's own revision without the log.
    tokens
        What the file may have: the one that it had when the log began, empty for none, and the one that it gets by
        the log. None at all where the mark is of before there were any.
    """

    first: str
    base: int
    tokens: tuple[str, ...] = ()


def log_of(path: Path) -> Path:
    """The write-ahead log of a project file."""
    return path.with_name(f"{path.name}-wal")


def mark_of(path: Path) -> Path:
    """Where the mark of a project file lies."""
    return path.with_name(f".{path.name}.mark")


def mark_of_file(path: Path) -> Mark | None:
    """What a file holds by itself, without its log; None where that cannot be read."""
    try:
        connection = sqlite3.connect(f"{path.resolve().as_uri()}?mode=ro&immutable=1", uri=True)
        try:
            row = connection.execute(
                "SELECT coalesce((SELECT at FROM journal ORDER BY id LIMIT 1), ''), coalesce(max(id), 0) FROM journal"
            ).fetchone()
            token = token_of(connection)
        finally:
            connection.close()
    except sqlite3.Error:
        return None
    return Mark(str(row[0]), int(row[1]), (token,))


def token_of(connection: sqlite3.Connection) -> str:
    """The token of a file as a connection sees it; empty where it has none yet."""
    try:
        found = connection.execute("SELECT token FROM rests WHERE id = 1").fetchone()
    except sqlite3.OperationalError:
        # A file of an earlier form.
        return ""
    return str(found[0]) if found else ""


def renew(connection: sqlite3.Connection, token: str) -> None:
    """Give a file another token, in the log that is to be moved into it."""
    connection.execute(
        "INSERT INTO rests (id, token) VALUES (1, ?) ON CONFLICT (id) DO UPDATE SET token = excluded.token", (token,)
    )


def write_mark(path: Path, mark: Mark) -> None:
    """Put the mark beside the file."""
    with contextlib.suppress(OSError):
        write_whole(mark_of(path), json.dumps(asdict(mark)).encode())


def read_mark(path: Path) -> Mark | None:
    """The mark beside a file, if there is one."""
    try:
        held = json.loads(mark_of(path).read_text())
        return Mark(**{**held, "tokens": tuple(held.get("tokens", ()))})
    except (OSError, ValueError, TypeError):
        return None


def belongs(mark: Mark, now: Mark) -> bool:
    """Whether what a file holds by itself is the file that a mark speaks of, or has grown out of it by its own log."""
    known = not mark.tokens or bool(set(mark.tokens) & set(now.tokens))
    return (mark.first == now.first or not mark.first) and now.base >= mark.base and known


def part_from_strange_log(path: Path) -> Path | None:
    """Set a log aside that was left beside a file which it does not belong to; gives where it lies now.

    A backup that is copied over a project after a crash finds the log of the project that it replaces.
    """
    log = log_of(path)
    if not log.is_file() or log.stat().st_size == 0:
        return None
    mark, now = read_mark(path), mark_of_file(path)
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
        self._state = _state_of(stat)
        self.mark = mark_of_file(path) or Mark("", 0)

    def expect(self, token: str) -> None:
        """Take note of a token that the file may have from now on: it is in the log."""
        if token not in self.mark.tokens:
            # The one that the file has stays known, however often the log could not be moved.
            self.mark = replace(self.mark, tokens=(*self.mark.tokens, token))
            write_mark(self.path, self.mark)

    @property
    def pending(self) -> str:
        """A token that the log holds and the file may not have yet; empty for none."""
        return self.mark.tokens[-1] if len(self.mark.tokens) > 1 else ""

    def settle(self, whole: bool) -> None:
        """Take note that the file itself was written by its own log; until that is ``whole`` both tokens hold."""
        self._state = _state_of(self.path.stat())
        now = mark_of_file(self.path)
        if now is not None:
            self.mark = now if whole else replace(now, tokens=self.mark.tokens)
        write_mark(self.path, self.mark)

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
            f"Not saved: {self.path.name} {what} while it was open. The latest edits are set aside "
            "beside it; load this page again to go on with what is there now."
        )

    def _trouble(self) -> str:
        try:
            stat = self.path.stat()
        except OSError:
            return "gone"
        if (stat.st_dev, stat.st_ino) != self._file:
            return "another"
        if _state_of(stat) == self._state:
            return ""
        now = mark_of_file(self.path)
        if now is None or not belongs(self.mark, now):
            return "another"
        self._state = _state_of(stat)
        return ""


def _state_of(stat: os.stat_result) -> tuple[int, int, int]:
    """What of a file another one in its place has otherwise: a copy may keep all of it but the time of its change."""
    return stat.st_size, stat.st_mtime_ns, stat.st_ctime_ns


def let_go(connection: sqlite3.Connection, path: Path, since: Sequence[Any] = ()) -> None:
    """Close a connection to a file that is no longer its own, so that its log never reaches what is there now.

    Parameters
    ----------
    since
        What was kept since the log last moved into the file, ready for JSON: the file that held the rest is no more,
        so that the log alone brings none of it back.
    """
    if since:
        aside = path.with_name(f"{path.stem}.edits-set-aside.{int(time.time())}.json")
        with contextlib.suppress(OSError):
            aside.write_text(json.dumps(list(since), ensure_ascii=False, indent=1), encoding="utf-8")
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

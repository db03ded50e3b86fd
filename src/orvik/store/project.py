"""An open project file: opened, and changed one journalled transaction at a time."""

from __future__ import annotations

import secrets
import sqlite3
import threading
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from orvik.core.errors import CHANGED_MEANWHILE, NotFound, ProjectRefused, Stale
from orvik.core.sheet.page.sheet_file import KeptFile
from orvik.store import identity, journal, reference_systems
from orvik.store.connections import BUSY_MS, data_version, reading_beside
from orvik.store.files import keep_files
from orvik.store.geometry import decoded
from orvik.store.history import History
from orvik.store.journal import Change, Entry, RowChange
from orvik.store.opening import crs_in, opened
from orvik.store.unjournalled import Unjournalled


class _Transaction:
    """A transaction that is open: what it has changed so far; and, when it is committed, its entry."""

    def __init__(self, writer: sqlite3.Connection) -> None:
        self.writer = writer
        self.changes: list[RowChange] = []
        self.entry: Entry


class Project(Unjournalled):
    """One project file. One writer at a time; every method is safe to call from any thread."""

    def __init__(self, path: Path, connection: sqlite3.Connection, writer: sqlite3.Connection | None) -> None:
        super().__init__(path, connection)
        # Who the journal names for what is kept.
        self.author = journal.machine_user()
        # A connection of its own to write, so that who reads waits for no transaction; None to look only.
        self._writer = writer
        self._write_lock = threading.RLock()
        self._watch = identity.Watch(path) if writer is not None else None
        # Whether the file is no longer the one that was opened.
        self.lost = False
        # Whether something was written that the log may still hold.
        self._dirty = False
        # What was kept since the log last moved into the file, for when the file goes.
        self._since: list[Entry] = []
        self._closed = False
        self._history = History(self._select)
        self._data_version = data_version(writer) if writer is not None else 0
        # The last entry that was written here.
        self.latest: Entry | None = None
        # The revision that each row was changed at, and the one at which another program may have changed any.
        self._changed_at: dict[tuple[str, int], int] = {}
        self._barrier = 0
        if self._watch:
            identity.write_mark(path, self._watch.mark)

    @staticmethod
    def open(path: Path) -> Project:
        """Open a project file; one that cannot be written is opened to be looked at.

        Raises
        ------
        ProjectRefused
            No such file, not a GeoPackage, or a GeoPackage that is not a project.
        """
        found = opened(path, writable=True)
        if not found.writes:
            return Project(path, found.connection, None)
        try:
            return Project(path, reading_beside(path), found.connection)
        except BaseException:
            found.connection.close()
            raise

    @property
    def _may_be_ended(self) -> bool:
        return self._writer is None

    def close(self) -> None:
        """Move what is in the write-ahead log into the file, and close it."""
        with self._write_lock, self._lock:
            if self._closed:
                return
            self._closed = True
            self._connection.close()
            if self._watch is None or self._writer is None:
                return
            try:
                self._check_file(self._watch)
            except ProjectRefused:
                self.lost = True
                identity.let_go(self._writer, self.path, [_plainly(entry) for entry in self._since])
                return
            if self._dirty:
                # One that has only looked leaves the log to those who write; they would take the move for an edit.
                self._move_log(self._writer)
            self._writer.close()
            if not identity.log_of(self.path).exists():
                identity.mark_of(self.path).unlink(missing_ok=True)

    def log_bytes(self) -> int:
        """How long the write-ahead log is."""
        try:
            return identity.log_of(self.path).stat().st_size
        except OSError:
            return 0

    def checkpoint(self, working: bool = False) -> bool:
        """Move the write-ahead log into the file, so that the file stands alone.

        Parameters
        ----------
        working
            Whether people go on working: then nobody is waited for, and what a reader still looks at stays in the log.

        Returns
        -------
        Whether all was moved; where another reader holds it up, it is tried again at the next rest.
        """
        with self._write_lock:
            if self._closed or self._watch is None or self._writer is None or self.lost:
                return True
            try:
                self._check_file(self._watch)
            except ProjectRefused:
                self.lost = True
                return True
            return self._move_log(self._writer, "PASSIVE" if working else "TRUNCATE")

    def _move_log(self, writer: sqlite3.Connection, how: str = "TRUNCATE") -> bool:
        try:
            writer.execute("PRAGMA busy_timeout = 100")
            if self._watch and not self._watch.pending:
                token = secrets.token_hex(16)
                self._watch.expect(token)
                identity.renew(writer, token)
            busy, held, moved = writer.execute(f"PRAGMA wal_checkpoint({how})").fetchone()
            busy = busy or held != moved
            self._dirty = bool(busy)
            writer.execute(f"PRAGMA busy_timeout = {BUSY_MS}")
            if not busy:
                self._since.clear()
            if self._watch:
                self._watch.settle(whole=not busy)
        except (sqlite3.Error, OSError):
            return False
        return not busy

    # Changing

    def apply(
        self, label: str, changes: Sequence[Change], seen: int | None = None, files: Sequence[KeptFile] = ()
    ) -> Entry:
        """Carry out changes as one transaction and one journal entry; returns after commit.

        Parameters
        ----------
        seen
            The revision that the person saw. If a row has changed since, nothing is changed.
        files
            Files that the changes speak of; those that the project has stay as they are.

        Raises
        ------
        NotFound
            A row to change is no longer there; nothing is changed.
        Stale
            A row was changed after ``seen``; nothing is changed.
        ProjectRefused
            The file refuses the change; nothing is changed.
        """
        with self._transaction("edit", label) as transaction:
            rows = [(change.table, change.id) for change in changes if isinstance(change.id, int)]
            if seen is not None and any(self.changed_after(table, row, seen) for table, row in rows):
                raise Stale(CHANGED_MEANWHILE)
            keep_files(transaction.writer, files)
            transaction.changes = journal.apply_changes(transaction.writer, changes)
        return transaction.entry

    def changed_after(self, table: str, row_id: int, revision: int) -> bool:
        """Whether a row was changed after a revision, or another program has written since."""
        return max(self._barrier, self._changed_at.get((table, row_id), 0)) > revision

    def undo(self) -> Entry:
        """Take back the latest edit that stands."""
        with self._write_lock:
            self.detect_external_write()
            entry = self._history.undo_top
            if entry is None:
                raise NotFound("There is nothing to undo.")
            with self._transaction("undo", entry.label, entry.id) as transaction:
                transaction.changes = _turned(transaction.writer, entry.id, back=True)
            return transaction.entry

    def redo(self) -> Entry:
        """Carry out again the latest edit that was taken back."""
        with self._write_lock:
            self.detect_external_write()
            entry = self._history.redo_top
            if entry is None:
                raise NotFound("There is nothing to redo.")
            with self._transaction("redo", entry.label, entry.id) as transaction:
                transaction.changes = _turned(transaction.writer, entry.id, back=False)
            return transaction.entry

    @property
    def undo_label(self) -> str | None:
        """What undo would take back."""
        return top.label if (top := self._history.undo_top) is not None else None

    @property
    def redo_label(self) -> str | None:
        """What redo would carry out again."""
        return top.label if (top := self._history.redo_top) is not None else None

    def detect_external_write(self) -> bool:
        """Mark in the journal that another program has written to the file; undo does not cross it."""
        with self._write_lock:
            if self._writer is None or self._closed:
                return False
            self._refuse_lost()
            version = data_version(self._writer)
            if version == self._data_version:
                return False
            self._data_version = version
            try:
                self._writer.execute("BEGIN IMMEDIATE")
                entry = journal.written(self._writer, "", "barrier", "changed by another program", [], None)
                self._writer.execute("COMMIT")
                self._dirty = True
            except sqlite3.Error as error:
                _roll_back(self._writer)
                raise ProjectRefused(f"Not saved: {self.path.name} cannot be written ({error}).") from error
            self._history.took(entry)
            self.revision = self._barrier = entry.id
            return True

    @contextmanager
    def _transaction(self, kind: str, label: str, of: int | None = None) -> Iterator[_Transaction]:
        """Let changes be made, then write their entry and commit; whatever goes wrong within, nothing is changed."""
        with self._write_lock:
            writer = self._writer
            if writer is None:
                raise ProjectRefused(
                    f"Not saved: {self.path.name} can only be looked at; its file or folder is read-only."
                )
            self._refuse_lost()
            self.detect_external_write()
            try:
                writer.execute("BEGIN IMMEDIATE")
                transaction = _Transaction(writer)
                yield transaction
                crs = crs_in(writer)
                # What the standard's own tables say of the system follows the project; it is not an edit.
                srs_id = reference_systems.use(writer, crs) if crs != self.crs else self.srs_id
                entry = journal.written(writer, self.author, kind, label, transaction.changes, of)
                self._refuse_lost()
                writer.execute("COMMIT")
                self._dirty = True
            except sqlite3.IntegrityError as error:
                _roll_back(writer)
                raise ProjectRefused(f"This cannot be saved: {_plain(error)}.") from error
            except sqlite3.Error as error:
                _roll_back(writer)
                raise ProjectRefused(f"Not saved: {self.path.name} cannot be written ({error}).") from error
            except BaseException:
                _roll_back(writer)
                raise
            self.crs, self.srs_id = crs, srs_id
            self._history.took(entry)
            self.revision = entry.id
            self.latest = entry
            self._since.append(entry)
            self._changed_at.update({(change.table, change.id): entry.id for change in entry.changes})
            transaction.entry = entry

    def _refuse_lost(self) -> None:
        """Raise ProjectRefused if the file is no longer the one that was opened; from then on nothing is written."""
        assert self._watch is not None
        try:
            self._check_file(self._watch)
        except ProjectRefused:
            self.lost = True
            raise

    def _check_file(self, watch: identity.Watch) -> None:
        """Raise ProjectRefused if the file is gone or is another one."""
        if self._writer is not None and data_version(self._writer) != self._data_version:
            # Another program has written here by SQLite's own ways, and may have moved the log.
            watch.expect(identity.token_of(self._writer))
        watch.check()

    def _put(self, sql: str, values: tuple[Any, ...]) -> None:
        """Write what is kept but not journalled; raises ProjectRefused where the file cannot be written."""
        with self._write_lock:
            if self._writer is None:
                raise ProjectRefused(f"{self.path.name} can only be looked at; its file or folder is read-only.")
            self._refuse_lost()
            try:
                self._writer.execute(sql, values)
                self._dirty = True
            except sqlite3.Error as error:
                raise ProjectRefused(f"Not saved: {self.path.name} cannot be written ({error}).") from error


@contextmanager
def opened_for_writing(path: Path) -> Iterator[Project]:
    """A project opened to be changed, and closed again."""
    project = Project.open(path)
    try:
        yield project
    finally:
        project.close()


def _plainly(entry: Entry) -> dict[str, Any]:
    """An entry as somebody can read it without us: what each row is now, its geometry as well-known text."""
    changes = []
    for change in entry.changes:
        values = None if change.after is None else dict(change.after)
        if values is not None:
            values = {n: decoded(v).wkt if isinstance(v, bytes) and v[:2] == b"GP" else v for n, v in values.items()}
            values = {n: v.hex() if isinstance(v, bytes) else v for n, v in values.items()}
        changes.append({"table": change.table, "id": change.id, "values": values})
    return {"id": entry.id, "at": entry.at, "label": entry.label, "changes": changes}


def _roll_back(writer: sqlite3.Connection) -> None:
    if writer.in_transaction:
        writer.execute("ROLLBACK")


def _turned(writer: sqlite3.Connection, entry_id: int, back: bool) -> list[RowChange]:
    """Carry out an entry again, or backwards."""
    changes = journal.changes_of(writer, entry_id)
    if back:
        changes = [change.inverted() for change in reversed(changes)]
    for change in changes:
        journal.restore(writer, change)
    return changes


def _plain(error: sqlite3.IntegrityError) -> str:
    text = str(error)
    if text.startswith("UNIQUE constraint failed: "):
        table, column = text.removeprefix("UNIQUE constraint failed: ").split(".")[:2]
        return f"another one of the {table} has the same {column}"
    return text[:1].lower() + text[1:]

"""An open project file: opened, and changed one journalled transaction at a time."""

from __future__ import annotations

import secrets
import sqlite3
import threading
from collections.abc import Iterator, Sequence
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

from orvik.core.errors import CHANGED_MEANWHILE, NotFound, ProjectRefused, Stale
from orvik.core.ground.crs import ProjectCrs, project_crs
from orvik.core.sheet.page.sheet_file import KeptFile
from orvik.store import identity, journal, reference_systems, rows, strangers
from orvik.store.connections import BUSY_MS, can_be_written, connected, data_version, reading_beside
from orvik.store.files import keep_files
from orvik.store.forms import migrations
from orvik.store.geometry import add_functions, decoded
from orvik.store.journal import Change, Entry, RowChange
from orvik.store.reader import Reader

APPLICATION_ID = 0x47504B47
# How long a reader may hold the project as it was, in seconds, unless it says otherwise.
SNAPSHOT_SECONDS = 60.0
# The same of what looks at a whole map, or prints it.
LONG_SNAPSHOT_SECONDS = 300.0


class _Transaction:
    """A transaction that is open: what it has changed so far; and, when it is committed, its entry."""

    def __init__(self, writer: sqlite3.Connection) -> None:
        self.writer = writer
        self.changes: list[RowChange] = []
        self.entry: Entry


class Project(Reader):
    """One project file. One writer at a time; every method is safe to call from any thread."""

    def __init__(self, path: Path, connection: sqlite3.Connection, writer: sqlite3.Connection | None) -> None:
        super().__init__(connection)
        self.path = path
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
        self._history, self.revision = journal.history(connection)
        self._data_version = data_version(writer) if writer is not None else 0
        self.crs: ProjectCrs = _kept_crs(connection)
        self.srs_id = reference_systems.number_of(connection, self.crs)
        # The last entry that was written here.
        self.latest: Entry | None = None
        # The revision that each row was changed at, and the one at which another program may have changed any.
        self._changed_at: dict[tuple[str, int], int] = {}
        self._barrier = 0
        if self._watch:
            identity.written(path, self._watch.mark)

    @staticmethod
    def open(path: Path, read_only: bool = False) -> Project:
        """Open a project file; one that cannot be written is opened to be looked at.

        Raises
        ------
        ProjectRefused
            No such file, not a GeoPackage, or a GeoPackage that is no project.
        """
        if not path.is_file():
            raise ProjectRefused(f"There is no project file {path.name}.")
        writable = not read_only and can_be_written(path)
        if writable:
            identity.part_from_strange_log(path)
        connection = connected(path, writable)
        try:
            if connection.execute("PRAGMA application_id").fetchone()[0] != APPLICATION_ID:
                raise ProjectRefused(f"{path.name} is not a project: it is no GeoPackage. Choose another file.")
            known = connection.execute(
                "SELECT count(*) FROM sqlite_master WHERE name IN ('project', 'journal', 'lines', 'parts')"
            ).fetchone()[0]
            if known != 4:
                raise ProjectRefused(
                    f"{path.name} is a GeoPackage but not a project of Orvik; bring it in as a file instead."
                )
            others = strangers.check_objects(connection, path.name)
            add_functions(connection)
            if not writable and migrations.form_of(connection) < migrations.PRESENT:
                if not can_be_written(path):
                    raise ProjectRefused(
                        f"{path.name} was made by an earlier Orvik and cannot be written; "
                        "copy it to a folder where it can."
                    )
                # Reading needs the present form, too.
                Project.open(path).close()
            connection.execute("PRAGMA foreign_keys = ON")
            connection.execute(f"PRAGMA busy_timeout = {BUSY_MS}")
            if not writable:
                strangers.check_complete(connection, path.name)
                return Project(path, connection, None)
            connection.execute("PRAGMA journal_mode = WAL")
            connection.execute("PRAGMA synchronous = FULL")
            connection.execute("PRAGMA wal_autocheckpoint = 0")
            strangers.strip_triggers(connection, others)
            migrations.migrate(connection)
            strangers.check_complete(connection, path.name)
            strangers.check_sound(connection, path)
            return Project(path, reading_beside(path), connection)
        except sqlite3.DatabaseError as error:
            connection.close()
            raise ProjectRefused(f"{path.name} cannot be read as a project ({error}).") from error
        except BaseException:
            connection.close()
            raise

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

    def close_reader(self) -> None:
        """Close a project that was opened for reading only."""
        self._connection.close()

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

    @contextmanager
    def snapshot(self, seconds: float = SNAPSHOT_SECONDS) -> Iterator[None]:
        """Everything read within belongs to one revision, whatever is written meanwhile.

        Parameters
        ----------
        seconds
            How long it is held at the most: so long the log cannot move into the file.

        Raises
        ------
        ProjectRefused
            Something was to be read after that; what was read before belongs together.
        """
        ended = threading.Event()

        def end() -> None:
            ended.set()
            self._connection.interrupt()
            self._connection.close()

        with self._lock:
            self._connection.execute("BEGIN")
            timer = threading.Timer(seconds, end)
            timer.daemon = True
            if self._writer is None:
                timer.start()
            try:
                self.revision = int(self._connection.execute("SELECT coalesce(max(id), 0) FROM journal").fetchone()[0])
                yield
            except sqlite3.Error as error:
                if ended.is_set():
                    raise ProjectRefused(
                        f"This took more than {seconds:g} seconds while the project was held as it was, and was ended; "
                        "try again, or do it in parts."
                    ) from error
                raise
            finally:
                timer.cancel()
                # Ended in this very moment, there is nothing left to let go.
                with suppress(sqlite3.ProgrammingError):
                    if not ended.is_set():
                        self._connection.execute("COMMIT")

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
            self.notice_outside()
            if not self._history.undo:
                raise NotFound("There is nothing to undo.")
            entry = self._history.undo[-1]
            with self._transaction("undo", entry.label, entry.id) as transaction:
                transaction.changes = _turned(transaction.writer, entry.id, back=True)
            return transaction.entry

    def redo(self) -> Entry:
        """Carry out again the latest edit that was taken back."""
        with self._write_lock:
            self.notice_outside()
            if not self._history.redo:
                raise NotFound("There is nothing to redo.")
            entry = self._history.redo[-1]
            with self._transaction("redo", entry.label, entry.id) as transaction:
                transaction.changes = _turned(transaction.writer, entry.id, back=False)
            return transaction.entry

    @property
    def undo_label(self) -> str | None:
        """What undo would take back."""
        return self._history.undo[-1].label if self._history.undo else None

    @property
    def redo_label(self) -> str | None:
        """What redo would carry out again."""
        return self._history.redo[-1].label if self._history.redo else None

    def notice_outside(self) -> bool:
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
                raise ProjectRefused(f"Not kept: {self.path.name} cannot be written ({error}).") from error
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
                    f"Not kept: {self.path.name} can only be looked at; its file or folder is read-only."
                )
            self._refuse_lost()
            self.notice_outside()
            try:
                writer.execute("BEGIN IMMEDIATE")
                transaction = _Transaction(writer)
                yield transaction
                crs = _kept_crs(writer)
                # What the standard's own tables say of the system follows the project; it is no edit.
                srs_id = reference_systems.use(writer, crs) if crs != self.crs else self.srs_id
                entry = journal.written(writer, self.author, kind, label, transaction.changes, of)
                self._refuse_lost()
                writer.execute("COMMIT")
                self._dirty = True
            except sqlite3.IntegrityError as error:
                _roll_back(writer)
                raise ProjectRefused(f"This cannot be kept: {_plain(error)}.") from error
            except sqlite3.Error as error:
                _roll_back(writer)
                raise ProjectRefused(f"Not kept: {self.path.name} cannot be written ({error}).") from error
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

    def number_of(self, crs: ProjectCrs) -> int:
        """The number of a system in this file, or the one it would have."""
        with self._lock:
            return reference_systems.number_of(self._connection, crs)

    # Drafts: lines begun and not finished, kept but not journalled

    def draft(self, seat: str) -> str | None:
        """What is being drawn at a seat; None for nothing."""
        found = self._select("SELECT drawing FROM drafts WHERE seat = ?", (seat,))
        return str(found[0]["drawing"]) if found else None

    def drafts_left(self, taken: frozenset[str]) -> list[tuple[str, str]]:
        """What was left half drawn at seats that no open window has: seat and drawing, the latest first."""
        listed = self._select("SELECT seat, drawing FROM drafts ORDER BY id DESC")
        return [(r["seat"], str(r["drawing"])) for r in listed if r["seat"] not in taken]

    def set_draft(self, seat: str, drawing: str | None) -> None:
        """Keep what is being drawn at a seat, or forget it."""
        if drawing is None:
            self._put("DELETE FROM drafts WHERE seat = ?", (seat,))
            return
        self._put(
            "INSERT INTO drafts (seat, drawing) VALUES (?, ?) "
            "ON CONFLICT (seat) DO UPDATE SET drawing = excluded.drawing",
            (seat, drawing),
        )

    def forget_drafts(self) -> None:
        """Forget all that is being drawn; it stands in a coordinate system that is no more."""
        self._put("DELETE FROM drafts", ())

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
                raise ProjectRefused(f"Not kept: {self.path.name} cannot be written ({error}).") from error

    # The stack: a way of looking, kept but not journalled

    def stack(self) -> dict[str, rows.LayerState]:
        """How each layer stands, by name."""
        return {r["layer"]: rows.layer_state(r) for r in self._select("SELECT * FROM stack")}

    def set_layer(self, layer: str, state: rows.LayerState) -> None:
        """Keep how a layer stands."""
        self._put(
            "INSERT INTO stack (layer, shown, locked, strength) VALUES (?, ?, ?, ?) "
            "ON CONFLICT (layer) DO UPDATE SET shown = excluded.shown, locked = excluded.locked, "
            "strength = excluded.strength",
            (layer, int(state.shown), int(state.locked), state.strength),
        )


@contextmanager
def opened_for_reading(path: Path) -> Iterator[Project]:
    """A project opened to be read, and closed again."""
    project = Project.open(path, read_only=True)
    try:
        yield project
    finally:
        project.close_reader()


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


def _kept_crs(connection: sqlite3.Connection) -> ProjectCrs:
    held = connection.execute("SELECT crs FROM project WHERE id = 1").fetchone()
    if held is None:
        raise ProjectRefused("The row that says what this project is has gone; take the last copy of its file.")
    return project_crs(str(held[0]))


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

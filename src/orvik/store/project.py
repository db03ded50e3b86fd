"""An open project file: reading it, and changing it one journalled transaction at a time."""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np
import shapely

from ..core.crs import ProjectCrs, project_crs
from ..core.errors import NotFound, ProjectRefused
from ..core.feature import COLUMNS, TABLES, Feature, Features, Table
from ..core.scale import Scales
from ..core.sheet.page import Part, Sheet
from ..core.units import MapUnit, stratigraphic_order
from . import journal, reference_systems, rows, upgrade
from .geometry import add_functions, decoded, decoded_all
from .journal import Change, Entry, RowChange

APPLICATION_ID = 0x47504B47


class Project:
    """One project file. One writer at a time; every method is safe to call from any thread."""

    def __init__(self, path: Path, connection: sqlite3.Connection) -> None:
        self.path = path
        self._connection = connection
        self._lock = threading.RLock()
        self._closed = False
        self._history, self.revision = journal.history(connection)
        self._data_version = self._pragma("data_version")
        self.crs: ProjectCrs = self._kept_crs()
        self.srs_id = reference_systems.number_of(connection, self.crs)

    @staticmethod
    def open(path: Path, read_only: bool = False) -> Project:
        """Open a project file.

        Raises
        ------
        ProjectRefused
            No such file, not a GeoPackage, or a GeoPackage that is no project.
        """
        if not path.is_file():
            raise ProjectRefused(f"There is no project file {path}.")
        mode = "ro" if read_only else "rw"
        connection = sqlite3.connect(
            f"{path.resolve().as_uri()}?mode={mode}", uri=True, isolation_level=None, check_same_thread=False
        )
        try:
            if connection.execute("PRAGMA application_id").fetchone()[0] != APPLICATION_ID:
                raise ProjectRefused(
                    f"{path.name} is not a project: it is no GeoPackage. Choose another file."
                )
            known = connection.execute(
                "SELECT count(*) FROM sqlite_master WHERE name IN ('project', 'journal', 'lines', 'parts')"
            ).fetchone()[0]
            if known != 4:
                raise ProjectRefused(
                    f"{path.name} is a GeoPackage but not a project of Orvik; bring it in as a file instead."
                )
            add_functions(connection)
            if read_only and not upgrade.is_current(connection):
                # Reading needs the present form, too.
                Project.open(path).close()
            connection.execute("PRAGMA foreign_keys = ON")
            connection.execute("PRAGMA busy_timeout = 5000")
            if not read_only:
                connection.execute("PRAGMA journal_mode = WAL")
                connection.execute("PRAGMA synchronous = FULL")
                connection.execute("PRAGMA wal_autocheckpoint = 0")
                upgrade.upgrade(connection)
            return Project(path, connection)
        except sqlite3.DatabaseError as error:
            connection.close()
            raise ProjectRefused(f"{path.name} cannot be read as a project ({error}).") from error
        except BaseException:
            connection.close()
            raise

    def close(self) -> None:
        """Move what is in the write-ahead log into the file, and close it."""
        with self._lock:
            if not self._closed:
                self.checkpoint()
                self._connection.close()
                self._closed = True

    def close_reader(self) -> None:
        """Close a project that was opened for reading only."""
        self._connection.close()

    def checkpoint(self) -> None:
        """Move the write-ahead log into the file; for moments of rest."""
        with self._lock:
            self._connection.execute("PRAGMA wal_checkpoint(PASSIVE)")

    def copy_to(self, target: Path) -> None:
        """A whole copy of the project, also while it is in use."""
        with self._lock:
            copy = sqlite3.connect(target)
            try:
                self._connection.backup(copy)
            finally:
                copy.close()

    @contextmanager
    def snapshot(self) -> Iterator[None]:
        """Everything read within belongs to one revision, whatever is written meanwhile."""
        with self._lock:
            self._connection.execute("BEGIN")
            try:
                self.revision = int(
                    self._connection.execute("SELECT coalesce(max(id), 0) FROM journal").fetchone()[0]
                )
                yield
            finally:
                self._connection.execute("COMMIT")

    # Changing

    def apply(self, label: str, changes: Sequence[Change]) -> Entry:
        """Carry out changes as one transaction and one journal entry; returns after commit.

        Raises
        ------
        NotFound
            A row to change is no longer there; nothing is changed.
        ProjectRefused
            The file refuses the change; nothing is changed.
        """

        def carry_out() -> list[RowChange]:
            return [done for change in changes for done in journal.made(self._connection, change)]

        return self._transact("edit", label, None, carry_out)

    def undo(self) -> Entry:
        """Take back the latest edit that stands."""
        with self._lock:
            self.notice_outside()
            if not self._history.undo:
                raise NotFound("There is nothing to undo.")
            entry = self._history.undo[-1]
            return self._transact("undo", entry.label, entry.id, lambda: self._turned(entry.id, back=True))

    def redo(self) -> Entry:
        """Carry out again the latest edit that was taken back."""
        with self._lock:
            self.notice_outside()
            if not self._history.redo:
                raise NotFound("There is nothing to redo.")
            entry = self._history.redo[-1]
            return self._transact("redo", entry.label, entry.id, lambda: self._turned(entry.id, back=False))

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
        with self._lock:
            version = self._pragma("data_version")
            if version == self._data_version:
                return False
            self._data_version = version
            self._connection.execute("BEGIN IMMEDIATE")
            entry = journal.written(self._connection, "barrier", "changed by another program", [], None)
            self._connection.execute("COMMIT")
            self._history.took(entry)
            self.revision = entry.id
            return True

    def _transact(
        self, kind: str, label: str, of: int | None, carry_out: Callable[[], list[RowChange]]
    ) -> Entry:
        with self._lock:
            self.notice_outside()
            try:
                self._connection.execute("BEGIN IMMEDIATE")
                changes = carry_out()
                crs = self._kept_crs()
                # What the standard's own tables say of the system follows the project; it is no edit.
                srs_id = reference_systems.use(self._connection, crs) if crs != self.crs else self.srs_id
                entry = journal.written(self._connection, kind, label, changes, of)
                self._connection.execute("COMMIT")
            except sqlite3.IntegrityError as error:
                self._rollback()
                raise ProjectRefused(f"This cannot be kept: {_plain(error)}.") from error
            except sqlite3.Error as error:
                self._rollback()
                raise ProjectRefused(f"Not kept: {self.path.name} cannot be written ({error}).") from error
            except BaseException:
                self._rollback()
                raise
            self.crs, self.srs_id = crs, srs_id
            self._history.took(entry)
            self.revision = entry.id
            return entry

    def _kept_crs(self) -> ProjectCrs:
        return project_crs(self._connection.execute("SELECT crs FROM project WHERE id = 1").fetchone()[0])

    def number_of(self, crs: ProjectCrs) -> int:
        """The number of a system in this file, or the one it would have."""
        with self._lock:
            return reference_systems.number_of(self._connection, crs)

    def _rollback(self) -> None:
        if self._connection.in_transaction:
            self._connection.execute("ROLLBACK")

    def _turned(self, entry_id: int, back: bool) -> list[RowChange]:
        changes = journal.changes_of(self._connection, entry_id)
        if back:
            changes = [change.inverted() for change in reversed(changes)]
        for change in changes:
            journal.restored(self._connection, change)
        return changes

    # Reading

    def _pragma(self, name: str) -> int:
        return int(self._connection.execute(f"PRAGMA {name}").fetchone()[0])

    def _select(self, sql: str, values: tuple[Any, ...] = ()) -> list[sqlite3.Row]:
        with self._lock:
            cursor = self._connection.cursor()
            cursor.row_factory = sqlite3.Row
            return cursor.execute(sql, values).fetchall()

    @property
    def name(self) -> str:
        return str(self._select("SELECT name FROM project WHERE id = 1")[0]["name"])

    @property
    def scales(self) -> Scales:
        row = self._select("SELECT publication_scale, digitizing_scale, rungs FROM project WHERE id = 1")[0]
        others = tuple(int(rung) for rung in row["rungs"].split(",") if rung)
        return Scales(row["publication_scale"], row["digitizing_scale"], others)

    @property
    def kept_at(self) -> str | None:
        """When the last entry was kept (ISO 8601), or None in a new project."""
        found = self._select("SELECT at FROM journal ORDER BY id DESC LIMIT 1")
        return str(found[0]["at"]) if found else None

    def feature(self, table: Table, feature_id: int) -> Feature:
        """One feature; raises NotFound."""
        found = self._select(f"SELECT * FROM {_feature_table(table)} WHERE id = ?", (feature_id,))
        if not found:
            raise NotFound(f"That feature is no longer in the project ({table} {feature_id}).")
        return rows.feature(table, found[0], decoded(found[0]["geom"]))

    def features(self, table: Table) -> Features:
        """All features of a table as columns."""
        names = ("id", "geom", *COLUMNS[_feature_table(table)])
        sql = f"SELECT {', '.join(names)} FROM {table} ORDER BY id"
        with self._lock:
            found = self._connection.execute(sql).fetchall()
        columns = list(zip(*found, strict=True)) if found else [()] * len(names)
        return Features(
            table,
            np.array(columns[0], dtype=np.int64),
            decoded_all(columns[1]),
            {name: rows.column(name, values) for name, values in zip(names[2:], columns[2:], strict=True)},
        )

    def whole(self, table: Table, ids: Iterable[int]) -> dict[int, Feature]:
        """Features with all their attributes by id; those that are not there are left out."""
        found: dict[int, Feature] = {}
        wanted = list(ids)
        for start in range(0, len(wanted), 500):
            some = wanted[start : start + 500]
            sql = f"SELECT * FROM {_feature_table(table)} WHERE id IN ({', '.join('?' * len(some))})"
            for row in self._select(sql, tuple(some)):
                found[row["id"]] = rows.feature(table, row, decoded(row["geom"]))
        return found

    def all_features(self) -> dict[Table, Features]:
        """``features`` of every table."""
        return {table: self.features(table) for table in TABLES}

    def changed_since(self, revision: int) -> set[tuple[str, int]] | None:
        """Tables and ids of the rows that entries after a revision changed; None where another program wrote."""
        changed: set[tuple[str, int]] = set()
        for row in self._select("SELECT id, kind FROM journal WHERE id > ? ORDER BY id", (revision,)):
            if row["kind"] == "barrier":
                return None
            with self._lock:
                changed |= {(c.table, c.id) for c in journal.changes_of(self._connection, row["id"])}
        return changed

    def border(self) -> shapely.LineString | None:
        """The sheet border, if there is one."""
        found = self._select("SELECT geom FROM lines WHERE kind = 'border' ORDER BY id DESC LIMIT 1")
        line = decoded(found[0]["geom"]) if found else None
        return line if isinstance(line, shapely.LineString) else None

    def border_ids(self) -> list[int]:
        """Ids of the border line, of which a project has one at the most."""
        return [row["id"] for row in self._select("SELECT id FROM lines WHERE kind = 'border'")]

    def extent(self) -> tuple[float, float, float, float] | None:
        """West, south, east and north of all features, from the R-trees."""
        bounds = []
        for table in TABLES:
            found = self._select(
                f"SELECT min(minx) AS w, min(miny) AS s, max(maxx) AS e, max(maxy) AS n FROM rtree_{table}_geom"
            )[0]
            if found["w"] is not None:
                bounds.append((found["w"], found["s"], found["e"], found["n"]))
        if not bounds:
            return None
        west, south, east, north = zip(*bounds, strict=True)
        return min(west), min(south), max(east), max(north)

    def home(self) -> tuple[float, float, float, float] | None:
        """What a map shows first: the sheet border, else all features, else the system's area of use."""
        border = self.border()
        return border.bounds if border is not None else self.extent() or self.crs.area_bounds()

    def count(self, table: Table) -> int:
        return int(self._select(f"SELECT count(*) AS n FROM {_feature_table(table)}")[0]["n"])

    def units(self) -> list[tuple[int, MapUnit]]:
        """Map units with their row ids, youngest first."""
        found = {r["code"]: r for r in self._select("SELECT * FROM units")}
        return [(found[u.code]["id"], u) for u in stratigraphic_order([rows.unit(r) for r in found.values()])]

    def units_by_code(self) -> dict[str, MapUnit]:
        return {unit.code: unit for _, unit in self.units()}

    def ids_of_unit(self, table: Table, code: str) -> list[int]:
        """Ids of the features of a table that name a unit."""
        sql = f"SELECT id FROM {_feature_table(table)} WHERE map_unit = ? ORDER BY id"
        return [row["id"] for row in self._select(sql, (code,))]

    def unit_use(self, code: str) -> int:
        """How many features name a unit."""
        return sum(len(self.ids_of_unit(table, code)) for table in TABLES)

    def sheets(self) -> list[Sheet]:
        return [rows.sheet(r) for r in self._select("SELECT * FROM sheets ORDER BY id")]

    def next_id(self, table: str) -> int:
        """The id that the next row of a table will have (its ids are never used twice)."""
        found = self._select("SELECT seq FROM sqlite_sequence WHERE name = ?", (table,))
        return int(found[0]["seq"]) + 1 if found else 1

    def sheet(self, sheet_id: int) -> Sheet:
        for sheet in self.sheets():
            if sheet.id == sheet_id:
                return sheet
        raise NotFound("That sheet is no longer in the project.")

    def parts(self, sheet_id: int) -> list[Part]:
        sql = "SELECT * FROM parts WHERE sheet_id = ? ORDER BY position, id"
        return [rows.part(r) for r in self._select(sql, (sheet_id,))]

    def part(self, part_id: int) -> Part:
        found = self._select("SELECT * FROM parts WHERE id = ?", (part_id,))
        if not found:
            raise NotFound("That part is no longer on the sheet.")
        return rows.part(found[0])

    def sources(self) -> list[sqlite3.Row]:
        """Underlays and files brought in, in drawing order, the lowest first."""
        return self._select("SELECT * FROM sources ORDER BY position, id")

    def source(self, source_id: int) -> sqlite3.Row:
        for row in self.sources():
            if row["id"] == source_id:
                return row
        raise NotFound("That underlay is no longer in the project.")

    def views(self) -> list[sqlite3.Row]:
        """Saved views in order: id, name, x, y, denominator."""
        return self._select("SELECT * FROM views ORDER BY position, id")

    def kinds(self) -> list[sqlite3.Row]:
        """Kinds of the project's own in order: id, name, label, family, sign, fields, position."""
        return self._select("SELECT * FROM kinds ORDER BY position, id")

    def stations(self) -> list[sqlite3.Row]:
        """The field notebook in order: id, name, x, y, kind, azimuth, inclination, note, point_id."""
        return self._select("SELECT * FROM stations ORDER BY id")

    def kind_use(self, table: Table, kind: str) -> int:
        """How many features are of a kind."""
        return int(self._select(f"SELECT count(*) AS n FROM {_feature_table(table)} WHERE kind = ?", (kind,))[0]["n"])

    # Drafts: lines begun and not finished, kept but not journalled

    def draft(self, seat: str, taken: frozenset[str]) -> tuple[str, str | None]:
        """What was being drawn at a seat; else what was left at one that nobody takes any more.

        Parameters
        ----------
        seat
            The window that asks.
        taken
            The windows that are open.
        """
        rows = {r["seat"]: str(r["drawing"]) for r in self._select("SELECT seat, drawing FROM drafts ORDER BY id")}
        if seat in rows:
            return seat, rows[seat]
        left = [name for name in rows if name not in taken]
        return (left[-1], rows[left[-1]]) if left else (seat, None)

    def set_draft(self, seat: str, drawing: str | None) -> None:
        """Keep what is being drawn at a seat, or forget it."""
        with self._lock:
            if drawing is None:
                self._connection.execute("DELETE FROM drafts WHERE seat = ?", (seat,))
                return
            self._connection.execute(
                "INSERT INTO drafts (seat, drawing) VALUES (?, ?) ON CONFLICT (seat) DO UPDATE SET drawing = excluded.drawing",
                (seat, drawing),
            )

    def forget_drafts(self) -> None:
        """Forget all that is being drawn; it stands in a coordinate system that is no more."""
        with self._lock:
            self._connection.execute("DELETE FROM drafts")

    # The stack: a way of looking, kept but not journalled

    def stack(self) -> dict[str, rows.LayerState]:
        """How each layer stands, by name."""
        return {r["layer"]: rows.layer_state(r) for r in self._select("SELECT * FROM stack")}

    def set_layer(self, layer: str, state: rows.LayerState) -> None:
        """Keep how a layer stands."""
        with self._lock:
            self._connection.execute(
                "INSERT INTO stack (layer, shown, locked, strength) VALUES (?, ?, ?, ?) "
                "ON CONFLICT (layer) DO UPDATE SET shown = excluded.shown, locked = excluded.locked, "
                "strength = excluded.strength",
                (layer, int(state.shown), int(state.locked), state.strength),
            )


def _feature_table(table: Table) -> Table:
    if table not in TABLES:
        raise NotFound(f"There is no feature table {table}.")
    return table


def _plain(error: sqlite3.IntegrityError) -> str:
    text = str(error)
    if text.startswith("UNIQUE constraint failed: "):
        table, column = text.removeprefix("UNIQUE constraint failed: ").split(".")[:2]
        return f"another one of the {table} has the same {column}"
    return text[:1].lower() + text[1:]

"""Reading an open project file: features in bulk and one by one, units, sheets, and all that stands beside them."""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

import numpy as np
import shapely

from orvik.core.arrays import Objects
from orvik.core.errors import NotFound, OrvikError, ProjectRefused
from orvik.core.features.feature import COLUMNS, Feature, Features
from orvik.core.features.kind import SHEET_BORDER
from orvik.core.features.map_unit import MapUnit, stratigraphic_order
from orvik.core.features.station_table import Station
from orvik.core.features.table import SECTION_TABLES, TABLES, Table
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.saved_view import SavedView
from orvik.core.ground.scale import Scales
from orvik.core.pictures.source import Source
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.part import Part
from orvik.core.structure.section.meeting import Ends
from orvik.store import journal, rows
from orvik.store.geometry import decoded_all
from orvik.store.table_rows import TableRows

# West, south, east and north.
Bounds = tuple[float, float, float, float]


@dataclass(frozen=True)
class Fault:
    """A row that another program has left and that holds nothing that can be shown."""

    table: str
    id: int
    why: str


class Reader(TableRows):
    """What can be read of a project file. Every method is safe to call from any thread."""

    crs: ProjectCrs

    def __init__(self, connection: sqlite3.Connection) -> None:
        self._connection = connection
        self._lock = threading.RLock()

    def _select(self, sql: str, values: tuple[Any, ...] = ()) -> list[sqlite3.Row]:
        with self._lock:
            cursor = self._connection.cursor()
            cursor.row_factory = sqlite3.Row
            try:
                return cursor.execute(sql, values).fetchall()
            except OverflowError:
                raise NotFound("No row of the project has so large a number.") from None

    @property
    def name(self) -> str:
        return str(self._select("SELECT name FROM project WHERE id = 1")[0]["name"])

    @property
    def scales(self) -> Scales:
        row = self._select("SELECT publication_scale, digitizing_scale, rungs FROM project WHERE id = 1")[0]
        try:
            others = tuple(int(rung) for rung in str(row["rungs"]).split(",") if rung)
            return Scales(int(row["publication_scale"]), int(row["digitizing_scale"]), others)
        except (TypeError, ValueError) as error:
            raise ProjectRefused("The scales of this project cannot be read; use its last copy.") from error

    @property
    def imprint_text(self) -> str:
        """What is said of the map wherever it is printed, as JSON; empty for nothing."""
        return str(self._select("SELECT imprint FROM project WHERE id = 1")[0]["imprint"])

    @property
    def saved_at(self) -> str | None:
        """When the last entry was kept (ISO 8601), or None in a new project, and where another program left no time."""
        found = self._select("SELECT at FROM journal ORDER BY id DESC LIMIT 1")
        try:
            return str(found[0]["at"]) if found and datetime.fromisoformat(str(found[0]["at"])) else None
        except ValueError:
            return None

    def feature(self, table: Table, feature_id: int) -> Feature:
        """One feature; raises NotFound."""
        found = self._select(f"SELECT * FROM {_feature_table(table)} WHERE id = ?", (feature_id,))
        if not found:
            raise NotFound(f"That feature is no longer in the project ({table} {feature_id}).")
        return rows.feature(table, found[0], decoded_all([found[0]["geom"]])[0])

    def features(self, table: Table) -> Features:
        """All features of a table as columns; rows that hold none are left out, and told by ``faults``."""
        return self._features(table, _feature_table(table), ())

    def features_in(self, table: Table, bounds: Bounds) -> Features:
        """``features`` whose boxes touch a box: west, south, east and north."""
        return self._features(table, _feature_table(table), _box(bounds), _in_box(table))

    def _features(self, table: Table, stored: str, values: tuple[float, ...], where: str = "true") -> Features:
        """Features of a table as columns, from the table of the file that holds them."""
        names = ("id", "geom", *COLUMNS[table])
        sql = f"SELECT {', '.join(names)} FROM {stored} WHERE {where} ORDER BY id"
        with self._lock:
            found = self._connection.execute(sql, values).fetchall()
        if not found:
            return Features.of(table, [])
        geometries = decoded_all([row[1] for row in found])
        try:
            return _columns(table, names, found, geometries)
        except (ValueError, TypeError, KeyError, OrvikError):
            # Another program has left something here; the rest of the map is none the worse for it.
            sound = [
                not rows.fault_of(table, dict(zip(names, row, strict=True)), g)
                for row, g in zip(found, geometries, strict=True)
            ]
            kept = [row for row, good in zip(found, sound, strict=True) if good]
            return (
                _columns(table, names, kept, geometries[np.array(sound, dtype=bool)])
                if kept
                else Features.of(table, [])
            )

    def readings(self, bounds: Bounds | None = None) -> Features:
        """Points that have an azimuth, with their kind, unit, azimuth and inclination alone.

        Parameters
        ----------
        bounds
            West, south, east and north of a box that they stand in; all without it.
        """
        names = ("id", "geom", "kind", "map_unit", "azimuth", "inclination")
        where = f"azimuth IS NOT NULL AND {_in_box('points') if bounds else 'true'}"
        sql = f"SELECT {', '.join(names)} FROM points WHERE {where} ORDER BY id"
        with self._lock:
            found = self._connection.execute(sql, _box(bounds) if bounds else ()).fetchall()
        geometries = decoded_all([row[1] for row in found])
        try:
            if found:
                return _columns("points", names, found, geometries)
        except (ValueError, TypeError, KeyError, OrvikError):
            # Another program has left something here: as all points are read, row by row.
            pass
        every = self.features("points")
        return every.select(np.array([azimuth is not None for azimuth in every.columns["azimuth"]], dtype=bool))

    def faults(self, read: Mapping[Table, Features] | None = None) -> list[Fault]:
        """Rows that hold no feature, no unit and no part, each with what is wrong with it.

        Parameters
        ----------
        read
            What ``all_features`` has given in the same snapshot. Of a table of which it holds every row, only those
            are looked at whose knots, which it does not read, may be at fault.
        """
        found = []
        for table in TABLES:
            where = ""
            if read is not None and len(read[table]) == self.count(table):
                where = "WHERE knots NOT IN ('', '[]')" if table == "lines" else "WHERE 0"
            listed = self._select(f"SELECT * FROM {table} {where} ORDER BY id")
            geometries = decoded_all([row["geom"] for row in listed])
            for row, geometry in zip(listed, geometries, strict=True):
                why = rows.fault_of(table, row, geometry)
                if why:
                    found.append(Fault(table, row["id"], why))
        for row in self._select("SELECT * FROM units ORDER BY id"):
            found += [Fault("units", row["id"], why) for why in rows.refusals(rows.unit, row)]
        for row in self._select("SELECT * FROM sheets ORDER BY id"):
            found += [Fault("sheets", row["id"], why) for why in rows.refusals(rows.sheet, row)]
        for row in self._select("SELECT * FROM parts ORDER BY id"):
            found += [Fault("parts", row["id"], why) for why in rows.refusals(rows.part, row)]
        return found

    def whole(self, table: Table, ids: Iterable[int]) -> dict[int, Feature]:
        """Features with all their attributes by id; those that are not there are left out."""
        found: dict[int, Feature] = {}
        wanted = list(ids)
        for start in range(0, len(wanted), 500):
            some = wanted[start : start + 500]
            sql = f"SELECT * FROM {_feature_table(table)} WHERE id IN ({', '.join('?' * len(some))})"
            listed = self._select(sql, tuple(some))
            for row, geometry in zip(listed, decoded_all([r["geom"] for r in listed]), strict=True):
                if not rows.fault_of(table, row, geometry):
                    found[row["id"]] = rows.feature(table, row, geometry)
        return found

    def neighbour_id(self, table: Table, kind: str, number: int, forward: bool) -> int | None:
        """The next or the previous feature of a kind by number, round at the end."""
        sign, order = (">", "ASC") if forward else ("<", "DESC")
        for where in (f" AND id {sign} {int(number)}", ""):
            sql = f"SELECT id FROM {_feature_table(table)} WHERE kind = ?{where} ORDER BY id {order} LIMIT 1"
            found = self._select(sql, (kind,))
            if found:
                return int(found[0]["id"])
        return None

    def ids_where(self, table: Table, values: Mapping[str, str | bool | None], most: int) -> list[int]:
        """Ids of the features that have all these values of shared columns, and no more than ``most``."""
        if not set(values) <= {"kind", "certainty", "map_unit", "questionable"}:
            raise NotFound("There is no such attribute.")
        where = " AND ".join(f"{name} IS ?" for name in values)
        sql = f"SELECT id FROM {_feature_table(table)} WHERE {where} ORDER BY id LIMIT {int(most)}"
        return [row["id"] for row in self._select(sql, tuple(values.values()))]

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
                changed |= journal.rows_of(self._connection, row["id"])
        return changed

    def border(self) -> shapely.LineString | None:
        """The sheet border, if there is one."""
        found = self._select("SELECT geom FROM lines WHERE kind = ? ORDER BY id DESC LIMIT 1", (SHEET_BORDER,))
        line = decoded_all([found[0]["geom"]])[0] if found else None
        return line if isinstance(line, shapely.LineString) else None

    def border_ids(self) -> list[int]:
        """Ids of the border line, of which a project has one at the most."""
        return [row["id"] for row in self._select("SELECT id FROM lines WHERE kind = ?", (SHEET_BORDER,))]

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

    def middle(self) -> tuple[float, float] | None:
        """The middle of the sheet border, else of all features; None where there is neither."""
        border = self.border()
        bounds = border.bounds if border is not None else self.extent()
        return None if bounds is None else ((bounds[0] + bounds[2]) / 2, (bounds[1] + bounds[3]) / 2)

    def count(self, table: Table) -> int:
        return int(self._select(f"SELECT count(*) AS n FROM {_feature_table(table)}")[0]["n"])

    def kind_counts(self, table: Table) -> list[tuple[str, int]]:
        """The kinds that a table's features are of, the most frequent first, and how many of each."""
        sql = f"SELECT kind, count(*) AS n FROM {_feature_table(table)} GROUP BY kind ORDER BY n DESC, kind"
        return [(row["kind"], row["n"]) for row in self._select(sql)]

    def units(self) -> list[tuple[int, MapUnit]]:
        """Map units with their row ids, youngest first."""
        found = {r["code"]: r for r in self._select("SELECT * FROM units") if not rows.refusals(rows.unit, r)}
        return [(found[u.code]["id"], u) for u in stratigraphic_order([rows.unit(r) for r in found.values()])]

    def units_by_code(self) -> dict[str, MapUnit]:
        return {unit.code: unit for _, unit in self.units()}

    def ids_of_unit(self, table: Table, code: str) -> list[int]:
        """Ids of the features of a table that name a unit."""
        sql = f"SELECT id FROM {_feature_table(table)} WHERE map_unit = ? ORDER BY id"
        return [row["id"] for row in self._select(sql, (code,))]

    def unit_use(self, code: str) -> int:
        """How many features name a unit, on the map and on sections."""
        on_map = sum(len(self.ids_of_unit(table, code)) for table in TABLES)
        return on_map + sum(len(self.drawn_of_unit(table, code)) for table in TABLES)

    # What is drawn on sections; to be changed it is opened as a map is, by ``SectionProject``

    def drawn_features(self, line_id: int) -> dict[Table, Features]:
        """What is drawn on the section along a line of the map, in metres along and up."""
        where = "section_id = ?"
        return {table: self._features(table, SECTION_TABLES[table], (line_id,), where) for table in TABLES}

    def drawn_ends(self, line_id: int) -> dict[int, tuple[shapely.LineString, Ends]]:
        """By its number each line of a section with what of the map its ends were put to; without those of none."""
        found = self._select(
            "SELECT id, geom, first_meets, last_meets FROM section_lines "
            "WHERE section_id = ? AND (first_meets NOT NULL OR last_meets NOT NULL) ORDER BY id",
            (line_id,),
        )
        read = zip(found, decoded_all([row["geom"] for row in found]), strict=True)
        return {
            row["id"]: (line, (row["first_meets"], row["last_meets"]))
            for row, line in read
            if isinstance(line, shapely.LineString) and not line.is_empty
        }

    def drawn_ids(self, table: Table, line_id: int) -> list[int]:
        """Ids of what is drawn on the section along a line of the map."""
        sql = f"SELECT id FROM {SECTION_TABLES[table]} WHERE section_id = ? ORDER BY id"
        return [row["id"] for row in self._select(sql, (line_id,))]

    def drawn_of_unit(self, table: Table, code: str) -> list[int]:
        """Ids of what is drawn on sections and names a unit."""
        sql = f"SELECT id FROM {SECTION_TABLES[table]} WHERE map_unit = ? ORDER BY id"
        return [row["id"] for row in self._select(sql, (code,))]

    def drawn_of_kind(self, table: Table, kind: str) -> list[Feature]:
        """What is drawn on sections and is of a kind, with all its attributes."""
        return self._drawn(table, "kind = ?", kind)

    def drawn_whole(self, table: Table, line_id: int) -> list[Feature]:
        """What is drawn on the section along a line of the map, with all its attributes."""
        return self._drawn(table, "section_id = ?", line_id)

    def _drawn(self, table: Table, where: str, value: str | int) -> list[Feature]:
        found = self._select(f"SELECT * FROM {SECTION_TABLES[table]} WHERE {where} ORDER BY id", (value,))
        read = zip(found, decoded_all([row["geom"] for row in found]), strict=True)
        return [rows.feature(table, row, shape) for row, shape in read if not rows.fault_of(table, row, shape)]

    def sheets(self) -> list[Sheet]:
        found = self._select("SELECT * FROM sheets ORDER BY id")
        return rows.sound(rows.sheet, found)

    def sheet(self, sheet_id: int) -> Sheet:
        for sheet in self.sheets():
            if sheet.id == sheet_id:
                return sheet
        raise NotFound("That sheet is no longer in the project.")

    def parts(self, sheet_id: int) -> list[Part]:
        sql = "SELECT * FROM parts WHERE sheet_id = ? ORDER BY position, id"
        return rows.sound(rows.part, self._select(sql, (sheet_id,)))

    def all_parts(self) -> list[Part]:
        """The parts of all sheets, sheet by sheet."""
        return [part for sheet in self.sheets() for part in self.parts(sheet.number)]

    def part(self, part_id: int) -> Part:
        found = self._select("SELECT * FROM parts WHERE id = ?", (part_id,))
        if not found:
            raise NotFound("That part is no longer on the sheet.")
        return rows.part(found[0])

    def sources(self) -> list[Source]:
        """Underlays and files imported, in drawing order, the lowest first."""
        return [rows.source(row) for row in self._select("SELECT * FROM sources ORDER BY position, id")]

    def source(self, source_id: int) -> Source:
        for source in self.sources():
            if source.id == source_id:
                return source
        raise NotFound("That underlay is no longer in the project.")

    def views(self) -> list[SavedView]:
        """Saved views in order."""
        return [rows.saved_view(row) for row in self._select("SELECT * FROM views ORDER BY position, id")]

    def stations(self) -> list[Station]:
        """The field notebook in order."""
        return [rows.station(row) for row in self._select("SELECT * FROM stations ORDER BY id")]

    def kind_use(self, table: Table, kind: str) -> int:
        """How many features are of a kind, on the map and on sections."""
        names = (_feature_table(table), SECTION_TABLES[table])
        counts = [self._select(f"SELECT count(*) AS n FROM {name} WHERE kind = ?", (kind,)) for name in names]
        return sum(int(found[0]["n"]) for found in counts)


def _columns(table: Table, names: Sequence[str], found: Sequence[Sequence[Any]], geometries: Objects) -> Features:
    """Rows as columns; raises ValueError where a row holds no feature."""
    columns = list(zip(*found, strict=True))
    values = {name: rows.column(name, column) for name, column in zip(names[2:], columns[2:], strict=True)}
    if not rows.columns_are_sound(table, geometries, values):
        raise ValueError("a row holds no feature")
    return Features(table, np.array(columns[0], dtype=np.int64), geometries, values)


def _in_box(table: Table) -> str:
    """What holds of the rows of a table whose boxes touch the box of ``_box``."""
    index = f"rtree_{_feature_table(table)}_geom"
    return f"id IN (SELECT id FROM {index} WHERE minx <= ? AND maxx >= ? AND miny <= ? AND maxy >= ?)"


def _box(bounds: Bounds) -> tuple[float, ...]:
    west, south, east, north = bounds
    return east, west, north, south


def _feature_table(table: Table) -> Table:
    if table not in TABLES:
        raise NotFound(f"There is no feature table {table}.")
    return table

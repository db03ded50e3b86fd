"""What may stand in a project file: a file from elsewhere can hold more than data, which would run with our edits.

Triggers, columns that are reckoned, keys that delete what hangs on them, and views in the place of tables act on what
is kept here without a word. Before anything of a file is used, its list of objects is compared with what our own schema
makes; reading that list runs nothing.
"""

from __future__ import annotations

import re
import sqlite3
from functools import lru_cache
from pathlib import Path

from orvik.core.errors import ProjectRefused
from orvik.core.features.table import SECTION_TABLES, TABLES
from orvik.store import journal
from orvik.store.creation import ATTRIBUTE_TABLES, SCHEMA
from orvik.store.feature_tables import SECTIONS, spatial_index
from orvik.store.geometry import decoded

STANDARD_TABLES = ("gpkg_spatial_ref_sys", "gpkg_contents", "gpkg_geometry_columns", "gpkg_extensions")
# The tables of features, each with its spatial index.
INDEXED = (*TABLES, *SECTION_TABLES.values())
OURS = (*STANDARD_TABLES, *INDEXED, *ATTRIBUTE_TABLES)
# A library that writes GeoPackages keeps its count of features so; nothing else is done by these.
_COUNTS = re.compile(
    r'create trigger "trigger_(insert|delete)_feature_count_(\w+)" after (insert|delete) on "\2" begin '
    r"update gpkg_ogr_contents set feature_count = feature_count [+-] 1 where lower\(table_name\) = lower\('\2'\); end"
)
# Objects that have been looked over, by all their statements, from which everything follows that is looked at; and the
# triggers among them that are not ours. Workers open the same files again and again.
_seen: dict[tuple[tuple[str, str, str, str], ...], list[str]] = {}
MOST_SEEN = 64
# How the check of a file begins what it says of single values.
_OF_VALUES = ("CHECK constraint failed", "NULL value in", "NUMERIC value in", "TEXT value in", "non-unique")


def check_objects(connection: sqlite3.Connection, name: str) -> list[str]:
    """Look over the objects of a file; gives the names of triggers that are not ours, which must go before any edit.

    Parameters
    ----------
    connection
        One on which nothing has been run yet that reads a table of the file.
    name
        What the file is called.

    Raises
    ------
    ProjectRefused
        A table of ours is none, or holds what acts by itself.
    """
    connection.execute("PRAGMA trusted_schema = OFF")
    try:
        rows = connection.execute("SELECT type, name, tbl_name, sql FROM sqlite_master").fetchall()
        found = [(str(kind), str(called), str(table), str(sql or "")) for kind, called, table, sql in rows]
        seen = tuple(found)
        if seen in _seen:
            return list(_seen[seen])
        tables = {called.lower(): (kind, _plain(sql)) for kind, called, _, sql in found if kind in ("table", "view")}
        for table in OURS:
            if table in tables:
                _check_table(connection, name, table, *tables[table])
        if SECTIONS in tables and tables[SECTIONS] != ("view", _own_view()):
            # A table, as it was at form 18.
            _check_table(connection, name, SECTIONS, *tables[SECTIONS])
        for table in INDEXED:
            _, sql = tables.get(f"rtree_{table}_geom", ("table", ""))
            if sql and not re.fullmatch(
                rf'create virtual table "?rtree_{table}_geom"? using rtree\(id, minx, maxx, miny, maxy\)', _plain(sql)
            ):
                raise ProjectRefused(f"{name} has a spatial index that is none, so it is not opened.")
        allowed = _own_triggers()
        others = [
            called
            for kind, called, _, sql in found
            if kind == "trigger" and _plain(sql) not in allowed and not _COUNTS.fullmatch(_plain(sql))
        ]
        if len(_seen) >= MOST_SEEN:
            _seen.clear()
        _seen[seen] = others
        return others
    finally:
        # The triggers of the R-tree call functions of ours, which an untrusting connection forbids.
        connection.execute("PRAGMA trusted_schema = ON")


def _check_table(connection: sqlite3.Connection, name: str, table: str, kind: str, sql: str) -> None:
    refused = f"{name} was not made by Orvik as it is: its table {table} "
    if kind != "table" or not _plain(sql).startswith("create table"):
        raise ProjectRefused(f"{refused}is not a plain table. Nothing of it was run; import it as a file instead.")
    columns = connection.execute(f'PRAGMA table_xinfo("{table}")').fetchall()
    if any(column[6] for column in columns):
        raise ProjectRefused(f"{refused}has columns that are reckoned. Nothing of it was run; import it as a file.")
    if re.search(r"on conflict", _plain(sql)):
        raise ProjectRefused(f"{refused}replaces rows by itself. Nothing of it was run; import it as a file instead.")
    keys = {tuple(key[2:7]) for key in connection.execute(f'PRAGMA foreign_key_list("{table}")').fetchall()}
    if not keys <= _own_keys().get(table, set()):
        raise ProjectRefused(f"{refused}deletes or changes rows by itself. Nothing of it was run; import it as a file.")


@lru_cache(maxsize=1)
def _own_view() -> str:
    made = re.search(rf"CREATE VIEW {SECTIONS} .*?;", SCHEMA.read_text(encoding="utf-8"), re.DOTALL)
    assert made is not None
    return _plain(made[0])


def check_complete(connection: sqlite3.Connection, name: str) -> None:
    """Look whether a file of the present form has all tables and columns; raises ProjectRefused."""
    for table, columns in _own_columns().items():
        there = {str(row[1]) for row in connection.execute(f'PRAGMA table_info("{table}")').fetchall()}
        lost = sorted(columns - there)
        if lost:
            what = f"its table {table}" if not there else f"the column {lost[0]} of its table {table}"
            raise ProjectRefused(f"{name} lacks {what}, so it is not opened; use its last copy.")


def strip_triggers(connection: sqlite3.Connection, names: list[str]) -> None:
    """Take triggers of others out of a file, and say so in its journal; undo does not cross that."""
    if not names:
        return
    connection.execute("BEGIN IMMEDIATE")
    for name in names:
        quoted = name.replace('"', '""')
        connection.execute(f'DROP TRIGGER "{quoted}"')
    what = "a trigger" if len(names) == 1 else f"{len(names)} triggers"
    journal.written(connection, "", "barrier", f"took out {what} that another program had left", [], None)
    connection.execute("COMMIT")


def check_sound(connection: sqlite3.Connection, path: Path) -> None:
    """Look whether a file is whole, and build a spatial index again that is not: a tenth of a second for 200 MB.

    Raises
    ------
    ProjectRefused
        The file is damaged.
    """
    said = [str(row[0]) for row in connection.execute("PRAGMA quick_check(100)").fetchall()]
    # Values that a column should not have are told row by row.
    if any(line != "ok" and not line.startswith(_OF_VALUES) for line in said):
        raise ProjectRefused(f"{path.name} is damaged, so nothing more is written to it; use its last copy.")
    for table in INDEXED:
        if not _index_is_sound(connection, table):
            _build_index(connection, table)


def _index_is_sound(connection: sqlite3.Connection, table: str) -> bool:
    index = f"rtree_{table}_geom"
    names = f"SELECT count(*) FROM sqlite_master WHERE type = 'trigger' AND name GLOB '{index}_*'"
    if connection.execute(names).fetchone()[0] != sum("TRIGGER" in s for s in spatial_index(table)):
        return False
    try:
        if connection.execute("SELECT rtreecheck(?)", (index,)).fetchone()[0] != "ok":
            return False
        lost = f"SELECT count(*) FROM {index} WHERE id NOT IN (SELECT id FROM {table})"
        gone = connection.execute(lost).fetchone()[0]
        missing = connection.execute(
            f"SELECT geom FROM {table} WHERE geom NOT NULL AND id NOT IN (SELECT id FROM {index})"
        ).fetchall()
    except sqlite3.DatabaseError:
        return False
    return not gone and all(_bounds(row[0]) is None for row in missing)


def _build_index(connection: sqlite3.Connection, table: str) -> None:
    connection.execute("BEGIN IMMEDIATE")
    for statement in spatial_index(table):
        made = re.match(r"CREATE (TRIGGER|VIRTUAL TABLE) (\w+)", statement)
        assert made is not None
        connection.execute(f"DROP {made[1].split()[-1]} IF EXISTS {made[2]}")
    for statement in spatial_index(table):
        connection.execute(statement)
    rows = connection.execute(f"SELECT id, geom FROM {table} WHERE geom NOT NULL").fetchall()
    boxes = ((number, _bounds(geometry)) for number, geometry in rows)
    connection.executemany(
        f"INSERT INTO rtree_{table}_geom VALUES (?, ?, ?, ?, ?)",
        ((number, box[0], box[2], box[1], box[3]) for number, box in boxes if box is not None),
    )
    connection.execute("COMMIT")


def _bounds(blob: bytes) -> tuple[float, float, float, float] | None:
    """West, south, east and north of a geometry; None of one that is empty or cannot be read."""
    try:
        geometry = decoded(blob)
    except Exception:
        # Whatever is wrong with it, the row is told of when it is read.
        return None
    return None if geometry.is_empty else geometry.bounds


@lru_cache(maxsize=1)
def _own_triggers() -> frozenset[str]:
    statements = (statement for table in INDEXED for statement in spatial_index(table))
    return frozenset(_plain(s) for s in statements if s.lstrip().startswith("CREATE TRIGGER"))


@lru_cache(maxsize=1)
def _own_columns() -> dict[str, set[str]]:
    """The columns of every table that our schema makes."""
    connection = sqlite3.connect(":memory:")
    try:
        connection.executescript(SCHEMA.read_text(encoding="utf-8"))
        return {
            table: {str(row[1]) for row in connection.execute(f"PRAGMA table_info({table})").fetchall()}
            for table in OURS
        }
    finally:
        connection.close()


@lru_cache(maxsize=1)
def _own_keys() -> dict[str, set[tuple[object, ...]]]:
    """The foreign keys that our schema makes, by table."""
    connection = sqlite3.connect(":memory:")
    try:
        connection.executescript(SCHEMA.read_text(encoding="utf-8"))
        return {
            table: {tuple(key[2:7]) for key in connection.execute(f"PRAGMA foreign_key_list({table})").fetchall()}
            for table in OURS
        }
    finally:
        connection.close()


def _plain(sql: str) -> str:
    """A statement without what does not count: its spaces, its letters' case, a mark at its end."""
    return re.sub(r"\s+", " ", sql).strip().rstrip("; ").lower()

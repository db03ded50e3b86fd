"""Making a new project file."""

from __future__ import annotations

import contextlib
import sqlite3
from pathlib import Path

from orvik.core.errors import ProjectRefused
from orvik.core.features.feature import GEOMETRY_TYPES
from orvik.core.features.table import SECTION_TABLES, TABLES, Table
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.scale import Scales
from orvik.store import reference_systems
from orvik.store.forms import migrations
from orvik.store.geometry import add_functions
from orvik.whole_file import whole_file

SCHEMA = Path(__file__).with_name("schema.sql")
ATTRIBUTE_TABLES = (
    "units",
    "sheets",
    "parts",
    "sources",
    "journal",
    "project",
    "stack",
    "views",
    "section_settings",
    "kinds",
    "pens",
    "symbols",
    "symbol_rules",
    "emphases",
    "mappings",
    "label_moves",
    "label_rules",
    "stations",
    "drafts",
    "forms",
    "files",
    "templates",
    "acceptances",
    "turned_off_rules",
    "rests",
)
# The sections as features: no table, but a view of lines of the map.
SECTIONS = "sections"
# Metres along and up: what the standard calls undefined Cartesian.
SECTION_SRS_ID = -1
RTREE_DEFINITION = "http://www.geopackage.org/spec131/#extension_rtree"
WKT_DEFINITION = "http://www.geopackage.org/spec131/#extension_crs_wkt"
LONGEST_NAME = 200
_CONTENTS = "INSERT INTO gpkg_contents (table_name, data_type, identifier, srs_id) VALUES (?, 'features', ?, ?)"
_COLUMNS = "INSERT INTO gpkg_geometry_columns VALUES (?, 'geom', ?, ?, 0, 0)"
# R-tree triggers of OGC 12-128r18, annex F.3, with {t} for the table, geom and id for its columns.
_RTREE = """
CREATE VIRTUAL TABLE rtree_{t}_geom USING rtree(id, minx, maxx, miny, maxy);
CREATE TRIGGER rtree_{t}_geom_insert AFTER INSERT ON {t}
  WHEN (new.geom NOT NULL AND NOT ST_IsEmpty(NEW.geom))
BEGIN
  INSERT OR REPLACE INTO rtree_{t}_geom VALUES (NEW.id,
    ST_MinX(NEW.geom), ST_MaxX(NEW.geom), ST_MinY(NEW.geom), ST_MaxY(NEW.geom));
END;
CREATE TRIGGER rtree_{t}_geom_update1 AFTER UPDATE OF geom ON {t}
  WHEN OLD.id = NEW.id AND (NEW.geom NOTNULL AND NOT ST_IsEmpty(NEW.geom))
BEGIN
  INSERT OR REPLACE INTO rtree_{t}_geom VALUES (NEW.id,
    ST_MinX(NEW.geom), ST_MaxX(NEW.geom), ST_MinY(NEW.geom), ST_MaxY(NEW.geom));
END;
CREATE TRIGGER rtree_{t}_geom_update2 AFTER UPDATE OF geom ON {t}
  WHEN OLD.id = NEW.id AND (NEW.geom ISNULL OR ST_IsEmpty(NEW.geom))
BEGIN
  DELETE FROM rtree_{t}_geom WHERE id = OLD.id;
END;
CREATE TRIGGER rtree_{t}_geom_update3 AFTER UPDATE ON {t}
  WHEN OLD.id != NEW.id AND (NEW.geom NOTNULL AND NOT ST_IsEmpty(NEW.geom))
BEGIN
  DELETE FROM rtree_{t}_geom WHERE id = OLD.id;
  INSERT OR REPLACE INTO rtree_{t}_geom VALUES (NEW.id,
    ST_MinX(NEW.geom), ST_MaxX(NEW.geom), ST_MinY(NEW.geom), ST_MaxY(NEW.geom));
END;
CREATE TRIGGER rtree_{t}_geom_update4 AFTER UPDATE ON {t}
  WHEN OLD.id != NEW.id AND (NEW.geom ISNULL OR ST_IsEmpty(NEW.geom))
BEGIN
  DELETE FROM rtree_{t}_geom WHERE id IN (OLD.id, NEW.id);
END;
CREATE TRIGGER rtree_{t}_geom_delete AFTER DELETE ON {t} WHEN old.geom NOT NULL
BEGIN
  DELETE FROM rtree_{t}_geom WHERE id = OLD.id;
END;
"""


def create(path: Path, name: str, crs: ProjectCrs, scales: Scales) -> None:
    """Write a new, empty project file.

    The file appears under its name only when it is whole.

    Raises
    ------
    ProjectRefused
        The name is empty, the file exists, or its folder cannot be written.
    """
    if not name.strip():
        raise ProjectRefused("A project needs a name, such as Isle of Quennet.")
    if len(name) > LONGEST_NAME:
        raise ProjectRefused(f"The name of a project has at most {LONGEST_NAME} letters; shorten it.")
    if not path.name or path.name in (".", ".."):
        raise ProjectRefused("A project file needs a name, such as quennet.gpkg.")
    try:
        if path.exists():
            raise ProjectRefused(f"There is a file {path.name} already; choose another name.")
        with (
            whole_file(path) as part,
            contextlib.closing(sqlite3.connect(part, isolation_level=None)) as connection,
        ):
            add_functions(connection)
            # All in one transaction: each by itself would wait for the disk.
            connection.executescript("BEGIN;\n" + SCHEMA.read_text(encoding="utf-8"))
            _fill(connection, name.strip(), crs, scales)
            connection.execute("COMMIT")
    except (OSError, sqlite3.Error) as error:
        why = error.strerror if isinstance(error, OSError) else str(error)
        raise ProjectRefused(f"{path.name[:80]} cannot be written ({why}); choose another folder or name.") from error


def _fill(connection: sqlite3.Connection, name: str, crs: ProjectCrs, scales: Scales) -> None:
    reference_systems.define_required(connection)
    srs_id = reference_systems.use(connection, crs)
    for table in TABLES:
        register_features(connection, table, table, srs_id)
    register_sections(connection, srs_id)
    connection.execute(
        "INSERT INTO gpkg_extensions VALUES ('gpkg_spatial_ref_sys', 'definition_12_063', 'gpkg_crs_wkt', ?, "
        "'read-write')",
        (WKT_DEFINITION,),
    )
    for attributes in ATTRIBUTE_TABLES:
        connection.execute(
            "INSERT INTO gpkg_contents (table_name, data_type, identifier) VALUES (?, 'attributes', ?)",
            (attributes, attributes),
        )
    migrations.state(connection)
    connection.execute(
        "INSERT INTO project (id, name, crs, publication_scale, digitizing_scale) VALUES (1, ?, ?, ?, ?)",
        (name, crs.text, scales.publication, scales.digitizing),
    )


def register_sections(connection: sqlite3.Connection, srs_id: int) -> None:
    """Say that the sections and the tables of what is drawn on them hold features."""
    connection.execute(_CONTENTS, (SECTIONS, SECTIONS, srs_id))
    connection.execute(_COLUMNS, (SECTIONS, GEOMETRY_TYPES["lines"], srs_id))
    for table, name in SECTION_TABLES.items():
        register_features(connection, table, name, SECTION_SRS_ID)


def register_features(connection: sqlite3.Connection, table: Table, name: str, srs_id: int) -> None:
    """Say that a table holds features of the sort of one of ours, and index them."""
    connection.execute(_CONTENTS, (name, name, srs_id))
    connection.execute(_COLUMNS, (name, GEOMETRY_TYPES[table], srs_id))
    for statement in spatial_index(name):
        connection.execute(statement)
    connection.execute(
        "INSERT INTO gpkg_extensions VALUES (?, 'geom', 'gpkg_rtree_index', ?, 'write-only')", (name, RTREE_DEFINITION)
    )


def spatial_index(table: str) -> list[str]:
    """The statements that make the R-tree of a feature table and keep it up."""
    return statements(_RTREE.format(t=table))


def statements(script: str) -> list[str]:
    """A script's statements; triggers hold semicolons of their own."""
    statements, current = [], ""
    for line in script.strip().splitlines():
        current += line + "\n"
        if sqlite3.complete_statement(current):
            statements.append(current)
            current = ""
    return statements

"""Tables of features as a GeoPackage has them: what the standard's own tables say of them, and spatial indexes."""

from __future__ import annotations

import sqlite3

from orvik.core.features.feature import GEOMETRY_TYPES
from orvik.core.features.table import SECTION_TABLES, Table

# The sections as features: no table, but a view of lines of the map.
SECTIONS = "sections"
# Metres along and up: what the standard calls undefined Cartesian.
SECTION_SRS_ID = -1
RTREE_DEFINITION = "http://www.geopackage.org/spec131/#extension_rtree"
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

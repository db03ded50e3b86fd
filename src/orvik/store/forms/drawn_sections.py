"""Form 19: sections become features, what is asked of them a table of its own, and there is room to draw on them."""

from __future__ import annotations

import sqlite3

from orvik.store.feature_tables import register_sections

_BEFORE, _SETTINGS = "sections", "section_settings"


def draw_sections(connection: sqlite3.Connection) -> None:
    """Rename what was asked of sections, in the journal, too, so that undoing finds it; then make what is new."""
    connection.execute(f"ALTER TABLE {_BEFORE} RENAME TO {_SETTINGS}")
    connection.execute(
        "UPDATE gpkg_contents SET table_name = ?, identifier = ? WHERE table_name = ?", (_SETTINGS, _SETTINGS, _BEFORE)
    )
    # As a change begins; within a text, its marks would have strokes before them.
    was, now = f'["{_BEFORE}", ', f'["{_SETTINGS}", '
    connection.execute("UPDATE journal SET changes = replace(changes, ?, ?) WHERE instr(changes, ?)", (was, now, was))
    for statement in _NEW:
        connection.execute(statement)
    (srs_id,) = connection.execute("SELECT srs_id FROM gpkg_geometry_columns WHERE table_name = 'lines'").fetchone()
    register_sections(connection, srs_id)


_NEW = (
    """CREATE VIEW sections AS
      SELECT lines.id AS id, lines.geom AS geom, lines.note AS note, section_settings.exaggeration AS exaggeration,
        section_settings.base AS base, section_settings.corridor AS corridor,
        section_settings.axis_trend AS axis_trend, section_settings.axis_plunge AS axis_plunge
      FROM lines LEFT JOIN section_settings ON section_settings.line_id = lines.id
      WHERE lines.kind = 'section_line'""",
    """CREATE TABLE section_lines (
      id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
      section_id INTEGER NOT NULL,
      geom LINESTRING NOT NULL,
      kind TEXT NOT NULL,
      certainty TEXT NOT NULL DEFAULT 'certain',
      questionable INTEGER NOT NULL DEFAULT 0,
      map_unit TEXT,
      azimuth REAL,
      inclination REAL,
      capture_scale INTEGER,
      source_id INTEGER REFERENCES sources(id),
      note TEXT NOT NULL DEFAULT '',
      stretches TEXT NOT NULL DEFAULT '',
      knots TEXT NOT NULL DEFAULT '',
      band TEXT NOT NULL DEFAULT '',
      fields TEXT NOT NULL DEFAULT '',
      first_meets INTEGER,
      last_meets INTEGER
    )""",
    """CREATE TABLE section_areas (
      id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
      section_id INTEGER NOT NULL,
      geom POLYGON NOT NULL,
      kind TEXT NOT NULL,
      certainty TEXT NOT NULL DEFAULT 'certain',
      questionable INTEGER NOT NULL DEFAULT 0,
      map_unit TEXT,
      azimuth REAL,
      inclination REAL,
      capture_scale INTEGER,
      source_id INTEGER REFERENCES sources(id),
      note TEXT NOT NULL DEFAULT '',
      fields TEXT NOT NULL DEFAULT ''
    )""",
    """CREATE TABLE section_points (
      id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
      section_id INTEGER NOT NULL,
      geom POINT NOT NULL,
      kind TEXT NOT NULL,
      certainty TEXT NOT NULL DEFAULT 'certain',
      questionable INTEGER NOT NULL DEFAULT 0,
      map_unit TEXT,
      azimuth REAL,
      inclination REAL,
      capture_scale INTEGER,
      source_id INTEGER REFERENCES sources(id),
      note TEXT NOT NULL DEFAULT '',
      fields TEXT NOT NULL DEFAULT ''
    )""",
    """CREATE INDEX section_lines_by_section ON section_lines (section_id, id)""",
    """CREATE INDEX section_areas_by_section ON section_areas (section_id, id)""",
    """CREATE INDEX section_points_by_section ON section_points (section_id, id)""",
)

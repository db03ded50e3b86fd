"""The steps from form to form of a project file, each as it was when it was written."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from orvik.store.forms.drawn_sections import draw_sections
from orvik.store.forms.joining_kinds import join_kinds
from orvik.store.forms.packing import pack_journal
from orvik.store.forms.renaming import rename
from orvik.store.forms.taking_over import take_over

# The tables of features, each with a column more or an index.
_FEATURES = ("lines", "areas", "points")


@dataclass(frozen=True)
class Migration:
    """One step: columns by table and name, tables and indexes by their statements, and what happens to rows.

    ``then`` is for what SQL alone cannot do.
    """

    to: int
    columns: Mapping[str, Mapping[str, str]] = field(default_factory=dict)
    tables: tuple[str, ...] = ()
    indexes: tuple[str, ...] = ()
    statements: tuple[str, ...] = ()
    then: Callable[[sqlite3.Connection], None] | None = None


# Kinds that the symbol book had got at form 6: a project's own kinds of these names keep their symbols and meanings
# under another one.
_TAKEN_TEXT = """
    gradational_contact unconformable_contact scratch_boundary incomplete_contact internal_contact marker_bed
    felsic_dyke intermediate_dyke sill vein coal_bed clinker normal_fault low_angle_normal_fault reverse_fault thrust
    overturned_thrust detachment_fault right_lateral_fault left_lateral_fault right_oblique_fault left_oblique_fault
    scissor_fault fault_scarp shear_zone historic_trace upthrown downthrown fault_dip fault_slip fault_zone anticline
    syncline overturned_anticline overturned_syncline asymmetric_anticline asymmetric_syncline antiform synform
    monocline_upper monocline_lower minor_anticline minor_syncline minor_fold plunge_arrow dome basin inverted_bedding
    crumpled_bedding bedding_top_known bedding_direction cleavage igneous_foliation mylonitic_foliation vein_plane
    banding mineral_lineation intersection_lineation slickenline fold_axis flow_lineation stream intermittent_stream
    glacier_limit moraine_crest esker drumlin_axis terrace_edge raised_shoreline landslide_scarp spring seep dry_spring
    sinkhole ice_striae ice_striae_unknown flow_direction lake landslide_body crater_rim caldera_rim fissure vent
    cinder_cone lava_flow_direction open_pit mine_shaft quarry gravel_pit prospect oil_well gas_well water_well dry_hole
    sample fossil microfossil plant_fossil dated_sample mineral_occurrence inclined_shaft adit section_line
    state_boundary county_boundary park_boundary map_area_boundary road track footpath gravity_contour magnetic_contour
    structure_contour building summit triangulation_point spot_height place_name alteration contact_metamorphism
    sheared_ground ice not_mapped area_of_doubt
"""


def rename_and_pack(connection: sqlite3.Connection) -> None:
    """What form 14 does beyond columns and indexes."""
    rename(connection)
    pack_journal(connection)


_TAKEN = f" {' '.join(_TAKEN_TEXT.split())} "
MIGRATIONS = (
    Migration(
        2,
        {
            "project": {"rungs": "TEXT NOT NULL DEFAULT ''"},
            "sources": {
                "fit": "TEXT NOT NULL DEFAULT ''",
                "relief": "TEXT NOT NULL DEFAULT ''",
                "position": "INTEGER NOT NULL DEFAULT 0",
                "grouping": "TEXT NOT NULL DEFAULT ''",
                "aside": "INTEGER NOT NULL DEFAULT 0",
                "colour": "TEXT NOT NULL DEFAULT ''",
            },
        },
        (
            """CREATE TABLE views (
                 id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL, name TEXT NOT NULL UNIQUE, x REAL NOT NULL,
                 y REAL NOT NULL, denominator INTEGER NOT NULL, position INTEGER NOT NULL)""",
        ),
    ),
    Migration(
        3,
        {
            "lines": {
                "stretches": "TEXT NOT NULL DEFAULT ''",
                "knots": "TEXT NOT NULL DEFAULT ''",
                "band": "TEXT NOT NULL DEFAULT ''",
                "fields": "TEXT NOT NULL DEFAULT ''",
            },
            "areas": {"fields": "TEXT NOT NULL DEFAULT ''"},
            "points": {"fields": "TEXT NOT NULL DEFAULT ''"},
        },
        (
            """CREATE TABLE kinds (
                 id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL, name TEXT NOT NULL UNIQUE, label TEXT NOT NULL,
                 family TEXT NOT NULL CHECK (family IN ('lines', 'areas', 'points')),
                 sign TEXT NOT NULL DEFAULT '{}', fields TEXT NOT NULL DEFAULT '[]', position INTEGER NOT NULL)""",
            """CREATE TABLE stations (
                 id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL, name TEXT NOT NULL, x REAL NOT NULL, y REAL NOT NULL,
                 kind TEXT NOT NULL DEFAULT 'bedding', azimuth REAL, inclination REAL,
                 note TEXT NOT NULL DEFAULT '', point_id INTEGER)""",
            """CREATE TABLE drafts (
                 id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL, seat TEXT NOT NULL UNIQUE, drawing TEXT NOT NULL)""",
        ),
    ),
    Migration(
        4,
        indexes=(
            *(f"CREATE INDEX {table}_by_kind ON {table} (kind, id)" for table in _FEATURES),
            *(f"CREATE INDEX {table}_by_unit ON {table} (map_unit)" for table in _FEATURES),
        ),
    ),
    Migration(
        5,
        {"journal": {"author": "TEXT NOT NULL DEFAULT ''"}},
        (
            """CREATE TABLE forms (
                 id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
                 at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ','now')))""",
        ),
    ),
    Migration(
        6,
        {
            "units": {
                **dict.fromkeys(
                    ("label", "rock", "age_from", "age_to", "rank", "parent", "heading", "pattern"),
                    "TEXT NOT NULL DEFAULT ''",
                ),
                "pattern_colour": "TEXT NOT NULL DEFAULT ''",
                "pattern_strength": "REAL NOT NULL DEFAULT 1.0",
            },
        },
        (
            """CREATE TABLE pens (
                 id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL, kind TEXT NOT NULL, certainty TEXT NOT NULL,
                 key TEXT NOT NULL DEFAULT '', position INTEGER NOT NULL)""",
        ),
        statements=(
            *(
                f"UPDATE {table} SET kind = kind || '_own' "
                f"WHERE instr('{_TAKEN}', ' ' || kind || ' ') AND kind IN (SELECT name FROM kinds)"
                for table in _FEATURES
            ),
            f"UPDATE kinds SET name = name || '_own' WHERE instr('{_TAKEN}', ' ' || name || ' ')",
        ),
    ),
    Migration(
        7,
        {"sources": {"look": "TEXT NOT NULL DEFAULT ''"}},
        tables=(
            """CREATE TABLE label_moves (
                 id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
                 family TEXT NOT NULL CHECK (family IN ('lines', 'areas', 'points')), feature INTEGER NOT NULL,
                 number INTEGER NOT NULL DEFAULT 0, scope INTEGER NOT NULL DEFAULT 0, x REAL, y REAL, angle REAL,
                 hidden INTEGER NOT NULL DEFAULT 0, UNIQUE (family, feature, number, scope))""",
            """CREATE TABLE label_rules (
                 id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
                 family TEXT NOT NULL CHECK (family IN ('lines', 'areas', 'points')), kind TEXT NOT NULL,
                 pattern TEXT NOT NULL, size REAL NOT NULL, italic INTEGER NOT NULL DEFAULT 0,
                 placing TEXT NOT NULL DEFAULT 'above', UNIQUE (family, kind))""",
            """CREATE TABLE signs (
                 id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL, name TEXT NOT NULL UNIQUE,
                 family TEXT NOT NULL CHECK (family IN ('points', 'lines', 'patterns')), title TEXT NOT NULL,
                 body TEXT NOT NULL, position INTEGER NOT NULL)""",
            """CREATE TABLE sign_rules (
                 id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
                 family TEXT NOT NULL CHECK (family IN ('lines', 'areas', 'points')), kind TEXT NOT NULL,
                 body TEXT NOT NULL, position INTEGER NOT NULL)""",
            """CREATE TABLE themes (
                 id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL, name TEXT NOT NULL UNIQUE, body TEXT NOT NULL,
                 position INTEGER NOT NULL)""",
        ),
    ),
    # Grids become parts of their own, parts say which panel they speak of, and a panel says what its neatline follows.
    Migration(
        8,
        {"sheets": {"layout": "TEXT NOT NULL DEFAULT '{}'"}, "views": {"crs": "TEXT NOT NULL DEFAULT ''"}},
        statements=(
            """INSERT INTO parts (sheet_id, kind, x, y, width, height, position, settings)
                 SELECT sheet_id, 'graticule', x, y, width, height, position, json_object('panel', id) FROM parts
                 WHERE kind = 'map_panel' AND coalesce(json_extract(settings, '$.grid'), 1)""",
            """UPDATE parts SET settings = json_remove(json_set(settings, '$.neatline',
                 iif(coalesce(json_extract(settings, '$.cut'), 1), 'border', 'rectangle')), '$.grid', '$.cut')
                 WHERE kind = 'map_panel'""",
            """UPDATE parts SET settings = json_set(settings, '$.panel', (SELECT id FROM parts AS panel
                 WHERE panel.sheet_id = parts.sheet_id AND panel.kind = 'map_panel'
                 ORDER BY panel.width * panel.height DESC, panel.id LIMIT 1))
                 WHERE kind IN ('explanation', 'scale_bar', 'fraction', 'north_arrow', 'credit_note')""",
        ),
    ),
    Migration(
        9,
        tables=(
            """CREATE TABLE files (
                 id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
                 checksum TEXT NOT NULL UNIQUE,
                 name TEXT NOT NULL,
                 kind TEXT NOT NULL CHECK (kind IN ('picture', 'drawing', 'font')),
                 data BLOB NOT NULL
               )""",
            """CREATE TABLE templates (
                 id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
                 name TEXT NOT NULL UNIQUE,
                 sheet TEXT NOT NULL
               )""",
        ),
    ),
    Migration(
        10,
        tables=(
            """CREATE TABLE acceptances (
                 id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
                 key TEXT NOT NULL UNIQUE,
                 state TEXT NOT NULL,
                 message TEXT NOT NULL,
                 reason TEXT NOT NULL,
                 signed TEXT NOT NULL,
                 dated TEXT NOT NULL
               )""",
            """CREATE TABLE resting_rules (
                 id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
                 rule TEXT NOT NULL UNIQUE
               )""",
        ),
    ),
    Migration(11, then=take_over),
    Migration(
        12,
        tables=(
            """CREATE TABLE rests (
                 id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL CHECK (id = 1),
                 token TEXT NOT NULL
               )""",
        ),
    ),
    # The axis of a minor fold was there twice; and the finding of areas to form has a place, by which it is not named.
    Migration(
        13,
        statements=(
            "UPDATE acceptances SET key = 'unformed::plan' WHERE key = 'unformed::'",
            """UPDATE journal SET changes = replace(changes, '"unformed::"', '"unformed::plan"')
                 WHERE instr(changes, '"unformed::"')""",
        ),
        then=join_kinds,
    ),
    # Signs became symbols, strength opacity, and themes emphases; geometry stands in the journal as it is, and once.
    Migration(
        14,
        columns={"journal": {"blobs": "BLOB NOT NULL DEFAULT x''"}},
        indexes=(
            "CREATE INDEX journal_turns ON journal (of, id) WHERE of IS NOT NULL",
            "CREATE INDEX journal_barriers ON journal (id) WHERE kind = 'barrier'",
        ),
        then=rename_and_pack,
    ),
    # What the fields and values of other people's files mean here.
    Migration(
        15,
        tables=(
            """CREATE TABLE mappings (
                 id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
                 name TEXT NOT NULL UNIQUE,
                 body TEXT NOT NULL
               )""",
        ),
    ),
    # Colours of units as they were typed, beside what the screen shows.
    Migration(
        16,
        columns={
            "units": {
                "colour_typed": "TEXT NOT NULL DEFAULT ''",
                "pattern_colour_typed": "TEXT NOT NULL DEFAULT ''",
            }
        },
    ),
    # What is stated of a grid's heights: unit, vertical datum, and whether the project asks it.
    Migration(17, columns={"sources": {"heights": "TEXT NOT NULL DEFAULT ''"}}),
    # What is asked of section lines.
    Migration(
        18,
        tables=(
            """CREATE TABLE sections (
                 id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
                 line_id INTEGER NOT NULL UNIQUE,
                 exaggeration REAL NOT NULL DEFAULT 1.0,
                 base REAL,
                 corridor REAL NOT NULL DEFAULT 250.0,
                 axis_trend REAL,
                 axis_plunge REAL
               )""",
        ),
    ),
    # What is drawn on sections; these are features from now on, and what is asked of them has a table of its own.
    Migration(19, then=draw_sections),
    # Neighbouring sheets; what is printed of a project around its map; who is to be credited for a source.
    Migration(
        20,
        columns={
            "project": {"imprint": "TEXT NOT NULL DEFAULT ''"},
            "sources": {"credit": "TEXT NOT NULL DEFAULT ''"},
        },
        tables=(
            """CREATE TABLE neighbours (
                 id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
                 name TEXT NOT NULL,
                 sheet_number TEXT NOT NULL DEFAULT '',
                 place TEXT NOT NULL,
                 file TEXT NOT NULL DEFAULT '',
                 read TEXT NOT NULL DEFAULT '',
                 edge TEXT NOT NULL DEFAULT ''
               )""",
        ),
        # Files may be profiles of presses, too; what a column may hold cannot be changed where it stands.
        statements=(
            "ALTER TABLE files RENAME TO files_before",
            """CREATE TABLE files (
                 id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
                 checksum TEXT NOT NULL UNIQUE,
                 name TEXT NOT NULL,
                 kind TEXT NOT NULL CHECK (kind IN ('picture', 'drawing', 'font', 'profile')),
                 data BLOB NOT NULL
               )""",
            "INSERT INTO files SELECT id, checksum, name, kind, data FROM files_before",
            "DROP TABLE files_before",
        ),
    ),
    # The templates that sheets follow, and which part of that each of their parts was made as.
    Migration(
        21,
        columns={"parts": {"made_as": "INTEGER NOT NULL DEFAULT 0"}},
        tables=(
            """CREATE TABLE followed_templates (
                 id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
                 sheet_id INTEGER NOT NULL UNIQUE REFERENCES sheets(id) ON DELETE CASCADE,
                 name TEXT NOT NULL,
                 for_all INTEGER NOT NULL DEFAULT 0,
                 template TEXT NOT NULL
               )""",
        ),
    ),
    # Margin notes that somebody has pinned or answered, and what each proof told.
    Migration(
        22,
        tables=(
            """CREATE TABLE margin_notes (
                 id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
                 sheet_id INTEGER REFERENCES sheets(id) ON DELETE CASCADE,
                 key TEXT NOT NULL DEFAULT '',
                 message TEXT NOT NULL,
                 author TEXT NOT NULL,
                 made_at TEXT NOT NULL,
                 given_to TEXT NOT NULL DEFAULT '',
                 settled INTEGER NOT NULL DEFAULT 0 CHECK (settled IN (0, 1)),
                 pinned_to TEXT NOT NULL DEFAULT '' CHECK (pinned_to IN ('', 'ground', 'part', 'page')),
                 x REAL,
                 y REAL,
                 part INTEGER,
                 origin TEXT NOT NULL DEFAULT ''
               )""",
            """CREATE TABLE answers (
                 id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
                 note_id INTEGER NOT NULL REFERENCES margin_notes(id) ON DELETE CASCADE,
                 author TEXT NOT NULL,
                 made_at TEXT NOT NULL,
                 text TEXT NOT NULL,
                 origin TEXT NOT NULL DEFAULT ''
               )""",
            """CREATE TABLE proofs (
                 id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
                 sheet_id INTEGER NOT NULL REFERENCES sheets(id) ON DELETE CASCADE,
                 author TEXT NOT NULL,
                 made_at TEXT NOT NULL,
                 told TEXT NOT NULL
               )""",
        ),
    ),
)

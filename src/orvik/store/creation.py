"""Making a new project file."""

from __future__ import annotations

import contextlib
import sqlite3
from pathlib import Path

from orvik.core.errors import ProjectRefused
from orvik.core.features.table import TABLES
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.scale import Scales
from orvik.store import reference_systems
from orvik.store.feature_tables import register_features, register_sections
from orvik.store.forms import migrations
from orvik.store.geometry import add_functions
from orvik.whole_file import whole_file

SCHEMA = Path(__file__).with_name("schema.sql")
ATTRIBUTE_TABLES = (
    "units",
    "sheets",
    "followed_templates",
    "parts",
    "sources",
    "neighbours",
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
    "margin_notes",
    "answers",
    "proofs",
    "turned_off_rules",
    "rests",
)
WKT_DEFINITION = "http://www.geopackage.org/spec131/#extension_crs_wkt"
LONGEST_NAME = 200


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

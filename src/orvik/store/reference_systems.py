"""The coordinate systems that a project file defines, as GeoPackage lists them."""

from __future__ import annotations

import sqlite3

from orvik.core.ground.crs import ProjectCrs, wkt_forms

# Own systems are numbered from here on; codes of the EPSG dataset lie below.
OWN_SRS_ID = 100_000
_INSERT = "INSERT INTO gpkg_spatial_ref_sys VALUES (?, ?, ?, ?, ?, ?, ?)"


def define_required(connection: sqlite3.Connection) -> None:
    """The three rows that every GeoPackage has (OGC 12-128r18, 1.1.2.1.2)."""
    one, two = wkt_forms("EPSG:4326")
    rows = [
        ("Undefined cartesian", -1, "NONE", -1, "undefined", "undefined cartesian system", "undefined"),
        ("Undefined geographic", 0, "NONE", 0, "undefined", "undefined geographic system", "undefined"),
        ("WGS 84 geodetic", 4326, "EPSG", 4326, one, "longitude and latitude", two),
    ]
    connection.executemany(_INSERT, rows)


def number_of(connection: sqlite3.Connection, crs: ProjectCrs) -> int:
    """The number that a system has in this file, or would have if it were defined."""
    if crs.text.startswith("EPSG:"):
        return int(crs.text.removeprefix("EPSG:"))
    found = connection.execute(
        "SELECT srs_id FROM gpkg_spatial_ref_sys WHERE organization = 'ORVIK' AND definition_12_063 = ?",
        (wkt_forms(crs.text)[1],),
    ).fetchone()
    if found:
        return int(found[0])
    last = connection.execute("SELECT max(srs_id) FROM gpkg_spatial_ref_sys").fetchone()[0]
    return max(OWN_SRS_ID, int(last or 0) + 1)


def use(connection: sqlite3.Connection, crs: ProjectCrs) -> int:
    """Define a system, if it is not there yet, and say that all features are in it; gives its number."""
    number = number_of(connection, crs)
    one, two = wkt_forms(crs.text)
    organization = "EPSG" if crs.text.startswith("EPSG:") else "ORVIK"
    known = connection.execute("SELECT 1 FROM gpkg_spatial_ref_sys WHERE srs_id = ?", (number,)).fetchone()
    if not known:
        connection.execute(_INSERT, (crs.name, number, organization, number, one, crs.method, two))
    # What is drawn on sections is in no system of the ground.
    ground = "AND table_name NOT IN ('section_lines', 'section_areas', 'section_points')"
    connection.execute(f"UPDATE gpkg_contents SET srs_id = ? WHERE data_type = 'features' {ground}", (number,))
    connection.execute(f"UPDATE gpkg_geometry_columns SET srs_id = ? WHERE true {ground}", (number,))
    return number

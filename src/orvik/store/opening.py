"""Opening a project file: whether it is one, whether it may be used, and brought up to the present form."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from orvik.core.errors import OrvikError, ProjectRefused
from orvik.core.ground.crs import ProjectCrs, project_crs
from orvik.store import identity, strangers
from orvik.store.connections import BUSY_MS, can_be_written, connected
from orvik.store.forms import migrations
from orvik.store.geometry import add_functions

APPLICATION_ID = 0x47504B47
_OF_PROJECT = ("project", "journal", "lines", "parts")


@dataclass(frozen=True)
class Opened:
    """A connection to a project file, and whether it writes."""

    connection: sqlite3.Connection
    writes: bool


def opened(path: Path, writable: bool) -> Opened:
    """A connection to a project file of the present form; one that cannot be written is opened to be looked at.

    Raises
    ------
    ProjectRefused
        No such file, not a GeoPackage, or a GeoPackage that is not a project.
    """
    if not path.is_file():
        raise ProjectRefused(f"There is no project file {path.name}.")
    writable = writable and can_be_written(path)
    if writable:
        identity.part_from_strange_log(path)
    connection = connected(path, writable)
    try:
        if connection.execute("PRAGMA application_id").fetchone()[0] != APPLICATION_ID:
            raise ProjectRefused(f"{path.name} is not a project: it is not a GeoPackage. Choose another file.")
        if _tables_of_project(connection) != len(_OF_PROJECT):
            raise ProjectRefused(
                f"{path.name} is a GeoPackage but not a project of Orvik; import it as a file instead."
            )
        others = strangers.check_objects(connection, path.name)
        add_functions(connection)
        if not writable and migrations.form_of(connection) < migrations.PRESENT:
            _bring_up(path)
        connection.execute("PRAGMA foreign_keys = ON")
        connection.execute(f"PRAGMA busy_timeout = {BUSY_MS}")
        if writable:
            connection.execute("PRAGMA journal_mode = WAL")
            connection.execute("PRAGMA synchronous = FULL")
            connection.execute("PRAGMA wal_autocheckpoint = 0")
            strangers.strip_triggers(connection, others)
            migrations.migrate(connection)
        strangers.check_complete(connection, path.name)
        if writable:
            strangers.check_sound(connection, path)
        return Opened(connection, writable)
    except sqlite3.DatabaseError as error:
        connection.close()
        raise ProjectRefused(f"{path.name} cannot be read as a project ({error}).") from error
    except BaseException:
        connection.close()
        raise


def is_project(path: Path) -> bool:
    """Whether a file looks like a project, and not like a file of features."""
    try:
        with closing(connected(path, False)) as connection:
            return _tables_of_project(connection) == len(_OF_PROJECT)
    except (sqlite3.Error, OrvikError):
        return False


def _tables_of_project(connection: sqlite3.Connection) -> int:
    """How many of the tables are there that only a project has together."""
    marks = ", ".join("?" for _ in _OF_PROJECT)
    sql = f"SELECT count(*) FROM sqlite_master WHERE name IN ({marks})"
    return int(connection.execute(sql, _OF_PROJECT).fetchone()[0])


def _bring_up(path: Path) -> None:
    """Give a file the present form, which reading needs, too."""
    if not can_be_written(path):
        raise ProjectRefused(
            f"{path.name} was made by an earlier Orvik and cannot be written; copy it to a folder where it can."
        )
    opened(path, writable=True).connection.close()


def crs_in(connection: sqlite3.Connection) -> ProjectCrs:
    """The system that a file states; raises ProjectRefused where it states none."""
    held = connection.execute("SELECT crs FROM project WHERE id = 1").fetchone()
    if held is None:
        raise ProjectRefused("The row that says what this project is has gone; use the last copy of its file.")
    return project_crs(str(held[0]))

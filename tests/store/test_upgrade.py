"""A project of an earlier form is brought up to the present one, and nothing in it changes."""

from __future__ import annotations

import sqlite3
from pathlib import Path

import pytest

from orvik.core.features.feature import TABLES
from orvik.store.geometry import add_functions
from orvik.store.project import Project


@pytest.fixture
def old(project: Project) -> Path:
    """The small project as it was before lines had stretches and projects a notebook."""
    project.close()
    connection = sqlite3.connect(project.path)
    add_functions(connection)
    for table in TABLES:
        for name in ("stretches", "knots", "band", "fields") if table == "lines" else ("fields",):
            connection.execute(f"ALTER TABLE {table} DROP COLUMN {name}")
    for table in ("kinds", "stations", "drafts"):
        connection.execute(f"DROP TABLE {table}")
        connection.execute("DELETE FROM gpkg_contents WHERE table_name = ?", (table,))
    connection.commit()
    connection.close()
    return project.path


@pytest.mark.parametrize("read_only", [False, True])
def test_an_old_project_opens_as_it_was(old: Path, read_only: bool) -> None:
    opened = Project.open(old, read_only=read_only)
    line = opened.feature("lines", 2)
    assert (line.stretches, line.knots, line.band, dict(line.fields)) == ((), (), None, {})
    assert opened.revision == 2
    assert len(opened.features("points")) == 1
    opened.close_reader()
    reader = sqlite3.connect(old)
    listed = {row[0] for row in reader.execute("SELECT table_name FROM gpkg_contents")}
    assert {"kinds", "stations", "drafts"} <= listed
    assert reader.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
    reader.close()


def test_undo_reaches_back_past_the_change_of_form(old: Path) -> None:
    opened = Project.open(old)
    opened.undo()
    assert opened.count("lines") == 0
    opened.redo()
    assert opened.feature("lines", 2).stretches == ()
    opened.close()

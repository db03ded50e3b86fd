"""A project of any earlier form is brought up to the present one, and nothing in it changes."""

from __future__ import annotations

import json
import sqlite3
from contextlib import closing
from pathlib import Path

import pytest
import shapely

from orvik.core.errors import ProjectRefused
from orvik.core.features.custom_kind import CustomKind
from orvik.core.features.feature import GEOMETRY_TYPES, Feature
from orvik.core.features.kind import kind_of
from orvik.core.features.table import TABLES
from orvik.core.ground.crs import project_crs
from orvik.store import reference_systems, rows
from orvik.store.creation import ATTRIBUTE_TABLES, SCHEMA
from orvik.store.feature_tables import spatial_index
from orvik.store.forms import migrations
from orvik.store.forms.renaming import TABLES as RENAMED
from orvik.store.forms.steps import MIGRATIONS
from orvik.store.geometry import add_functions
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from orvik.store.tables.symbol_book import custom_kinds, kind_change, symbol_book_of
from tests.store.content import content, copied
from tests.store.forms.backwards import back_to_13, back_to_18

# The schema of each form as it was; what has no file here is the present one.
# The last form with the words of before.
WORDS_BEFORE = 13
# The last form with what is asked of sections in a table of that name.
SECTIONS_BEFORE = 18
FORMS = sorted(Path(__file__).parent.glob("form-*.sql"))


def file_of_form(schema: Path, made: Project) -> Path:
    """A project file of an earlier form with what a project of today holds, as far as it had room for that."""
    path = made.path.with_name(f"{schema.stem}.gpkg")
    connection = sqlite3.connect(path, isolation_level=None)
    add_functions(connection)
    connection.executescript(schema.read_text())
    reference_systems.define_required(connection)
    srs_id = reference_systems.use(connection, project_crs("EPSG:32628"))
    for table in TABLES:
        values = (table, table, srs_id)
        connection.execute(
            "INSERT INTO gpkg_contents (table_name, data_type, identifier, srs_id) VALUES (?, 'features', ?, ?)", values
        )
        values = (table, GEOMETRY_TYPES[table], srs_id)
        connection.execute("INSERT INTO gpkg_geometry_columns VALUES (?, 'geom', ?, ?, 0, 0)", values)
        for statement in spatial_index(table):
            connection.execute(statement)
    form = int(schema.stem.removeprefix("form-"))
    as_it_was = made.path.with_name("as-it-was.gpkg")
    copied(made.path, as_it_was)
    with closing(sqlite3.connect(as_it_was)) as copy:
        add_functions(copy)
        if form <= SECTIONS_BEFORE:
            (back_to_13 if form <= WORDS_BEFORE else back_to_18)(copy)
        copy.commit()
    connection.execute("ATTACH ? AS made", (str(as_it_was),))
    there = {row[0] for row in connection.execute("SELECT name FROM main.sqlite_master WHERE type = 'table'")}
    were = {"section_settings": "sections"} if form <= SECTIONS_BEFORE else {}
    were |= {now: old for old, now in RENAMED.items()} if form <= WORDS_BEFORE else {}
    for table in (*TABLES, *(were.get(table, table) for table in ATTRIBUTE_TABLES)):
        if table not in there:
            continue
        if table not in TABLES:
            values = (table, table)
            connection.execute(
                "INSERT INTO gpkg_contents (table_name, data_type, identifier) VALUES (?, 'attributes', ?)", values
            )
        names = [row[1] for row in connection.execute(f"PRAGMA main.table_info({table})")]
        columns = ", ".join(names)
        connection.execute(f"INSERT INTO main.{table} ({columns}) SELECT {columns} FROM made.{table}")
    if "forms" in there:
        connection.execute("UPDATE main.forms SET id = ?", (form,))
    # What the journal holds of rows has the columns of its time, too.
    for number, changes in connection.execute("SELECT id, changes FROM main.journal").fetchall():
        packed = []
        for table, row_id, *states in json.loads(changes):
            held = {row[1] for row in connection.execute(f"PRAGMA main.table_info({table})")}
            packed.append([table, row_id, *(s and {k: v for k, v in s.items() if k in held} for s in states)])
        connection.execute("UPDATE main.journal SET changes = ? WHERE id = ?", (json.dumps(packed), number))
    connection.close()
    return path


def shape(path: Path) -> dict[str, set[tuple[str, str]]]:
    """Tables with the names and types of their columns, and indexes, but those of the R-trees."""
    connection = sqlite3.connect(path)
    try:
        listed = connection.execute("SELECT type, name FROM sqlite_master WHERE type IN ('table', 'index')").fetchall()
        return {
            name: {(row[1], row[2]) for row in connection.execute(f"PRAGMA table_info({name})")}
            for _, name in listed
            if not name.startswith(("sqlite_", "rtree_"))
        }
    finally:
        connection.close()


@pytest.fixture(params=FORMS, ids=lambda schema: schema.stem)
def old(request: pytest.FixtureRequest, project: Project) -> Path:
    project.checkpoint()
    return file_of_form(request.param, project)


@pytest.mark.parametrize("read_only", [False, True])
def test_an_old_project_opens_as_it_was(old: Path, project: Project, read_only: bool) -> None:
    opened = (ReadProject if read_only else Project).open(old)
    for table in TABLES:
        assert opened.whole(table, range(1, 10)) == project.whole(table, range(1, 10))
    assert (opened.revision, opened.units()) == (project.revision, project.units())
    opened.close()
    assert shape(old) == shape(project.path)
    reader = sqlite3.connect(old)
    listed = {row[0] for row in reader.execute("SELECT table_name FROM gpkg_contents")}
    assert listed >= set(ATTRIBUTE_TABLES)
    assert reader.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
    assert migrations.form_of(reader) == migrations.PRESENT
    reader.close()


def test_undo_reaches_back_past_the_change_of_form(old: Path) -> None:
    opened = Project.open(old)
    before = content(old)
    opened.undo()
    assert opened.count("lines") == 0
    opened.redo()
    opened.close()
    assert {k: v for k, v in content(old).items() if k != "journal"} == {
        k: v for k, v in before.items() if k != "journal"
    }


def test_steps_follow_one_another_and_end_at_the_schema() -> None:
    assert [step.to for step in MIGRATIONS] == list(range(2, migrations.PRESENT + 1))
    assert len(FORMS) == migrations.PRESENT - 1
    assert "CREATE TABLE forms" in SCHEMA.read_text()


def test_a_later_form_is_refused_and_left_as_it_is(project: Project) -> None:
    project.close()
    connection = sqlite3.connect(project.path)
    connection.execute("INSERT INTO forms (id) VALUES (?)", (migrations.PRESENT + 1,))
    connection.commit()
    connection.close()
    before = project.path.read_bytes()
    with pytest.raises(ProjectRefused, match="a later Orvik"):
        Project.open(project.path)
    assert project.path.read_bytes() == before


def test_the_journal_knows_who(project: Project) -> None:
    project.author = "Ada"
    entry = project.undo()
    assert entry.author == "Ada"
    reader = sqlite3.connect(project.path)
    assert reader.execute("SELECT author FROM journal ORDER BY id DESC LIMIT 1").fetchone() == ("Ada",)
    reader.close()


def test_custom_kinds_keep_what_they_were_when_the_book_gets_their_name(project: Project) -> None:
    """A project's own "thrust" does not begin to bound units because a later Orvik knows thrusts."""
    project.apply("kind", [kind_change(None, CustomKind("stray", "Thrust, old survey", "lines", "#AA3377"))])
    line = Feature("lines", shapely.LineString([(511_000, 6_801_000), (512_000, 6_801_500)]), "stray")
    project.apply("draw", [rows.feature_change(line, project.srs_id)])
    project.checkpoint()
    path = file_of_form(next(form for form in FORMS if form.stem == "form-5"), project)
    connection = sqlite3.connect(path)
    add_functions(connection)
    connection.execute("UPDATE kinds SET name = 'thrust' WHERE name = 'stray'")
    connection.execute("UPDATE lines SET kind = 'thrust' WHERE kind = 'stray'")
    connection.commit()
    connection.close()
    opened = Project.open(path)
    (kind,) = (kind for _, kind in custom_kinds(opened))
    assert (kind.name, kind.label) == ("thrust_own", "Thrust, old survey")
    assert opened.features("lines").columns["kind"].count("thrust_own") == 1
    symbol = symbol_book_of(opened).symbol("lines", "thrust_own")
    assert (symbol.title, symbol.colour) == ("Thrust, old survey", "#AA3377")
    assert not kind_of("thrust_own").bounds_units
    opened.close()

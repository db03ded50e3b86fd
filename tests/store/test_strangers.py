"""A file from elsewhere changes nothing by itself: what would run with our edits goes, or the file is refused."""

from __future__ import annotations

import sqlite3
from pathlib import Path

import pytest
import shapely
from fastapi.testclient import TestClient

from orvik.core.errors import ProjectRefused
from orvik.core.features.feature import Feature
from orvik.core.features.table import TABLES
from orvik.store import rows
from orvik.store.creation import SCHEMA
from orvik.store.geometry import add_functions
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from orvik.store.strangers import OURS
from orvik.web.app import create_app

# What a trigger on any of our tables could do with an edit.
HARM = {
    "lines": "UPDATE lines SET kind = 'fault', certainty = 'concealed'",
    "journal": "DELETE FROM journal",
}
MOMENTS = ("AFTER INSERT", "BEFORE UPDATE", "AFTER DELETE")


def by_hand(path: Path, *statements: str) -> None:
    connection = sqlite3.connect(path)
    add_functions(connection)
    for statement in statements:
        connection.execute(statement)
    connection.commit()
    connection.close()


def triggers(path: Path) -> set[str]:
    connection = sqlite3.connect(path)
    names = {name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'trigger'")}
    connection.close()
    return names


@pytest.mark.parametrize("moment", MOMENTS)
def test_triggers_on_any_table_go_before_the_first_edit(project: Project, moment: str) -> None:
    path = project.path
    project.close()
    ours = triggers(path)
    harm = HARM["lines"]
    by_hand(path, *(f"CREATE TRIGGER evil_{t} {moment} ON {t} BEGIN {harm}; END" for t in OURS))
    assert len(triggers(path)) == len(ours) + len(OURS)
    opened = Project.open(path)
    line = Feature("lines", shapely.LineString([(511_000, 6_801_000), (512_000, 6_801_500)]), "contact")
    opened.apply("draw", [rows.feature_change(line, opened.srs_id)])
    kinds = opened.features("lines").columns
    assert kinds["kind"].count("contact") == 2
    assert "fault" not in kinds["kind"]
    assert "concealed" not in kinds["certainty"]
    labels = [row["label"] for row in opened._select("SELECT label FROM journal")]
    assert f"took out {len(OURS)} triggers that another program had left" in labels
    opened.close()
    assert triggers(path) == ours


def test_one_like_ours_that_does_more_goes_too(project: Project) -> None:
    path = project.path
    project.close()
    connection = sqlite3.connect(path)
    (sql,) = connection.execute("SELECT sql FROM sqlite_master WHERE name = 'rtree_lines_geom_insert'").fetchone()
    connection.execute("DROP TRIGGER rtree_lines_geom_insert")
    connection.execute(sql.replace("END", "UPDATE lines SET kind = 'fault'; END"))
    connection.commit()
    connection.close()
    opened = Project.open(path)
    line = Feature("lines", shapely.LineString([(511_000, 6_801_000), (512_000, 6_801_500)]), "contact")
    opened.apply("draw", [rows.feature_change(line, opened.srs_id)])
    assert "fault" not in opened.features("lines").columns["kind"]
    opened.close()
    # Without its own trigger the index would miss what is drawn: it was made again.
    assert "rtree_lines_geom_insert" in triggers(path)


def test_counts_of_another_library_stay(project: Project) -> None:
    path = project.path
    project.close()
    by_hand(
        path,
        "CREATE TABLE gpkg_ogr_contents (table_name TEXT NOT NULL PRIMARY KEY, feature_count INTEGER DEFAULT NULL)",
        'CREATE TRIGGER "trigger_insert_feature_count_lines" AFTER INSERT ON "lines" BEGIN UPDATE gpkg_ogr_contents '
        "SET feature_count = feature_count + 1 WHERE lower(table_name) = lower('lines'); END",
    )
    Project.open(path).close()
    assert "trigger_insert_feature_count_lines" in triggers(path)


def remade(path: Path, table: str, change: tuple[str, str]) -> None:
    """A table of ours made anew with something in its definition that ours has not."""
    connection = sqlite3.connect(path)
    add_functions(connection)
    connection.execute("PRAGMA writable_schema = ON")
    old, new = change
    done = connection.execute(
        "UPDATE sqlite_master SET sql = replace(sql, ?, ?) WHERE name = ? AND instr(sql, ?)", (old, new, table, old)
    ).rowcount
    connection.execute("PRAGMA writable_schema = OFF")
    connection.commit()
    connection.close()
    assert done == 1


@pytest.mark.parametrize(
    ("table", "change"),
    [
        ("units", ("code TEXT NOT NULL", "code TEXT NOT NULL ON CONFLICT REPLACE")),
        ("lines", ("note TEXT", "twin TEXT GENERATED ALWAYS AS ('x') VIRTUAL, note TEXT")),
        ("parts", ("kind TEXT NOT NULL", "kind TEXT NOT NULL REFERENCES lines(id) ON DELETE CASCADE")),
    ],
)
def test_tables_that_act_by_themselves_are_refused(project: Project, table: str, change: tuple[str, str]) -> None:
    path = project.path
    project.close()
    remade(path, table, change)
    before = path.read_bytes()
    for way in (Project, ReadProject):
        with pytest.raises(ProjectRefused, match=table):
            way.open(path)
    assert path.read_bytes() == before


@pytest.mark.parametrize("table", ["lines", "journal", "project", "stack", "gpkg_contents"])
def test_a_view_in_the_place_of_a_table_is_refused(project: Project, table: str) -> None:
    path = project.path
    project.close()
    by_hand(path, f"ALTER TABLE {table} RENAME TO other", f"CREATE VIEW {table} AS SELECT * FROM other")
    with pytest.raises(ProjectRefused, match="is not a plain table"):
        Project.open(path)


def test_a_broken_index_is_built_again(project: Project) -> None:
    path = project.path
    project.close()
    by_hand(path, "DELETE FROM rtree_lines_geom", "UPDATE rtree_areas_geom SET maxx = minx")
    by_hand(path, "DELETE FROM rtree_points_geom WHERE id = 1")
    opened = Project.open(path)
    opened.close()
    connection = sqlite3.connect(path)
    add_functions(connection)
    for table in TABLES:
        (count,) = connection.execute(f"SELECT count(*) FROM rtree_{table}_geom").fetchone()
        assert count == connection.execute(f"SELECT count(*) FROM {table}").fetchone()[0]
    connection.close()


@pytest.mark.parametrize("more", [0, 70_000_000])
def test_a_damaged_file_is_not_written_to(project: Project, more: int) -> None:
    """However large it is."""
    for number in range(400):
        line = Feature("lines", shapely.LineString([(511_000, 6_801_000 + number), (512_000, 6_801_500)]), "contact")
        project.apply("draw", [rows.feature_change(line, project.srs_id)])
    path = project.path
    project.close()
    middle = path.stat().st_size // 2 // 4096 * 4096
    by_hand(
        path,
        f"INSERT INTO files (checksum, name, kind, data) VALUES ('0', 'large.png', 'picture', zeroblob({more}))",
    )
    data = bytearray(path.read_bytes())
    data[middle : middle + 8192] = bytes(8192)
    path.write_bytes(data)
    with pytest.raises(ProjectRefused, match=r"damaged|cannot be read"):
        Project.open(path)
    assert path.read_bytes() == bytes(data)


def test_the_home_page_lives_whatever_lies_in_its_folder(project: Project) -> None:
    folder = project.path.parent
    project.close()
    sound = project.path.read_bytes()
    by_hand(project.path, "UPDATE journal SET at = 'no day'")
    (folder / "text.gpkg").write_bytes(b"not a file")
    (folder / "views.gpkg").write_bytes(sound)
    by_hand(folder / "views.gpkg", "ALTER TABLE journal RENAME TO other", "CREATE VIEW journal AS SELECT * FROM other")
    (folder / "bytes.gpkg").write_bytes(sound)
    by_hand(folder / "bytes.gpkg", "UPDATE project SET name = CAST(x'ff41fe' AS TEXT)")
    (folder / "rows.gpkg").write_bytes(sound)
    by_hand(folder / "rows.gpkg", "DELETE FROM project")
    (folder / "scales.gpkg").write_bytes(sound)
    by_hand(folder / "scales.gpkg", "UPDATE project SET publication_scale = 'x', crs = 'y'")
    with TestClient(create_app(folder), base_url="http://127.0.0.1:8460") as client:
        assert client.get("/").status_code == 200
        for name in ("text", "views", "bytes", "rows", "scales", "small"):
            answer = client.get(f"/p/{name}/compile")
            assert answer.status_code in (200, 422, 404), name
            assert "Traceback" not in answer.text


def _columns(table: str) -> list[str]:
    connection = sqlite3.connect(":memory:")
    connection.executescript(SCHEMA.read_text(encoding="utf-8"))
    names = [str(row[1]) for row in connection.execute(f"PRAGMA table_info({table})")]
    connection.close()
    return names


@pytest.mark.parametrize("table", OURS)
def test_a_file_that_lacks_anything_is_refused_in_words(project: Project, table: str) -> None:
    """Each table, and each of its columns, is taken away in turn; no page of it is an error of ours."""
    path = project.path
    project.close()
    whole = path.read_bytes()
    for column in ["", *_columns(table)]:
        for beside in path.parent.glob("small.gpkg-*"):
            beside.unlink()
        path.write_bytes(whole)
        connection = sqlite3.connect(path)
        connection.execute("PRAGMA legacy_alter_table = ON")
        connection.execute("PRAGMA writable_schema = ON")
        if column:
            connection.execute(f'ALTER TABLE {table} RENAME COLUMN {column} TO "{column}_gone"')
        else:
            connection.execute(f"ALTER TABLE {table} RENAME TO {table}_gone")
        connection.commit()
        connection.close()
        for way in (ReadProject, Project):
            with pytest.raises(ProjectRefused) as refused:
                way.open(path)
            assert refused.value.sentence.endswith("."), (table, column)

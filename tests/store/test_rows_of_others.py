"""Rows that another program has left in a project file: told one by one, and none of them spoils the rest."""

from __future__ import annotations

import sqlite3
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from orvik.cli import main
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from orvik.web.app import create_app
from orvik.web.session.survey_process import survey
from tests.examples import drawn

# What another program may write: the statement, and a word of what is said of it (empty where all is well with it).
LEFT = (
    ("UPDATE lines SET kind = 'xyzzy' WHERE id = 2", "xyzzy"),
    ("UPDATE lines SET kind = '' WHERE id = 2", "kind"),
    ("UPDATE lines SET geom = x'00' WHERE id = 2", "linestring"),
    ("UPDATE lines SET geom = zeroblob(40) WHERE id = 2", "linestring"),
    ("UPDATE lines SET geom = (SELECT geom FROM points LIMIT 1) WHERE id = 2", "linestring"),
    ("UPDATE lines SET stretches = 'no list' WHERE id = 2", "stretches"),
    ("UPDATE lines SET knots = '[1, \"a\"' WHERE id = 2", "knots"),
    ("UPDATE lines SET certainty = 'perhaps' WHERE id = 2", "perhaps"),
    ("UPDATE lines SET fields = '7' WHERE id = 2", "fields"),
    ("UPDATE areas SET map_unit = 'Zz' WHERE id = 1", "Zz"),
    ("UPDATE areas SET geom = x'4750' WHERE id = 1", "polygon"),
    ("UPDATE points SET azimuth = 4000 WHERE id = 1", "azimuth"),
    ("UPDATE points SET azimuth = 'north' WHERE id = 1", "azimuth"),
    ("UPDATE points SET inclination = -5 WHERE id = 1", "inclination"),
    ("UPDATE units SET colour = 'puce' WHERE code = 'Kp'", "puce"),
    ("UPDATE units SET code = '' WHERE code = 'Kp'", "code"),
    ("INSERT INTO symbols (name, family, title, body, position) VALUES ('a', 'points', 'A', '{}', 1)", "needs a piece"),
    ("INSERT INTO symbols (name, family, title, body, position) VALUES ('a', 'blob', 'A', 'x', 1)", "cannot be read"),
    ("INSERT INTO kinds (name, label, family, symbol, position) VALUES ('X 1', 'X', 'points', '{}', 1)", "a letter"),
    ("INSERT INTO symbol_rules (family, kind, body, position) VALUES ('points', 'bedding', '{}', 1)", "Say when"),
    ("INSERT INTO emphases (name, body, position) VALUES ('T', '{\"looks\": 7}', 1)", "emphasis"),
    ("INSERT INTO label_moves (family, feature, x, y) VALUES ('areas', 1, 'far', 'away')", "label_moves"),
    ("INSERT INTO label_moves (family, feature, angle) VALUES ('points', 1, 900)", "-180 to 180"),
    ("INSERT INTO label_moves (family, feature, number) VALUES ('roads', 1, 0)", "lines, areas or points"),
    ("INSERT INTO label_rules (family, kind, pattern, size) VALUES ('areas', 'unit_area', '{label}', 99)", "1 to 12"),
)


def wrote(path: Path, statement: str) -> None:
    """Write as another program does that cares for no constraint."""
    connection = sqlite3.connect(path)
    connection.execute("PRAGMA ignore_check_constraints = ON")
    for name in ("ST_IsEmpty", "ST_MinX", "ST_MaxX", "ST_MinY", "ST_MaxY"):
        # Its own, and less strict than they should be: the index is told that the shape is somewhere.
        connection.create_function(name, 1, lambda geometry, name=name: 0.0)
    assert connection.execute(statement).rowcount == 1
    connection.commit()
    connection.close()


@pytest.mark.parametrize(("statement", "word"), drawn(LEFT, 8))
def test_one_row_never_takes_the_rest_with_it(
    project: Project, tmp_path: Path, statement: str, word: str, capsys: pytest.CaptureFixture[str]
) -> None:
    project.close()
    path = project.path
    wrote(path, statement)
    opened = ReadProject.open(path)
    try:
        everything = opened.all_features()
        # The border, the contact, the area and the attitude: all but the row that is wrong are there.
        assert sum(len(features) for features in everything.values()) >= 3
    finally:
        opened.close()
    told = survey(path)
    text = " ".join(str(f) for f in told.message["findings"])
    assert word in text
    assert main(["check", str(path)]) == 1
    assert word in capsys.readouterr().out
    with TestClient(create_app(path.parent), base_url="http://127.0.0.1:8460") as client:
        for view in ("ground", "compile", "symbols", "sheet", "proof"):
            assert client.get(f"/p/small/{view}").status_code == 200, view
        assert client.get("/").status_code == 200
    # What the row is, ``check`` has said; the rest of a sheet is none the worse for it.
    assert main(["sheet", str(path), "--name", "S", "--paper", "A3"]) == 0
    assert main(["export", str(path), "--sheet", "S", "--to", str(tmp_path / "s.pdf")]) == 0
    assert (tmp_path / "s.pdf").read_bytes().startswith(b"%PDF")

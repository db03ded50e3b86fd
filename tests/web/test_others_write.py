"""Another program, or another window, writes to the project while a page has it open."""

from __future__ import annotations

import os
import shutil
import sqlite3
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from orvik.core.errors import ProjectRefused
from orvik.store.geometry import add_functions
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from tests.store.content import content
from tests.web.pages import Page

UNITS = "/p/small/units"


def elsewhere(path: Path, statement: str, *values: object) -> None:
    connection = sqlite3.connect(path)
    add_functions(connection)
    connection.execute(statement, values)
    connection.commit()
    connection.close()


def test_a_page_that_does_nothing_is_told(page: Page, project: Project) -> None:
    elsewhere(project.path, "UPDATE units SET name = 'Pellan Shale' WHERE code = 'Kp'")
    told = page.told("changed")
    assert told["reload"] is True
    assert told["revision"] == 3
    # And undo does not cross what Orvik has not written.
    assert "nothing to undo" in page.ask("undo")["refused"]


def test_an_edit_on_what_has_changed_meanwhile_is_refused(page: Page, project: Project) -> None:
    elsewhere(project.path, "UPDATE lines SET note = 'theirs' WHERE id = 2")
    answer = page.ask("delete", features=[{"table": "lines", "id": 2}], revision=2)
    assert "changed" in answer["refused"]
    opened = ReadProject.open(project.path)
    assert opened.feature("lines", 2).note == "theirs"
    opened.close()


def test_the_second_of_two_unit_forms_does_not_overwrite_the_first(client: TestClient, project: Project) -> None:
    fields = {"code": "Kp", "name": "Pellan Mudstone", "age": "Early Cretaceous", "colour": "#BBD5A6"}
    first = client.post(f"{UNITS}/2", data=fields | {"name": "Pellan Shale", "revision": "2"})
    assert first.status_code == 200
    second = client.post(f"{UNITS}/2", data=fields | {"age": "Aptian", "revision": "2"})
    assert second.status_code in (409, 422)
    assert "changed" in second.text
    unit = ReadProject.open(project.path).units_by_code()["Kp"]
    assert (unit.name, unit.age) == ("Pellan Shale", "Early Cretaceous")
    # The form as it is now goes through.
    assert client.post(f"{UNITS}/2", data=fields | {"age": "Aptian", "revision": "3"}).status_code == 200


def test_a_form_filled_in_before_another_program_wrote_is_refused(client: TestClient, project: Project) -> None:
    assert client.get("/p/small/symbols").status_code == 200
    elsewhere(project.path, "UPDATE units SET age = 'Aptian' WHERE code = 'Kp'")
    fields = {"code": "Kp", "name": "Pellan Shale", "age": "Early Cretaceous", "colour": "#BBD5A6", "revision": "2"}
    assert "changed" in client.post(f"{UNITS}/2", data=fields).text
    assert ReadProject.open(project.path).units_by_code()["Kp"].age == "Aptian"


@pytest.mark.parametrize("how", ["replaced", "deleted"])
def test_a_page_is_told_that_the_file_is_another(page: Page, project: Project, tmp_path: Path, how: str) -> None:
    other = tmp_path / "elsewhere" / "small.gpkg"
    other.parent.mkdir()
    shutil.copyfile(project.path, other)
    elsewhere(other, "UPDATE journal SET at = '2020-01-01T00:00:00+00:00' WHERE id = 1")
    before = content(other)
    if how == "replaced":
        os.replace(other, project.path)
    else:
        project.path.unlink()
    assert "while it was open" in page.told("state")["replaced"]
    answer = page.ask("delete", features=[{"table": "lines", "id": 2}], revision=2)
    assert "while it was open" in answer["refused"]
    if how == "replaced":
        assert content(project.path) == before
    else:
        assert not project.path.exists()


def test_a_project_that_cannot_be_written_is_looked_at(
    client: TestClient, project: Project, monkeypatch: pytest.MonkeyPatch
) -> None:
    # Root may write everything; what the system says of others is told in its place.
    monkeypatch.setattr(os, "access", lambda path, mode: mode != os.W_OK)
    before = project.path.read_bytes()
    for view in ("ground", "compile", "symbols", "sheet", "proof"):
        assert client.get(f"/p/small/{view}").status_code == 200
    with client.websocket_connect("ws://127.0.0.1:8460/p/small/live") as socket:
        page = Page(socket)
        page.ask("hello", window_id="one")
        assert "only be looked at" in page.ask("delete", features=[{"table": "lines", "id": 2}], revision=2)["refused"]
        page.ask("pen", name="contact-certain")
        assert "only be looked at" in page.ask("press", x=512_500, y=6_801_000, ring=None, scale=6250)["refused"]
    assert "only be looked at" in client.post(UNITS, data={"code": "Zz", "name": "Z"}).text
    assert project.path.read_bytes() == before
    with pytest.raises(ProjectRefused, match="only be looked at"):
        Project.open(project.path).apply("nothing", [])

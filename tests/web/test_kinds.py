"""Own kinds on the page: made, logged, changed, removed."""

from __future__ import annotations

from fastapi.testclient import TestClient

from orvik.store.project import Project
from orvik.store.sign_book import own_kinds
from tests.web.pages import Page

ROOT = "/p/small/kinds"
FORM = {
    "label": "Well head",
    "table": "points",
    "colour": "#2C5F8A",
    "shape": "square",
    "width": "0.3",
    "dash": "solid",
    "field": ["Water", "Depth"],
    "type": ["choice", "number"],
    "choices": ["dry #999999, wet", ""],
    "required": ["0"],
}


def reopened(project: Project) -> Project:
    return Project.open(project.path, read_only=True)


def test_a_kind_is_made_and_logged_with_its_fields(client: TestClient, page: Page, project: Project) -> None:
    assert "Well head" in client.post(ROOT, data=FORM).text
    assert 'data-pen="well_head-certain"' in client.get("/p/small/pens").text
    slip = client.get("/p/small/slip/pen/well_head-certain").text
    assert 'data-tool-key="D"' in slip
    page.ask("pen", name="well_head-certain")
    assert "must be filled in" in page.press(513_500, 6_801_500, fields={})["refused"]
    assert "kept" in page.press(513_500, 6_801_500, fields={"Water": "wet", "Depth": "12,5"})
    point = reopened(project).feature("points", 2)
    assert dict(point.fields) == {"Water": "wet", "Depth": 12.5}
    changed = client.post("/p/small/slip/points/2", data={"revision": "4", "own:Water": "dry", "own:Depth": "3"})
    assert "Well head, dry" in changed.text
    assert dict(reopened(project).feature("points", 2).fields) == {"Water": "dry", "Depth": 3.0}
    bad = client.post("/p/small/slip/points/2", data={"revision": "5", "own:Water": "salt"})
    assert "not in the list" in bad.text
    # The signs stand on the plate and in the explanation of a sheet, too.
    assert "Well head, wet" in client.get("/p/small/signs").text


def test_what_a_kind_cannot_be(client: TestClient, project: Project) -> None:
    for change, why in (
        ({"label": ""}, "needs a name"),
        ({"label": "Contact"}, "already"),
        ({"colour": "blue"}, "not a colour"),
        ({"choices": ["", ""]}, "is empty"),
        ({"width": "thick"}, "is not a width"),
        ({"table": "volumes"}, "choose one"),
    ):
        answer = client.post(ROOT, data=FORM | change)
        assert answer.status_code == 422
        assert why in answer.text
    assert own_kinds(reopened(project)) == []


def test_a_kind_in_use_is_not_taken_apart(client: TestClient, page: Page, project: Project) -> None:
    client.post(ROOT, data=FORM)
    assert client.post(ROOT, data=FORM).status_code == 422
    page.ask("pen", name="well_head-certain")
    page.press(513_500, 6_801_500, fields={"Water": "wet"})
    assert "delete them first" in client.post(f"{ROOT}/well_head", data=FORM | {"field": ["Flow", "Depth"]}).text
    assert client.delete(f"{ROOT}/well_head").status_code == 422
    assert "Keep" in client.post(f"{ROOT}/well_head", data=FORM | {"label": "Well"}).text
    assert own_kinds(reopened(project))[0][1].label == "Well"
    page.ask("undo")
    page.ask("undo")
    client.delete(f"{ROOT}/well_head")
    assert own_kinds(reopened(project)) == []
    # The pen in hand is gone with its kind.
    assert "There is no pen" in page.ask("pen", name="well_head-certain")["refused"]

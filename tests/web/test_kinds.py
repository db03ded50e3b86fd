"""Custom kinds on the page: made, logged, changed, removed."""

from __future__ import annotations

import contextlib
import json
import sqlite3

import pytest
import shapely
from fastapi.testclient import TestClient

from orvik.core.errors import FeatureRefused
from orvik.core.features.feature import Feature
from orvik.core.geometry.snapping import SnapIndex
from orvik.store.geometry import add_functions
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from orvik.store.tables.symbol_book import custom_kinds
from orvik.usecases.compile.features import FeatureEdit, change_feature, keep_features
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
    return ReadProject.open(project.path)


@pytest.mark.parametrize(
    ("label", "name"),
    [
        ("Ölschiefer", "ölschiefer"),
        ("Éboulis récent, au pied de la falaise du nord", "éboulis_récent_au_pied_de_la_falaise_du"),
        ("Ποτάμι", "ποτάμι"),
        ("泉", "泉"),
        ("नदी किनारा", "नदी_किनारा"),
        ("İstasyon", "i̇stasyon"),
        ("Well (dug) 2", "well_dug_2"),
    ],
)
def test_sentences_say_a_kind_in_the_letters_that_it_was_given(
    client: TestClient, page: Page, project: Project, label: str, name: str
) -> None:
    made = client.post(ROOT, data=FORM | {"label": label, "required": []})
    assert label in made.text
    assert label in client.get(f"{ROOT}/{name}").text
    page.ask("pen", name=f"{name}-certain")
    assert "kept" in page.press(513_500, 6_801_500, fields={})
    assert reopened(project).feature("points", 2).name == f"{name.replace('_', ' ')} 2"
    assert label in client.get("/p/small/slip/points/2").text


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
    # The symbols stand on the plate and in the explanation of a sheet, too.
    assert "Well head, wet" in client.get("/p/small/symbols").text


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
    assert custom_kinds(reopened(project)) == []


def test_a_kind_in_use_is_not_taken_apart(client: TestClient, page: Page, project: Project) -> None:
    client.post(ROOT, data=FORM)
    assert client.post(ROOT, data=FORM).status_code == 422
    page.ask("pen", name="well_head-certain")
    page.press(513_500, 6_801_500, fields={"Water": "wet"})
    assert "delete them first" in client.post(f"{ROOT}/well_head", data=FORM | {"field": ["Flow", "Depth"]}).text
    assert client.delete(f"{ROOT}/well_head").status_code == 422
    assert "Keep" in client.post(f"{ROOT}/well_head", data=FORM | {"label": "Well"}).text
    assert custom_kinds(reopened(project))[0][1].label == "Well"
    page.ask("undo")
    page.ask("undo")
    client.delete(f"{ROOT}/well_head")
    assert custom_kinds(reopened(project)) == []
    # The pen selected is gone with its kind.
    assert "There is no pen" in page.ask("pen", name="well_head-certain")["refused"]


def test_values_in_use_are_renamed_along_or_asked_for(client: TestClient, page: Page, project: Project) -> None:
    client.post(ROOT, data=FORM)
    page.ask("pen", name="well_head-certain")
    for x, water in ((513_500, "wet"), (513_600, "wet"), (513_700, "dry")):
        page.press(x, 6_801_500, fields={"Water": water, "Depth": "4"})
    renamed = FORM | {"choices": ["dry #999999, damp", ""]}
    asked = client.post(f"{ROOT}/well_head", data=renamed).text
    assert "Water “wet”" in asked
    assert "2 features have it" in asked
    assert "<option selected>damp</option>" in asked
    # Nothing has been kept yet.
    assert [c.value for c in custom_kinds(reopened(project))[0][1].fields[0].choices] == ["dry", "wet"]
    said = {"lost_field": ["Water"], "lost_value": ["wet"], "becomes": ["damp"]}
    assert "Keep" in client.post(f"{ROOT}/well_head", data=renamed | said).text
    held = [reopened(project).feature("points", n).fields["Water"] for n in (2, 3, 4)]
    assert held == ["damp", "damp", "dry"]
    page.ask("undo")
    assert [reopened(project).feature("points", n).fields["Water"] for n in (2, 3, 4)] == ["wet", "wet", "dry"]
    # A figure cannot become a date without a word.
    assert "is to be a date" in client.post(f"{ROOT}/well_head", data=FORM | {"type": ["choice", "date"]}).text


def test_an_old_fault_refuses_no_other_edit(client: TestClient, page: Page, project: Project) -> None:
    """A value that another program has taken out of the list: the feature is moved and noted, and neighbours snap."""
    client.post(ROOT, data=FORM | {"table": "lines", "label": "Well line"})
    page.ask("pen", name="well_line-certain")
    for x in (513_500, 513_900):
        page.press(x, 6_801_500)
    assert "kept" in page.ask("finish", fields={"Water": "wet"})
    for spoiled in ({"Water": "salt"}, {"Odd": 1}):
        connection = sqlite3.connect(project.path)
        add_functions(connection)
        connection.execute("UPDATE lines SET fields = ? WHERE kind = 'well_line'", (json.dumps(spoiled),))
        connection.commit()
        connection.close()
        again = reopened(project)
        lines = again.features("lines")
        (number,) = [int(i) for i, kind in zip(lines.ids, lines.columns["kind"], strict=True) if kind == "well_line"]
        line = again.feature("lines", number)
        again.close()
        with contextlib.closing(Project.open(project.path)) as mine:
            index = SnapIndex(mine.all_features())
            middle = (513_700.0, 6_801_500.0)
            contact = Feature("lines", shapely.LineString([middle, (513_700, 6_801_900)]), "contact")
            edit = FeatureEdit("snap", [contact], nodes=[middle])
            keep_features(mine, index, edit, mine.revision)
            assert len(mine.feature("lines", number).geometry.coords) == 3
            moved = line.changed(note="looked at")
            assert change_feature(mine, moved, mine.revision) is not None
            with pytest.raises(FeatureRefused):
                change_feature(mine, mine.feature("lines", number).changed(fields={"Water": "sour"}), mine.revision)
            mine.undo()
            mine.undo()

"""Underlays in the stack: order, names, and copies that are gone."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from fastapi.testclient import TestClient

from orvik.core.errors import FileRefused
from orvik.core.ink.primitives import Group, Stroke
from orvik.core.pictures.underlay_ink import CONTOUR_WIDTH, INDEX_WIDTH
from orvik.exchange.rasters.raster import files_folder
from orvik.store.project import Project
from orvik.store.read_project import ReadProject, opened_for_reading
from orvik.usecases.proof.proof import all_findings
from orvik.usecases.sheet.composing import composed
from orvik.web.app import create_app
from orvik.web.guard import Guard
from tests.web.exports import export_routes

BASE = "/p/isle-of-quennet/underlays"
VIEW = {"west": 513_000, "south": 6_802_000, "east": 514_000, "north": 6_803_000, "width": 50, "height": 50}
GROUND = {"HX-Current-URL": "http://127.0.0.1:8460/p/isle-of-quennet/ground"}


@pytest.fixture
def client(demo: Path) -> Iterator[TestClient]:
    with TestClient(create_app(demo.parent), base_url="http://127.0.0.1:8460") as client:
        yield client


def copy_of(demo: Path, number: int) -> Path:
    project = ReadProject.open(demo)
    path = files_folder(demo) / project.source(number).file
    project.close()
    return path


def test_name_blend_and_order(client: TestClient, demo: Path) -> None:
    text = client.get("/p/isle-of-quennet/stack", headers=GROUND).text
    assert text.index("Field sheet 3") < text.index("Relief")
    client.post(f"{BASE}/1/move/1")
    text = client.get("/p/isle-of-quennet/stack", headers=GROUND).text
    assert text.index("Relief") < text.index("Field sheet 3")
    assert "Hills" in client.post(f"{BASE}/1/slip", data={"name": "Hills", "multiply": "false"}).text
    project = Project.open(demo)
    assert (project.source(1).name, project.source(1).multiply) == ("Hills", 0)
    project.undo()
    project.undo()
    assert [row.name for row in project.sources()][:3] == ["Relief", "Field sheet 3", "Lands around"]
    project.close()


@pytest.mark.parametrize("trouble", ["missing", "altered"])
def test_a_copy_that_is_gone_is_named_and_fixed(client: TestClient, demo: Path, trouble: str) -> None:
    path = copy_of(demo, 2)
    original = path.read_bytes()
    before = client.get(f"{BASE}/2.png", params=VIEW).content
    if trouble == "missing":
        path.unlink()
        assert "missing" in client.get(f"{BASE}/2.png", params=VIEW, headers={"HX-Request": "1"}).text
    else:
        path.write_bytes(original[:-1000])
    assert f">{trouble}</strong>" in client.get("/p/isle-of-quennet/stack", headers=GROUND).text
    assert "all settings stand" in client.get(f"{BASE}/2/slip").text
    # Everything else works: the map, the page on the screen, the other underlay.
    assert client.get("/p/isle-of-quennet/compile").status_code == 200
    assert client.get(f"{BASE}/1.png", params=VIEW).status_code == 200
    assert client.get("/p/isle-of-quennet/sheets/1/ink").status_code == 200
    wrong = client.post(f"{BASE}/2/file", files={"file": ("sheet.png", b"something else")})
    assert wrong.status_code == 422
    assert "contents differ" in wrong.text
    text = client.post(f"{BASE}/2/file", files={"file": ("another name.png", original)}).text
    assert "all settings stand" not in text
    assert "by control points" in text
    assert client.get(f"{BASE}/2.png", params=VIEW).content == before


def test_a_print_does_not_leave_a_picture_out(client: TestClient, demo: Path) -> None:
    copy_of(demo, 1).unlink()
    answer = export_routes(client)
    assert answer.state == "failed"
    assert "Relief: " in answer.text
    assert "opacity" in answer.text
    assert not answer.files
    client.post("/p/isle-of-quennet/parts/1", data={"layer": "underlay-1", "opacity": "0"})
    # The sections and the bar of heights are of the same.
    assert export_routes(client).state == "failed"
    for part in (5, 7, 8):
        assert client.delete(f"/p/isle-of-quennet/parts/{part}").status_code == 204
    assert export_routes(client).state == "done"


def test_contour_lines_are_printed_as_lines(client: TestClient, demo: Path) -> None:
    """In the panel's group of the relief, at its opacity, in millimetres on the page."""
    style = {"shade": "", "contours": "10", "azimuth": "315", "altitude": "45", "exaggeration": "1"}
    assert client.post(f"{BASE}/1/relief", data=style | {"low": "", "high": ""}).status_code == 200
    project = ReadProject.open(demo)
    panel = project.part(1)
    groups = composed(project, 1).groups
    project.close()
    (shown,) = [group for group in groups if group.name == "part-1"]
    inside = next(item for item in shown.items if isinstance(item, Group) and item.name == "map")
    relief = next(item for item in inside.items if isinstance(item, Group) and item.name == "underlay-1")
    assert relief.opacity == panel.settings.underlays["1"]
    assert {type(item) for item in relief.items} == {Stroke}
    assert {item.style.width for item in relief.items if isinstance(item, Stroke)} == {CONTOUR_WIDTH, INDEX_WIDTH}
    xy = np.concatenate([item.paths.xy for item in relief.items if isinstance(item, Stroke)])
    assert (xy >= (panel.x - 2, panel.y - 2)).all()
    assert (xy <= (panel.x + panel.width + 2, panel.y + panel.height + 2)).all()


def test_removing_empties_its_slip(client: TestClient) -> None:
    text = client.delete(f"{BASE}/2").text
    assert "Field sheet 3" not in text
    assert 'id="underlay-slip" hx-swap-oob' in text


def test_groups_are_shown_and_hidden_together(client: TestClient) -> None:
    for number, name in ((1, "Relief"), (2, "Field sheet 3")):
        client.post(f"{BASE}/{number}/slip", data={"name": name, "multiply": "true", "group": "Base"})
    assert client.get("/p/isle-of-quennet/stack").text.count('aria-label="Show all of Base"') == 1
    text = client.post("/p/isle-of-quennet/stack/group", data={"group": "Base", "shown": "false"}).text
    assert text.count('data-shown="0"') == 2
    assert (
        client.post("/p/isle-of-quennet/stack/group", data={"group": "Base", "shown": "true"}).text.count(
            'data-shown="0"'
        )
        == 0
    )


def test_set_aside_and_taken_back(client: TestClient, demo: Path) -> None:
    text = client.post(f"{BASE}/2/aside", data={"aside": "true"}, headers=GROUND).text
    assert 'data-name="Field sheet 3"' not in text
    assert "restore" in text
    project = ReadProject.open(demo)
    assert len([r for r in project.sources() if r.kind == "underlay"]) == 2
    project.close()
    assert export_routes(client).state == "done"
    text = client.post(f"{BASE}/2/aside", data={"aside": "false"}, headers=GROUND).text
    assert 'data-name="Field sheet 3"' in text


def test_a_locked_underlay_cannot_be_touched(client: TestClient) -> None:
    client.post("/p/isle-of-quennet/stack/underlay-2", data={"locked": "true"})
    calls = (
        client.post(f"{BASE}/2/slip", data={"name": "X"}),
        client.post(f"{BASE}/2/move/1"),
        client.delete(f"{BASE}/2"),
        client.post(f"{BASE}/2/aside", data={"aside": "true"}),
        client.post(f"{BASE}/2/points/0/switch"),
    )
    for answer in calls:
        assert answer.status_code == 422
        assert "locked" in answer.text
    client.post("/p/isle-of-quennet/stack/underlay-2", data={"locked": "false"})
    assert client.post(f"{BASE}/2/slip", data={"name": "X"}).status_code == 200


def test_an_altered_file_is_neither_shown_nor_printed_without_a_word(client: TestClient, demo: Path) -> None:
    path = copy_of(demo, 1)
    path.write_bytes(path.read_bytes() + b" ")
    answer = client.get(f"{BASE}/1.png", params=VIEW, headers={"HX-Request": "1"})
    assert answer.status_code == 422
    assert "has been altered since it was imported" in answer.text
    with opened_for_reading(demo) as project:
        assert [f.message for f in all_findings(project) if f.rule == "lost_file"] == [
            "The file of Relief beside the project has been altered since it was imported; choose it again in Ground."
        ]
        sheet = next(
            p.sheet_id
            for s in project.sheets()
            for p in project.parts(s.id or 0)
            if "1" in getattr(p.settings, "underlays", {})
        )
        with pytest.raises(FileRefused, match="altered"):
            composed(project, sheet or 0, 30)


def test_files_of_the_old_name_are_offered_and_taken(demo: Path, tmp_path: Path) -> None:
    """The project file renamed alone."""
    renamed = demo.rename(demo.with_name("quennet-north.gpkg"))
    # Another folder, which has only one of the files, is not it.
    other = demo.with_name("another.files")
    other.mkdir()
    first = next(files_folder(demo).iterdir())
    (other / first.name).write_bytes(first.read_bytes())
    with TestClient(create_app(demo.parent), base_url="http://127.0.0.1:8460") as client:
        base = "/p/quennet-north"
        answer = client.get(f"{base}/underlays/2.png", params=VIEW, headers={"HX-Request": "1"})
        assert "is missing" in answer.text
        assert "disk" not in answer.text
        assert "isle-of-quennet.files" in client.get(f"{base}/ground").text
        assert "missing" in client.get(f"{base}/stack", headers=GROUND).text
        refused = client.post(f"{base}/underlays/files", data={"folder": "another.files"})
        assert refused.status_code == 422
        text = client.post(f"{base}/underlays/files", data={"folder": "isle-of-quennet.files"}, headers=GROUND).text
        assert "missing" not in text
        assert "isle-of-quennet.files" not in text
        assert client.get(f"{base}/underlays/2.png", params=VIEW).status_code == 200
    # The folder of the old name stays as it is: it may be another project's.
    assert {f.name for f in files_folder(renamed).iterdir()} <= {f.name for f in files_folder(demo).iterdir()}


@pytest.mark.parametrize("path", ["/nothing/here", "/p/isle-of-quennet/nothing", "/static/frame/none.css"])
def test_what_is_not_there_is_said_in_our_own_page(client: TestClient, path: str) -> None:
    answer = client.get(path)
    assert answer.status_code == 404
    assert "There is nothing at this address" in answer.text
    assert "Back to the projects" in answer.text
    assert client.get(path, headers={"HX-Request": "1"}).text.startswith("There is nothing")


def test_what_an_address_does_not_do_and_what_is_too_long_is_said(client: TestClient) -> None:
    answer = client.put("/p/isle-of-quennet/ground")
    assert answer.status_code == 405
    assert "does not do that" in answer.text

    def endless() -> Iterator[bytes]:
        for _ in range(40):
            yield b"x" * 65_536

    with TestClient(Guard(client.app, upload_bytes=1_000_000), base_url="http://127.0.0.1:8460") as small:
        answer = small.post(
            f"{BASE}/2/file", content=endless(), headers={"Content-Type": "multipart/form-data; boundary=x"}
        )
        assert answer.status_code == 413
        assert "larger than 0 MB" in answer.text

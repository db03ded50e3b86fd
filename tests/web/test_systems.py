"""Choosing and changing the coordinate system, as a client sees it."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from orvik.store.read_project import ReadProject
from orvik.web.app import create_app
from tests.web.exports import export_routes

BASE = "/p/isle-of-quennet/systems"
OWN = {
    "method": "lcc",
    "latitude": "60°N",
    "longitude": "14°45' W",
    "parallel_1": "61.34",
    "parallel_2": "61°22'N",
}


@pytest.fixture
def client(demo: Path) -> Iterator[TestClient]:
    with TestClient(create_app(demo.parent), base_url="http://127.0.0.1:8460") as client:
        yield client


def test_candidates_stand_side_by_side(client: TestClient) -> None:
    text = client.get(BASE).text
    assert text.count('class="system-picture"') >= 6
    assert "in use" in text
    assert "True to 1 in 2\u2009500 over this sheet" in text
    assert "made for this ground" in text
    assert len(re.findall(r"WGS 72", text)) == 0


def test_search_puts_systems_for_the_ground_first(client: TestClient) -> None:
    text = client.get(f"{BASE}/search", params={"q": "utm"}).text
    first = text.split("<li")[1]
    assert "UTM zone 28N" in first
    assert re.search(r'class="figures">EPSG:(25828|32628)<', text)
    assert "degrees" in client.get(f"{BASE}/search", params={"q": "4326"}).text


def test_a_report_changes_nothing(client: TestClient, demo: Path) -> None:
    text = client.post(f"{BASE}/try", data={"crs": "EPSG:8088"}).text
    assert "ISN2016 to WGS 84" in text
    assert "to 1 m" in text
    assert "Change to this system" in text
    assert client.post(f"{BASE}/try", data={"crs": "EPSG:4326"}).headers["Orvik-Where"] == "crs"
    project = ReadProject.open(demo)
    assert project.crs.text == "EPSG:32628"
    project.close()


def test_own_system_by_parameters_or_definition(client: TestClient) -> None:
    assert "60°00" in client.get(f"{BASE}/parameters", params={"method": "tm"}).text
    text = client.post(f"{BASE}/own", data=OWN | {"name": "Quennet grid"}).text
    assert "Quennet grid" in text
    assert "Lambert Conic Conformal (2SP)" in text
    pasted = client.post(
        f"{BASE}/own", data={"method": "lcc", "definition": "+proj=laea +lat_0=61 +lon_0=-15 +type=crs"}
    )
    assert "Lambert Azimuthal Equal Area" in pasted.text
    for changes, why in (
        ({"parallel_1": "abc"}, "not a latitude"),
        ({"parallel_1": ""}, "Type a latitude"),
        ({"parallel_2": "-61.34"}, "no cone"),
        ({"base": "EPSG:1"}, "make no system"),
        ({"definition": "nonsense"}, "not a coordinate system"),
    ):
        answer = client.post(f"{BASE}/own", data=OWN | changes)
        assert answer.status_code == 422
        assert why in answer.text


def test_change_tells_every_page_and_is_undone(client: TestClient, demo: Path) -> None:
    with client.websocket_connect("ws://127.0.0.1:8460/p/isle-of-quennet/live") as socket:
        socket.receive()
        assert client.post(f"{BASE}/change", data={"crs": "EPSG:8088"}).headers["HX-Redirect"].endswith("/ground")
        notice = socket.receive()["text"]
        assert '"moved":true' in notice
    project = ReadProject.open(demo)
    assert project.crs.text == "EPSG:8088"
    assert project.scales.publication == 25_000
    project.close()
    # Everything else works in the new system.
    assert "ISN2016" in client.get("/p/isle-of-quennet/ground").text
    (pdf,) = export_routes(client).files.values()
    assert pdf.startswith(b"%PDF")


def test_a_missing_grid_can_be_given(client: TestClient, tmp_path: Path) -> None:
    made = {
        "name": "Fell",
        "crs": "EPSG:27700",
        "publication": "25000",
        "digitizing": "6250",
        "corners": "grid",
        "west": "330000",
        "south": "440000",
        "east": "335000",
        "north": "444000",
    }
    assert client.post("/new", data=made).status_code == 204
    text = client.post("/p/fell/systems/try", data={"crs": "EPSG:32630"}).text
    wanted = re.search(r"needs the grid ([\w.]+)", text)
    assert wanted is not None
    for name, data, why in (
        ("other.tif", b"x", "another file"),
        (wanted[1], b"II*\0broken", "cannot be read"),
    ):
        answer = client.post("/p/fell/grids", data={"crs": "EPSG:32630"}, files={"file": (name, data)})
        assert answer.status_code == 422
        assert why in answer.text


def test_systems_ranked_for_a_new_sheet(client: TestClient) -> None:
    corners = {
        "corners": "geographic",
        "west": "14°50'W",
        "south": "61°20'N",
        "east": "14°40'W",
        "north": "61°23'N",
    }
    text = client.get("/crs/ranked", params=corners).text
    assert text.index("EPSG:25828") < text.lower().index("made for other ground")
    assert (
        "geographic corners" in client.get("/crs/ranked", params={"corners": "grid"}, headers={"HX-Request": "1"}).text
    )

"""The field notebook on the page, and stations that are sent over HTTP."""

from __future__ import annotations

import pytest
from fastapi.testclient import TestClient

from orvik.demo.field_notebook import send, walk
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from tests.browser.chromium import application
from tests.web.pages import Page

CSV = (
    "station,easting,northing,strike,dip,notes\nA1,511500,6801200,350,60,by the burn\nA2,512500,6801500,350,60,\n"
    "A1,511500,6801200,350,60,again\nA3,511700,6801900,420,10,\n"
)
ROOT = "/p/small/notebook"


def reopened(project: Project) -> Project:
    return ReadProject.open(project.path)


def test_a_table_is_looked_at_before_it_is_kept(client: TestClient, project: Project) -> None:
    shown = client.post(f"{ROOT}/preview", files={"table": ("walk.csv", CSV.encode(), "text/csv")})
    assert "2 new stations" in shown.text
    assert "1 double, left out" in shown.text
    assert "Row 5: 420 is not a direction" in shown.text
    assert reopened(project).stations() == []
    kept = client.post(f"{ROOT}/keep", data={"text": CSV, "name": "walk.csv"})
    assert kept.text.count("station-row") == 2
    assert len(reopened(project).stations()) == 2
    # The reading of A2 is on the map already, and ticked off.
    assert kept.text.count("logged") == 1
    again = client.post(f"{ROOT}/keep", data={"text": CSV, "name": "walk.csv"})
    assert again.status_code == 422
    assert "no new station" in again.text
    for bad in (b"", b"a,b\n1,2\n", b"\xff\xfe\x00"):
        assert client.post(f"{ROOT}/preview", files={"table": ("x.csv", bad, "text/csv")}).status_code == 422


def test_kinds_that_are_not_known_ask_before_anything_is_kept(client: TestClient, project: Project) -> None:
    text = "station,easting,northing,kind,strike,dip\nA1,511500,6801200,xenolith,350,60\nA2,512500,6801500,bed,10,20\n"
    shown = client.post(f"{ROOT}/preview", files={"table": ("walk.csv", text.encode(), "text/csv")})
    assert 'name="word-1" value="xenolith"' in shown.text
    refused = client.post(f"{ROOT}/keep", data={"text": text, "name": "walk.csv"})
    assert (refused.status_code, "“xenolith”" in refused.text) == (422, True)
    answer = {"text": text, "name": "walk.csv", "word-1": "xenolith", "kind-1": "joint"}
    assert "2 new stations" in client.post(f"{ROOT}/preview", data=answer).text
    client.post(f"{ROOT}/keep", data=answer)
    assert [s.kind for s in reopened(project).stations()] == ["joint", "bedding"]


def test_a_station_is_logged_in_one_entry_and_undone(client: TestClient, page: Page, project: Project) -> None:
    client.post(f"{ROOT}/keep", data={"text": CSV, "name": "walk.csv"})
    assert "Choose a pen for attitudes" in page.ask("station", station=1)["refused"]
    page.ask("pen", name="bedding-certain")
    answer = page.ask("station", station=1)
    assert (answer["waiting"], answer["words"]) == ([511_500, 6_801_200], "strikes 350, dips 60 to the east")
    kept = page.ask("keep_reading", text="350/60", note="Station A1")
    told = reopened(project)
    assert told.stations()[0].point_id == kept["feature"]["id"]
    point = told.feature("points", kept["feature"]["id"])
    assert (point.geometry.coords[0], point.note, point.azimuth) == ((511_500, 6_801_200), "Station A1", 350)
    assert 'data-left="0"' in client.get(ROOT).text
    page.ask("undo")
    assert reopened(project).stations()[0].point_id is None
    assert 'data-left="1"' in client.get(ROOT).text
    client.post(f"{ROOT}/1/remove")
    assert len(reopened(project).stations()) == 1
    assert "no longer" in page.ask("station", station=1)["refused"]


def test_a_strike_drawn_over_the_symbol_on_the_scan(page: Page, project: Project) -> None:
    page.ask("pen", name="bedding-certain")
    page.press(513_000, 6_802_000)
    along = [[513_000, 6_801_950], [513_000, 6_802_050]]
    east = page.ask("strike", along=along, x=513_060, y=6_802_000)["azimuth"]
    west = page.ask("strike", along=along, x=512_940, y=6_802_000)["azimuth"]
    turn = round(float(reopened(project).crs.convergence(513_000, 6_802_000)))
    assert (int(east), int(west)) == (turn % 360, (180 + turn) % 360)
    assert "click beside the line" in page.ask("strike", along=along, x=513_000, y=6_803_000)["refused"]


def station(**values: object) -> dict[str, object]:
    return {
        "name": "W1",
        "longitude": -14.78,
        "latitude": 61.35,
        "kind": "bedding",
        "azimuth": 350,
        "inclination": 60,
    } | values


def test_stations_sent_over_http(client: TestClient, project: Project) -> None:
    taken = client.post(f"{ROOT}/stations", json=station())
    assert taken.status_code == 201
    row = reopened(project).stations()[0]
    longitude, latitude = reopened(project).crs.to_geographic(row.x, row.y)
    assert (float(longitude), float(latitude)) == pytest.approx((-14.78, 61.35), abs=1e-8)
    assert client.post(f"{ROOT}/stations", json=station()).status_code == 409
    for bad, status in (
        (station(azimuth=400), 422),
        (station(kind="mood"), 422),
        (station(inclination=None), 422),
        (station(latitude=95), 422),
        ({"name": "W9"}, 422),
        (station(longitude=120.0, name="far"), 422),
    ):
        assert client.post(f"{ROOT}/stations", json=bad).status_code == status
    assert len(reopened(project).stations()) == 1
    # Only from here: another page's script cannot send any.
    foreign = client.post(f"{ROOT}/stations", json=station(name="W2"), headers={"Origin": "http://elsewhere.example"})
    assert foreign.status_code == 403


def test_the_stand_in_sends_its_walk(project: Project) -> None:
    project.close()
    assert walk(6) == walk(6)
    with application(project.path.parent) as (address, _):
        told = list(send(f"{address}/p/small", 6, 0.0))
        assert told == [f"W0{i}: taken" for i in range(1, 7)]
        assert "not taken" in next(iter(send(f"{address}/p/small", 1, 0.0)))
    assert len(reopened(project).stations()) == 6

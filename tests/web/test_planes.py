"""Planes over the relief as a client asks for them: what has one, what has none and why, what goes with a window."""

from __future__ import annotations

import html
import json
import re
from collections.abc import Iterator
from pathlib import Path

import pytest
import rasterio
from fastapi.testclient import TestClient
from rasterio.transform import from_origin

from orvik.core.features.kind import KINDS
from orvik.store.project import Project
from orvik.web.app import create_app
from tests.core.structure.relief import CELL, hills
from tests.web.pages import Page

WINDOW = "a-window-of-a-test"
VIEW = {"west": 511_000, "south": 6_800_600, "east": 513_800, "north": 6_803_400, "pixel": 3, "window_id": WINDOW}


@pytest.fixture
def client(project: Project, tmp_path: Path) -> Iterator[TestClient]:
    """The small project over hills."""
    project.close()
    path = tmp_path / "hills.tif"
    profile = {"driver": "GTiff", "dtype": "float32", "count": 1, "height": 150, "width": 150, "crs": "EPSG:32628"}
    with rasterio.open(path, "w", transform=from_origin(510_900, 6_803_500, CELL, CELL), **profile) as out:
        out.write(hills(5).heights, 1)
    with TestClient(create_app(project.path.parent), base_url="http://127.0.0.1:8460") as client:
        client.post("/p/small/underlays", files=[("files", ("hills.tif", path.read_bytes()))])
        with client.websocket_connect("ws://127.0.0.1:8460/p/small/live") as socket:
            Page(socket).ask(do="hello", window_id=WINDOW)
            yield client


def asked(client: TestClient, path: str = "", **values: object) -> str:
    answer = client.post(f"/p/small/plane{path}", data=VIEW | values)
    return html.unescape(answer.text)


def test_a_reading_has_a_plane_and_its_trace_runs_through_the_view(client: TestClient) -> None:
    shown = asked(client, table="points", id=1)
    assert "350/60" in shown
    lines = json.loads(re.findall(r'data-trace="([^"]*)"', shown)[0])
    assert lines
    xs = [x for line in lines for x, _ in line]
    # A quarter of the view beyond it on each side, as far as there are heights.
    assert min(xs) >= 510_800
    assert max(xs) <= 514_000
    near = asked(client, "/trace", reach="300")
    around = [at for line in json.loads(re.findall(r'data-trace="([^"]*)"', near)[0]) for at in line]
    assert around
    assert all((x - 512_500) ** 2 + (y - 6_801_500) ** 2 <= 300.1**2 for x, y in around)
    assert "True thickness" in asked(client, "/measure", places="[[512000,6801000],[512300,6801200]]")
    assert "the ground" in asked(client, "/measure", places="[[512000,6801000]]")
    # Along the strike it is level, across it the dip.
    assert "level" in asked(client, "/apparent", direction="350")
    assert "dips 60.0° to the east" in asked(client, "/apparent", direction="080")
    assert "Contact 2 lies" in asked(client, "/compare", table="lines", id=2)


def test_what_has_no_plane_says_why(client: TestClient) -> None:
    assert "An area has no plane" in asked(client, table="areas", id=1)
    assert "2 of at least 3 places" in asked(client, places="[[512000,6801000],[512300,6801200]]")
    assert "three places at least; 0" in asked(client)
    assert "No heights are known" in asked(client, places="[[510600,6800100],[510700,6800100],[510600,6800200]]")
    assert "cannot be read" in asked(client, places="[[1,2,3]]")
    assert "at the most" in asked(client, places=json.dumps([[512_000, 6_801_000]] * 501))
    assert "no longer" in asked(client, table="points", id=99)
    assert "“far” is not a distance" in asked(client, table="points", id=1, reach="far")
    assert "some metres at least" in asked(client, table="points", id=1, reach="0")


def test_a_plane_belongs_to_its_window(client: TestClient) -> None:
    asked(client, table="points", id=1)
    for path, values in (
        ("/trace", {}),
        ("/measure", {"places": "[[512000,6801000]]"}),
        ("/compare", {"table": "lines", "id": 2}),
        ("/apparent", {"direction": "90"}),
        ("/keep", {"kind": "bedding"}),
    ):
        assert "No plane is shown here any more" in asked(client, path, window_id="another", **values)
    assert client.delete(f"/p/small/plane?window_id={WINDOW}").status_code == 200
    assert "No plane is shown here any more" in asked(client, "/trace")


def test_it_is_kept_as_the_reading_of_a_plane_alone(client: TestClient) -> None:
    asked(client, table="points", id=1)
    for kind in KINDS.values():
        said = asked(client, "/keep", kind=kind.name)
        taken = "Saved; its note says from what" in said
        assert taken == (kind.reading in ("plane", "strike") and not kind.linear), (kind.name, said)


def test_without_heights_it_says_so(client: TestClient) -> None:
    client.post("/p/small/underlays/1/aside", data={"aside": "true"})
    assert "This project has no heights; add a grid of them in Ground." in asked(client, table="points", id=1)


def test_what_is_stated_of_heights_is_kept_and_refused(client: TestClient) -> None:
    url = "/p/small/underlays/1/heights"
    said = client.post(url, data={"unit": "ft", "datum": "Quennet 1901", "error": "1,5", "asked": "true"}).text
    assert 'value="Quennet 1901"' in said
    assert 'value="1.5"' in said
    assert client.post(url, data={"unit": "fathom", "error": "1"}).status_code == 422
    assert client.post(url, data={"unit": "m", "error": "-1"}).status_code == 422

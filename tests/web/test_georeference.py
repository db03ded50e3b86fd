"""Georeferencing as a client sees it."""

from __future__ import annotations

import io
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pyproj
import pyproj.transformer
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from orvik.core.ground.crs import project_crs
from orvik.core.pictures.georeferencing import ControlSet, Mapping
from orvik.store.read_project import ReadProject
from orvik.web.app import create_app
from tests.web.exports import export_routes

UNDERLAYS = "/p/isle-of-quennet/underlays"
BASE = f"{UNDERLAYS}/7"


@pytest.fixture
def client(demo: Path) -> Iterator[TestClient]:
    with TestClient(create_app(demo.parent), base_url="http://127.0.0.1:8460") as client:
        picture = io.BytesIO()
        Image.new("RGB", (400, 300), (30, 90, 200)).save(picture, "PNG")
        answer = client.post(UNDERLAYS, files=[("files", ("scan.png", picture.getvalue()))])
        assert answer.headers["HX-Redirect"] == f"{BASE}/georeference"
        yield client


def put(client: TestClient, column: float, row: float, east: str, north: str, system: str = "project") -> str:
    values = {"column": str(column), "row": str(row), "east": east, "north": north, "system": system}
    return client.post(f"{BASE}/points", data=values).text


def source(demo: Path) -> tuple[str, ControlSet]:
    project = ReadProject.open(demo)
    row = project.source(7)
    project.close()
    return row.transform, ControlSet.of_json(row.fit)


def test_a_scan_waits_until_it_is_placed(client: TestClient, demo: Path) -> None:
    assert "georeference</a>" in client.get("/p/isle-of-quennet/stack").text
    window = {
        "west": 513_000,
        "south": 6_802_000,
        "east": 513_400,
        "north": 6_802_300,
        "width": 40,
        "height": 30,
    }
    assert client.get(f"{BASE}.png", params=window).status_code == 204
    assert export_routes(client).state == "done"
    assert "needs 3 control points" in put(client, 0, 0, "513 000", "6 802 300")
    put(client, 400, 0, "513400", "6802300")
    text = put(client, 0, 300, "513000", "6802000")
    assert "RMS error" in text
    assert Mapping.of_json(source(demo)[0]).affine == pytest.approx((1, 0, 513_000, 0, -1, 6_802_300), abs=1e-6)
    view = Image.open(io.BytesIO(client.get(f"{BASE}.png", params=window).content)).convert("RGBA")
    assert view.getpixel((20, 15)) == (30, 90, 200, 255)
    assert "georeference</a>" not in client.get("/p/isle-of-quennet/stack").text


def test_typed_in_another_datum(client: TestClient, demo: Path) -> None:
    """What is kept is the place that PROJ's own shift gives."""
    put(client, 10, 10, "14°44'00\" W", "61°21'00\" N", "EPSG:4230")
    area = pyproj.aoi.AreaOfInterest(-15, 61, -14, 62)
    group = pyproj.transformer.TransformerGroup("EPSG:4230", "EPSG:32628", always_xy=True, area_of_interest=area)
    expected = group.transformers[0].transform(-14 - 44 / 60, 61.35)
    point = source(demo)[1].points[0]
    assert (point.x, point.y) == pytest.approx(expected, abs=1e-9)
    same = project_crs("EPSG:32628").from_geographic(-14 - 44 / 60, 61.35)
    assert 50 < np.hypot(point.x - float(same[0]), point.y - float(same[1])) < 300


def test_points_are_switched_removed_and_undone(client: TestClient, demo: Path) -> None:
    for c, r in ((0, 0), (400, 0), (0, 300), (400, 300)):
        put(client, c, r, f"{513_000 + c}", f"{6_802_300 - r}")
    client.post(f"{BASE}/points/3/switch")
    assert [p.on for p in source(demo)[1].points] == [True, True, True, False]
    client.delete(f"{BASE}/points/0")
    assert len(source(demo)[1].points) == 3
    client.post(f"{BASE}/kind", data={"kind": "similarity"})
    assert source(demo)[1].kind == "similarity"
    with client.websocket_connect("ws://127.0.0.1:8460/p/isle-of-quennet/live") as socket:
        socket.receive()
        for _ in range(3):
            socket.send_text('{"do": "undo", "n": 1}')
            while '"kept"' not in (socket.receive().get("text") or ""):
                pass
    assert [p.on for p in source(demo)[1].points] == [True] * 4


@pytest.mark.parametrize(
    ("values", "where", "why"),
    [
        ({"east": "west", "north": "1"}, "border", "is not a"),
        ({"east": "-14.7", "north": "61.3"}, "border", "look like degrees"),
        ({"east": "1", "north": "2", "system": "EPSG:99"}, "crs", "not a coordinate system"),
        ({"east": "14°W", "north": "91°N", "system": "geographic"}, "border", "beyond 90"),
        ({"column": "nan", "east": "513000", "north": "6802000"}, "fit", "not on the picture"),
    ],
)
def test_bad_points_are_refused(client: TestClient, demo: Path, values: dict[str, str], where: str, why: str) -> None:
    answer = client.post(f"{BASE}/points", data={"column": "1", "row": "1"} | values)
    assert answer.status_code == 422
    assert answer.headers["Orvik-Where"] == where
    assert why in answer.text
    assert source(demo)[1].points == ()


def test_a_pixel_holds_one_point(client: TestClient) -> None:
    put(client, 5, 5, "513000", "6802000")
    assert "already" in put(client, 5, 5, "514000", "6802000")


def test_the_scan_as_it_lies(client: TestClient) -> None:
    box = {"left": -100, "top": 0, "right": 300, "bottom": 300, "width": 80, "height": 60}
    view = Image.open(io.BytesIO(client.get(f"{BASE}/scan.png", params=box).content))
    assert view.size == (80, 60)
    assert view.getpixel((10, 30))[3] == 0
    assert view.getpixel((40, 30)) == (30, 90, 200, 255)
    assert client.get(f"{BASE}/scan.png", params=box | {"right": -200}, headers={"HX-Request": "1"}).status_code == 422


def test_ground_side_holds_vertices_and_crossings(client: TestClient) -> None:
    import json

    with client.websocket_connect("ws://127.0.0.1:8460/p/isle-of-quennet/live") as socket:
        socket.receive()
        for x, y, label in (
            (514_008.0, 6_802_995.0, "grid 514\u2009000 E 6\u2009803\u2009000 N"),
            (509_752.0, 6_799_747.0, "vertex of sheet border 1"),
        ):
            socket.send_text(json.dumps({"do": "aim", "n": 1, "x": x, "y": y, "reach": 30}))
            assert json.loads(socket.receive()["text"])["label"] == label
        x, y = (float(v) for v in project_crs("EPSG:32628").from_geographic(-14.75, 61 + 21 / 60))
        socket.send_text(json.dumps({"do": "aim", "n": 1, "x": x + 4, "y": y, "reach": 30}))
        answer = json.loads(socket.receive()["text"])
        assert answer["label"] == "graticule 61°21'00\"N 14°45'00\"W"
        assert answer["at"] == pytest.approx([x, y], abs=1e-6)

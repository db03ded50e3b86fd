"""Scales and border as a client sets them."""

from __future__ import annotations

import html
import json
import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from orvik.core.errors import ScaleRefused
from orvik.core.ground.border import series_corners
from orvik.core.ground.scale import Scales, parse_rungs
from orvik.core.sheet.templates.fitting import scale_fits
from orvik.store.read_project import ReadProject
from orvik.web.app import create_app

BASE = "/p/isle-of-quennet"


@pytest.fixture
def client(demo: Path) -> Iterator[TestClient]:
    with TestClient(create_app(demo.parent), base_url="http://127.0.0.1:8460") as client:
        yield client


def test_the_ladder_takes_own_rungs(client: TestClient) -> None:
    client.post(f"{BASE}/scales", data={"publication": "25000", "digitizing": "6250", "rungs": "1:10 000; 2500"})
    text = client.get(f"{BASE}/compile").text
    assert "data-ladder='[100000,25000,10000,6250,2500]'" in text
    answer = client.post(f"{BASE}/scales", data={"publication": "25000", "digitizing": "6250", "rungs": "coarse"})
    assert answer.status_code == 422
    assert parse_rungs("1:10,000, 1:2,500") == (10_000, 2_500)
    with pytest.raises(ScaleRefused, match="at most"):
        Scales(25_000, 6_250, (1, 2, 3, 4, 5))


def test_scales_are_fitted_to_a_paper(client: TestClient, demo: Path) -> None:
    """280 by 220 mm at 1:25 000; the template leaves 320 by 225 mm beside the explanation on an A3 landscape."""
    text = client.get(f"{BASE}/scales/fits", params={"paper": "A3"}).text
    assert "1:25\u2009000 fills A3 landscape to 86 %, in use" in text
    assert "1:24\u2009000 does not fit" in text
    project = ReadProject.open(demo)
    border = project.border()
    assert border is not None
    for paper in ("A4", "A0", "ANSI C"):
        fits = scale_fits(border, project.crs, paper)
        assert fits[0].filled is None
        filled = [f.filled for f in fits[1:]]
        assert all(f is not None and f <= 1 for f in filled)
        assert filled == sorted(filled, reverse=True)  # type: ignore[type-var]
    project.close()
    # Taking one sets the digitizing scale with it.
    assert client.post(f"{BASE}/scales", data={"publication": "50000"}).status_code == 204
    again = ReadProject.open(demo)
    assert (again.scales.publication, again.scales.digitizing) == (50_000, 12_500)
    assert again.scales.tolerance_metres == 10
    again.close()


def test_a_sheet_of_a_series(client: TestClient) -> None:
    text = html.unescape(client.get(f"{BASE}/border/proposed", params={"step": "7.5"}).text)
    for value in ("61°15'00\"N", "61°22'30\"N", "14°52'30\"W", "14°45'00\"W"):
        assert value in text
    assert client.get(f"{BASE}/border/proposed", params={"step": "20"}, headers={"HX-Request": "1"}).status_code == 422
    assert series_corners(-105.3, 39.7, 15)["west"] == "105°30'00\"W"


def test_drawing_coarser_than_the_digitizing_scale_is_said(client: TestClient) -> None:
    with client.websocket_connect("ws://127.0.0.1:8460/p/isle-of-quennet/live") as socket:
        socket.receive()

        def ask(**message: object) -> dict[str, object]:
            socket.send_text(json.dumps({"n": 1, **message}))
            return json.loads(socket.receive()["text"])  # type: ignore[no-any-return]

        ask(do="pen", name="contact-certain")
        for scale, coarse in ((6_250, False), (3_000, False), (6_251, True), (25_000, True)):
            assert ask(do="hover", x=513_000, y=6_802_000, scale=scale)["coarse"] is coarse


def test_a_border_stands_around_all_features(client: TestClient) -> None:
    """What lies in the project lies within it, on round coordinates; the border that is there does not count."""
    values = around(client)
    west, south, east, north = (float(values[name]) for name in ("west", "south", "east", "north"))
    assert client.post(f"{BASE}/border", data=values | {"corners": "grid"}).status_code == 200
    assert west % 100 == south % 100 == 0
    assert around(client) == values
    assert west < east
    assert south < north


def around(client: TestClient) -> dict[str, str]:
    text = html.unescape(client.get(f"{BASE}/border/proposed?step=around").text)
    return dict(re.findall(r'name="(west|south|east|north)"\s+value="([^"]*)"', text))

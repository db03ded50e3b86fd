"""The net of readings as a client asks for it, for every way of showing it and every choice."""

from __future__ import annotations

import html
import json
import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from orvik.store.read_project import opened_for_reading
from orvik.web.app import create_app

BASE = "/p/isle-of-quennet/net"
VIEW = {"west": 511_000, "south": 6_800_500, "east": 513_000, "north": 6_802_000, "denominator": 25_000}


def asked(client: TestClient, path: str = "", **values: object) -> str:
    return html.unescape(client.post(BASE + path, data=VIEW | {"kind": "bedding"} | values).text)


def stations(shown: str) -> list[list[float]]:
    return list(json.loads(re.findall(r'data-stations="([^"]*)"', shown)[0]))


@pytest.fixture
def client(demo: Path) -> Iterator[TestClient]:
    with TestClient(create_app(demo.parent), base_url="http://127.0.0.1:8460") as client:
        yield client


def test_a_net_has_a_pole_for_every_reading_with_a_dip(client: TestClient, demo: Path) -> None:
    with opened_for_reading(demo) as project:
        points = project.features("points")
    beds = [
        i
        for i, kind, dip in zip(points.ids.tolist(), points.columns["kind"], points.columns["inclination"], strict=True)
        if kind == "bedding" and dip is not None
    ]
    for shows in ("equal_area", "equal_angle"):
        shown = asked(client, shows=shows, density="true", circles="true")
        assert [row[0] for row in stations(shown)] == beds
        assert f"{len(beds)} readings" in shown
    view = asked(client, where="view")
    assert 0 < len(stations(view)) < len(beds)
    assert all(511_000 <= x <= 513_000 for _, x, *_ in stations(view))
    assert [row[0] for row in stations(asked(client, where="selected", ids=json.dumps(beds[:3])))] == beds[:3]
    assert "Fewer than 5" in asked(client, where="selected", ids=json.dumps(beds[:3]))
    assert "have no mean together" in asked(client, kind="")
    assert "0 readings" in asked(client, where="selected", ids="[]")
    saved = client.get("/p/isle-of-quennet/compile").text
    (number, *_) = re.findall(r'views/(\d+)"', saved)
    assert len(stations(asked(client, where=number))) < len(beds)


def test_a_rose_counts_and_has_no_poles(client: TestClient) -> None:
    shown = asked(client, shows="rose", kind="joint")
    assert stations(shown) == []
    assert "readings" in shown


def test_what_cannot_be_is_refused(client: TestClient) -> None:
    assert "choose one" in asked(client, shows="polar")
    assert "select it again" in asked(client, where="selected", ids="{")
    assert "no longer there" in asked(client, where="99")
    assert "lie along no girdle" in asked(client, "/axis", where="selected", ids="[]")


def test_a_fold_axis_becomes_a_reading(client: TestClient, demo: Path) -> None:
    shown = asked(client)
    assert "Save the axis as a reading" in shown
    plunge, trend = re.findall(r">(\d+) → (\d{3})<", shown)[0]
    assert "Saved as a fold axis" in asked(client, "/axis")
    with opened_for_reading(demo) as project:
        points = project.features("points")
        made = project.feature("points", int(points.ids.max()))
    assert (made.kind, made.inclination, made.azimuth) == ("fold_axis", float(plunge), float(trend))
    assert "best girdle" in made.note

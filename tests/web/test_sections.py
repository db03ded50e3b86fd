"""The section under the map as a client asks for it: figures, words, refusals."""

from __future__ import annotations

import html
import json
import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from orvik.store.journal import Change
from orvik.store.project import opened_for_writing
from orvik.store.read_project import opened_for_reading
from orvik.usecases.structure.sections import section_lines
from orvik.web.app import create_app

BASE = "/p/isle-of-quennet/section"


@pytest.fixture
def client(demo: Path) -> Iterator[TestClient]:
    with TestClient(create_app(demo.parent), base_url="http://127.0.0.1:8460") as client:
        yield client


def frame_of(shown: str) -> dict[str, object]:
    return dict(json.loads(html.unescape(re.findall(r'data-measures="([^"]*)"', shown)[0])))


def test_the_first_section_comes_first_and_fits_its_room(client: TestClient) -> None:
    shown = client.get(BASE, params={"width": 780, "height": 240}).text
    assert "Section A–A′" in shown
    assert re.search(r'<option value="\d+" selected>A–A′</option>', shown)
    width, height = (float(v) for v in re.findall(r'viewBox="0 0 ([0-9.]+) ([0-9.]+)"', shown)[0])
    assert width == pytest.approx(780 * 25.4 / 96, abs=0.01)
    assert height <= 240 * 25.4 / 96 + 0.01
    frame = frame_of(shown)
    assert frame["along"] == pytest.approx(frame["up"])
    assert len(frame["places"]) == len(frame["stations"]) == 2  # type: ignore[arg-type]
    # The pointer finds ground to the very end.
    ground = list(frame["ground"])  # type: ignore[call-overload]
    assert ground[0][0] == 0
    assert ground[-1][0] == pytest.approx(frame["length"], abs=0.06)
    assert all(height is not None for _, height in ground)


def test_what_is_asked_is_kept_and_drawn(client: TestClient, demo: Path) -> None:
    with opened_for_reading(demo) as project:
        line = section_lines(project)[1].number
    room = {"width": "900", "height": "300"}
    asked = {"exaggeration": "2,5", "base": "−600", "corridor": "0", "axis": "3 → 052"}
    shown = client.post(f"{BASE}/{line}", data=room | asked).text
    frame = frame_of(shown)
    assert float(frame["up"]) == pytest.approx(2.5 * float(frame["along"]))  # type: ignore[arg-type]
    assert 'value="3/052"' in shown
    assert 'value="-600"' in shown
    assert ", 0 readings" in shown
    assert client.get(f"{BASE}/{line}").text.count('value="3/052"') == 1


@pytest.mark.parametrize(
    ("asked", "words"),
    [
        ({"exaggeration": "much"}, "is no figure for the vertical exaggeration"),
        ({"exaggeration": "0"}, "between 0.1 and 100"),
        ({"axis": "12"}, "its plunge and its trend"),
        ({"axis": "12/x"}, "is no figure for the trend"),
        ({"corridor": "-3"}, "0 to 50 000 m"),
    ],
)
def test_what_cannot_be_is_refused_where_it_was_typed(
    client: TestClient, demo: Path, asked: dict[str, str], words: str
) -> None:
    with opened_for_reading(demo) as project:
        line, revision = section_lines(project)[0].number, project.revision
    answer = client.post(f"{BASE}/{line}", data=asked)
    assert answer.status_code == 422
    assert words in html.unescape(answer.text)
    with opened_for_reading(demo) as project:
        assert project.revision == revision


def test_a_map_without_a_section_says_how_one_comes_about(client: TestClient, demo: Path) -> None:
    with opened_for_writing(demo) as project:
        lines = [line.number for line in section_lines(project)]
        assert client.get(f"{BASE}/{max(lines) + 1000}").status_code == 404
        assert client.get(f"{BASE}/1").status_code == 404
        project.apply("delete", [Change("lines", number, None) for number in lines])
    shown = client.get(BASE).text
    assert "no section yet" in shown
    assert "close-section" in shown
    assert client.get(f"{BASE}/{lines[0]}").status_code == 404


def test_without_heights_the_reason_stands_where_the_picture_would(client: TestClient, demo: Path) -> None:
    with opened_for_writing(demo) as project:
        relief = next(source for source in project.sources() if source.relief)
        project.apply("aside", [Change("sources", relief.id, {"aside": 1})])
    shown = client.get(BASE).text
    assert "no heights; add a grid" in shown
    assert "close-section" in shown

"""Two people at one section, and one of them at the map above it."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
import shapely
from fastapi.testclient import TestClient

from orvik.store.read_project import opened_for_reading
from orvik.usecases.structure.sections import section_of_letter
from orvik.web.app import create_app
from tests.web.pages import Page

SLUG = "isle-of-quennet"
BASE = f"/p/{SLUG}/section"
ROOM = {"width": 780, "height": 240}


@pytest.fixture
def client(demo: Path) -> Iterator[TestClient]:
    with TestClient(create_app(demo.parent), base_url="http://127.0.0.1:8460") as client:
        yield client


@pytest.fixture
def two(client: TestClient) -> Iterator[tuple[Page, Page]]:
    address = f"ws://127.0.0.1:8460/p/{SLUG}/live"
    with client.websocket_connect(address) as a, client.websocket_connect(address) as b:
        yield Page(a), Page(b)


def drawn(demo: Path, number: int) -> tuple[int, list[int]]:
    """The revision, and which lines are drawn on the section of a line."""
    with opened_for_reading(demo) as project:
        found = section_of_letter(project, "A")
        assert found.section.line_id == number
        return project.revision, [int(i) for i in found.drawn["lines"].ids]


def opened(client: TestClient, demo: Path) -> int:
    assert client.get(BASE, params=ROOM).status_code == 200
    with opened_for_reading(demo) as project:
        return section_of_letter(project, "A").section.line_id


def test_what_one_draws_the_other_has_at_once_and_may_not_change_unseen(
    client: TestClient, demo: Path, two: tuple[Page, Page]
) -> None:
    one, other = two
    section = opened(client, demo)
    revision, before = drawn(demo, section)
    one.ask("pen", name="contact-certain", section=section)
    for place in ((1_500.0, -200.0), (1_520.0, -260.0)):
        ring = one.ask("hover", x=place[0], y=place[1], section=section, free=True)
        answer = one.ask("press", x=place[0], y=place[1], ring=ring["ring"], scale=6250, section=section)
        assert "refused" not in answer, answer
    assert one.ask("finish", section=section)["kept"] == revision + 1
    (number,) = set(drawn(demo, section)[1]) - set(before)
    # The other is told, and the ring of the other holds its end.
    other.ask("pen", name="contact-certain", section=section)
    held = other.ask("hover", x=1_520.5, y=-260.5, section=section)
    assert held["held"]["label"] == f"end of contact {number}"
    told = [notice for notice in other.notices if notice["do"] == "changed"]
    assert told[-1]["tables"] == ["section_lines"]
    # It goes while the other looks: the click is refused in words, and so is a change of what is no longer as seen.
    (chosen,) = features = [{"table": "lines", "id": number}]
    one.ask("delete", features=features, revision=revision + 1, section=section)
    late = other.ask("press", x=1_520.5, y=-260.5, ring=held["ring"], scale=6250, section=section)
    assert "changed in another window" in late["refused"]
    gone = other.ask("delete", features=[chosen], revision=revision + 1, section=section)
    assert gone["refused"]
    assert drawn(demo, section) == (revision + 2, before)
    # Undo is the project's, whoever asks.
    other.ask("undo")
    assert drawn(demo, section)[1] == [*before, number]
    other.ask("undo")
    assert drawn(demo, section)[1] == before


def test_the_map_changes_while_another_draws_below_it(client: TestClient, demo: Path, two: tuple[Page, Page]) -> None:
    """What is half drawn stays as it is; the crossing that the ring holds is where it is now."""
    one, other = two
    section = opened(client, demo)
    with opened_for_reading(demo) as project:
        found = section_of_letter(project, "A")
        crossing = next(c for c in found.crossings if c.kind == "contact")
        contact = project.feature("lines", crossing.line)
    along = crossing.along
    other.ask("pen", name="fault-certain", section=section)
    for place in ((along + 30.0, -400.0), (along + 20.0, -300.0)):
        ring = other.ask("hover", x=place[0], y=place[1], section=section, free=True)
        other.ask("press", x=place[0], y=place[1], ring=ring["ring"], scale=6250, section=section)
    revision, before = drawn(demo, section)
    one.ask("delete", features=[{"table": "lines", "id": contact.id}], revision=revision)
    assert client.get(f"{BASE}/{section}", params=ROOM).status_code == 200
    half = other.ask("hover", x=along + 10.0, y=-200.0, section=section, free=True)
    assert half["drawing"]["count"] == "2"
    finished = other.ask("finish", section=section)
    assert "refused" not in finished, finished
    with opened_for_reading(demo) as project:
        kept = section_of_letter(project, "A").drawn["lines"]
        (row,) = (row for row, number in enumerate(kept.ids) if number not in before)
        line = kept.geometries[row]
    assert shapely.get_coordinates(line).tolist() == [[along + 30.0, -400.0], [along + 20.0, -300.0]]


def test_both_form_and_both_follow(client: TestClient, demo: Path) -> None:
    """The second of two that ask the same is told that nothing is left to do, and writes nothing."""
    section = opened(client, demo)
    for what in ("form", "follow"):
        client.post(f"{BASE}/{section}/{what}")
        revision, _ = drawn(demo, section)
        again = client.post(f"{BASE}/{section}/{what}")
        assert again.status_code == 200
        assert again.text
        assert drawn(demo, section)[0] == revision, (what, again.text)

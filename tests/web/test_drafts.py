"""What is half drawn is kept before the page hears of it, and never stands in the way of what is finished."""

from __future__ import annotations

import sqlite3

import pytest
from fastapi.testclient import TestClient

from orvik.core.errors import ProjectRefused
from orvik.store.project import Project
from tests.web.pages import Page


def refused(*_: object) -> None:
    raise ProjectRefused("Not saved: small.gpkg cannot be written (database or disk is full).")


def drawings(project: Project) -> list[str]:
    connection = sqlite3.connect(project.path)
    try:
        return [row[0] for row in connection.execute("SELECT drawing FROM drafts")]
    finally:
        connection.close()


def test_every_vertex_is_in_the_file_when_it_is_acknowledged(page: Page, project: Project) -> None:
    page.ask("hello", window_id="one")
    page.ask("pen", name="fault-certain")
    for i in range(12):
        x = 513_500.0 + 20 * i
        assert "refused" not in page.press(x, 6_801_200 + 10 * (i % 2))
        assert str(x) in drawings(project)[0]


def test_a_vertex_that_cannot_be_kept_is_refused(page: Page, project: Project, monkeypatch: pytest.MonkeyPatch) -> None:
    page.ask("hello", window_id="one")
    page.ask("pen", name="fault-certain")
    page.press(513_500, 6_801_200)
    monkeypatch.setattr(Project, "set_draft", refused)
    assert "disk is full" in page.press(513_600, 6_801_200)["refused"]
    monkeypatch.undo()
    # It is not half there: the line goes on from the vertex before.
    assert page.press(513_700, 6_801_300)["drawing"]["count"] == "2"


def test_a_line_is_kept_though_its_draft_cannot_be_forgotten(
    page: Page, project: Project, monkeypatch: pytest.MonkeyPatch
) -> None:
    page.ask("hello", window_id="one")
    page.ask("pen", name="fault-certain")
    page.press(513_500, 6_801_200)
    page.press(513_900, 6_801_500)
    kept = Project.set_draft
    monkeypatch.setattr(
        Project, "set_draft", lambda self, window_id, text: kept(self, window_id, text) if text else refused()
    )
    answer = page.ask("finish")
    assert answer["kept"] == 3
    assert "refused" not in answer
    # And it is not drawn a second time.
    assert "Nothing is being drawn" in page.ask("finish")["refused"]


def test_a_full_disk_keeps_the_line_being_drawn(page: Page, project: Project, monkeypatch: pytest.MonkeyPatch) -> None:
    page.ask("hello", window_id="one")
    page.ask("pen", name="fault-certain")
    page.press(513_500, 6_801_200)
    page.press(513_900, 6_801_500)
    monkeypatch.setattr(Project, "apply", refused)
    assert "disk is full" in page.ask("finish")["refused"]
    monkeypatch.undo()
    # Room was made: the same line is finished without drawing it again.
    assert page.ask("finish")["kept"] == 3
    assert drawings(project) == []


def test_what_a_closed_window_has_left_is_dropped_when_that_is_asked_for(client: TestClient, project: Project) -> None:
    address = "ws://127.0.0.1:8460/p/small/live"
    with client.websocket_connect(address) as socket:
        page = Page(socket)
        page.ask("hello", window_id="one")
        page.ask("pen", name="fault-certain")
        page.press(513_500, 6_801_200)
    with client.websocket_connect(address) as socket:
        page = Page(socket)
        assert page.ask("hello", window_id="two")["left"] == "Fault, certain, 1 vertex"
        assert len(drawings(project)) == 1
        page.ask("drop_left")
        assert drawings(project) == []
        assert "nothing" in page.ask("take_up")["refused"].lower()


def test_a_draft_that_cannot_be_read_is_passed_over(client: TestClient, project: Project) -> None:
    address = "ws://127.0.0.1:8460/p/small/live"
    with client.websocket_connect(address) as socket:
        Page(socket).ask("hello", window_id="one")
    connection = sqlite3.connect(project.path)
    for window_id, text in (
        ("two", "{"),
        ("three", '{"pen": "none", "vertices": []}'),
        ("four", '{"pen": "fault-certain", "vertices": [7]}'),
    ):
        connection.execute("INSERT INTO drafts (window_id, drawing) VALUES (?, ?)", (window_id, text))
    connection.commit()
    connection.close()
    for window_id in ("two", "three", "four", "five"):
        with client.websocket_connect(address) as socket:
            page = Page(socket)
            assert page.ask("hello", window_id=window_id)["drawing"] is None
            assert "refused" not in page.draw("fault-certain", (513_500, 6_801_200), (513_900, 6_801_500))
            page.ask("undo")

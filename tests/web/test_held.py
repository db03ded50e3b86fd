"""Another program that goes on reading keeps the file from being whole by itself: that is told, and when it is over."""

from __future__ import annotations

import sqlite3
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from orvik.web.session import write_log
from tests.web.pages import Page


def told(page: Page, held: bool) -> dict[str, Any]:
    """The next state that says so, be it one that came while the page was drawing."""
    come = [notice for notice in page.notices if notice.get("do") == "state"]
    page.notices.clear()
    while True:
        state = come.pop(0) if come else page.told("state")
        if bool(state["held"]) is held:
            return state


def test_a_reader_that_does_not_end_is_told(
    page: Page, client: TestClient, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(write_log, "HELD_SECONDS", 0.5)
    monkeypatch.setattr(write_log, "REST_SECONDS", 0.1)
    other = sqlite3.connect(tmp_path / "small.gpkg", isolation_level=None)
    other.execute("BEGIN")
    other.execute("SELECT count(*) FROM lines").fetchone()
    page.draw("contact-certain", (511_100, 6_801_100), (511_900, 6_801_200))
    assert "Another program" in told(page, held=True)["held"]
    other.execute("COMMIT")
    other.close()
    told(page, held=False)
    assert (tmp_path / "small.gpkg-wal").stat().st_size == 0

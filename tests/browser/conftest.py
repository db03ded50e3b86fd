"""A browser and an application for each test that asks for them."""

from __future__ import annotations

import re
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from selenium.webdriver import Chrome

from tests.browser.chromium import application, browser


@pytest.fixture
def downloads(tmp_path: Path) -> Path:
    folder = tmp_path / "downloads"
    folder.mkdir()
    return folder


@pytest.fixture
def driver(downloads: Path) -> Iterator[Chrome]:
    """A browser; the test fails if a page complained on its console."""
    with browser(downloads=downloads) as driver:
        yield driver
        complaints = [e["message"] for e in driver.get_log("browser") if e["level"] == "SEVERE"]
        # A refusal is answered with a status of 4xx, which the browser logs though the page shows it.
        assert [c for c in complaints if not re.search(r"status of 4|Status Error Code 4", c)] == []


@pytest.fixture
def empty(tmp_path: Path, driver: Chrome) -> Iterator[tuple[str, Path]]:
    """The address of an application without projects, and its folder."""
    folder = tmp_path / "chest"
    folder.mkdir()
    with application(folder) as (address, _):
        yield address, folder
        leave(driver)


@pytest.fixture
def demo_address(demo: Path, driver: Chrome) -> Iterator[str]:
    """The address of an application with the demo."""
    with application(demo.parent) as (address, _):
        yield address
        leave(driver)


def leave(driver: Chrome) -> None:
    """Let the page hear its last answers, and close it before the application goes."""
    time.sleep(0.5)
    driver.get("about:blank")

"""A browser and an application for each test that asks for them."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from selenium.webdriver import Chrome

from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.usecases.ground.border import Corners
from orvik.usecases.project.project import create_project
from tests.browser.chromium import browser, served
from tests.browser.hands import heard


@pytest.fixture
def downloads(tmp_path: Path) -> Path:
    folder = tmp_path / "downloads"
    folder.mkdir()
    return folder


@pytest.fixture(scope="session")
def one_browser() -> Iterator[Chrome]:
    """One browser for all tests of a process; addresses differ, so that no page finds what another has left."""
    with browser() as driver:
        yield driver


@pytest.fixture
def driver(one_browser: Chrome, downloads: Path) -> Iterator[Chrome]:
    """The browser with one empty page; the test fails if a page complained on its console."""
    driver = one_browser
    where = {"behavior": "allow", "downloadPath": str(downloads)}
    driver.execute_cdp_cmd("Browser.setDownloadBehavior", where)
    driver.get_log("browser")
    yield driver
    complaints = [e["message"] for e in driver.get_log("browser") if e["level"] == "SEVERE"]
    first, *others = driver.window_handles
    for window in others:
        driver.switch_to.window(window)
        driver.close()
    driver.switch_to.window(first)
    driver.get("about:blank")
    driver.delete_all_cookies()
    # A refusal is answered with a status of 4xx, which the browser logs though the page shows it.
    assert [c for c in complaints if not re.search(r"status of 4|Status Error Code 4", c)] == []


@pytest.fixture
def empty(tmp_path: Path, driver: Chrome) -> Iterator[tuple[str, Path]]:
    """The address of an application without projects, and its folder."""
    folder = tmp_path / "projects"
    folder.mkdir()
    with served(folder) as address:
        yield address, folder
        leave(driver)


@pytest.fixture
def demo_address(demo: Path, driver: Chrome) -> Iterator[str]:
    """The address of an application with the demo."""
    with served(demo.parent) as address:
        yield address
        leave(driver)


@pytest.fixture
def corner_address(corner: Path, driver: Chrome) -> Iterator[str]:
    """The address of an application with a corner of the demo."""
    with served(corner.parent) as address:
        yield address
        leave(driver)


@pytest.fixture
def outer_stills(tmp_path: Path, driver: Chrome) -> Iterator[tuple[str, Path]]:
    """The address of an application with a new project as ``new_project`` makes it by hand, and its folder."""
    folder = tmp_path / "projects"
    folder.mkdir()
    corners = Corners("510000", "6800000", "515000", "6804000")
    create_project(
        folder / "outer-stills.gpkg", "Outer Stills", project_crs("EPSG:32628"), Scales(25_000, 6_250), corners
    )
    with served(folder) as address:
        yield address, folder
        leave(driver)


def leave(driver: Chrome) -> None:
    """Let the page hear its last answers, and close it before the application goes."""
    heard(driver)
    driver.get("about:blank")

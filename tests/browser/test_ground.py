"""Ground with real pointer and key events."""

from __future__ import annotations

from pathlib import Path

import pytest
from selenium.webdriver import Chrome, Keys

from orvik.core.feature import TABLES
from orvik.store.geometry import encoded
from orvik.store.project import Project

from .hands import MapHand, find, text_of, until

pytestmark = pytest.mark.browser

PROJECT = "/p/isle-of-quennet"


def geometry_bytes(path: Path) -> list[bytes]:
    project = Project.open(path, read_only=True)
    try:
        return [encoded(g, project.srs_id) for t in TABLES for g in project.features(t).geometries]
    finally:
        project.close_reader()


def test_another_system_and_back(driver: Chrome, demo_address: str, demo: Path) -> None:
    before = geometry_bytes(demo)
    driver.get(f"{demo_address}{PROJECT}/ground")
    until(driver, lambda d: "Compare systems" in text_of(d, "#ground-facts"))
    find(driver, f'a[href="{PROJECT}/systems"]').click()
    until(driver, lambda d: d.find_elements("css selector", ".system-card"))
    find(driver, "#system-search").send_keys("lambert 2016")
    until(driver, lambda d: "EPSG:8088" in text_of(d, "#systems-found"))
    find(driver, ".system-pick").click()
    until(driver, lambda d: "ISN2016 to WGS 84" in text_of(d, "#system-report"))
    find(driver, "#system-report .main-button").click()
    until(driver, lambda d: "EPSG:8088" in text_of(d, "#ground-facts"))
    until(driver, lambda d: d.find_elements("css selector", "#map[data-painted]"))
    assert geometry_bytes(demo) != before
    hand = MapHand(driver, 0, 0, 25_000)
    revision = hand.revision()
    hand.chain().key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    # The page comes back by itself, in the old system.
    until(driver, lambda d: "EPSG:32628" in text_of(d, "#ground-facts"))
    until(driver, lambda d: text_of(d, "#save-state").endswith(f"rev {revision + 1}"))
    assert geometry_bytes(demo) == before

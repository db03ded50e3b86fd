"""The net beside the map: a pole under the pointer lights its station, and a station its pole."""

from __future__ import annotations

import json

import pytest
from selenium.webdriver import ActionChains, Chrome, Keys

from tests.browser.hands import MapHand, find, heard, text_of, until
from tests.browser.test_tools import stand

pytestmark = pytest.mark.browser


def stations(driver: Chrome) -> list[list[float]]:
    rows = json.loads(find(driver, "#net-picture").get_dom_attribute("data-stations") or "[]")
    return [[number, x, y, px / 100, py / 100] for number, x, y, px, py in rows]


def to_pole(driver: Chrome, station: list[float]) -> None:
    """The pointer over the picture, where a pole lies."""
    left, top, per_mm = driver.execute_script(
        "const p = document.getElementById('net-picture'), b = p.getBoundingClientRect();"
        "return [b.left, b.top, b.width / p.viewBox.baseVal.width]"
    )
    chain = ActionChains(driver)
    chain.w3c_actions.pointer_action.move_to_location(
        round(left + station[3] * per_mm), round(top + station[4] * per_mm)
    )
    chain.perform()
    heard(driver)


def lit(driver: Chrome) -> tuple[float, float] | None:
    """Where the ring on the picture stands."""
    mark = find(driver, "#net-lit")
    if mark.get_dom_attribute("visibility") == "hidden":
        return None
    return float(mark.get_dom_attribute("cx") or 0), float(mark.get_dom_attribute("cy") or 0)


def test_poles_and_stations_light_each_other(driver: Chrome, demo_address: str) -> None:
    hand: MapHand = stand(driver, demo_address, denominator=25_000)
    driver.execute_script("document.getElementById('map-field').focus()")
    hand.keys("q")
    until(driver, lambda d: len(d.find_elements("css selector", "#net-picture")) == 1)
    heard(driver)
    rows = stations(driver)
    assert text_of(driver, ".net-count").strip() == f"{len(rows)} readings"
    # A pole that lies apart from the others, of a station in sight.
    apart = max(
        (row for row in rows if abs(row[1] - hand.x) < 1200 and abs(row[2] - hand.y) < 1500),
        key=lambda row: min(abs(row[3] - o[3]) + abs(row[4] - o[4]) for o in rows if o is not row),
    )
    to_pole(driver, apart)
    assert lit(driver) == (apart[3], apart[4])
    # A click selects it, which leaves the net as it is.
    ActionChains(driver).click().perform()
    until(driver, lambda d: f"bedding {apart[0]:.0f}" in text_of(d, "#slip .tray-head").lower())
    hand.keys(Keys.ESCAPE)

    # And the other way round: over its station on the map, its pole is lit; over empty ground, none is.
    hand.move(apart[1], apart[2])
    assert lit(driver) == (apart[3], apart[4])
    hand.move(apart[1] + 60, apart[2] - 290)
    before = lit(driver)
    assert before != (apart[3], apart[4])

    # What is selected alone, and live: a reading that goes is gone from the net.
    hand.choose("#net-where", "view")
    heard(driver)
    assert 0 < len(stations(driver)) < len(rows)
    hand.choose("#net-where", "")
    until(driver, lambda d: len(stations(d)) == len(rows))
    to_pole(driver, apart)
    ActionChains(driver).click().perform()
    until(driver, lambda d: f"bedding {apart[0]:.0f}" in text_of(d, "#slip .tray-head").lower())
    driver.execute_script("document.getElementById('map-field').focus()")
    hand.keys(Keys.DELETE)
    until(driver, lambda d: len(stations(d)) == len(rows) - 1)
    find(driver, "#close-net").click()
    assert not find(driver, "#net").is_displayed()

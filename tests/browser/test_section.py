"""The section under the map: the pointer on it lights its place on the map, and an edit of the map moves it."""

from __future__ import annotations

import json
from typing import Any

import pytest
from selenium.webdriver import ActionChains, Chrome, Keys
from selenium.webdriver.support.ui import Select

from tests.browser.hands import MapHand, find, heard, text_of, until
from tests.browser.test_tools import stand

pytestmark = pytest.mark.browser


def opened(driver: Chrome, address: str) -> MapHand:
    hand = stand(driver, address, 512_900.0, 6_802_650.0, 25_000)
    driver.execute_script("document.getElementById('map-field').focus()")
    hand.keys("z")
    until(driver, lambda d: d.find_elements("css selector", "#section-picture"))
    return hand


def frame(driver: Chrome) -> dict[str, Any]:
    return dict(json.loads(find(driver, "#section-picture").get_dom_attribute("data-measures") or "{}"))


def label(driver: Chrome) -> str:
    return find(driver, "#section-picture").get_dom_attribute("aria-label") or ""


def to_distance(driver: Chrome, along: float, up: float) -> None:
    """The pointer to a place of the section, in metres."""
    told = frame(driver)
    left, top, per_mm = driver.execute_script(
        "const p = document.getElementById('section-picture'), b = p.getBoundingClientRect();"
        "return [b.left, b.top, b.width / p.viewBox.baseVal.width]"
    )
    x, y = told["x"] + along * told["along"], told["y"] - up * told["up"]
    chain = ActionChains(driver)
    chain.w3c_actions.pointer_action.move_to_location(round(left + x * per_mm), round(top + y * per_mm))
    chain.perform()
    heard(driver)


def test_the_pointer_reads_the_section_and_is_seen_on_the_map(driver: Chrome, demo_address: str) -> None:
    hand = opened(driver, demo_address)
    to_distance(driver, 2000.0, -100.0)
    words = text_of(driver, "#section-words").replace("\u2009", "")
    assert abs(float(words.partition("height −")[2].split(" m")[0]) - 100) < 20
    assert abs(float(words.split(" m along")[0]) - 2000) < 20
    assert "depth" in words
    assert find(driver, "#section-pointer").get_dom_attribute("visibility") == "visible"
    # From the map: over the middle of the section line.
    told = frame(driver)
    (x0, y0), (x1, y1) = told["places"]
    hand.move((x0 + x1) / 2, (y0 + y1) / 2)
    until(
        driver,
        lambda d: (
            abs(float(text_of(d, "#section-words").replace("\u2009", "").split(" m along")[0]) - told["length"] / 2)
            < 40
        ),
    )
    # Another section, and back to the map.
    Select(find(driver, "#section-line")).select_by_visible_text("B–B′")
    until(driver, lambda d: "Section B–B′" in label(d))
    find(driver, "#close-section").click()
    until(driver, lambda d: not find(d, "#section").is_displayed())


def test_an_exaggeration_is_kept_and_a_contact_that_is_drawn_is_crossed_and_undone(
    driver: Chrome, demo_address: str
) -> None:
    hand = opened(driver, demo_address)
    field = find(driver, "#section-exaggeration")
    field.send_keys(Keys.CONTROL, "a", Keys.NULL, "2", Keys.TAB)
    until(driver, lambda d: frame(d)["up"] == pytest.approx(2 * frame(d)["along"]))
    count = len(frame(driver)["crossings"])
    revision = hand.revision()
    driver.execute_script("document.getElementById('map-field').focus()")
    hand.pen("1")
    for place in ((512_480.0, 6_802_960.0), (512_700.0, 6_803_080.0)):
        hand.click(*place)
    hand.keys(Keys.ENTER)
    hand.kept(revision + 1)
    until(driver, lambda d: len(frame(d)["crossings"]) == count + 1)
    hand.keys(Keys.ESCAPE)
    hand.chain().key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    hand.kept(revision + 2)
    until(driver, lambda d: len(frame(d)["crossings"]) == count)
    heard(driver)

"""Labels moved by hand in a new project: they stay through edits and reloads, and are given back."""

from __future__ import annotations

import html
import json
import re
import urllib.request
from pathlib import Path
from typing import Any

import pytest
from selenium.webdriver import ActionChains, Chrome, Keys

from tests.browser.hands import PX_PER_MM, MapHand, find, heard, text_of, typed, until, value_of
from tests.browser.test_slice import MIDDLE, SOUTH, WEST, add_unit

pytestmark = pytest.mark.browser
CORNERS = ((1000, 1000), (3600, 1000), (3600, 2600), (1000, 2600))


def places(address: str) -> list[dict[str, Any]]:
    with urllib.request.urlopen(f"{address}/p/outer-stills/symbols/labels/places") as answer:
        found: list[dict[str, Any]] = json.load(answer)
    return found


def label(address: str, table: str) -> dict[str, Any]:
    (found,) = (one for one in places(address) if one["key"][0] == table and one["key"][2] == 0)
    return found


def open_bench(driver: Chrome, address: str) -> MapHand:
    driver.get(f"{address}/p/outer-stills/symbols/labels")
    until(driver, lambda d: find(d, "#map").get_dom_attribute("data-places"))
    return MapHand(driver, *MIDDLE, 25_000)


def followed(driver: Chrome, address: str, revision: int) -> None:
    """Wait until the labels of a revision are there."""
    until(driver, lambda d: int(find(d, "#map").get_dom_attribute("data-labelled") or -1) >= revision)
    heard(driver)


def revision_of(driver: Chrome) -> int:
    return MapHand(driver, *MIDDLE, 25_000).revision()


def drawn(driver: Chrome, address: str) -> int:
    """A new project with an area and an attitude on it; the revision before these two."""
    add_unit(driver, address)
    driver.get(f"{address}/p/outer-stills/compile")
    hand = MapHand(driver, *MIDDLE, 25_000).wait()
    hand.pen("Alt+1")
    hand.choose("#current-unit", "Jh")
    find(driver, "#map-field").click()
    hand.keys(Keys.ESCAPE)
    revision = hand.revision()
    for x, y in (*CORNERS, CORNERS[0]):
        hand.click(WEST + x, SOUTH + y)
    hand.kept(revision + 1)
    hand.pen("Shift+1")
    hand.click(WEST + 2000, SOUTH + 1500)
    until(driver, lambda d: find(d, "#reading").is_enabled())
    hand.keys("350/60", Keys.ENTER)
    hand.kept(revision + 2)
    return revision


def drag(hand: MapHand, start: tuple[float, float], end: tuple[float, float]) -> None:
    field = find(hand.driver, "#map-field")
    (ax, ay), (bx, by) = hand.offset(*start), hand.offset(*end)
    chain = hand.chain().move_to_element_with_offset(field, ax, ay).click_and_hold()
    chain.move_to_element_with_offset(field, (ax + bx) // 2, (ay + by) // 2)
    chain.move_to_element_with_offset(field, bx, by).release().perform()


def test_a_label_that_was_moved_is_found_where_it_was_put(driver: Chrome, outer_stills: tuple[str, Path]) -> None:
    address, _ = outer_stills
    revision = drawn(driver, address)

    hand = open_bench(driver, address)
    before = label(address, "areas")
    start = (before["at"][0], before["at"][1])
    drag(hand, start, (WEST + 3200, SOUTH + 2300))
    until(driver, lambda d: "Moved by hand" in text_of(d, "#label-slip"))
    followed(driver, address, revision + 3)
    put = label(address, "areas")
    assert put["byHand"]
    assert put["at"] == pytest.approx([WEST + 3200, SOUTH + 2300], abs=8)
    # The figure of the dip, by keys alone: two millimetres and a half to the left.
    find(driver, "#map-field").click()
    was = label(address, "points")
    hand.keys("n")
    until(driver, lambda d: "Bedding" in text_of(d, "#label-slip") or "Unit area" in text_of(d, "#label-slip"))
    if "Bedding" not in text_of(driver, "#label-slip"):
        hand.keys("n")
    until(driver, lambda d: "Bedding" in text_of(d, "#label-slip"))
    hand.chain().key_down(Keys.SHIFT).send_keys(Keys.ARROW_LEFT).key_up(Keys.SHIFT).perform()
    followed(driver, address, revision + 4)
    hand.keys(Keys.ARROW_LEFT)
    followed(driver, address, revision + 5)
    figure = label(address, "points")
    assert figure["offset"][0] - was["offset"][0] == pytest.approx(-2.5, abs=1 / PX_PER_MM)

    # The area is edited: a corner goes elsewhere. Then all is read anew.
    driver.get(f"{address}/p/outer-stills/compile")
    hand = MapHand(driver, *MIDDLE, 25_000).wait()
    hand.click(WEST + 1400, SOUTH + 1300)
    until(driver, lambda d: "Unit area" in text_of(d, "#slip") or "Jh" in text_of(d, "#slip"))
    revision = hand.revision()
    drag(hand, (WEST + 1000, SOUTH + 1000), (WEST + 700, SOUTH + 700))
    hand.kept(revision + 1)
    driver.refresh()
    hand.wait()
    hand = open_bench(driver, address)
    assert label(address, "areas")["at"] == pytest.approx(put["at"], abs=1e-6)
    assert label(address, "points")["offset"] == pytest.approx(figure["offset"], abs=1e-3)

    # Given back, it stands where it stood by itself; undo puts it under the hand again.
    hand.click(*put["at"])
    until(driver, lambda d: find(d, "#give-back").is_enabled())
    revision = revision_of(driver)
    find(driver, "#give-back").click()
    followed(driver, address, revision + 1)
    assert not label(address, "areas")["byHand"]
    find(driver, "#undo").click()
    followed(driver, address, revision + 2)
    assert label(address, "areas")["at"] == pytest.approx(put["at"], abs=1e-6)


def test_labels_are_hidden_shown_turned_and_written_by_attributes(
    driver: Chrome, outer_stills: tuple[str, Path]
) -> None:
    address, _ = outer_stills
    drawn(driver, address)
    hand = open_bench(driver, address)
    hand.click(*label(address, "areas")["at"])
    until(driver, lambda d: d.find_elements("css selector", "#hide-label"))
    revision = revision_of(driver)
    # Turned by a typed angle; what is none is refused where it was typed.
    find(driver, "#label-angle").send_keys("steep", Keys.ENTER)
    until(driver, lambda d: "steep" in text_of(d, "#label-form"))
    find(driver, "#label-angle").clear()
    find(driver, "#label-angle").send_keys("30", Keys.ENTER)
    followed(driver, address, revision + 1)
    assert label(address, "areas")["angle"] == 30
    until(driver, lambda d: value_of(d, "#label-angle") == "30")
    find(driver, "#hide-label").click()
    followed(driver, address, revision + 2)
    assert {one["key"][0] for one in places(address)} == {"points"}
    until(driver, lambda d: "Hidden" in text_of(d, "#label-lists"))
    find(driver, "#label-lists .label-list button").click()
    followed(driver, address, revision + 3)
    assert label(address, "areas")["angle"] == 30

    # Without a figure it is turned by no hand, and placed automatically as to that.
    typed(driver, "#label-angle", Keys.BACKSPACE)
    find(driver, "#label-angle").send_keys(Keys.ENTER)
    followed(driver, address, revision + 4)
    assert label(address, "areas")["angle"] == 0
    revision += 1

    # The area's code is followed by the name of its unit; an attribute that there is not is refused.
    find(driver, "#label-kinds summary").click()
    field = find(driver, "#rule-areas-unit_area")
    field.send_keys(" {nothing}", Keys.ENTER)
    until(driver, lambda d: "no attribute" in text_of(d, "#label-kinds"))
    field = find(driver, "#rule-areas-unit_area")
    field.clear()
    field.send_keys("{label} ")
    find(driver, '#label-kinds [data-insert="unit"]').click()
    assert value_of(driver, "#rule-areas-unit_area") == "{label} {unit}"
    find(driver, "#rule-areas-unit_area").send_keys(Keys.ENTER)
    followed(driver, address, revision + 4)
    assert label(address, "areas")["text"] == "Jh Harrack Sandstone"
    until(driver, lambda d: "As the symbol has it" in text_of(d, "#label-kinds"))


def test_a_move_on_a_sheet_belongs_to_its_panel(driver: Chrome, demo_address: str, demo: Path) -> None:
    driver.get(f"{demo_address}/p/{demo.stem}/sheet")
    until(driver, lambda d: find(d, "#desk").get_dom_attribute("data-revision"))
    (panel,) = (row for row in driver.find_elements("css selector", ".placed-part") if "Main map" in row.text)
    number = panel.get_dom_attribute("data-part")
    panel.click()
    until(driver, lambda d: d.find_elements("css selector", "#panel-labels"))
    find(driver, "#panel-labels").click()
    until(driver, lambda d: len(d.find_elements("css selector", ".label-box")) > 100)

    def on_panel() -> dict[str, Any]:
        with urllib.request.urlopen(f"{demo_address}/p/{demo.stem}/parts/{number}/labels") as answer:
            kept = re.search('data-labels="([^"]*)"', answer.read().decode())
        assert kept is not None
        return next(one for one in json.loads(html.unescape(kept[1])) if one["key"] == ["areas", 1, 0])

    def on_map() -> dict[str, Any]:
        with urllib.request.urlopen(f"{demo_address}/p/{demo.stem}/symbols/labels/places") as answer:
            return next(label for label in json.load(answer) if label["key"] == ["areas", 1, 0])

    page, ground = on_panel(), on_map()
    box = find(driver, '.label-box[data-label="0"]')
    revision = revision_of(driver)
    ActionChains(driver, duration=60).move_to_element(box).click_and_hold().move_by_offset(12, 6).move_by_offset(
        12, 6
    ).release().perform()
    until(driver, lambda d: "Moved by hand" in text_of(d, "#label-slip"))
    until(driver, lambda d: revision_of(d) == revision + 1)
    moved = on_panel()
    assert moved["byHand"]
    k = driver.execute_script("return document.querySelector('#page > g').getCTM().a")
    middles = [one["at"][i] + one["offset"][i] for one in (page, moved) for i in (0, 1)]
    assert middles[2] - middles[0] == pytest.approx(24 / k, abs=1.5 / k)
    assert middles[3] - middles[1] == pytest.approx(12 / k, abs=1.5 / k)
    # The map in Symbols, and every other panel, have theirs where it was.
    assert on_map()["at"] == ground["at"]
    # Hidden on the panel, it is listed there and shown again; the map has it all the while.
    heard(driver)
    find(driver, "#hide-label").click()
    until(driver, lambda d: "Hidden" in text_of(d, "#label-lists"))
    heard(driver)
    assert on_map()["at"] == ground["at"]
    find(driver, "#label-lists .label-list button").click()
    until(
        driver,
        lambda d: d.find_elements("css selector", "#panel-places") and "Hidden" not in text_of(d, "#label-lists"),
    )
    heard(driver)
    assert on_panel()["byHand"]
    ActionChains(driver).send_keys(Keys.ESCAPE, Keys.ESCAPE).perform()
    until(driver, lambda d: not d.find_elements("css selector", ".label-box"))
    for step in range(3):
        find(driver, "#undo").click()
        until(driver, lambda d, step=step: revision_of(d) == revision + 4 + step)  # type: ignore[misc]
    assert not on_panel()["byHand"]

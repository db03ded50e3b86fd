"""Tools of Compile with real pointer and keys: boxes, drafts, two windows, custom kinds, the notebook, help."""

from __future__ import annotations

import time
from pathlib import Path

import numpy as np
import pytest
from selenium.webdriver import Chrome, Keys

from orvik.store.read_project import ReadProject
from tests.browser.chromium import browser
from tests.browser.hands import PX_PER_MM, MapHand, find, text_of, until

pytestmark = pytest.mark.browser

PROJECT = "isle-of-quennet"
MIDDLE = (514_700.0, 6_802_600.0)


def stand(driver: Chrome, address: str, x: float = MIDDLE[0], y: float = MIDDLE[1], denominator: int = 6250) -> MapHand:
    driver.get(f"{address}/p/{PROJECT}/compile")
    view = f'{{"x": {x}, "y": {y}, "denominator": {denominator}}}'
    driver.execute_script(f"sessionStorage.setItem('orvik-view-compile-32628-{PROJECT}', arguments[0])", view)
    driver.get(f"{address}/p/{PROJECT}/compile")
    return MapHand(driver, x, y, denominator).wait()


def contact(hand: MapHand, *places: tuple[float, float]) -> None:
    hand.pen("1")
    for place in places:
        hand.click(*place)


def test_a_half_drawn_line_survives_a_reload(driver: Chrome, corner_address: str, corner: Path) -> None:
    hand = stand(driver, corner_address)
    contact(hand, (514_500, 6_802_500), (514_600, 6_802_560), (514_700, 6_802_520))
    before = hand.revision()
    driver.refresh()
    hand.wait()
    until(driver, lambda d: text_of(d, '[data-fact="count"]') == "3")
    assert find(driver, '.pen[data-key="1"]').get_dom_attribute("aria-pressed") == "true"
    hand.click(514_800, 6_802_600)
    hand.keys(Keys.ENTER)
    hand.kept(before + 1)
    project = ReadProject.open(corner)
    newest = max(project.features("lines").ids.tolist())
    assert len(project.feature("lines", newest).geometry.coords) == 4
    project.close()


def test_two_windows_see_each_other_within_a_second(driver: Chrome, corner_address: str) -> None:
    one = stand(driver, corner_address)
    with browser() as second:
        two = stand(second, corner_address)
        contact(one, (514_500, 6_802_500), (514_640, 6_802_580))
        before = one.revision()
        one.keys(Keys.ENTER)
        one.kept(before + 1)
        start = time.perf_counter()
        two.kept(before + 1)
        assert time.perf_counter() - start < 1
        # Both select it; the first deletes it, and the second lets go of it by itself.
        one.keys(Keys.ESCAPE)
        for hand in (one, two):
            hand.click(514_570, 6_802_540)
            until(hand.driver, lambda d: "contact" in text_of(d, "#slip .tray-head"))
        one.keys(Keys.DELETE)
        one.kept(before + 2)
        until(second, lambda d: "Nothing is selected" in text_of(d, "#slip"))
        two.chain().key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
        one.kept(before + 3)


def test_a_stale_change_is_refused_in_words_and_nothing_is_lost(driver: Chrome, corner_address: str) -> None:
    one = stand(driver, corner_address)
    contact(one, (514_500, 6_802_500), (514_640, 6_802_580))
    before = one.revision()
    one.keys(Keys.ENTER)
    one.kept(before + 1)
    one.keys(Keys.ESCAPE)
    one.click(514_570, 6_802_540)
    until(driver, lambda d: "contact" in text_of(d, "#slip .tray-head"))
    with browser() as second:
        two = stand(second, corner_address)
        two.click(514_570, 6_802_540)
        until(second, lambda d: "contact" in text_of(d, "#slip .tray-head"))
        # In the first window a note is being typed while the second changes the certainty.
        note = find(driver, "#note")
        note.send_keys("seen in the")
        two.choose("#certainty", "inferred")
        two.kept(before + 2)
        one.kept(before + 2)
        note.send_keys(" bank", Keys.TAB)
        until(driver, lambda d: "changed in another window" in text_of(d, "#feature-form .refusal"))
        assert find(driver, "#note").get_property("value") == "seen in the bank"
        assert one.revision() == before + 2


def test_a_box_takes_what_lies_in_it_and_the_slip_changes_all(driver: Chrome, corner_address: str) -> None:
    hand = stand(driver, corner_address)
    contact(hand, (514_450, 6_802_480), (514_550, 6_802_530))
    hand.keys(Keys.ENTER)
    for place in ((514_450, 6_802_560), (514_550, 6_802_600)):
        hand.click(*place)
    before = hand.revision()
    hand.keys(Keys.ENTER)
    hand.kept(before + 1)
    hand.keys(Keys.ESCAPE)
    field = find(driver, "#map-field")
    chain = hand.chain().move_to_element_with_offset(field, *hand.offset(514_420, 6_802_630)).click_and_hold()
    chain.move_to_element_with_offset(field, *hand.offset(514_500, 6_802_500))
    chain.move_to_element_with_offset(field, *hand.offset(514_580, 6_802_450)).release().perform()
    until(driver, lambda d: "2 selected" in text_of(d, "#slip"))
    hand.choose("#certainty", "concealed")
    hand.kept(before + 2)
    until(driver, lambda d: "Contact, concealed" in text_of(d, ".selected-list"))
    field.click()
    until(driver, lambda d: "selected" not in text_of(d, "#slip .tray-head"))


def test_one_vertex_is_chosen_moved_and_removed_by_key(driver: Chrome, corner_address: str, corner: Path) -> None:
    hand = stand(driver, corner_address)
    contact(hand, (514_450, 6_802_480), (514_500, 6_802_530), (514_560, 6_802_500), (514_610, 6_802_540))
    before = hand.revision()
    hand.keys(Keys.ENTER)
    hand.kept(before + 1)
    hand.keys(Keys.ESCAPE)
    hand.click(514_475, 6_802_505)
    until(driver, lambda d: "Contact" in text_of(d, "#slip"))

    def newest() -> list[tuple[float, float]]:
        project = ReadProject.open(corner)
        lines = project.features("lines")
        places = [tuple(xy) for xy in np.asarray(lines.geometries[-1].coords).tolist()]
        project.close()
        return places

    drawn = newest()
    assert len(drawn) == 4
    # The first vertex, the second, and six dots to the east: 10 pixels each.
    hand.keys("v", "v")
    hand.keys(*[Keys.ARROW_RIGHT] * 6)
    hand.keys(Keys.ENTER)
    hand.kept(before + 2)
    moved = newest()
    assert [a == b for a, b in zip(drawn, moved, strict=True)] == [True, False, True, True]
    assert moved[1][0] - drawn[1][0] == pytest.approx(60 / (1000 * PX_PER_MM / 6250), abs=2.0)
    assert abs(moved[1][1] - drawn[1][1]) < 2.0
    # Back over the first one to the last, which is not removed: the one before it is.
    hand.keys("v", "v", "v")
    hand.keys(Keys.DELETE)
    hand.kept(before + 3)
    assert newest() == [moved[0], moved[1], moved[3]]


def test_a_category_is_logged_by_key(driver: Chrome, corner_address: str, corner: Path) -> None:
    hand = stand(driver, corner_address)
    before = hand.revision()
    find(driver, '.pen[data-pen="gauged_spring-certain"]').click()
    until(driver, lambda d: d.find_elements("css selector", "[data-choice]"))
    hand.click(514_500, 6_802_500)
    until(driver, lambda d: "must be filled in" in text_of(d, "#map-notice"))
    hand.keys("t")
    until(driver, lambda d: find(d, '[data-choice="steady"]').get_dom_attribute("aria-pressed") == "true")
    hand.click(514_500, 6_802_500)
    hand.kept(before + 1)
    hand.keys("d")
    hand.click(514_560, 6_802_500)
    hand.kept(before + 2)
    project = ReadProject.open(corner)
    points = project.features("points")
    assert [dict(f)["Flow"] for f in points.columns["fields"][-2:]] == ["steady", "dry"]
    project.close()


def test_stations_are_ticked_off_one_after_the_other(driver: Chrome, demo_address: str) -> None:
    hand = stand(driver, demo_address)
    hand.keys("k")
    until(driver, lambda d: text_of(d, "#notebook-count .count-words") == "8 of 12")
    first = next(r for r in driver.find_elements("css selector", ".station-row:not(.done) .station-go"))
    first.click()
    until(driver, lambda d: find(d, "#reading").get_property("value") == "243/41")
    until(driver, lambda d: text_of(d, "#reading-words") == "strikes 243, dips 41 to the northwest")
    hand.keys(Keys.TAB)
    until(driver, lambda d: text_of(d, "#notebook-count .count-words") == "9 of 12")
    until(driver, lambda d: find(d, "#reading").get_property("value") == "238/32")
    hand.keys(Keys.TAB)
    # The third is a joint: its pen is taken with it.
    until(driver, lambda d: find(d, '.pen[data-pen="joint-certain"]').get_dom_attribute("aria-pressed") == "true")
    until(driver, lambda d: find(d, "#reading").get_property("value") == "121/88")
    hand.keys(Keys.TAB)
    until(driver, lambda d: text_of(d, "#notebook-count .count-words") == "11 of 12")


def test_every_pen_and_tool_has_its_key_in_the_help(driver: Chrome, demo_address: str) -> None:
    hand = stand(driver, demo_address)
    keys = set()

    def note() -> None:
        keys.update(
            b.get_dom_attribute("data-tool-key") for b in driver.find_elements("css selector", "[data-tool-key]")
        )

    note()
    for pen in ("1", "Alt+1", "Shift+1"):
        hand.pen(pen)
        note()
    hand.keys(Keys.ESCAPE)
    for x, y, name in ((514_412.9, 6_802_476.1, "contact"), (514_600, 6_802_400, "unit area")):
        hand.click(x, y)
        until(driver, lambda d, n=name: n in text_of(d, "#slip .tray-head"))
        note()
    find(driver, "#map-field").send_keys("?")
    until(driver, lambda d: find(d, "#help-dialog").is_displayed())
    told = {k.text for k in driver.find_elements("css selector", "#help-dialog kbd")}
    assert keys - told == set()
    find(driver, "#help-dialog form button").click()

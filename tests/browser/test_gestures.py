"""From an empty page to the demo's finished sheet, in fewer than 30 gestures: clicks, drags and typed fields."""

from __future__ import annotations

from pathlib import Path

import pytest
from selenium.webdriver import ActionChains, Chrome, Keys

from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.core.sheet.templates.survey import NOTES
from orvik.demo.sheets import PLACES, QUADRANGLE, SEA
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from orvik.usecases.sheet.sheets import NewSheet, add_sheet
from tests.browser.hands import find, heard, text_of, until

pytestmark = pytest.mark.browser


class Gestures:
    """A hand that counts what it does."""

    def __init__(self, driver: Chrome) -> None:
        self.driver = driver
        self.count = 0

    def click(self, css: str, words: str = "") -> None:
        self.count += 1

        def done(driver: Chrome) -> bool:
            found = [e for e in driver.find_elements("css selector", css) if e.text.startswith(words)]
            if found:
                driver.execute_script("arguments[0].scrollIntoView({block: 'nearest'})", found[0])
                found[0].click()
            return bool(found)

        until(self.driver, done)
        heard(self.driver)

    def type(self, css: str, text: str) -> None:
        self.count += 1
        field = find(self.driver, css)
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(text, Keys.TAB)
        heard(self.driver)

    def set_to(self, css: str, value: str) -> None:
        """Colours are chosen in a window of the browser's own, which no test can use, and sliders move by pixels."""
        self.count += 1
        self.driver.execute_script(
            "const field = document.querySelector(arguments[0]); field.value = arguments[1];"
            "field.dispatchEvent(new Event('change', {bubbles: true}))",
            css,
            value,
        )
        heard(self.driver)

    def drag(self, number: str, x: float, y: float) -> None:
        """A part by its middle, its upper left corner to a place on the page; what helps to align is off."""
        self.count += 1
        place = find(self.driver, "#page > g").get_dom_attribute("transform")
        left, top, k = (float(v) for v in place.replace("translate(", "").replace(") scale(", " ").rstrip(")").split())
        hit = find(self.driver, f'[data-hit="{number}"]')
        box = hit.rect
        field = find(self.driver, "#desk-field").rect
        dx = round(field["x"] + left + x * k - box["x"])
        dy = round(field["y"] + top + y * k - box["y"])
        chain = ActionChains(self.driver).key_down(Keys.ALT).move_to_element(hit).click_and_hold()
        chain.move_by_offset(dx // 2, dy // 2).move_by_offset(dx - dx // 2, dy - dy // 2).release()
        chain.key_up(Keys.ALT).perform()
        heard(self.driver)


def sheet_and_parts(path: Path, number: int) -> tuple[Sheet, list[Part]]:
    project = ReadProject.open(path)
    try:
        return project.sheet(number), project.parts(number)
    finally:
        project.close()


def test_the_demo_sheet_takes_fewer_than_30_gestures(driver: Chrome, demo_address: str, demo: Path) -> None:
    wanted = sheet_and_parts(demo, 1)[1]
    project = Project.open(demo)
    size = f"{QUADRANGLE[0]:g}x{QUADRANGLE[1]:g}"
    number = add_sheet(project, NewSheet("Again", size, True, "empty"))[0].changes[0].id
    project.close()
    driver.get(f"{demo_address}/p/{demo.stem}/sheet?sheet={number}")
    until(driver, lambda d: d.find_elements("css selector", "#lay-template"))
    hand = Gestures(driver)
    hand.set_to("#lay-template", "survey")
    hand.click(".lay-out .main-button")
    until(driver, lambda d: "Essentials 11 of 11" in text_of(d, "#essentials-strip"))
    # Names are larger than the sheet's notes.
    hand.type('[name="text_size"]', "3.4")
    hand.click(".placed-part", "Main map")
    until(driver, lambda d: text_of(d, "#part-slip h2") == "Main map")
    hand.set_to('[name="opacity"][aria-label*="Relief"]', "30")
    hand.set_to("#part-ground_colour", SEA)
    hand.click(".placed-part", "Notes")
    until(driver, lambda d: text_of(d, "#part-slip h2") == "Notes")
    notes = next(part for part in wanted if part.label == "Notes")
    hand.type("#part-text", NOTES)
    hand.click('.part-kind[data-kind="identifier"]')
    until(driver, lambda d: text_of(d, "#part-slip h2") == "Bar code")
    code = next(part for part in wanted if part.kind == "identifier")
    hand.type("#part-width", f"{code.width:g}")
    hand.type("#part-height", f"{code.height:g}")
    mark = find(driver, "#part-form").get_dom_attribute("data-part")
    hand.drag(mark, code.x, code.y)
    until(driver, lambda _: near(demo, number, mark, code))
    places = {part.settings.summary: part for part in wanted if part.kind == "text"}
    for name, _, _, _ in PLACES:
        hand.click('.part-kind[data-kind="text"]')
        until(driver, lambda d: d.find_elements("css selector", "#part-text") and value(d) == "Text")
        hand.type("#part-text", name)
        part = find(driver, "#part-form").get_dom_attribute("data-part")
        hand.drag(part, places[name].x, places[name].y)
        until(driver, lambda _, p=part, n=name: near(demo, number, p, places[n]))
    assert hand.count < 30
    _, made = sheet_and_parts(demo, number)
    assert sorted(part.kind for part in made) == sorted(part.kind for part in wanted)
    panel, old = (next(p.settings for p in parts if isinstance(p.settings, MapPanel)) for parts in (made, wanted))
    assert (panel.scale, panel.centre, panel.underlays, panel.ground_colour) == (
        old.scale,
        old.centre,
        old.underlays,
        old.ground_colour,
    )
    for kind in {part.kind for part in wanted} - {"text", "identifier"}:
        one, other = (next(p for p in parts if p.kind == kind) for parts in (made, wanted))
        assert (one.x, one.y, one.width, one.height) == pytest.approx((other.x, other.y, other.width, other.height))
    assert next(p.settings.summary for p in made if p.label == "Notes") == notes.settings.summary
    print(f"{hand.count} gestures")


def value(driver: Chrome) -> str:
    return str(find(driver, "#part-text").get_property("value"))


def near(path: Path, sheet: int, number: str, wanted: Part) -> bool:
    part = next(p for p in sheet_and_parts(path, sheet)[1] if p.id == int(number))
    return abs(part.x - wanted.x) < 1.5 and abs(part.y - wanted.y) < 1.5

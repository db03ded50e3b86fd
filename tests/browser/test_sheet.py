"""The sheet with real pointer and key events: aiming, resizing, guides, several parts selected."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from selenium.webdriver import ActionChains, Chrome, Keys
from selenium.webdriver.common.actions.wheel_input import ScrollOrigin

from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.store.read_project import ReadProject
from tests.browser.hands import find, heard, text_of, typed, until

pytestmark = pytest.mark.browser


def sheet_of(path: Path, number: int = 1) -> tuple[Sheet, list[Part]]:
    project = ReadProject.open(path)
    try:
        return project.sheet(number), project.parts(number)
    finally:
        project.close()


def panel_of(path: Path) -> tuple[Part, MapPanel]:
    part = next(p for p in sheet_of(path)[1] if isinstance(p.settings, MapPanel))
    assert isinstance(part.settings, MapPanel)
    return part, part.settings


def shown(driver: Chrome, address: str, stem: str) -> None:
    driver.get(f"{address}/p/{stem}/sheet")
    until(driver, lambda d: find(d, "#desk").get_dom_attribute("data-revision"))
    until(driver, lambda d: "Page" in text_of(d, "#part-slip h2"))


def take(driver: Chrome, label: str) -> None:
    rows = driver.find_elements("css selector", ".placed-part")
    next(row for row in rows if row.text.startswith(label)).click()
    until(driver, lambda d: text_of(d, "#part-slip h2") == label)


def turn_wheel(driver: Chrome, down: int, at: tuple[int, int] = (0, 0)) -> None:
    """The wheel over the field, from its middle."""
    origin = ScrollOrigin.from_element(find(driver, "#desk-field"), *at)
    ActionChains(driver).scroll_from_origin(origin, 0, down).perform()


def zoom(driver: Chrome) -> str:
    return text_of(driver, "#zoom")


def in_file(driver: Chrome, what: Callable[[], object], wanted: object) -> None:
    until(driver, lambda _: what() == wanted)


def test_the_wheel_zooms_the_page_and_only_while_aiming_the_map(
    driver: Chrome, corner_address: str, corner: Path
) -> None:
    shown(driver, corner_address, corner.stem)
    before, page_zoom = panel_of(corner)[1], zoom(driver)
    # Without aiming: over the panel, the page is zoomed, and the ground stays as it was.
    turn_wheel(driver, -120, (-60, 0))
    until(driver, lambda d: zoom(d) != page_zoom)
    find(driver, "#zoom-fit").click()
    assert panel_of(corner)[1] == before
    assert zoom(driver) == page_zoom
    take(driver, "Main map")
    find(driver, "#begin-aim").click()
    until(driver, lambda d: d.find_elements("css selector", ".frame.aiming #aim-scale"))
    heard(driver)
    # A state of its own: the rest dims, the rulers and the strip speak of ground.
    assert driver.find_elements("css selector", ".aim-shade")
    assert text_of(driver, "#aim-name") == "Aiming Main map"
    turn_wheel(driver, -120, (-60, 0))
    until(driver, lambda d: text_of(d, ".aim-scale") == "1:24\u2009000")
    assert " E " in text_of(driver, ".aim-place")
    in_file(driver, lambda: panel_of(corner)[1].scale, 24_000)
    turn_wheel(driver, 120, (-60, 0))
    in_file(driver, lambda: panel_of(corner)[1].scale, 25_000)
    turn_wheel(driver, 120, (-60, 0))
    in_file(driver, lambda: panel_of(corner)[1].scale, 50_000)
    assert zoom(driver) == page_zoom
    # With Shift any scale; it is kept when the hand rests.
    ActionChains(driver).key_down(Keys.SHIFT).perform()
    turn_wheel(driver, 40, (-60, 0))
    ActionChains(driver).key_up(Keys.SHIFT).perform()
    until(driver, lambda _: panel_of(corner)[1].scale not in (25_000, 50_000))
    heard(driver)
    # Dragging moves the ground, not the part.
    part, settings = panel_of(corner)
    field = find(driver, "#desk-field")
    ActionChains(driver).move_to_element_with_offset(field, -60, 0).click_and_hold().move_by_offset(
        40, 30
    ).release().perform()
    until(driver, lambda _: panel_of(corner)[1].centre != settings.centre)
    moved_part, moved = panel_of(corner)
    assert (moved_part.x, moved_part.y) == (part.x, part.y)
    assert moved.centre[0] < settings.centre[0]
    assert moved.centre[1] > settings.centre[1]
    heard(driver)
    # Keys do the same; Escape ends it, and then they move the part again.
    ActionChains(driver).send_keys("+").perform()
    until(driver, lambda _: panel_of(corner)[1].scale < moved.scale)
    ActionChains(driver).send_keys(Keys.ESCAPE).perform()
    until(driver, lambda d: not d.find_elements("css selector", ".frame.aiming"))
    heard(driver)
    last = panel_of(corner)[1]
    field.send_keys(Keys.ARROW_RIGHT)
    until(driver, lambda _: panel_of(corner)[0].x == pytest.approx(part.x + 1))
    assert panel_of(corner)[1].centre == last.centre
    heard(driver)


def test_a_click_outside_ends_aiming_and_typed_figures_aim(driver: Chrome, corner_address: str, corner: Path) -> None:
    shown(driver, corner_address, corner.stem)
    field = find(driver, "#desk-field")
    # By double click on the panel; the view that Compile had is offered only where there is one.
    ActionChains(driver).move_to_element_with_offset(field, -100, 0).double_click().perform()
    until(driver, lambda d: d.find_elements("css selector", ".frame.aiming #aim-scale"))
    heard(driver)
    assert not find(driver, "#aim-working").is_displayed()
    typed(driver, "#aim-rotation", "12")
    in_file(driver, lambda: panel_of(corner)[1].rotation, 12.0)
    heard(driver)
    typed(driver, "#aim-scale", "1")
    until(driver, lambda d: "cannot be 1" in text_of(d, "#aim-slip .refusal:not([hidden])"))
    assert panel_of(corner)[1].scale == 25_000
    # One Escape leaves, from within a field, too.
    find(driver, "#aim-scale").send_keys(Keys.ESCAPE)
    until(driver, lambda d: not d.find_elements("css selector", ".frame.aiming"))
    ActionChains(driver).move_to_element_with_offset(field, -100, 0).double_click().perform()
    until(driver, lambda d: d.find_elements("css selector", ".frame.aiming #aim-scale"))
    heard(driver)
    typed(driver, "#aim-scale", "1:20 000")
    in_file(driver, lambda: panel_of(corner)[1].scale, 20_000)
    heard(driver)
    next(b for b in driver.find_elements("css selector", ".aim-target") if "Whole of the island" in b.text).click()
    in_file(driver, lambda: panel_of(corner)[1].scale, 40_000)
    heard(driver)
    ActionChains(driver).move_to_element_with_offset(field, 360, 320).click().perform()
    until(driver, lambda d: not d.find_elements("css selector", ".frame.aiming"))
    heard(driver)
    # Undone as everywhere.
    find(driver, "#undo").click()
    in_file(driver, lambda: panel_of(corner)[1].scale, 20_000)
    heard(driver)


def test_a_panel_is_aimed_at_what_compile_shows_and_has_selected(
    driver: Chrome, corner_address: str, corner: Path
) -> None:
    driver.get(f"{corner_address}/p/{corner.stem}/compile")
    driver.execute_script(
        "const crs = document.querySelector('[data-crs]').dataset.crs;"
        "sessionStorage.setItem(`orvik-view-compile-${crs}-" + corner.stem + "`,"
        "JSON.stringify({x: 512500, y: 6802250, denominator: 12500}));"
        "sessionStorage.setItem('orvik-hand-" + corner.stem + "', JSON.stringify([['areas', 1]]));"
    )
    shown(driver, corner_address, corner.stem)
    take(driver, "Main map")
    find(driver, "#begin-aim").click()
    until(driver, lambda d: find(d, "#aim-working").is_displayed())
    find(driver, "#aim-working").click()
    in_file(driver, lambda: (panel_of(corner)[1].scale, panel_of(corner)[1].centre), (12_500, (512_500.0, 6_802_250.0)))
    heard(driver)
    find(driver, "#aim-hand").click()
    until(driver, lambda _: panel_of(corner)[1].centre != (512_500.0, 6_802_250.0))
    heard(driver)
    find(driver, "#end-aim").click()
    until(driver, lambda d: not d.find_elements("css selector", ".frame.aiming"))


def test_a_panel_that_is_resized_keeps_its_scale(driver: Chrome, corner_address: str, corner: Path) -> None:
    shown(driver, corner_address, corner.stem)
    take(driver, "Main map")
    part, settings = panel_of(corner)
    heard(driver)
    grip = find(driver, ".grip-e")
    ActionChains(driver).move_to_element(grip).click_and_hold().move_by_offset(-60, 0).release().perform()
    until(driver, lambda _: panel_of(corner)[0].width < part.width - 10)
    heard(driver)
    smaller, after = panel_of(corner)
    assert after.scale == settings.scale
    # The ground at its left edge is where it was.
    lost = part.width - smaller.width
    assert after.centre[0] == pytest.approx(settings.centre[0] - lost / 2 * settings.scale / 1000, abs=0.1)
    find(driver, "#part-scale_locked").click()
    until(driver, lambda _: not panel_of(corner)[1].scale_locked)
    heard(driver)
    typed(driver, "#part-width", f"{smaller.width * 2:.2f}")
    until(driver, lambda _: panel_of(corner)[0].width > smaller.width + 10)
    heard(driver)
    assert panel_of(corner)[1].scale == pytest.approx(settings.scale, rel=0.01)


def test_a_guide_is_drawn_out_of_a_ruler_and_draws_parts_to_it(
    driver: Chrome, corner_address: str, corner: Path
) -> None:
    shown(driver, corner_address, corner.stem)
    field = find(driver, "#desk-field")
    ActionChains(driver).move_to_element(find(driver, "#ruler-left")).click_and_hold().move_to_element_with_offset(
        field, 211, 0
    ).release().perform()
    until(driver, lambda _: sheet_of(corner)[0].layout.guides)
    heard(driver)
    ((axis, at),) = sheet_of(corner)[0].layout.guides
    assert axis == "x"
    assert at * 2 == round(at * 2)
    # Typed, it lies exactly there; the part that comes near is drawn to it.
    typed(driver, ".guide-list input", "333.25")
    until(driver, lambda _: sheet_of(corner)[0].layout.guides == (("x", 333.25),))
    heard(driver)
    take(driver, "North arrow")
    number = find(driver, "#part-form").get_dom_attribute("data-part")
    rect = find(driver, f'[data-hit="{number}"]')
    k = float(driver.execute_script("return document.querySelector('[data-hit]').getScreenCTM().a"))
    arrow = next(p for p in sheet_of(corner)[1] if str(p.id) == number)
    ActionChains(driver).move_to_element(rect).click_and_hold().move_by_offset(
        int((333.25 - arrow.x) * k) + 2, 0
    ).move_by_offset(1, 0).release().perform()
    until(driver, lambda _: next(p.x for p in sheet_of(corner)[1] if str(p.id) == number) == pytest.approx(333.25))
    heard(driver)
    find(driver, "#show-page").click()
    until(driver, lambda d: d.find_elements("css selector", ".guide-list button"))
    find(driver, ".guide-list button").click()
    until(driver, lambda _: not sheet_of(corner)[0].layout.guides)
    heard(driver)


def test_several_parts_are_taken_aligned_grouped_copied_and_removed_by_hand_and_key(
    driver: Chrome, corner_address: str, corner: Path
) -> None:
    shown(driver, corner_address, corner.stem)
    rows = [r for r in driver.find_elements("css selector", ".placed-part") if r.text.startswith("Text")]
    rows[0].click()
    until(driver, lambda d: text_of(d, "#part-slip h2") == "Text")
    rows = [r for r in driver.find_elements("css selector", ".placed-part") if r.text.startswith("Text")]
    ActionChains(driver).key_down(Keys.SHIFT).click(rows[1]).key_up(Keys.SHIFT).perform()
    until(driver, lambda d: text_of(d, "#part-slip h2") == "2 parts")
    chosen = find(driver, "#many-slip").get_dom_attribute("data-parts").split(",")

    def selected() -> list[Part]:
        found = {str(p.id): p for p in sheet_of(corner)[1]}
        return [found[n] for n in chosen if n in found]

    next(b for b in driver.find_elements("css selector", "#many-slip button") if b.text == "Left edges").click()
    until(driver, lambda _: selected()[0].x == selected()[1].x)
    heard(driver)
    field = find(driver, "#desk-field")
    field.send_keys("g")
    until(driver, lambda _: selected()[0].settings.group == selected()[1].settings.group != 0)
    heard(driver)
    count = len(sheet_of(corner)[1])
    field.send_keys("d")
    until(driver, lambda _: len(sheet_of(corner)[1]) == count + 2)
    heard(driver)
    until(driver, lambda d: find(d, "#many-slip").get_dom_attribute("data-parts") != ",".join(chosen))
    field.send_keys(Keys.DELETE)
    until(driver, lambda _: len(sheet_of(corner)[1]) == count)
    heard(driver)
    assert len(selected()) == 2
    # Locked parts stay where they are.
    field.send_keys(Keys.CONTROL + "a")
    until(driver, lambda d: "parts" in text_of(d, "#part-slip h2"))
    heard(driver)
    next(b for b in driver.find_elements("css selector", "#many-slip button") if b.text == "Lock").click()
    until(driver, lambda _: all(p.locked for p in sheet_of(corner)[1] if not p.settings.lies_on_panel))
    heard(driver)
    before = [(p.x, p.y) for p in sheet_of(corner)[1]]
    field.send_keys(Keys.ARROW_RIGHT)
    heard(driver)
    assert [(p.x, p.y) for p in sheet_of(corner)[1]] == before

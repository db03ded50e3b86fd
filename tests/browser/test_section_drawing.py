"""A section drawn: from a line started at a crossing to formed areas; then the map moved and followed, then undone."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
import shapely
from selenium.webdriver import ActionChains, Chrome, Keys
from selenium.webdriver.support.ui import Select

from orvik.core.features.feature import Feature
from orvik.core.structure.section.meeting import meeting_places
from orvik.store import rows
from orvik.store.project import opened_for_writing
from orvik.store.read_project import opened_for_reading
from orvik.usecases.structure.sections import section_of_letter
from tests.browser.conftest import leave, served
from tests.browser.hands import MapHand, find, heard, text_of, until
from tests.browser.test_section import frame, to_distance
from tests.browser.test_tools import stand

pytestmark = pytest.mark.browser
# Across the contact of the mudstone in the north-west, and nothing else.
LINE = shapely.LineString([(511_680.0, 6_804_040.0), (512_120.0, 6_803_530.0)])


@pytest.fixture
def section_address(demo: Path, driver: Chrome) -> Iterator[tuple[str, Path]]:
    """The address of an application with the demo, which has a section more on which nothing is drawn."""
    with opened_for_writing(demo) as project:
        line = Feature("lines", LINE, "section_line", note="C")
        project.apply("section C", [rows.feature_change(line, project.srs_id)])
    with served(demo.parent) as address:
        yield address, demo
        leave(driver)


def crossing(demo: Path) -> tuple[float, float]:
    with opened_for_reading(demo) as project:
        (place,) = meeting_places(section_of_letter(project, "C"))
    return place.place


def opened(driver: Chrome, address: str) -> MapHand:
    hand = stand(driver, address, 511_950.0, 6_803_728.0, 3_000)
    driver.execute_script("document.getElementById('map-field').focus()")
    hand.keys("z")
    until(driver, lambda d: d.find_elements("css selector", "#section-picture"))
    Select(find(driver, "#section-line")).select_by_visible_text("C–C′")
    until(driver, lambda d: "C–C′" in (find(d, "#section-picture").get_dom_attribute("aria-label") or ""))
    heard(driver)
    return hand


def click(driver: Chrome, along: float, up: float) -> None:
    heard(driver)
    to_distance(driver, along, up)
    ActionChains(driver).click().perform()
    heard(driver)


def test_from_line_to_formed_areas_then_the_map_moves_is_followed_and_undone(
    section_address: tuple[str, Path], driver: Chrome
) -> None:
    address, demo = section_address
    hand = opened(driver, address)
    along, up = crossing(demo)
    # A contact down from where it crosses, as the nearest reading dips, to the foot.
    hand.pen("1")
    to_distance(driver, along + 3.0, up + 3.0)
    heard(driver)
    to_distance(driver, along + 2.0, up + 2.0)
    until(driver, lambda d: "crossing of" in text_of(d, "#section-ring-label"))
    click(driver, along + 2.0, up + 2.0)
    until(driver, lambda d: text_of(d, '[data-fact="count"]') == "1")
    click(driver, along - 60.0, up - 90.0)
    until(driver, lambda d: text_of(d, '[data-fact="count"]') == "2")
    foot = float(find(driver, "#section-base").get_dom_attribute("placeholder") or 0)
    click(driver, along - 130.0, foot)
    until(driver, lambda d: text_of(d, '[data-fact="count"]') == "3")
    revision = hand.revision()
    hand.keys(Keys.ENTER)
    hand.kept(revision + 1)
    until(driver, lambda d: text_of(d, "#section-met").strip() == "1 of 1 crossings met")
    hand.keys(Keys.ESCAPE)
    # Its units come from the map above.
    find(driver, "[data-section-act=form]").click()
    hand.kept(revision + 2)
    until(driver, lambda d: "2 units formed" in text_of(d, "#section-notice"))
    with opened_for_reading(demo) as project:
        found = section_of_letter(project, "C")
        assert sorted(found.drawn["areas"].columns["map_unit"]) == ["Kp", "Kw"]
        (ends,) = (both for _, both in found.ends_put.values())
        contact = found.crossings[0].line
        assert ends == (contact, None)
    # Selected, it says how it dips.
    click(driver, along - 60.0, up - 90.0)
    until(driver, lambda d: "Dips along the section" in text_of(d, "#slip"))
    assert "towards C" in text_of(d := driver, "#slip")
    assert d.find_elements("css selector", "#slip [data-act=parallel]")
    # The map moves: said, shown, followed in one step.
    hand.keys(Keys.ESCAPE)
    with opened_for_reading(demo) as project:
        course = project.feature("lines", contact).geometry
    # Beside the section line, so that it is the contact that is clicked.
    x, y = course.interpolate(course.project(LINE.interpolate(along)) + 70.0).coords[0]
    hand.click(x, y)
    until(driver, lambda d: f"contact {contact}" in text_of(d, "#slip"))
    # The vertex nearest to the section, with the areas that share it.
    places = shapely.get_coordinates(course)
    near = places[np.hypot(*(places - LINE.interpolate(along).coords[0]).T).argmin()]
    hand.move(float(near[0]), float(near[1]))
    hand.chain().click_and_hold().move_by_offset(20, 20).move_by_offset(20, 30).release().perform()
    hand.kept(revision + 3)
    until(driver, lambda d: "crosses" in text_of(d, ".section-findings"))
    assert "than the section has it" in text_of(driver, ".section-findings")
    find(driver, "[data-section-act=follow]").click()
    hand.kept(revision + 4)
    until(driver, lambda d: not d.find_elements("css selector", ".section-findings"))
    assert text_of(driver, "#section-met").strip() == "1 of 1 crossings met"
    told = frame(driver)
    # And undone, in one step.
    hand.keys(Keys.ESCAPE)
    hand.chain().key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    hand.kept(revision + 5)
    until(driver, lambda d: "crosses" in text_of(d, ".section-findings"))
    assert frame(driver)["crossings"] == told["crossings"]
    heard(driver)


def test_what_has_no_place_below_the_ground_is_refused_where_the_hand_is(
    section_address: tuple[str, Path], driver: Chrome
) -> None:
    address, demo = section_address
    hand = opened(driver, address)
    along, up = crossing(demo)
    hand.pen("Shift+1")
    click(driver, along, up - 50.0)
    until(driver, lambda d: "Readings stand on the map" in text_of(d, "#section-notice"))
    hand.keys(Keys.ESCAPE)
    # What is begun on the map is not gone on with on the section.
    hand.pen("1")
    hand.click(511_900.0, 6_803_800.0)
    click(driver, along, up - 50.0)
    until(driver, lambda d: "Finish with Enter or discard with Escape" in text_of(d, "#section-notice"))
    hand.keys(Keys.ESCAPE, Keys.ESCAPE)
    heard(driver)


def test_what_is_half_drawn_on_a_section_comes_back_after_a_reload(
    section_address: tuple[str, Path], driver: Chrome
) -> None:
    address, demo = section_address
    hand = opened(driver, address)
    along, up = crossing(demo)
    hand.pen("1")
    click(driver, along, up - 50.0)
    click(driver, along, up - 50.0)
    click(driver, along + 60.0, up - 90.0)
    until(driver, lambda d: text_of(d, '[data-fact="count"]') == "2")
    driver.refresh()
    hand = opened(driver, address)
    until(driver, lambda d: "Here is again" in text_of(d, "#section-notice"))
    until(driver, lambda d: text_of(d, '[data-fact="count"]') == "2")
    # The map has nothing of it.
    assert not find(driver, "#left-drawing").is_displayed()
    hand.keys(Keys.ESCAPE)
    heard(driver)


def test_by_keyboard_alone(section_address: tuple[str, Path], driver: Chrome) -> None:
    address, demo = section_address
    hand = stand(driver, address, 511_950.0, 6_803_728.0, 3_000)
    driver.execute_script("document.getElementById('map-field').focus()")
    hand.keys("z")
    until(driver, lambda d: d.find_elements("css selector", "#section-picture"))
    tabbed_to(hand, "section-line")
    # The first letter chooses, and the keys are the pens' again.
    hand.keys("C")
    until(driver, lambda d: "C–C′" in (find(d, "#section-picture").get_dom_attribute("aria-label") or ""))
    heard(driver)
    assert driver.switch_to.active_element.get_dom_attribute("id") == "section-scroll"
    hand.pen("1")
    hand.keys(*[Keys.ARROW_DOWN] * 3, ".", *[Keys.ARROW_LEFT] * 6, ".")
    until(driver, lambda d: text_of(d, '[data-fact="count"]') == "2")
    assert "m along" in text_of(driver, "#section-words")
    revision = hand.revision()
    hand.keys(Keys.BACKSPACE, *[Keys.ARROW_DOWN] * 2, ".", Keys.ENTER)
    hand.kept(revision + 1)
    with opened_for_reading(demo) as project:
        assert len(section_of_letter(project, "C").drawn["lines"].geometries) == 1
    # What the map was asked for is not done below it: the map has its keys when it has the focus.
    hand.keys(Keys.ESCAPE)
    tabbed_to(hand, "map-field", back=True)
    heard(driver)
    hand.pen("7")
    hand.keys(Keys.ARROW_UP, ".", *[Keys.ARROW_UP] * 6, ".", Keys.ENTER)
    hand.kept(revision + 2)
    with opened_for_reading(demo) as project:
        assert project.feature("lines", project.count("lines")).kind == "dyke"
        assert len(section_of_letter(project, "C").drawn["lines"].geometries) == 1
    heard(driver)


def tabbed_to(hand: MapHand, name: str, back: bool = False) -> None:
    for _ in range(150):
        chain = hand.chain()
        if back:
            chain.key_down(Keys.SHIFT).send_keys(Keys.TAB).key_up(Keys.SHIFT).perform()
        else:
            chain.send_keys(Keys.TAB).perform()
        if hand.driver.switch_to.active_element.get_dom_attribute("id") == name:
            return
    raise AssertionError(f"{name} is not reached by the Tab key")

"""One whole map with real pointer and key events: from a coordinate system to a measured PDF."""

from __future__ import annotations

import re
import subprocess
from pathlib import Path

import numpy as np
import pytest
from selenium.webdriver import ActionChains, Chrome, Keys

from orvik.store.read_project import ReadProject
from tests.browser.hands import MapHand, downloaded, find, text_of, until, value_of
from tests.press.measure import segments

pytestmark = pytest.mark.browser

WEST, SOUTH, EAST, NORTH = 510_000.0, 6_800_000.0, 515_000.0, 6_804_000.0
MIDDLE = ((WEST + EAST) / 2, (SOUTH + NORTH) / 2)


def new_project(driver: Chrome, address: str) -> None:
    driver.get(address + "/")
    find(driver, 'a[href="/new"]').click()
    find(driver, "#name").send_keys("Outer Stills")
    find(driver, "#crs-search").send_keys("utm zone 28n")
    until(driver, lambda d: "EPSG:32628" in text_of(d, "#crs-found"))
    find(driver, 'input[name="crs"][value="EPSG:32628"]').click()
    scale = find(driver, "#publication")
    scale.clear()
    scale.send_keys("1:50 000", Keys.TAB)
    until(driver, lambda d: value_of(d, "#digitizing") == "1:12\u2009500")
    find(driver, "#publication").clear()
    find(driver, "#publication").send_keys("25000", Keys.TAB)
    until(driver, lambda d: value_of(d, "#digitizing") == "1:6\u2009250")
    for side, value in (("north", NORTH), ("west", WEST), ("east", EAST), ("south", -61.0)):
        find(driver, f"#{side}").send_keys(f"{value:g}" if side == "south" else f"{value:.0f}")
    find(driver, ".main-button").click()
    # Refused where the hand is, with what was typed still there.
    refusal = until(driver, lambda d: text_of(d, '[data-refusal="border"]'))
    assert "no page is longer" in refusal
    assert value_of(driver, "#name") == "Outer Stills"
    find(driver, "#south").clear()
    find(driver, "#south").send_keys("6 800 000")
    find(driver, ".main-button").click()
    until(driver, lambda d: d.current_url.endswith("/p/outer-stills/ground"))
    until(driver, lambda d: "200.0 × 160.0 mm" in text_of(d, "#ground-facts"))


def add_unit(driver: Chrome, address: str) -> None:
    driver.get(address + "/p/outer-stills/symbols")
    for name, value in (("code", "Jh"), ("name", "Harrack Sandstone"), ("age", "Late Jurassic")):
        find(driver, f"#unit-{name}").send_keys(value)
    find(driver, "#unit-slip .main-button").click()
    until(driver, lambda d: "Harrack Sandstone" in text_of(d, "#strata"))


def trace(hand: MapHand) -> None:
    driver = hand.driver
    # A contact from corner to corner of the border, 5 000 m apart on the grid.
    hand.pen("1")
    hand.move(WEST + 60, SOUTH + 60)
    assert hand.ring() == ""
    ring = find(driver, "#snap-radius")
    ring.clear()
    ring.send_keys("3")
    hand.choose("#snap-unit", "mm")
    until(driver, lambda d: text_of(d, "#snap-words") == "= 75 m")
    hand.click(WEST + 30, SOUTH + 30)
    assert re.fullmatch(r"vertex of sheet border \d+", hand.ring())
    hand.click(512_500, 6_801_500)
    hand.click(512_900, 6_801_100)
    hand.keys(Keys.BACKSPACE)
    until(driver, lambda d: text_of(d, '[data-fact="count"]') == "2")
    # Undo while drawing takes a vertex, too, and nothing that is kept.
    hand.click(512_900, 6_801_100)
    hand.chain().key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    until(driver, lambda d: text_of(d, '[data-fact="count"]') == "2")
    assert hand.revision() == 2
    hand.click(EAST - 30, SOUTH + 30)
    hand.keys(Keys.ENTER)
    hand.kept(3)
    # A second one that begins on the end of a third.
    hand.click(511_000, 6_802_200)
    hand.click(512_000, 6_803_000)
    hand.keys(Keys.ENTER)
    hand.kept(4)
    hand.pen("2")
    hand.move(512_030, 6_803_020)
    assert hand.ring() == "end of contact 3"
    hand.click(512_030, 6_803_020)
    hand.click(513_500, 6_802_700)
    hand.move(514_200, 6_803_300)
    hand.chain().double_click().perform()
    hand.kept(5)


def self_crossing(hand: MapHand) -> None:
    hand.pen("5")
    for x, y in ((513_000, 6_801_800), (514_000, 6_801_800), (514_000, 6_802_300)):
        hand.click(x, y)
    hand.move(513_500, 6_801_300)
    assert find(hand.driver, "#crossing").is_displayed()
    hand.click(513_500, 6_801_300)
    until(hand.driver, lambda d: "cross itself" in text_of(d, "#map-notice"))
    assert text_of(hand.driver, '[data-fact="count"]') == "3"
    hand.keys(Keys.ESCAPE)
    until(hand.driver, lambda d: text_of(d, '[data-fact="count"]') == "0")
    assert hand.revision() == 5


def attitude(hand: MapHand) -> None:
    hand.pen("Shift+1")
    hand.click(511_500, 6_801_800)
    until(hand.driver, lambda d: find(d, "#reading").is_enabled())
    hand.keys("400/60")
    until(hand.driver, lambda d: "not a direction" in text_of(d, "#reading-words"))
    hand.keys(Keys.ENTER)
    until(hand.driver, lambda d: "not a direction" in text_of(d, ".reading .refusal"))
    hand.keys(*[Keys.BACKSPACE] * 6, "350/60")
    until(hand.driver, lambda d: text_of(d, "#reading-words") == "strikes 350, dips 60 to the east")
    hand.keys(Keys.ENTER)
    hand.kept(6)


def unit_area(hand: MapHand) -> None:
    hand.pen("Alt+1")
    hand.choose("#current-unit", "Jh")
    find(hand.driver, "#map-field").click()
    hand.keys(Keys.ESCAPE)
    for x, y in ((511_000, 6_802_200), (512_000, 6_803_000), (511_200, 6_803_300)):
        hand.click(x, y)
    # Closing on the first vertex finishes.
    hand.click(511_000, 6_802_200)
    hand.kept(7)


def change_and_undo(hand: MapHand) -> None:
    driver = hand.driver
    hand.keys(Keys.ESCAPE)
    hand.click(513_000, 6_802_802)
    until(driver, lambda d: "contact 4" in text_of(d, "#slip"))
    hand.choose("#certainty", "inferred")
    hand.kept(8)
    find(driver, "#map-field").click()
    hand.click(511_500, 6_801_800)
    until(driver, lambda d: "bedding 1" in text_of(d, "#slip"))
    hand.keys(Keys.DELETE)
    hand.kept(9)
    hand.chain().key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    hand.kept(10)


def take_part(driver: Chrome, label: str) -> None:
    def clicked(driver: Chrome) -> bool:
        rows = driver.find_elements("css selector", ".placed-part")
        next(row for row in rows if row.text == label).click()
        return True

    until(driver, clicked)
    until(driver, lambda d: text_of(d, "#part-slip h2") == label)


def lay_out(driver: Chrome, address: str) -> None:
    driver.get(address + "/p/outer-stills/sheet")
    find(driver, "#sheet-name").send_keys("Stills West")
    find(driver, ".new-sheet .main-button").click()
    until(driver, lambda d: find(d, "#desk").get_dom_attribute("data-revision") == "11")
    words = text_of(driver, "#page-layers")
    for shown in (
        "Harrack Sandstone",
        "Contact, certain",
        "Contact, inferred",
        "Bedding, inclined",
        "1:25\u2009000",
    ):
        assert shown in words
    # Not on the map, so not in the explanation.
    assert "Fault" not in words
    assert "Essentials 8 of 11" in text_of(driver, "#essentials-strip")
    # By dragging: the north arrow, 40 pixels to the right.
    take_part(driver, "North arrow")
    before = float(value_of(driver, "#part-x"))
    part = find(driver, "#part-form").get_dom_attribute("data-part")
    rect = find(driver, f'[data-hit="{part}"]')
    ActionChains(driver).move_to_element(rect).click_and_hold().move_by_offset(20, 0).move_by_offset(
        20, 0
    ).release().perform()
    until(driver, lambda d: float(value_of(d, "#part-x")) > before + 5)
    # By figures: the panel, to a place of its own.
    take_part(driver, "Main map")
    find(driver, "#part-x").send_keys(Keys.CONTROL + "a")
    find(driver, "#part-x").send_keys("21.5", Keys.ENTER)
    until(driver, lambda d: value_of(d, "#part-x") == "21.50")


def pdf(driver: Chrome, downloads: Path) -> bytes:
    find(driver, ".bottom-strip .main-button").click()
    until(driver, lambda d: d.execute_script("return document.querySelector('#proof-desk image')"))
    find(driver, ".way-form .main-button").click()
    return downloaded(driver, downloads, "Stills-West-*.pdf")


def check_kept(path: Path) -> np.ndarray:
    project = ReadProject.open(path)
    try:
        one, two = project.feature("lines", 3).geometry, project.feature("lines", 4)
        # The very same numbers, not merely near ones.
        assert two.geometry.coords[0] == one.coords[-1]
        assert two.certainty == "inferred"
        corner = np.array(project.feature("lines", 2).geometry.coords)
        assert tuple(corner[0]) == (WEST, SOUTH)
        assert tuple(corner[-1]) == (EAST, SOUTH)
        bedding = project.feature("points", 1)
        assert (bedding.azimuth, bedding.inclination) == (350, 60)
        area = project.feature("areas", 1)
        assert area.map_unit == "Jh"
        assert area.geometry.exterior.coords[0] == one.coords[0]
        assert project.feature("lines", 2).capture_scale == 25_000
        return corner
    finally:
        project.close()


def check_layers(path: Path) -> None:
    """GDAL reads the file without us: every layer with the system and its count."""
    told = subprocess.run(["ogrinfo", "-so", "-al", path], capture_output=True, text=True, check=True)
    assert "ERROR" not in told.stderr
    for layer, count in (
        ("lines", 4),
        ("areas", 1),
        ("points", 1),
        ("units", 1),
        ("sheets", 1),
        ("parts", 8),
    ):
        assert re.search(rf"Layer name: {layer}\n.*?Feature Count: {count}\n", told.stdout, re.DOTALL), layer
    assert told.stdout.count('ID["EPSG",32628]') == 4


def test_the_whole_slice(driver: Chrome, empty: tuple[str, Path], downloads: Path) -> None:
    address, folder = empty
    new_project(driver, address)
    add_unit(driver, address)
    driver.get(address + "/p/outer-stills/compile")
    hand = MapHand(driver, *MIDDLE, 25_000).wait()
    trace(hand)
    self_crossing(hand)
    attitude(hand)
    unit_area(hand)
    change_and_undo(hand)
    corner = check_kept(folder / "outer-stills.gpkg")
    lay_out(driver, address)
    paths = [np.array(p) for p in segments(pdf(driver, downloads)) if len(p) > 1]
    # The contact from corner to corner: 5 000 m on the grid are 200.0 mm on the sheet.
    drawn = next(
        p
        for p in paths
        if len(p) == len(corner) == 3
        and np.allclose(np.diff(p, axis=0), np.diff(corner, axis=0) * [1, -1] / 25, atol=0.2)
    )
    length = float(np.hypot(*(drawn[-1] - drawn[0])))
    assert length == pytest.approx(200.0, abs=0.1)
    neatline = max(paths, key=lambda p: float(np.ptp(p[:, 0])) if len(p) == 5 else 0)
    assert np.ptp(neatline, axis=0) == pytest.approx([200.0, 160.0], abs=0.1)
    assert neatline[:, 0].min() == pytest.approx(21.5, abs=0.1)
    print(f"5 000 m are {length:.4f} mm; neatline {np.ptp(neatline, axis=0)} mm")
    check_layers(folder / "outer-stills.gpkg")

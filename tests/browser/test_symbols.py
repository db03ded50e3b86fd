"""Symbols at work in a new project: pens from the plate, sides of ornaments."""

from __future__ import annotations

import io
import time
from pathlib import Path

import numpy as np
import pytest
import shapely
from PIL import Image
from selenium.webdriver import ActionChains, Chrome, Keys
from selenium.webdriver.support.ui import Select

from orvik.core.features.feature import Feature
from orvik.core.features.map_unit import MapUnit
from orvik.core.ink.primitives import Fill, Text, walk
from orvik.core.sheet.page.new_sheet import NewSheet
from orvik.store import rows
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from orvik.usecases.sheet.composing import composed
from orvik.usecases.sheet.panels import PlacedPanel, panels_of
from orvik.usecases.sheet.sheets import add_sheet
from tests.browser.hands import MapHand, find, heard, text_of, typed, until, value_of
from tests.browser.test_slice import MIDDLE, SOUTH, WEST

pytestmark = pytest.mark.browser


def dark(driver: Chrome, hand: MapHand, x: float, y: float) -> float:
    """How much dark ink there is within 15 by 1 mm around a place of the map, in dots."""
    heard(driver)
    time.sleep(0.4)
    picture = Image.open(io.BytesIO(find(driver, "#map-field").screenshot_as_png)).convert("L")
    px, py = hand.offset(x, y)
    left, top = picture.width // 2 + px, picture.height // 2 + py
    cut = np.asarray(picture.crop((left - 60, top - 2, left + 60, top + 3)))
    return float((cut < 110).sum())


def test_a_thrust_from_the_plate_and_its_teeth_change_sides(driver: Chrome, outer_stills: tuple[str, Path]) -> None:
    address, folder = outer_stills
    driver.get(f"{address}/p/outer-stills/symbols")
    button = 'button[data-tray="thrust-certain"]'
    find(driver, button).click()
    until(driver, lambda d: find(d, button).get_attribute("aria-pressed") == "true")
    driver.get(f"{address}/p/outer-stills/compile")
    hand = MapHand(driver, *MIDDLE, 25_000).wait()
    find(driver, '.pen[data-pen="thrust-certain"]').click()
    until(driver, lambda d: d.find_elements("css selector", "#pen-key"))
    # No key was free; one that another pen has changes hands.
    hand.choose("#pen-key-choice", "5")
    until(driver, lambda d: text_of(d, '.pen[data-pen="thrust-certain"] kbd') == "5")
    assert not driver.find_elements("css selector", '.pen[data-pen="fault-certain"] kbd')
    hand.click(WEST + 1000, SOUTH + 2000)
    hand.click(WEST + 3800, SOUTH + 2000)
    until(driver, lambda d: text_of(d, '[data-fact="side"]') == "To the south: the upper plate")
    revision = hand.revision()
    hand.keys(Keys.ENTER)
    hand.kept(revision + 1)
    hand.keys(Keys.ESCAPE)
    hand.click(WEST + 2000, SOUTH + 2000)
    until(driver, lambda d: text_of(d, "#side-words") == "To the south: the upper plate")
    south, north = (dark(driver, hand, WEST + 2400, SOUTH + 2000 + dy) for dy in (-25, 25))
    assert south > 20 > north
    revision = hand.revision()
    hand.keys("r")
    hand.kept(revision + 1)
    until(driver, lambda d: text_of(d, "#side-words") == "To the north: the upper plate")
    south, north = (dark(driver, hand, WEST + 2400, SOUTH + 2000 + dy) for dy in (-25, 25))
    assert north > 20 > south
    project = ReadProject.open(folder / "outer-stills.gpkg")
    xy = np.array(project.features("lines").geometries[-1].coords)
    project.close()
    assert xy[0, 0] > xy[-1, 0]


def codes(driver: Chrome) -> list[str]:
    """The labels in the column from the top."""
    return [box.text.split("\n")[0] for box in driver.find_elements("css selector", "#strata .column-row .column-unit")]


def value(driver: Chrome, field: str, text: str) -> None:
    """Type into a field of the selected unit and leave it, as people do."""
    box = find(driver, f"#unit-{field}")
    box.send_keys(Keys.CONTROL + "a")
    box.send_keys(text or Keys.BACKSPACE, Keys.TAB)
    heard(driver)


def test_a_column_made_dragged_and_coloured(driver: Chrome, outer_stills: tuple[str, Path]) -> None:
    address, folder = outer_stills
    driver.get(f"{address}/p/outer-stills/symbols")
    for code, name, age in (
        ("Qal", "Alluvium", "holocene"),
        ("Kp", "Pellan Mudstone", "aptian"),
        ("Cw", "Wray Limestone", "cambrian"),
        ("Jh", "Harrack Sandstone", "late jurassic"),
        ("pCg", "Quennet Gneiss", "precambrian"),
    ):
        find(driver, "#strata .tray-head .plain-button").click()
        until(driver, lambda d: "New unit" in text_of(d, "#unit-slip"))
        heard(driver)
        for field, text in (("code", code), ("name", name), ("age_from", age)):
            find(driver, f"#unit-{field}").send_keys(text)
        find(driver, "#unit-slip .main-button").click()
        until(driver, lambda d, name=name: name in text_of(d, "#strata"))  # type: ignore[misc]
        heard(driver)
    until(driver, lambda d: "1 against their ages" in text_of(d, "#unit-count"))
    # The sandstone belongs above the limestone: dragged there.
    rows = driver.find_elements("css selector", "#strata .column-row")
    chain = ActionChains(driver, duration=80)
    chain.click_and_hold(rows[3].find_element("css selector", ".column-unit"))
    chain.move_by_offset(0, -20).move_to_element_with_offset(rows[2], 0, -14).release().perform()
    until(driver, lambda d: codes(d) == ["Qal", "Kp", "Jh", "\ua792w", "p\ua792g"])
    heard(driver)
    until(driver, lambda d: "against" not in text_of(d, "#unit-count"))
    # By key: one place older, and back.
    find(driver, "#strata .column-row .column-unit").send_keys(Keys.ALT + Keys.ARROW_DOWN)
    until(driver, lambda d: codes(d)[0] == "Kp")
    heard(driver)
    until(driver, lambda d: "Alluvium" in (d.switch_to.active_element.text or ""))
    driver.switch_to.active_element.send_keys(Keys.ALT + Keys.ARROW_UP)
    until(driver, lambda d: codes(d)[0] == "Qal")
    heard(driver)
    # In hand: a colour in Lab is one in all the other ways; a wrong one is refused where it stands.
    driver.find_elements("css selector", "#strata .column-unit")[3].click()
    until(driver, lambda d: text_of(d, "#unit-slip h2") == "Unit Cw")
    value(driver, "lab", "74.8 13.8 36.5")
    until(driver, lambda d: value_of(d, "#unit-hex") == "#E0AE75")
    assert value_of(driver, "#unit-cmyk") == "0 22 48 12"
    value(driver, "cmyk", "0 22 48")
    until(driver, lambda d: "four percentages" in text_of(d, "#unit-slip .refusal"))
    value(driver, "cmyk", "0 22 48 12")
    value(driver, "age_to", "Jurassik")
    until(driver, lambda d: "Is it Jurassic" in text_of(d, "#unit-slip .refusal"))
    assert value_of(driver, "#unit-age_to") == "Jurassik"
    value(driver, "age_to", "")
    find(driver, "#unit-slip .unit-buttons button").click()
    until(driver, lambda d: value_of(d, "#unit-hex") == "#7FA056")
    # The letter of the age is printed, whatever the keyboard lacks.
    project = ReadProject.open(folder / "outer-stills.gpkg")
    units = {unit.code: unit for _, unit in project.units()}
    project.close()
    assert units["Cw"].printed_label == "\ua792w"
    assert (units["Cw"].colour, units["Jh"].age_from) == ("#7FA056", "Upper Jurassic")
    assert [u.code for u in sorted(units.values(), key=lambda u: u.position)] == ["Qal", "Kp", "Jh", "Cw", "pCg"]


def test_a_table_is_shown_before_it_is_taken(driver: Chrome, outer_stills: tuple[str, Path], tmp_path: Path) -> None:
    address, _ = outer_stills
    driver.get(f"{address}/p/outer-stills/symbols")
    for field, text in (("code", "Kp"), ("name", "Pellan Mudstone")):
        find(driver, f"#unit-{field}").send_keys(text)
    find(driver, "#unit-slip .main-button").click()
    until(driver, lambda d: "Pellan" in text_of(d, "#strata"))
    heard(driver)
    table = tmp_path / "units.csv"
    table.write_text("code,name,colour\nKp,Pellan Shale,#aabbcc\nTt,Tuff,red\n")
    find(driver, ".column-tools summary").click()
    find(driver, "#unit-table").send_keys(str(table))
    until(driver, lambda d: "not a colour" in text_of(d, "#table-preview"))
    assert not find(driver, "#table-preview .main-button").is_enabled()
    table.write_text("code,name,colour\nKp,Pellan Shale,#aabbcc\nTt,Tuff,#ccbbaa\n")
    find(driver, "#unit-table").send_keys(str(table))
    until(driver, lambda d: "Tuff: new" in text_of(d, "#table-preview"))
    assert "Pellan Shale" not in text_of(driver, "#strata .strata")
    find(driver, "#table-preview .main-button").click()
    until(driver, lambda d: "Tuff" in text_of(d, "#strata .strata"))
    heard(driver)


def test_a_pair_that_is_hard_to_tell_apart_is_fixed(driver: Chrome, demo_address: str, demo: Path) -> None:
    """The proposal is shown on the map, taken in one entry, and canvas, explanation and list follow."""
    driver.get(f"{demo_address}/p/isle-of-quennet/symbols")
    until(driver, lambda d: "1 pair hard to tell apart" in text_of(d, ".strip-note .caution"))
    find(driver, '.bench[href$="/colours"]').click()
    until(driver, lambda d: d.find_elements("css selector", "#proposal .moves li"))
    assert "Jc and pCg" in text_of(driver, ".colour-pair")
    find(driver, ".colour-pair .text-link").click()
    until(driver, lambda d: "Jc and pCg meet" in text_of(d, "#colour-map"))
    find(driver, "#proposal .plain-button").click()
    until(driver, lambda d: len(d.find_elements("css selector", "#colour-map figure")) == 2)
    new = str(find(driver, "#proposal input[name=take]").get_attribute("value")).split()[1]
    find(driver, "#proposal .main-button").click()
    until(driver, lambda d: "None is needed" in text_of(d, "#proposal"))
    assert not driver.find_elements("css selector", ".too-near")
    heard(driver)
    until(driver, lambda d: new.lower() in str(find(d, "#strata").get_attribute("innerHTML")).lower())
    # A difference that nobody can have is refused, and what was typed stays.
    find(driver, "#wanted").send_keys(Keys.CONTROL + "a")
    find(driver, "#wanted").send_keys("99", Keys.TAB)
    until(driver, lambda d: "0.1 to 30" in text_of(d, ".wanted .refusal"))
    assert value_of(driver, "#wanted") == "99"
    project = ReadProject.open(demo)
    assert project.units_by_code()["pCg"].colour == new
    groups = composed(project, 1, 40).groups
    project.close()
    assert new in {item.colour for item in walk(groups) if isinstance(item, Fill)}


def test_by_keyboard_alone_and_by_the_second_click(driver: Chrome, outer_stills: tuple[str, Path]) -> None:
    """A pen goes in and out again with one key, and what was pressed stays in focus; a folded family stays folded."""
    address, folder = outer_stills
    driver.get(f"{address}/p/outer-stills/symbols")
    button = '[data-tray="esker-certain"]'
    driver.execute_script("arguments[0].focus()", find(driver, button))
    for pressed in ("true", "false", "true"):
        driver.switch_to.active_element.send_keys(Keys.ENTER)
        until(driver, lambda d, p=pressed: find(d, button).get_attribute("aria-pressed") == p)  # type: ignore[misc]
        heard(driver)
        until(driver, lambda d: d.switch_to.active_element.get_attribute("data-tray") == "esker-certain")
    folds = driver.find_elements("css selector", ".fold[aria-expanded]")
    assert all(fold.get_attribute("aria-expanded") == "true" for fold in folds)
    driver.execute_script("arguments[0].focus()", folds[2])
    driver.switch_to.active_element.send_keys(Keys.SPACE)
    until(driver, lambda d: find(d, "#fold-2").get_attribute("aria-expanded") == "false")
    heard(driver)
    assert driver.switch_to.active_element.get_attribute("id") == "fold-2"
    driver.get(f"{address}/p/outer-stills/symbols")
    assert not driver.find_elements("css selector", "#family-2 .kind-row")
    find(driver, "#fold-2").click()
    until(driver, lambda d: len(d.find_elements("css selector", "#family-2 .kind-row")) == 20)
    heard(driver)
    # In a new project nothing touches anything yet, and the bench says what to do.
    find(driver, '.bench[href$="/colours"]').click()
    until(driver, lambda d: "form the units in Compile first" in text_of(d, "#colours"))
    heard(driver)
    project = ReadProject.open(folder / "outer-stills.gpkg")
    assert [row["kind"] for row in project.pens()].count("esker") == 1
    project.close()


def test_a_emphasis_holds_back_the_ground_beside_the_map_as_it_is(
    driver: Chrome, demo_address: str, demo: Path
) -> None:
    driver.get(f"{demo_address}/p/{demo.stem}/symbols/emphases")
    find(driver, "#emphasis-name").send_keys("Faults")
    find(driver, "#begin-emphasis").click()
    until(driver, lambda d: len(d.find_elements("css selector", ".emphasis-maps figure")) == 2)
    heard(driver)
    as_it_is, themed = emphasis_maps(driver)
    gneiss = next(unit.colour for unit in units_of(demo) if unit.code == "pCg")
    assert gneiss in as_it_is
    assert gneiss not in themed
    # The gneiss is what the map is about: its colour comes back.
    row = next(r for r in driver.find_elements("css selector", ".rank-row") if r.text.startswith("Quennet Gneiss"))
    Select(row.find_element("css selector", "select")).select_by_value("subject")
    until(driver, lambda d: all(gneiss in picture for picture in emphasis_maps(d)))
    heard(driver)
    typed(driver, "#opacity-ground", "140")
    until(driver, lambda d: "0 to 100" in text_of(d, ".rank-form .refusal:not([hidden])"))
    find(driver, ".rank-form [name=on]").click()
    until(driver, lambda d: d.find_elements("css selector", ".rank-form [name=on]:checked"))
    heard(driver)
    assert any(part.settings.emphasis == "Faults" for part in panels_in(demo))


def emphasis_maps(driver: Chrome) -> list[str]:
    return [str(f.get_attribute("innerHTML")) for f in driver.find_elements("css selector", ".emphasis-maps svg")]


def units_of(path: Path) -> list[MapUnit]:
    project = ReadProject.open(path)
    found = [unit for _, unit in project.units()]
    project.close()
    return found


def panels_in(path: Path) -> list[PlacedPanel]:
    project = ReadProject.open(path)
    found = panels_of(project)
    project.close()
    return found


def test_what_holds_on_condition_is_counted_kept_and_drawn(driver: Chrome, outer_stills: tuple[str, Path]) -> None:
    """Steep beds are given the symbol of foliation: the count before, the map, the explanation and undo agree."""
    address, folder = outer_stills
    project = Project.open(folder / "outer-stills.gpkg")
    places = [(500.0 + 450 * i, 1500.0, dip) for i, dip in enumerate((20.0, 45.0, 71.0, 80.0, 88.0))]
    beds = [
        Feature("points", shapely.Point(WEST + x, SOUTH + y), "bedding", azimuth=0.0, inclination=dip)
        for x, y, dip in places
    ]
    project.apply("beds", [rows.feature_change(bed, project.srs_id) for bed in beds])
    project.close()
    driver.get(f"{address}/p/outer-stills/symbols/conditions")
    heard(driver)
    until(driver, lambda d: "Say when this holds" in text_of(d, "#condition-preview"))
    assert value_of(driver, "#condition-kind") == "points bedding"
    Select(find(driver, "#condition-attribute-1")).select_by_value("inclination")
    Select(find(driver, "[name=comparison_1]")).select_by_visible_text("above")
    find(driver, "[name=value_1]").send_keys("70")
    _preview(driver, "#condition-look", "kind foliation", "3 of 5")
    # One that would lose the directions is refused before it is kept, and when it is kept.
    _preview(driver, "#condition-look", "kind quarry", "lose their direction")
    find(driver, "#keep-condition").click()
    until(driver, lambda d: "lose their direction" in text_of(d, '[data-refusal="form"]'))
    _preview(driver, "#condition-look", "kind foliation", "3 of 5")
    find(driver, "#keep-condition").click()
    until(driver, lambda d: "3 of 5" in text_of(d, ".condition-list"))
    driver.get(f"{address}/p/outer-stills/compile")
    hand = MapHand(driver, *MIDDLE, 25_000).wait()
    # Foliation's tick is a solid triangle: more ink than the tick of bedding has.
    gentle, steep = (dark(driver, hand, WEST + places[i][0] + 20, SOUTH + places[i][1]) for i in (1, 3))
    assert steep > gentle + 2
    kept = Project.open(folder / "outer-stills.gpkg")
    add_sheet(kept, NewSheet("One", "A3"))
    groups = composed(kept, kept.sheets()[0].id or 0).groups
    written = [item.run.chars for group in groups for item in walk(group.items) if isinstance(item, Text)]
    assert "Bedding, inclined (dip or plunge above 70)" in written
    kept.close()
    driver.get(f"{address}/p/outer-stills/symbols/conditions")
    heard(driver)
    find(driver, ".condition-buttons button:last-child").click()
    until(driver, lambda d: not d.find_elements("css selector", ".condition"))
    find(driver, "#undo").click()
    heard(driver)
    driver.refresh()
    until(driver, lambda d: d.find_elements("css selector", ".condition"))


def _preview(driver: Chrome, css: str, choice: str, words: str) -> str:
    """Choose something in the form, and wait for what is said of it."""
    Select(find(driver, css)).select_by_value(choice)
    until(driver, lambda d: words in text_of(d, "#condition-preview"))
    heard(driver)
    return text_of(driver, "#condition-preview")

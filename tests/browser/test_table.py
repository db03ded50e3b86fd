"""Features as a table by keyboard alone: found, typed, filled, pasted with two wrong cells, undone, lit on the map."""

from __future__ import annotations

from pathlib import Path

from selenium.webdriver import Chrome, Keys

from orvik.store.read_project import ReadProject
from tests.browser.hands import MapHand, find, heard, text_of, until

COMPILE = "/p/isle-of-quennet/compile"


def opened(driver: Chrome, address: str) -> MapHand:
    driver.get(address + COMPILE)
    hand = MapHand(driver, 0, 0, 1).wait()
    driver.execute_script("document.getElementById('map-field').focus()")
    hand.keys("y")
    until(driver, lambda d: d.find_elements("css selector", "#table-rows td.current"))
    heard(driver)
    return hand


def tabbed(driver: Chrome, hand: MapHand, wanted: str, back: bool = False) -> None:
    """Go on by Tab alone until an element has the focus."""
    for _ in range(60):
        if driver.execute_script("return document.activeElement.matches(arguments[0])", wanted):
            return
        chain = hand.chain()
        if back:
            chain.key_down(Keys.SHIFT).send_keys(Keys.TAB).key_up(Keys.SHIFT).perform()
        else:
            chain.send_keys(Keys.TAB).perform()
        heard(driver)
    raise AssertionError(f"no way to {wanted} by Tab")


def held(driver: Chrome, hand: MapHand, modifier: str, *keys: str) -> None:
    chain = hand.chain().key_down(modifier)
    chain.send_keys(*keys)
    chain.key_up(modifier).perform()
    heard(driver)


def column(driver: Chrome, name: str) -> list[str]:
    script = (
        "return [...document.querySelectorAll(`#table-rows td[data-column=${arguments[0]}]`)].map(c => c.textContent)"
    )
    return list(driver.execute_script(script, name))


def at(driver: Chrome) -> str:
    return str(driver.execute_script("return document.activeElement.dataset.column ?? document.activeElement.id"))


def test_the_table_by_keyboard_alone(driver: Chrome, demo_address: str, demo: Path) -> None:
    hand = opened(driver, demo_address)
    project = ReadProject.open(demo)
    assert text_of(driver, "#table-count").split(" of ")[1] == str(project.count("points"))
    # What is typed is looked for while it is typed, and the hand stays in the field.
    tabbed(driver, hand, "#table-find", back=True)
    hand.keys("bedding, over")
    until(driver, lambda d: set(column(d, "kind")) == {"Bedding, overturned"})
    assert at(driver) == "table-find"
    for _ in range(13):
        hand.keys(Keys.BACKSPACE)
    hand.keys("station")
    until(driver, lambda d: column(d, "note") and all("tation" in note for note in column(d, "note")))
    heard(driver)
    ids = [int(text) for text in column(driver, "number")]
    tabbed(driver, hand, "#table-rows td")
    # A refusal stands at the cell, with what was typed still in it.
    hand.keys(Keys.HOME, Keys.ARROW_RIGHT, Keys.ARROW_RIGHT)
    assert at(driver) == "reading"
    before = project.feature("points", ids[0])
    hand.keys("400/10", Keys.ENTER)
    assert "400 is not a direction" in text_of(driver, "#table-refusal")
    assert driver.execute_script("return document.activeElement.value") == "400/10"
    assert project.feature("points", ids[0]) == before
    held(driver, hand, Keys.CONTROL, "a")
    hand.keys("N52E 31S", Keys.ENTER)
    until(driver, lambda d: column(d, "reading")[0] == "052/31")
    assert (project.feature("points", ids[0]).azimuth, project.feature("points", ids[0]).inclination) == (52.0, 31.0)
    # One row down, as Enter goes; undo is the map's own.
    row = driver.execute_script("return document.activeElement.parentElement.dataset.row")
    assert (at(driver), row) == ("reading", "1")
    # Filled down over four rows in one entry.
    hand.keys(Keys.END)
    hand.keys("hq 12 June", Keys.ENTER, Keys.ARROW_UP)
    held(driver, hand, Keys.SHIFT, Keys.ARROW_DOWN, Keys.ARROW_DOWN, Keys.ARROW_DOWN)
    held(driver, hand, Keys.CONTROL, "d")
    until(driver, lambda d: column(d, "note")[1:5] == ["hq 12 June"] * 4)
    assert [project.feature("points", n).note for n in ids[1:5]] == ["hq 12 June"] * 4
    # Rows are selected on the map, and the slip shows them.
    hand.keys(" ")
    until(driver, lambda d: text_of(d, "#slip .tray-head").endswith("4 selected"))
    chosen = driver.execute_script(
        "return [...document.querySelectorAll('#table-rows tr[aria-selected=true]')].map(r => Number(r.dataset.id))"
    )
    assert chosen == ids[1:5]
    hand.keys(Keys.ESCAPE)
    assert at(driver) == "map-field"
    project.close()


def test_a_paste_with_two_wrong_cells_and_undo(driver: Chrome, demo_address: str, demo: Path) -> None:
    hand = opened(driver, demo_address)
    project = ReadProject.open(demo)
    tabbed(driver, hand, "#table-find", back=True)
    hand.keys("station")
    until(driver, lambda d: column(d, "note") and all("tation" in note for note in column(d, "note")))
    heard(driver)
    ids = [int(text) for text in column(driver, "number")][:4]
    before = project.whole("points", ids)
    tabbed(driver, hand, "#table-paste")
    hand.keys(Keys.ENTER)
    assert at(driver) == "paste-text"
    texts = ["010/30", "045/99", "N20W 15E", "steep"]
    block = "No\tReading\tNote\n" + "".join(f"{n}\t{t}\tback {n}\n" for n, t in zip(ids, texts, strict=True))
    # A tab in a field leads on; what a spreadsheet copies holds tabs all the same.
    driver.execute_script("document.getElementById('paste-text').value = arguments[0]", block)
    hand.keys(Keys.TAB, Keys.ENTER)
    until(driver, lambda d: "4 cells of 2 features would change" in " ".join(text_of(d, "#table-preview").split()))
    said = " ".join(text_of(driver, "#table-preview").split())
    assert "2 features cannot be so" in said
    assert f"No {ids[1]}, Reading “045/99”: A dip of 99 is not possible" in said
    assert len(driver.find_elements("css selector", "#table-rows td.refused")) == 2
    assert project.whole("points", ids) == before
    tabbed(driver, hand, "#preview-apply")
    hand.keys(Keys.ENTER)
    until(driver, lambda d: f"back {ids[0]}" in column(d, "note"))
    after = project.whole("points", ids)
    assert [after[n].note for n in ids] == [
        f"back {ids[0]}",
        before[ids[1]].note,
        f"back {ids[2]}",
        before[ids[3]].note,
    ]
    assert (after[ids[2]].azimuth, after[ids[2]].inclination) == (340.0, 15.0)
    until(driver, lambda d: find(d, "#undo").get_dom_attribute("title") == "Undo: paste into 2 features")
    held(driver, hand, Keys.CONTROL, "z")
    until(driver, lambda d: f"back {ids[0]}" not in column(d, "note"))
    assert project.whole("points", ids) == before
    project.close()

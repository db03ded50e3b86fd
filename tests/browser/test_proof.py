"""A sheet is proofed: findings fixed, accepted, returned; a long export cancelled; a proof and a plot made."""

from __future__ import annotations

import re
from pathlib import Path

import pypdfium2
import shapely
from selenium.webdriver import ActionChains, Chrome, Keys
from selenium.webdriver.common.actions.wheel_input import ScrollOrigin
from selenium.webdriver.common.by import By
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import Select

from orvik.core.features.feature import Feature
from orvik.store import rows
from orvik.store.project import opened_for_writing
from orvik.web.session.export_jobs import FOLDER
from tests.browser.hands import MapHand, downloaded, find, heard, text_of, until, value_of

PROOF = "/p/isle-of-quennet/proof"


def messages(driver: Chrome) -> list[str]:
    """All of the notes as they stand at one time."""
    read = "return [...document.querySelectorAll('.note-words')].map((words) => words.textContent.trim())"
    return [str(words) for words in driver.execute_script(read)]


def note(driver: Chrome, words: str) -> str:
    """The id of the note that says something, once the page has heard all and it is there."""
    heard(driver)
    read = """return [...document.querySelectorAll('.note')]
        .find((note) => note.textContent.includes(arguments[0]))?.id"""
    return str(until(driver, lambda d: d.execute_script(read, words)))


def open_note(driver: Chrome, words: str) -> str:
    """Open the note that says something, if it is not open yet."""
    number = note(driver, words)
    if not find(driver, f"#{number} > details").get_attribute("open"):
        find(driver, f"#{number} > details > summary").click()
    return number


def drawn_twice(path: Path) -> None:
    """Most of a contact stands there once more."""
    with opened_for_writing(path) as project:
        lines = project.features("lines")
        row = next(
            i
            for i, (kind, line) in enumerate(zip(lines.columns["kind"], lines.geometries, strict=True))
            if kind == "contact" and lines.columns["certainty"][i] == "certain" and len(line.coords) > 12
        )
        line = project.feature("lines", int(lines.ids[row]))
        again = shapely.LineString(line.geometry.coords[2:-2])
        twice = Feature("lines", again, "contact", capture_scale=line.capture_scale)
        project.apply("draw it again", [rows.feature_change(twice, project.srs_id)])


def test_a_sheet_is_proofed(driver: Chrome, demo_address: str, demo: Path, downloads: Path) -> None:
    drawn_twice(demo)
    driver.get(demo_address + PROOF)
    until(driver, lambda d: len(messages(d)) == 4)
    assert "2 errors" in text_of(driver, "#proof-counts")
    assert "199.92 mm for" in text_of(driver, ".bottom-strip")

    # Gone through: a note shows its mark, a mark its note, a group its notes.
    first = open_note(driver, "ends 14\u00a0m")
    assert "held" in str(find(driver, f'.mark[data-note="{first[5:]}"]').get_attribute("class"))
    other = note(driver, "is drawn again")
    driver.execute_script(
        "arguments[0].dispatchEvent(new MouseEvent('click', {bubbles: true, cancelable: true}))",
        find(driver, f'.mark[data-note="{other[5:]}"]'),
    )
    until(driver, lambda d: find(d, f"#{other} > details").get_attribute("open"))
    assert not find(driver, f"#{first} > details").get_attribute("open")
    find(driver, ".groups li:nth-child(6) button").click()
    until(driver, lambda d: "Nothing in this group" in text_of(d, "#margin-notes"))
    find(driver, ".groups li:nth-child(6) button").click()
    until(driver, lambda d: len(messages(d)) == 4)

    # One is fixed: it goes, and the picture is of the new revision.
    number = open_note(driver, "is drawn again")
    find(driver, f"#{number} .note-deeds .plain-button").click()
    until(driver, lambda d: "1 error" in text_of(d, "#proof-counts"))
    assert not any("is drawn again" in said for said in messages(driver))

    # One is accepted: not without a reason, and what is refused is said where the hand is.
    number = open_note(driver, "Fault 105")
    find(driver, f"#{number} .accepting summary").click()
    find(driver, f"#{number} .accepting .main-button").click()
    until(driver, lambda d: "Say why" in text_of(d, f"#{number} .accepting .refusal"))
    find(driver, f"#{number} textarea").send_keys("Taken from the old sheet as it is.")
    find(driver, f"#{number} .signature").send_keys("HQ")
    find(driver, f"#{number} .accepting .main-button").click()
    until(driver, lambda d: "Taken from the old sheet" in text_of(d, "#proof-accepted"))
    assert not any("Fault 105" in said for said in messages(driver))

    # What it speaks of is edited in Compile, and it comes back with what was said before.
    driver.get(f"{demo_address}/p/isle-of-quennet/compile?x=513287.06&y=6802259.00")
    assert driver.execute_script("return location.search") == ""
    hand = MapHand(driver, 513_287.06, 6_802_259.0, 1250).wait()
    hand.click(513_287.06, 6_802_259.0)
    until(driver, lambda d: "fault" in text_of(d, "#slip .tray-head").lower())
    before = hand.revision()
    hand.keys("r")
    hand.kept(before + 1)
    driver.get(demo_address + PROOF)
    until(driver, lambda d: any("Taken from the old sheet" in said for said in messages(d)))
    assert "Nothing yet" in text_of(driver, "#proof-accepted")

    # A long export is cancelled, and nothing is left of it.
    driver.execute_script("document.querySelector('[name=ending][value=png]').click()")
    driver.execute_script("document.getElementById('dpi').value = '1000'")
    find(driver, ".way-form .main-button").click()
    until(driver, lambda d: re.search(r"strip \d+ of \d+", text_of(d, "#exports")))
    folder = demo.parent / FOLDER / "isle-of-quennet"
    assert list(folder.iterdir())
    until(driver, lambda d: [button.click() for button in d.find_elements(By.CSS_SELECTOR, ".export-job .text-button")])
    until(driver, lambda d: not d.find_elements(By.CSS_SELECTOR, ".export-job"))
    assert not list(folder.iterdir())

    # The proof on paper: the sheet with its marks, and the checklist.
    find(driver, "#proof-with-marks").click()
    document = pypdfium2.PdfDocument(downloaded(driver, downloads, "Harrack-Head-proof.pdf"))
    assert len(document) == 2
    said = document[1].get_textpage().get_text_bounded()
    assert "1 error, 2 warnings" in said
    assert "ends 14 m" in said
    assert "Proofed by" in said

    # Printed to the plotter tray in tiles; the paper jams and is cleared.
    find(driver, "#plotter-tray summary").click()
    for press, state in (("Let it jam", "The paper has jammed."), ("Clear it", "Ready.")):
        button = find(driver, "#tray-state button")
        assert button.text == press
        button.click()
        until(driver, lambda d, s=state: s in text_of(d, "#tray-state"))
    Select(find(driver, "#paper")).select_by_value("A4")
    find(driver, "#plotter-tray form .plain-button").click()
    document = pypdfium2.PdfDocument(downloaded(driver, downloads, "Harrack-Head-2*.pdf"))
    assert len(document) == 8
    assert "row 2 of 2, column 4 of 4" in document[7].get_textpage().get_text_bounded()


def test_a_reason_is_not_taken_away_by_what_changes_elsewhere(driver: Chrome, corner_address: str) -> None:
    driver.get(corner_address + PROOF)
    until(driver, lambda d: messages(d))
    heard(driver)
    count = len(messages(driver))
    find(driver, "#note-1 > details > summary").click()
    find(driver, "#note-1 .accepting summary").click()
    reason = find(driver, "#reason-1")
    reason.send_keys("Seen in the field")
    # Somebody lets a rule rest, and the hand leaves the field for a look at the sheet.
    rest = """fetch('/p/isle-of-quennet/proof/rest', {method: 'POST', body: new URLSearchParams(
        {rule: arguments[0], rests: arguments[1], seen: '-1'})}).then((r) => arguments[2](r.status))"""
    assert driver.execute_async_script(rest, "dangle", "true") == 200
    reason.send_keys(Keys.TAB)
    find(driver, "#proof-desk").click()
    heard(driver)
    assert value_of(driver, "#reason-1") == "Seen in the field"
    assert len(messages(driver)) == count
    # It is given up, and the notes are as they are by now.
    reason.clear()
    until(driver, lambda d: len(messages(d)) < count)


def test_a_rule_is_turned_off_and_on(driver: Chrome, corner_address: str) -> None:
    driver.get(corner_address + PROOF)
    until(driver, lambda d: messages(d))
    count = len(messages(driver))
    find(driver, ".proof-section details summary").click()
    find(driver, '[aria-label^="Turn off: A contact or a shoreline"]').click()
    until(driver, lambda d: len(messages(d)) < count)
    assert "1 turned off" in text_of(driver, "#turned-off-count")
    find(driver, '[aria-label^="Turn on:"]').click()
    until(driver, lambda d: len(messages(d)) == count)


def test_by_keyboard_alone(driver: Chrome, corner_address: str) -> None:
    """What has the focus and is drawn anew keeps it; what is gone hands it to what has come in its place."""
    driver.get(corner_address + PROOF)
    until(driver, lambda d: messages(d))
    heard(driver)

    def held() -> WebElement:
        return driver.switch_to.active_element

    def tab_to(words: str) -> WebElement:
        for _ in range(80):
            held().send_keys(Keys.TAB)
            if words in (held().get_attribute("aria-label") or held().text):
                return held()
        raise AssertionError(f"no Tab leads to {words}")

    group = "#group-linework"
    find(driver, group).send_keys(Keys.ENTER)
    until(driver, lambda d: find(d, group).get_attribute("aria-pressed") == "true")
    heard(driver)
    assert held().get_attribute("id") == "group-linework"
    held().send_keys(Keys.ENTER)
    until(driver, lambda d: find(d, group).get_attribute("aria-pressed") == "false")
    heard(driver)
    count = len(messages(driver))
    first = messages(driver)[0]
    tab_to("Note 1: ").send_keys(Keys.ENTER)
    until(driver, lambda d: find(d, "#note-1 > details").get_attribute("open"))
    assert held().tag_name == "summary"
    tab_to("Accept…").send_keys(Keys.ENTER)
    held().send_keys(Keys.TAB)
    held().send_keys("As it is.", Keys.TAB)
    held().send_keys("HQ")
    tab_to("Accept").send_keys(Keys.ENTER)
    until(driver, lambda d: len(messages(d)) == count - 1)
    heard(driver)
    assert held().tag_name == "summary"
    # Selenium tells spaces that no line breaks at as plain ones.
    assert messages(driver)[0].replace("\u00a0", " ") in held().text
    find(driver, "#proof-accepted .text-button").send_keys(Keys.ENTER)
    until(driver, lambda d: first in messages(d))
    heard(driver)
    assert held().text == "Accepted"
    # An export is taken away, and so is the button that did it.
    find(driver, "#data").send_keys(Keys.TAB)
    held().send_keys(Keys.ENTER)
    until(driver, lambda d: d.find_elements(By.CSS_SELECTOR, '.export-job[data-state="done"]'))
    find(driver, "#data").send_keys(Keys.TAB)
    tab_to("Remove").send_keys(Keys.ENTER)
    until(driver, lambda d: not d.find_elements(By.CSS_SELECTOR, ".export-job"))
    heard(driver)
    assert held().get_attribute("id") == "export-panel-title"


def test_a_part_is_a_click_away_from_its_finding(driver: Chrome, corner_address: str) -> None:
    driver.get(corner_address + "/p/isle-of-quennet/sheet?sheet=1&part=5")
    until(driver, lambda d: d.find_elements(By.CSS_SELECTOR, '.placed-part[data-part="5"][aria-pressed="true"]'))


def test_the_sheet_is_enlarged_and_a_note_goes_to_its_place(driver: Chrome, demo_address: str, demo: Path) -> None:
    driver.get(f"{demo_address}{PROOF}")
    until(driver, lambda d: d.find_elements(By.CSS_SELECTOR, ".mark"))
    heard(driver)

    def seen() -> dict[str, float]:
        """Per cent, and how wide marks are and where the first one is, in pixels of the desk."""
        return dict(
            driver.execute_script(
                """const box = document.querySelector(".mark circle").getBoundingClientRect();
                const desk = document.getElementById("proof-desk").getBoundingClientRect();
                return {zoom: parseInt(document.getElementById("proof-zoom").textContent), mark: box.width,
                  x: box.x + box.width / 2 - desk.x - desk.width / 2,
                  y: box.y + box.height / 2 - desk.y - desk.height / 2}"""
            )
        )

    whole = seen()
    assert 24 <= whole["mark"] <= 30
    desk = find(driver, "#proof-desk")
    origin = ScrollOrigin.from_element(desk, round(whole["x"]), round(whole["y"]))
    ActionChains(driver).scroll_from_origin(origin, 0, -700).perform()
    larger = until(driver, lambda d: seen() if seen()["zoom"] > 2 * whole["zoom"] else None)
    # What lies under the pointer stays there, and marks stay as large.
    assert abs(larger["x"] - whole["x"]) < 3
    assert abs(larger["y"] - whole["y"]) < 3
    assert abs(larger["mark"] - whole["mark"]) < 1
    desk.send_keys(Keys.ARROW_RIGHT, "-")
    assert seen()["zoom"] < larger["zoom"]
    desk.send_keys(Keys.HOME)
    assert seen() == whole
    number = find(driver, ".mark").get_dom_attribute("data-note")
    find(driver, f"#note-{number} > details > summary").click()
    there = until(driver, lambda d: seen() if seen()["zoom"] > whole["zoom"] else None)
    assert abs(there["x"]) < 2
    assert abs(there["y"]) < 2
    assert abs(there["mark"] - whole["mark"]) < 2

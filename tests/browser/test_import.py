"""A survey's own table comes in by its mapping: seen, meant by keys alone, saved, and proposed again."""

from __future__ import annotations

from pathlib import Path

from selenium.webdriver import Chrome, Keys
from selenium.webdriver.support.ui import Select

from orvik.store.read_project import ReadProject
from tests.browser.hands import MapHand, find, heard, text_of, until

PROJECT = "/p/isle-of-quennet"
READINGS = "Easting,Northing,FEATURE,STRIKE_DEG,DIPDIR2,DIP,DIP_2\n" + "".join(
    f'{512000 + 60 * i},6802000,"{kind}",{10 * i},{10 * i + 90},30,\n'
    for i, kind in enumerate(["Bedding, showing strike and dip", "Joint set 1", "Bedding, overturned", "Cren. lin."])
)


def brought(driver: Chrome, address: str, file: Path) -> None:
    """Choose a file in Ground, and wait for its page."""
    driver.get(f"{address}{PROJECT}/ground")
    until(driver, lambda d: d.find_elements("css selector", "#map[data-painted]"))
    find(driver, 'input[aria-label="A file of features"]').send_keys(str(file))
    until(driver, lambda d: d.find_elements("css selector", "#import-now"))
    heard(driver)


def test_a_mapping_is_made_by_keys_saved_and_proposed_again(
    driver: Chrome, corner_address: str, corner: Path, tmp_path: Path
) -> None:
    first, second = tmp_path / "readings.csv", tmp_path / "readings-2.csv"
    first.write_text(READINGS)
    second.write_text(READINGS.replace("6802000", "6802400"))
    project = ReadProject.open(corner)
    before = project.count("points")
    brought(driver, corner_address, first)
    assert "4 values, 3 known" in text_of(driver, ".mapping-table")
    assert "agrees with strike + 90" in text_of(driver, ".mapping-table")
    assert "Rows that ask1" in text_of(driver, "#import-outcome")
    # What asks stands first: its field is reached by Tab, typed, and read at once when it is left.
    asked = find(driver, "#value-kind-1")
    assert asked.get_property("value") == ""
    hand = MapHand(driver, 0, 0, 1)
    for _ in range(80):
        if driver.switch_to.active_element.get_attribute("id") == "value-kind-1":
            break
        hand.keys(Keys.TAB)
    assert driver.switch_to.active_element.get_attribute("id") == "value-kind-1"
    hand.keys("Foliation", Keys.TAB)
    until(driver, lambda d: "Points4" in text_of(d, "#import-outcome"))
    heard(driver)
    # Where one was at work, one is still.
    assert driver.switch_to.active_element.get_attribute("id") == "value-kind-2"
    assert find(driver, "#value-kind-1").get_property("value") in (
        "foliation",
        "bedding, overturned",
        "bedding",
        "joint",
    )
    find(driver, "#mapping-name").send_keys("Survey of 1998")
    find(driver, "#save-mapping").send_keys(Keys.ENTER)
    until(driver, lambda d: "“Survey of 1998” is saved" in text_of(d, "#mapping-saved"))
    heard(driver)
    driver.execute_script("document.getElementById('import-now').focus()")
    hand.keys(Keys.ENTER)
    until(driver, lambda d: "4 features of readings.csv are saved" in text_of(d, "#import-outcome"))
    assert project.count("points") == before + 4
    brought(driver, corner_address, second)
    assert "“Survey of 1998” fits" in text_of(driver, "#import-left")
    assert "Points4" in text_of(driver, "#import-outcome")
    # Without it the word asks again.
    Select(find(driver, "#saved-mapping")).select_by_visible_text("none saved")
    until(driver, lambda d: "Rows that ask1" in text_of(d, "#import-outcome"))
    find(driver, "#import-outcome .plain-button").click()
    until(driver, lambda d: d.current_url.endswith("/ground"))
    # The file that is here already brings nothing.
    brought(driver, corner_address, first)
    assert "It is here already" in text_of(driver, "#import-outcome .refusal")
    assert project.count("points") == before + 4
    project.close()

"""A survey's delivery becomes a formed, coloured and explained map in the browser, click by click, each counted."""

from __future__ import annotations

from pathlib import Path

import shapely
from selenium.webdriver import Chrome, Keys
from selenium.webdriver.support.ui import Select

from orvik.demo import sund
from orvik.store.read_project import ReadProject
from tests.browser.hands import find, heard, text_of, until

CLICKS, FIELDS = 40, 10


class Counted:
    """Clicks and typed fields of a person, counted; choosing in a list is a click, dropping files another."""

    def __init__(self, driver: Chrome) -> None:
        self.driver = driver
        self.clicks = self.typed = 0

    def click(self, css: str) -> None:
        heard(self.driver)
        self.driver.execute_script("document.querySelector(arguments[0]).scrollIntoView({block: 'center'})", css)
        find(self.driver, css).click()
        self.clicks += 1
        heard(self.driver)

    def choose(self, css: str, value: str) -> None:
        heard(self.driver)
        Select(find(self.driver, css)).select_by_value(value)
        self.clicks += 1
        heard(self.driver)

    def type(self, css: str, text: str) -> None:
        heard(self.driver)
        field = find(self.driver, css)
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(text, Keys.TAB)
        self.typed += 1
        heard(self.driver)

    def drop(self, css: str, *files: Path) -> None:
        find(self.driver, css).send_keys("\n".join(map(str, files)))
        self.clicks += 1


def imported(driver: Chrome) -> None:
    until(driver, lambda d: "are saved" in text_of(d, "#import-outcome"))
    heard(driver)


def test_a_delivery_becomes_a_map(driver: Chrome, empty: tuple[str, Path], tmp_path: Path) -> None:
    address, folder = empty
    files = {path.name: path for path in sund.write(tmp_path / "sund")}
    person = Counted(driver)
    driver.get(address)
    # Begun with the files: system, border and scale are there.
    names = ("geologie_flaechen.geojson", "lexikon.csv", "messungen.csv", "stoerungen.geojson")
    person.drop("#begin-files", *(files[name] for name in names))
    until(driver, lambda d: d.find_elements("css selector", ".begun li"))
    heard(driver)
    listed = [li.text.split()[0] for li in driver.find_elements("css selector", ".begun li")]
    assert listed == ["stoerungen.geojson", "geologie_flaechen.geojson", "messungen.csv", "lexikon.csv"]
    assert "10 map units, there from the beginning" in text_of(driver, ".begun")
    assert find(driver, "input[name=crs]:checked").get_dom_attribute("value") == sund.CRS
    person.type("#name", "Sund")
    person.click(".form-end .main-button")
    # Faults first, then the areas as linework along them, then the readings.
    until(driver, lambda d: d.find_elements("css selector", "#import-now"))
    person.click("#import-now")
    imported(driver)
    person.click("#next-file")
    until(driver, lambda d: d.find_elements("css selector", "#as-linework"))
    person.choose("#as-linework", "lines")
    person.click("#import-now")
    imported(driver)
    person.click("#next-file")
    until(driver, lambda d: "Streifung" in (d.page_source or ""))
    heard(driver)
    asks = driver.execute_script("return [...document.querySelectorAll('.value-row input.caution')].map(i => i.id)")
    assert len(asks) == 1
    person.type(f"#{asks[0]}", "lineation")
    until(driver, lambda d: f"Points{sund.READINGS}" in text_of(d, "#import-outcome"))
    person.click("#import-now")
    imported(driver)
    # Formed, in the names and colours of the lexicon.
    person.click("#import-outcome .main-button")
    until(driver, lambda d: d.find_elements("css selector", "#map[data-painted]"))
    person.click("#form-units")
    until(driver, lambda d: "formed" in text_of(d, "#map-words"))
    # A page with the explanation.
    person.click(".traverse .station:nth-of-type(4)")
    until(driver, lambda d: d.find_elements("css selector", "#sheet-name"))
    person.type("#sheet-name", "Sund")
    person.choose("#sheet-paper", "A1")
    person.click(".new-sheet .main-button")
    until(driver, lambda d: "sheet=" in d.current_url or d.find_elements("css selector", "#desk-busy"))
    heard(driver)
    project = ReadProject.open(folder / "sund.gpkg")
    units = project.units_by_code()
    areas = project.features("areas")
    assert set(areas.columns["map_unit"]) == set(units) == {row[0] for row in sund.LEXICON}
    # Faults part what lies over them; the ground is the same.
    there = shapely.union_all([area for _, area in sund.sund().areas])
    assert shapely.union_all(areas.geometries).symmetric_difference(there).area < 8_000
    assert units["JUR-UPP-VIK-1"].name == "Vik Formation"
    assert units["JUR-UPP-VIK-1"].colour_typed == "CMYK 44 6 10 2"
    assert [sheet.name for sheet in project.sheets()] == ["Sund"]
    project.close()
    # Thirteen clicks and three fields when this was written.
    assert person.clicks <= CLICKS
    assert person.typed <= FIELDS

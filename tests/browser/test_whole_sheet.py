"""A sheet from an empty page to a measured PDF, with real pointer and key events, and the same on another paper."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pypdfium2
import pyproj
import pytest
import shapely
from selenium.webdriver import Chrome
from selenium.webdriver.support.ui import Select

from orvik.core.ink.affine import apply
from orvik.core.sheet.output.compose import Composition
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts.explanation.explanation import Explanation
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.store.read_project import ReadProject
from orvik.usecases.sheet.composing import composed
from orvik.usecases.sheet.printing import sheet_pdf
from tests.browser.hands import find, heard, text_of, typed, until
from tests.press.measure import segments

pytestmark = pytest.mark.browser

NAME = "All of Quennet"
MAIN = {"x": 25.0, "y": 35.0, "width": 420.0, "height": 330.0}
INSET = {"x": 470.0, "y": 40.0, "width": 120.0, "height": 100.0}


def make_empty(driver: Chrome, address: str, stem: str) -> None:
    driver.get(f"{address}/p/{stem}/sheet")
    until(driver, lambda d: "Page" in text_of(d, "#part-slip h2"))
    find(driver, ".tray-section summary").click()
    until(driver, lambda d: d.find_elements("css selector", "#sheet-name"))
    find(driver, "#sheet-name").send_keys(NAME)
    Select(find(driver, "#sheet-template")).select_by_value("empty")
    Select(find(driver, "#sheet-paper")).select_by_value("A1")
    # Shown before it is taken.
    until(driver, lambda d: "841 × 594 mm" in text_of(d, ".preview"))
    find(driver, ".tray-section .main-button").click()
    until(driver, lambda d: "sheet=" in d.current_url)
    until(driver, lambda d: find(d, "#desk").get_dom_attribute("data-width") == "841.0")
    until(driver, lambda d: "Page" in text_of(d, "#part-slip h2"))


def add(driver: Chrome, kind: str) -> str:
    """Place a part; gives its number."""
    before = {r.get_dom_attribute("data-part") for r in driver.find_elements("css selector", ".placed-part")}

    def placed(there: Chrome) -> str | None:
        forms = there.find_elements("css selector", "#part-form")
        number = forms[0].get_dom_attribute("data-part") if forms else None
        return number if number not in before else None

    find(driver, f'.part-kind[data-kind="{kind}"]').click()
    number = until(driver, placed)
    heard(driver)
    return str(number)


def put(driver: Chrome, **places: float) -> None:
    for name, value in places.items():
        typed(driver, f"#part-{name}", f"{value:g}")
        heard(driver)
        until(driver, lambda d, n=name, v=value: find(d, f"#part-{n}").get_property("value") == f"{v:.2f}")


def choose(driver: Chrome, css: str, value: str) -> None:
    Select(find(driver, css)).select_by_value(value)
    heard(driver)


def lay_out(driver: Chrome) -> str:
    """Everything on the page; gives the name of the row that is hidden in the explanation."""
    main = add(driver, "map_panel")
    put(driver, width=MAIN["width"], height=MAIN["height"], x=MAIN["x"], y=MAIN["y"])
    choose(driver, "#part-neatline", "rectangle")
    typed(driver, "#part-rotation", "12")
    heard(driver)
    add(driver, "map_panel")
    put(driver, width=INSET["width"], height=INSET["height"], x=INSET["x"], y=INSET["y"])
    choose(driver, "#part-neatline", "rectangle")
    typed(driver, "#part-system", "EPSG:3057")
    heard(driver)
    typed(driver, "#part-scale", "1:10 000")
    heard(driver)
    find(driver, f"#part-footprints-{main}").click()
    heard(driver)
    add(driver, "explanation")
    choose(driver, "#part-panel", main)
    typed(driver, "#part-columns", "2")
    heard(driver)
    put(driver, x=470, y=160, width=200, height=250)
    hidden = edit_rows(driver)
    for kind, places in (
        ("scale_bar", {"x": 25.0, "y": 380.0, "width": 150.0}),
        ("fraction", {"x": 60.0, "y": 372.0}),
        ("north_arrow", {"x": 240.0, "y": 372.0, "width": 60.0, "height": 60.0}),
        ("credit_note", {"x": 320.0, "y": 380.0}),
        ("title", {"x": 25.0, "y": 12.0, "width": 500.0}),
    ):
        add(driver, kind)
        if kind not in ("title",):
            choose(driver, "#part-panel", main)
        put(driver, **places)
        if kind == "north_arrow":
            choose(driver, "#part-design", "diagram")
            find(driver, "#part-in_mils").click()
            heard(driver)
            typed(driver, "#part-day", "2026-07-02")
            heard(driver)
    add(driver, "graticule")
    choose(driver, "#part-panel", main)
    choose(driver, "#part-lines_of", "geographic")
    choose(driver, "#part-style", "crosses")
    until(driver, lambda d: "Essentials 8 of 11" in text_of(d, "#essentials-strip"))
    return hidden


def rows_shown(driver: Chrome) -> list[str]:
    return [b.text for b in driver.find_elements("css selector", ".row-name")]


def row(driver: Chrome, name: str) -> None:
    """Select a row of the explanation."""
    until(driver, lambda d: name in rows_shown(d))
    next(b for b in driver.find_elements("css selector", ".row-name") if b.text == name).click()
    until(driver, lambda d: d.find_elements("css selector", ".selected #row-name"))
    heard(driver)


def edit_rows(driver: Chrome) -> str:
    """Rename the first row, hide the last and add one; gives the name of the hidden one."""
    until(driver, rows_shown)
    first, last = rows_shown(driver)[0], rows_shown(driver)[-1]
    row(driver, first)
    typed(driver, "#row-name", "Till of the last glaciers")
    until(driver, lambda d: "Till of the last glaciers" in rows_shown(d))
    heard(driver)
    row(driver, last)
    next(b for b in driver.find_elements("css selector", ".row-fields button") if b.text == "Hide").click()
    until(driver, lambda d: "1 hidden" in text_of(d, "#explanation-rows"))
    heard(driver)
    find(driver, ".row-add button").click()
    until(driver, lambda d: "Text" in rows_shown(d))
    heard(driver)
    row(driver, "Text")
    typed(driver, "#row-name", "All of it is invented")
    until(driver, lambda d: "All of it is invented" in rows_shown(d))
    heard(driver)
    return last


def kept(path: Path, name: str) -> tuple[Composition, list[Part], bytes]:
    project = ReadProject.open(path)
    try:
        sheet = next(s for s in project.sheets() if s.name == name)
        made, parts = composed(project, sheet.id or 0), project.parts(sheet.id or 0)
    finally:
        project.close()
    return made, parts, sheet_pdf(path, sheet.id or 0)


def words_of(data: bytes) -> str:
    return str(pypdfium2.PdfDocument(data)[0].get_textpage().get_text_bounded()).replace("\r\n", "\n")


def check_pdf(made: Composition, parts: list[Part], data: bytes, size: tuple[float, float]) -> None:
    """Typed places, crossings and the footprint in the PDF, all within a tenth of a millimetre."""
    page = pypdfium2.PdfDocument(data)[0]
    assert (page.get_width() * 25.4 / 72, page.get_height() * 25.4 / 72) == pytest.approx(size, abs=0.1)
    paths = [np.array(path) for path in segments(data)]
    corners = {tuple(np.round(place, 1).tolist()) for path in paths if len(path) in (4, 5) for place in path}
    panels = [p for p in parts if isinstance(p.settings, MapPanel)]
    for part in panels:
        for x, y in ((part.x, part.y), (part.x + part.width, part.y + part.height)):
            assert min(abs(x - cx) + abs(y - cy) for cx, cy in corners) < 0.15, part.label
    main, inset = (made.panels[part.id or 0] for part in panels)
    assert (main.rotation, inset.crs.text) == (12.0, "EPSG:3057")
    # The crossings of the graticule, through PROJ.
    way = pyproj.Transformer.from_crs(main.crs.text, 4326, always_xy=True)
    longitude, latitude = way.transform(*main.corners.T)
    grid = [
        (i / 60, j / 60)
        for i in range(int(min(longitude) * 60) - 1, int(max(longitude) * 60) + 2)
        for j in range(int(min(latitude) * 60) - 1, int(max(latitude) * 60) + 2)
    ]
    ground = np.column_stack(way.transform(*np.array(grid).T, direction="INVERSE"))
    wanted = apply(main.to_page, ground)
    bars = [p for p in paths if len(p) == 2 and 1.9 < np.hypot(*(p[1] - p[0])) < 2.1]
    middles = np.array([bar.mean(axis=0) for bar in bars])
    inside = middles[shapely.contains_xy(main.frame.buffer(-1), middles[:, 0], middles[:, 1])]
    away = np.hypot(*(inside[:, None, :] - wanted[None, :, :]).transpose(2, 0, 1)).min(axis=1)
    assert (away < 0.1).sum() >= 10
    # The frame of the inset on the main map, place by place through PROJ.
    back = pyproj.Transformer.from_crs(3057, main.crs.text, always_xy=True)
    ring = apply(main.to_page, np.column_stack(back.transform(*inset.corners.T)))
    apart = [
        float(np.hypot(*(p[:, None, :] - ring[None, :, :]).transpose(2, 0, 1)).min(axis=0).max())
        for p in paths
        if len(p) >= 4
    ]
    assert min(apart) < 0.1


def test_a_sheet_from_an_empty_page_and_on_another_paper(driver: Chrome, corner_address: str, corner: Path) -> None:
    make_empty(driver, corner_address, corner.stem)
    hidden = lay_out(driver)
    made, parts, data = kept(corner, NAME)
    main = next(p for p in parts if isinstance(p.settings, MapPanel))
    assert isinstance(main.settings, MapPanel)
    assert (main.x, main.y, main.width, main.height) == tuple(MAIN.values())
    assert main.settings.scale == 25_000
    check_pdf(made, parts, data, (841, 594))
    words = words_of(data)
    for said in ("Till of the last glaciers", "All of it is invented", "Magnetic north", "mils", "1:25", "EPSG:32628"):
        assert said in words, said
    assert hidden not in words
    (explanation,) = [p.settings for p in parts if isinstance(p.settings, Explanation)]
    assert explanation.columns == 2
    # On another paper: the main panel keeps its exact scale, and what does not fit is said.
    find(driver, "#show-page").click()
    until(driver, lambda d: d.find_elements("css selector", "#duplicate-paper"))
    find(driver, "#on-another-paper summary").click()
    choose(driver, "#duplicate-paper", "own")
    find(driver, "#duplicate-size").send_keys("60 x 40 cm")
    find(driver, "#duplicate-said").find_element("xpath", "preceding-sibling::form").submit()
    until(driver, lambda d: "not all of it fits" in text_of(d, "#duplicate-said"))
    copied, others, copy = kept(corner, f"{NAME} 600 × 400 mm")
    panel = next(p for p in others if isinstance(p.settings, MapPanel))
    assert isinstance(panel.settings, MapPanel)
    assert (panel.settings.scale, panel.width) == (25_000, 420.0)
    check_pdf(copied, others, copy, (600, 400))

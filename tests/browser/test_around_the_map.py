"""Around the map by hand: a join that is mended, and a unit that is renamed while every part of its sheet follows."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pytest
import shapely
from selenium.webdriver import ActionChains, Chrome
from selenium.webdriver.common.actions.wheel_input import ScrollOrigin
from selenium.webdriver.remote.webelement import WebElement

from orvik.core.features.feature import Feature
from orvik.core.ink.primitives import Text, walk
from orvik.core.sheet.parts.correlation.box_moves import BoxMove
from orvik.demo.rock import BORDER
from orvik.store import rows
from orvik.store.journal import Change
from orvik.store.project import opened_for_writing
from orvik.store.read_project import opened_for_reading
from orvik.store.tables.imprint import imprint_change, imprint_of
from orvik.store.tables.neighbours import neighbours
from orvik.usecases.compile.features import feature_changes
from orvik.usecases.export.press_profile import give_profile
from orvik.usecases.export.press_run import profile_of
from orvik.usecases.sheet.composing import composed
from orvik.usecases.sheet.parts import PartChange, change_part
from orvik.usecases.symbols.units import add_unit, move_unit_to
from tests.browser.hands import find, heard, text_of, typed, until, value_of
from tests.browser.test_proof import open_note
from tests.neighbouring import sund
from tests.press.made_profile import made_profile

pytestmark = pytest.mark.browser
PROJECT = "/p/isle-of-quennet"


def test_a_join_is_mended(driver: Chrome, demo_address: str, demo: Path, tmp_path: Path) -> None:
    _, south, east, north = BORDER
    y = (south + north) / 2
    with opened_for_writing(demo) as project:
        way = shapely.LineString([(east - 500, y), (east, y)])
        line = Feature("lines", way, "scratch_boundary", capture_scale=6_250)
        project.apply("draw", feature_changes(project, project.srs_id, [line], (), ()))
    file = sund(tmp_path, 30.0, "scratch_boundary")
    driver.get(f"{demo_address}{PROJECT}/ground")
    until(driver, lambda d: d.find_elements("css selector", "#neighbours"))
    find(driver, "#neighbours > details > summary").click()
    find(driver, "#neighbour-file").send_keys(str(file))
    find(driver, "#neighbour-read .plain-button").click()
    until(driver, lambda d: "Sund" in text_of(d, "#neighbours") and "east" in text_of(d, "#neighbours"))
    driver.get(f"{demo_address}{PROJECT}/proof")
    number = open_note(driver, "1.20\u00a0mm beside that of Sund")
    button = find(driver, f"#{number} .note-deeds .plain-button")
    assert button.text == "Move its end to meet"
    button.click()
    heard(driver)
    until(driver, lambda d: "beside that of Sund" not in text_of(d, "#margin-notes"))
    with opened_for_reading(demo) as project:
        (held,) = [n for n in neighbours(project) if n.file]
        lines = project.features("lines")
        (mine,) = [
            line
            for kind, line in zip(lines.columns["kind"], lines.geometries, strict=True)
            if kind == "scratch_boundary" and line.distance(shapely.Point(east, y + 30.0)) < 1
        ]
        assert mine.coords[-1] == pytest.approx(held.edge.lines[0].geometry.coords[0], abs=1e-6)


def printed(demo: Path, kind: str) -> list[str]:
    with opened_for_reading(demo) as project:
        numbers = {f"part-{part.id}" for part in project.parts(1) if part.kind == kind}
        groups = composed(project, 1, 20.0).groups
        return [t.run.chars for group in groups if group.name in numbers for t in walk([group]) if isinstance(t, Text)]


def test_a_renamed_unit_is_so_in_every_part(driver: Chrome, demo_address: str, demo: Path) -> None:
    """Renamed and given another code: map, description, correlation and section follow; moved, the description does."""
    driver.get(f"{demo_address}{PROJECT}/sheet")
    until(driver, lambda d: "Harrack Sandstone" in page_words(d))
    with opened_for_writing(demo) as project:
        number, unit = next((n, u) for n, u in project.units() if u.code == "Jh")
        changed = replace(unit, name="Sule Sandstone", label="Jz")
        project.apply("rename a unit", [rows.unit_change(number, changed)])
    until(driver, lambda d: "Sule Sandstone" in page_words(d) and "Harrack Sandstone" not in page_words(d))
    words = " ".join(printed(demo, "description"))
    assert "Sule Sandstone" in words
    assert "Harrack Sandstone" not in words
    for kind in ("correlation", "map_panel", "section", "description"):
        assert "Jz" in printed(demo, kind), kind
        assert "Jh" not in printed(demo, kind), kind
    order = [word for word in printed(demo, "description") if word in ("Kw", "Jz")]
    with opened_for_writing(demo) as project:
        held = {u.code: (n, u) for n, u in project.units()}
        (a, one), (b, two) = held["Kw"], held["Jh"]
        places = ((a, replace(one, position=two.position)), (b, replace(two, position=one.position)))
        project.apply("reorder", [rows.unit_change(n, unit) for n, unit in places])
    assert order == ["Kw", "Jz"]
    assert [word for word in printed(demo, "description") if word in ("Kw", "Jz")] == ["Jz", "Kw"]


def page_words(driver: Chrome) -> str:
    """All that is set on the page, of which each run is an element of its own."""
    read: Callable[[str], str] = driver.execute_script
    return str(read("return [...document.querySelectorAll('#page-layers text')].map((t) => t.textContent).join(' ')"))


def test_a_split_unit_is_two_in_every_part(driver: Chrome, demo_address: str, demo: Path) -> None:
    """Half of the areas of a unit are given to a new one below it: map, description and correlation have both."""
    driver.get(f"{demo_address}{PROJECT}/sheet")
    until(driver, lambda d: "Wray Siltstone" in page_words(d))
    with opened_for_writing(demo) as project:
        column = [unit for _, unit in project.units()]
        whole = next(unit for unit in column if unit.code == "Kw")
        lower = replace(
            whole, code="Kwl", label="Kwl", name="Lower Wray Shale", age_from="Berriasian", age_to="Berriasian"
        )
        entry = add_unit(project, lower)
        move_unit_to(project, entry.changes[0].id, column.index(whole) + 1)
        areas = project.features("areas")
        of_unit = [
            (shape.area, int(number))
            for number, code, shape in zip(areas.ids, areas.columns["map_unit"], areas.geometries, strict=True)
            if code == "Kw"
        ]
        largest = max(of_unit)[1]
        project.apply("split", [Change("areas", largest, {"map_unit": "Kwl"})])
    until(driver, lambda d: "Lower Wray Shale" in page_words(d))
    assert len(of_unit) > 1
    for kind in ("correlation", "map_panel", "description"):
        words = printed(demo, kind)
        assert "Kwl" in words, kind
        assert "Kw" in words, kind
    order = [word for word in printed(demo, "description") if word in ("Kp", "Kw", "Kwl", "Jh")]
    assert order == ["Kp", "Kw", "Kwl", "Jh"]


def test_a_box_of_the_correlation_is_dragged(driver: Chrome, demo_address: str, demo: Path) -> None:
    """Its lower edge upwards within its age, the box into another lane; typed by keys alone, and taken back."""
    with opened_for_reading(demo) as project:
        number = next(part.number for part in project.parts(1) if part.kind == "correlation")
    driver.get(f"{demo_address}{PROJECT}/sheet?part={number}")
    until(driver, lambda d: d.find_elements("css selector", ".row-box[data-piece]"))

    def box(code: str) -> WebElement:
        return find(driver, f'.row-box[data-piece="{code}"]')

    def held() -> dict[str, BoxMove]:
        with opened_for_reading(demo) as project:
            return dict(project.part(number).settings.moves)  # type: ignore[attr-defined]

    # Nearer, so that edges can be told from the whole.
    ActionChains(driver).scroll_from_origin(ScrollOrigin.from_element(box("Kw")), 0, -900).perform()
    until(driver, lambda d: box("pCg").rect["height"] > 20)
    tall = box("pCg").rect["height"]
    # The lower edge is taken 2 pixels inside.
    ActionChains(driver).move_to_element_with_offset(box("pCg"), 0, int(tall / 2) - 2).click_and_hold().move_by_offset(
        0, -int(tall / 3)
    ).release().perform()
    heard(driver)
    until(driver, lambda d: "pCg" in held())
    assert held()["pCg"].younger == 0.0
    assert 0.3 < held()["pCg"].older < 0.9
    until(driver, lambda d: "Drawn from" in text_of(d, "#correlation-boxes"))
    until(driver, lambda d: box("pCg").rect["height"] < 0.8 * tall)
    ActionChains(driver).drag_and_drop_by_offset(box("Kw"), int(box("Kw").rect["width"] * 1.2), 0).perform()
    heard(driver)
    until(driver, lambda d: held().get("Kw") == BoxMove(1))
    # By keys alone: the fields of a box.
    until(driver, lambda d: value_of(d, "#box-lane") == "2")
    typed(driver, "#box-lane", "1")
    heard(driver)
    until(driver, lambda d: "Kw" not in held() or held()["Kw"].lane == 0)
    (everything,) = driver.find_elements("css selector", "#correlation-boxes > .slip-end .plain-button")
    everything.click()
    heard(driver)
    until(driver, lambda d: held() == {})


def test_a_plate_is_looked_at_on_the_page(driver: Chrome, demo_address: str, demo: Path) -> None:
    with opened_for_writing(demo) as project:
        give_profile(project, profile_of("made.icc", made_profile()))
    driver.get(f"{demo_address}{PROJECT}/proof?sheet=3")
    until(driver, lambda d: d.find_elements("css selector", "#proof-desk image"))
    driver.execute_script("document.getElementById('press-plates').closest('details').open = true")

    def shown() -> str:
        return str(find(driver, "#proof-desk image").get_dom_attribute("href"))

    printed = shown()
    for plate in ("black", "all", ""):
        button = find(driver, f'.plates [data-plate$="{plate}.png"]' if plate else '.plates [data-plate=""]')
        driver.execute_script("arguments[0].scrollIntoView()", button)
        button.click()
        wanted = f"{plate}.png" if plate else printed
        until(driver, lambda d, wanted=wanted: shown().endswith(wanted))  # type: ignore[misc]
        assert button.get_dom_attribute("aria-pressed") == "true"
    # The page comes anew after an edit elsewhere, and shows the plate again; one that cannot be drawn is said.
    find(driver, '.plates [data-plate$="cyan.png"]').click()
    until(driver, lambda d: shown().endswith("cyan.png"))
    with opened_for_writing(demo) as project:
        last = project.parts(3)[-1]
        change_part(project, last.number, PartChange(place={"x": last.x + 5.0}))
    until(driver, lambda d: find(d, ".proof-sheet").get_dom_attribute("data-printed") != printed)
    until(driver, lambda d: shown().endswith("cyan.png"))
    with opened_for_writing(demo) as project:
        project.apply("no profile", [imprint_change(replace(imprint_of(project), profile=""))])
    find(driver, '.plates [data-plate$="magenta.png"]').click()
    until(driver, lambda d: "cannot be drawn" in text_of(d, "body"))
    until(driver, lambda d: not shown().endswith("cyan.png"))

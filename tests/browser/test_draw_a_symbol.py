"""A symbol of one's own in a new project: drawn on the grid, put on summits, and every one of them follows."""

from __future__ import annotations

import io
import re
import urllib.request
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from selenium.webdriver import Chrome, Keys
from selenium.webdriver.support.ui import Select

from orvik.store.read_project import ReadProject
from orvik.store.tables.symbol_book import drawn_symbols
from tests.browser.hands import MapHand, find, heard, text_of, typed, until, value_of
from tests.browser.test_slice import MIDDLE, SOUTH, WEST

pytestmark = pytest.mark.browser
UNITS = {"Qal": "Alluvium", "Kp": "Mudstone", "Jh": "Sandstone", "Jc": "Conglomerate", "pCg": "Gneiss"}
SUMMITS = ((1000, 1000), (2000, 2600), (3800, 1600))


def five_units(driver: Chrome, address: str) -> None:
    driver.get(f"{address}/p/outer-stills/symbols")
    for code, name in (
        ("Qal", "Alluvium"),
        ("Kp", "Mudstone"),
        ("Jh", "Sandstone"),
        ("Jc", "Conglomerate"),
        ("pCg", "Gneiss"),
    ):
        find(driver, "#strata .tray-head .plain-button").click()
        until(driver, lambda d: "New unit" in text_of(d, "#unit-slip"))
        heard(driver)
        find(driver, "#unit-code").send_keys(code)
        find(driver, "#unit-name").send_keys(name)
        find(driver, "#unit-slip .main-button").click()
        until(driver, lambda d, name=name: name in text_of(d, "#strata"))  # type: ignore[misc]
        heard(driver)


def three_summits(driver: Chrome, address: str) -> None:
    driver.get(f"{address}/p/outer-stills/symbols")
    button = 'button[data-tray="summit-certain"]'
    driver.execute_script("for (const d of document.querySelectorAll('details')) d.open = true")
    until(driver, lambda d: d.find_elements("css selector", button))
    driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", find(driver, button))
    find(driver, button).click()
    until(driver, lambda d: find(d, button).get_attribute("aria-pressed") == "true")
    driver.get(f"{address}/p/outer-stills/compile")
    hand = MapHand(driver, *MIDDLE, 25_000).wait()
    find(driver, '.pen[data-pen="summit-certain"]').click()
    for x, y in SUMMITS:
        revision = hand.revision()
        hand.click(WEST + x, SOUTH + y)
        hand.kept(revision + 1)


def inked(driver: Chrome, hand: MapHand, x: float, y: float) -> tuple[int, int, int]:
    """Dark dots within 4 mm of a place of the map, and how wide and how high they reach."""
    heard(driver)
    until(driver, lambda d: find(d, "#map").get_dom_attribute("data-painted"))
    picture = Image.open(io.BytesIO(find(driver, "#map-field").screenshot_as_png)).convert("L")
    px, py = hand.offset(x, y)
    left, top = picture.width // 2 + px, picture.height // 2 + py
    cut = np.asarray(picture.crop((left - 16, top - 16, left + 17, top + 17))) < 120
    rows, columns = np.flatnonzero(cut.any(axis=1)), np.flatnonzero(cut.any(axis=0))
    return int(cut.sum()), int(np.ptp(columns)) + 1 if len(columns) else 0, int(np.ptp(rows)) + 1 if len(rows) else 0


def on_the_map(driver: Chrome, address: str) -> list[tuple[int, int, int]]:
    driver.get(f"{address}/p/outer-stills/compile")
    hand = MapHand(driver, *MIDDLE, 25_000).wait()
    heard(driver)
    driver.execute_async_script("setTimeout(arguments[0], 400)")
    return [inked(driver, hand, WEST + x, SOUTH + y) for x, y in SUMMITS]


def test_a_triangle_on_summits_made_smaller_and_solid(driver: Chrome, outer_stills: tuple[str, Path]) -> None:
    address, folder = outer_stills
    five_units(driver, address)
    three_summits(driver, address)
    driver.get(f"{address}/p/outer-stills/symbols/draw")
    find(driver, "#new-title").send_keys("Peak")
    find(driver, "#begin-symbol").click()
    until(driver, lambda d: d.current_url.endswith("?symbol=peak"))
    Select(find(driver, "#wear-symbol")).select_by_value("summit")
    find(driver, "#put-on").click()
    until(driver, lambda d: text_of(d, "#symbol-wearers") == "3")

    # The corner is dragged to 2.5 mm: larger, and open.
    heard(driver)
    grip = until(driver, lambda d: d.find_elements("css selector", '[data-grip="reach"]'))[0]
    scale = driver.execute_script("return document.querySelector('#draw-grid').getScreenCTM().a")
    hand = MapHand(driver, *MIDDLE, 25_000)
    hand.chain().click_and_hold(grip).move_by_offset(0, -round(0.6 * scale)).move_by_offset(
        0, -round(0.5 * scale)
    ).release().perform()
    until(driver, lambda d: value_of(d, "#draw-reach") == "2.5")
    assert value_of(driver, "#draw-turned") == "0"
    large = on_the_map(driver, address)
    assert all(width >= 14 for _, width, _ in large)

    # Smaller by a typed figure, solid by a key; each of the summits follows, on the map and on the sheet.
    driver.get(f"{address}/p/outer-stills/symbols/draw?symbol=peak")
    typed(driver, "#draw-reach", "1.2")
    until(driver, lambda d: "2.08 mm" in text_of(d, ".grid-measure"))
    # What clears the figure from the grid is in proportion to it, and hides nothing of the symbol.
    assert driver.execute_script(
        "const s = getComputedStyle(document.querySelector('.grid-measure'));"
        "return parseFloat(s.strokeWidth) < parseFloat(s.fontSize) / 2"
    )
    find(driver, "#draw-bench").click()
    hand.keys("w")
    until(driver, lambda d: not d.find_elements("css selector", "#draw-filled:not(:checked)"))
    small = on_the_map(driver, address)
    for (dots, width, height), (_, was_wide, _) in zip(small, large, strict=True):
        assert width < was_wide - 3
        assert dots > 0.42 * width * height, "solid"
    assert len(set(small)) == 1 or max(s[0] for s in small) - min(s[0] for s in small) < 8
    ink = urllib.request.urlopen(f"{address}/p/outer-stills/symbols/draw/peak").read().decode()
    assert "All of them follow" in ink
    project = ReadProject.open(folder / "outer-stills.gpkg")
    ((_, kept),) = drawn_symbols(project)
    project.close()
    assert (kept.pieces[0].reach, bool(kept.pieces[0].fill), kept.worn_by) == (1.2, True, ("summit",))

    # Undo takes the filling back, everywhere.
    driver.get(f"{address}/p/outer-stills/symbols/draw?symbol=peak")
    find(driver, "#undo").click()
    until(driver, lambda d: d.find_elements("css selector", "#draw-filled:not(:checked)"))
    heard(driver)
    find(driver, "#remove-symbol").click()
    until(driver, lambda d: d.current_url.endswith("/symbols/draw") and "None yet" in text_of(d, "#draw-left"))


def test_lines_patterns_svg_and_keys(driver: Chrome, outer_stills: tuple[str, Path], tmp_path: Path) -> None:
    address, _ = outer_stills
    driver.get(f"{address}/p/outer-stills/symbols/draw")
    find(driver, "#new-title").send_keys("Old shore")
    Select(find(driver, "#new-family")).select_by_value("lines")
    find(driver, "#begin-symbol").click()
    until(driver, lambda d: d.current_url.endswith("?symbol=old_shore"))
    # A stroke beside the line, and ticks on its left side every four millimetres.
    find(driver, "#add-stroke").click()
    until(driver, lambda d: d.find_elements("css selector", "#stroke-offset-2"))
    typed(driver, "#stroke-offset-2", "0.6")
    typed(driver, "#stroke-dash-1", "1 0.4 0.2 0.4")
    find(driver, "#add-ornament").click()
    until(driver, lambda d: d.find_elements("css selector", "#ornament-form"))
    before = len(re.findall("<use", str(find(driver, ".trial").get_attribute("innerHTML"))))
    typed(driver, "#draw-spacing", "4")
    until(driver, lambda d: len(re.findall("<use", str(find(d, ".trial").get_attribute("innerHTML")))) > 1.5 * before)
    Select(find(driver, "#ornament-side")).select_by_value("left")
    heard(driver)
    # What cannot be is refused where it was typed, and nothing is changed.
    typed(driver, "#draw-spacing", "0")
    until(driver, lambda d: "0.5 mm apart" in text_of(d, "#ornament-form"))
    # By keys: one more like it, moved, taken away.
    find(driver, "#draw-bench").click()
    keys = MapHand(driver, *MIDDLE, 25_000)
    keys.keys("d")
    until(driver, lambda d: len(d.find_elements("css selector", ".grid-piece")) == 2)
    heard(driver)
    was = float(value_of(driver, "#draw-x"))
    find(driver, "#draw-bench").send_keys(Keys.ARROW_RIGHT)
    until(driver, lambda d: abs(float(value_of(d, "#draw-x")) - was - 0.1) < 1e-6)
    heard(driver)
    find(driver, "#draw-bench").send_keys(Keys.DELETE)
    until(driver, lambda d: len(d.find_elements("css selector", ".grid-piece")) == 1)
    heard(driver)
    # A script is refused; a drawing comes in.
    bad, good = tmp_path / "bad.svg", tmp_path / "good.svg"
    bad.write_text('<svg xmlns="http://www.w3.org/2000/svg"><script>1</script></svg>')
    good.write_text('<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 0L4 2L0 4Z"/></svg>')
    find(driver, "#svg-file").send_keys(str(bad))
    until(driver, lambda d: "script" in text_of(d, "#draw-left .refusal:not([hidden])"))
    find(driver, "#svg-file").send_keys(str(good))
    until(driver, lambda d: "Line" in text_of(d, "#draw-left .piece-row[aria-pressed]"))
    heard(driver)
    # A pattern shows its neighbours, and units can be filled with it.
    find(driver, "#new-title").send_keys("Spots")
    Select(find(driver, "#new-family")).select_by_value("patterns")
    find(driver, "#begin-symbol").click()
    until(driver, lambda d: d.current_url.endswith("?symbol=spots"))
    assert len(driver.find_elements("css selector", ".grid-below > g")) == 8
    driver.get(f"{address}/p/outer-stills/symbols")
    options = find(driver, "#unit-pattern").find_elements("css selector", "option")
    assert "Spots" in [option.get_attribute("textContent").strip() for option in options]


def test_a_symbol_book_is_given_out_and_its_differences_shown(
    driver: Chrome, outer_stills: tuple[str, Path], tmp_path: Path
) -> None:
    address, _ = outer_stills
    driver.get(f"{address}/p/outer-stills/symbols/draw")
    find(driver, "#new-title").send_keys("Peak")
    find(driver, "#begin-symbol").click()
    until(driver, lambda d: d.current_url.endswith("?symbol=peak"))
    book = tmp_path / "book.json"
    with urllib.request.urlopen(f"{address}/p/outer-stills/symbols/book") as answer:
        assert "attachment" in answer.headers["Content-Disposition"]
        book.write_bytes(answer.read())
    # Here it becomes smaller; in the book it is as it was.
    typed(driver, "#draw-reach", "0.5")
    driver.get(f"{address}/p/outer-stills/symbols/draw")
    find(driver, "#book-file").send_keys(str(book))
    until(driver, lambda d: "1 differs" in text_of(d, ".book-preview"))
    assert len(driver.find_elements("css selector", ".book-row svg")) == 2
    find(driver, ".book-row [name=take]").click()
    find(driver, "#take-book").click()
    until(driver, lambda d: "1 imported" in text_of(d, ".book-preview"))
    driver.get(f"{address}/p/outer-stills/symbols/draw?symbol=peak")
    assert value_of(driver, "#draw-reach") == "1.4"
    book.write_text(book.read_text().replace('"version": 1', '"version": 9'))
    find(driver, "#book-file").send_keys(str(book))
    until(driver, lambda d: "of version 9" in text_of(d, "#draw-left"))

"""Takes docs/screenshots/ from the demo: one picture of each main view, 1280 by 800; some go into the guide, too.

`make shots`, or `scripts/shots.py NAME ...` for some of them; `--to DIR` writes elsewhere.
"""

from __future__ import annotations

import argparse
import re
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from PIL import Image
from selenium.webdriver import ActionChains, Chrome, Keys
from selenium.webdriver.common.actions.wheel_input import ScrollOrigin
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

from tests.browser.chromium import application, browser  # noqa: E402
from tests.browser.hands import until  # noqa: E402

PROJECT = "/p/isle-of-quennet"
SHOTS, GUIDE = ROOT / "docs" / "screenshots", ROOT / "src" / "orvik" / "web" / "guide"
GUIDE_WIDTH = 960


def rested(driver: Chrome) -> None:
    """Wait until the map is painted and its pictures are in."""
    until(driver, lambda d: d.find_element(By.ID, "map").get_dom_attribute("data-painted"))
    time.sleep(2.0)


def home(driver: Chrome, address: str) -> None:
    driver.get(address + "/")
    until(driver, lambda d: d.execute_script("return [...document.images].every(i => i.complete && i.naturalWidth)"))


def new(driver: Chrome, address: str) -> None:
    driver.get(address + "/new")
    driver.find_element(By.ID, "name").send_keys("Outer Stills")
    driver.find_element(By.ID, "crs-search").send_keys("iceland")
    until(driver, lambda d: d.find_elements(By.CSS_SELECTOR, ".crs-row"))


def ground(driver: Chrome, address: str) -> None:
    driver.get(address + PROJECT + "/ground")
    rested(driver)


def systems(driver: Chrome, address: str) -> None:
    driver.get(address + PROJECT + "/systems")
    driver.find_element(By.CSS_SELECTOR, ".system-card:nth-child(4) .system-take").click()
    until(driver, lambda d: d.find_elements(By.CSS_SELECTOR, "#system-report .main-button"))


def georeferencing(driver: Chrome, address: str) -> None:
    driver.get(address + PROJECT + "/underlays/2/georeference")
    until(driver, lambda d: d.find_elements(By.CSS_SELECTOR, "#scan-field[data-sharp]"))
    rested(driver)


def importing(driver: Chrome, address: str) -> None:
    """A survey's readings under names of its own, one word of which asks."""
    words = ["Bedding, showing strike and dip"] * 9 + ["Bedding, overturned", "Joint set 1", "Foliation (metamorphic)"]
    words += ["Cren. lin."]
    head = "SITE,Easting,Northing,FEATURE,STRIKE_DEG,DIPDIR2,DIP,OVERTRND,LOC_ACC_M,COMMENTS"
    lines = [head]
    for i in range(96):
        word, strike = words[i % len(words)], 7 * i * i % 360
        place = f"{510_600 + 1_237 * i % 4_200},{6_800_500 + 911 * i % 3_100}"
        overturned = "Y" if "overturned" in word else "N"
        note = "good outcrop by the burn" if i % 5 == 2 else ""
        lines.append(
            f'QN-{100 + i:04d},{place},"{word}",{strike:03d},{(strike + 90) % 360:03d},{12 + 5 * i % 70},'
            f"{overturned},{(10, 25, 100)[i % 3]},{note}"
        )
    with tempfile.TemporaryDirectory() as folder:
        table = Path(folder) / "quennet-1998.csv"
        table.write_text("\n".join(lines) + "\n")
        driver.get(address + PROJECT + "/ground")
        rested(driver)
        driver.find_element(By.CSS_SELECTOR, 'input[aria-label="A file of features"]').send_keys(str(table))
        until(driver, lambda d: d.find_elements(By.ID, "import-now"))
        time.sleep(1)


def at(driver: Chrome, x: float, y: float, denominator: int) -> None:
    """Open Compile at a place and scale."""
    driver.get(address_of(driver) + PROJECT + "/compile")
    view = f'{{"x": {x}, "y": {y}, "denominator": {denominator}}}'
    driver.execute_script("sessionStorage.setItem('orvik-view-compile-32628-isle-of-quennet', arguments[0])", view)
    driver.get(address_of(driver) + PROJECT + "/compile")
    rested(driver)
    # What an earlier picture left half drawn is taken up here; drop it, and the pen with it.
    ActionChains(driver).send_keys(Keys.ESCAPE).pause(0.3).send_keys(Keys.ESCAPE).pause(0.3).perform()


def address_of(driver: Chrome) -> str:
    return "/".join(driver.current_url.split("/")[:3])


def compile_overview(driver: Chrome, address: str) -> None:
    driver.get(address + "/")
    at(driver, 513_500.0, 6_802_500.0, 25_000)


def compile_findings(driver: Chrome, address: str) -> None:
    driver.get(address + "/")
    at(driver, 513_500.0, 6_801_400.0, 25_000)
    ActionChains(driver).send_keys("i").perform()
    until(driver, lambda d: len(d.find_elements(By.CSS_SELECTOR, ".finding")) == 2)
    driver.find_element(By.CSS_SELECTOR, ".finding-go").click()
    time.sleep(2.0)


def table(driver: Chrome, address: str) -> None:
    driver.get(address + PROJECT + "/compile")
    rested(driver)
    driver.find_element(By.ID, "table-toggle").click()
    until(driver, lambda d: d.find_elements(By.CSS_SELECTOR, "#table-rows td.current"))
    Select(driver.find_element(By.ID, "table-kind")).select_by_value("bedding")
    until(driver, lambda d: "Bedding" in d.find_element(By.CSS_SELECTOR, "#table-rows td:nth-child(2)").text)
    time.sleep(0.5)
    driver.find_element(By.CSS_SELECTOR, "#table-rows tr[data-row='1'] td[data-column=reading]").click()
    held = ActionChains(driver).key_down(Keys.SHIFT).send_keys(Keys.ARROW_DOWN).key_up(Keys.SHIFT)
    held.send_keys(" ").pause(1).send_keys(Keys.ARROW_DOWN, "N52E 31").perform()
    time.sleep(1)


def net(driver: Chrome, address: str) -> None:
    driver.get(address + "/")
    at(driver, 512_900.0, 6_802_300.0, 25_000)
    ActionChains(driver).send_keys("q").perform()
    until(driver, lambda d: d.find_elements(By.ID, "net-picture"))
    time.sleep(1)
    to_pole(driver, 40)
    time.sleep(0.5)


def to_pole(driver: Chrome, number: int) -> None:
    """The pointer to a pole of the net."""
    x, y = driver.execute_script(
        "const p = document.getElementById('net-picture'), b = p.getBoundingClientRect();"
        "const s = JSON.parse(p.dataset.stations)[arguments[0]], k = b.width / p.viewBox.baseVal.width / 100;"
        "return [b.left + s[3] * k, b.top + s[4] * k]",
        number,
    )
    chain = ActionChains(driver)
    chain.w3c_actions.pointer_action.move_to_location(round(x), round(y))
    chain.perform()


def plane(driver: Chrome, address: str) -> None:
    """Of the reading that a pole of the net is."""
    net(driver, address)
    ActionChains(driver).click().pause(1.0).perform()
    ActionChains(driver).send_keys("p").perform()
    until(driver, lambda d: d.find_elements(By.CSS_SELECTOR, "#plane-trace"))
    time.sleep(1)


def section(driver: Chrome, address: str) -> None:
    driver.get(address + "/")
    at(driver, 513_400.0, 6_802_200.0, 40_000)
    ActionChains(driver).send_keys("z").perform()
    until(driver, lambda d: d.find_elements(By.ID, "section-picture"))
    Select(driver.find_element(By.ID, "section-line")).select_by_visible_text("B–B′")
    until(driver, lambda d: "B–B′" in d.find_element(By.ID, "section-picture").get_dom_attribute("aria-label"))
    time.sleep(1)
    # The base of the sandstone, which says how it dips and how thick what lies above it is.
    x, y = driver.execute_script(
        "const p = document.getElementById('section-picture'), b = p.getBoundingClientRect();"
        "const m = JSON.parse(p.dataset.measures), k = b.width / p.viewBox.baseVal.width;"
        "return [b.left + k * (m.x + m.along * 4580), b.top + k * (m.y - m.up * -10)]"
    )
    chain = ActionChains(driver)
    chain.w3c_actions.pointer_action.move_to_location(round(x), round(y))
    chain.click().perform()
    until(driver, lambda d: "Dips along the section" in d.find_element(By.ID, "slip").text)
    time.sleep(0.5)


def symbols(driver: Chrome, address: str) -> None:
    driver.get(address + PROJECT + "/symbols")
    faults = driver.find_element(By.CSS_SELECTOR, "#family-2")
    driver.execute_script("arguments[0].scrollIntoView()", faults)
    time.sleep(1.2)


def draw(driver: Chrome, address: str) -> None:
    driver.get(address + PROJECT + "/symbols/draw")
    driver.find_element(By.ID, "new-title").send_keys("Summit")
    Select(driver.find_element(By.ID, "new-like")).select_by_value("summit")
    driver.find_element(By.ID, "begin-symbol").click()
    until(driver, lambda d: d.current_url.endswith("?symbol=summit"))
    Select(driver.find_element(By.ID, "wear-symbol")).select_by_value("summit")
    driver.find_element(By.ID, "put-on").click()
    until(driver, lambda d: "follow" in d.find_element(By.ID, "draw-right").text)


def labels(driver: Chrome, address: str) -> None:
    driver.get(address + PROJECT + "/symbols/labels")
    until(driver, lambda d: d.find_element(By.ID, "map").get_dom_attribute("data-places"))
    driver.find_element(By.ID, "map-field").click()
    for _ in range(26):
        ActionChains(driver).send_keys("n").perform()
    time.sleep(1.2)


def sheet(driver: Chrome, address: str) -> None:
    driver.get(address + PROJECT + "/sheet")
    until(driver, lambda d: d.find_element(By.ID, "desk").get_dom_attribute("data-revision"))
    driver.find_element(By.CSS_SELECTOR, ".placed-part:last-of-type")
    for row in driver.find_elements(By.CSS_SELECTOR, ".placed-part"):
        if "Main map" in row.text:
            row.click()
            break
    time.sleep(1.5)


def aiming(driver: Chrome, address: str) -> None:
    sheet(driver, address)
    driver.find_element(By.ID, "begin-aim").click()
    until(driver, lambda d: d.find_elements(By.CSS_SELECTOR, ".frame.aiming #aim-scale"))
    field = driver.find_element(By.ID, "desk-field")
    origin = ScrollOrigin.from_element(field, -60, 20)
    ActionChains(driver).move_to_element_with_offset(field, -60, 20).scroll_from_origin(origin, 0, -120).perform()
    time.sleep(3)


def explanation(driver: Chrome, address: str) -> None:
    sheet(driver, address)
    field = driver.find_element(By.ID, "desk-field")
    for _ in range(6):
        origin = ScrollOrigin.from_element(field, -40, -30)
        ActionChains(driver).scroll_from_origin(origin, 0, -120).perform()
    row = next(r for r in driver.find_elements(By.CSS_SELECTOR, ".placed-part") if r.text == "Explanation")
    driver.execute_script("arguments[0].scrollIntoView({block: 'center'}); arguments[0].click()", row)
    until(driver, lambda d: d.find_elements(By.CSS_SELECTOR, ".row-box"))
    next(r for r in driver.find_elements(By.CSS_SELECTOR, ".row-name") if r.text == "Normal fault").click()
    until(driver, lambda d: d.find_elements(By.ID, "row-name"))
    time.sleep(1)


def proof(driver: Chrome, address: str) -> None:
    driver.get(address + PROJECT + "/proof")
    until(driver, lambda d: d.find_elements(By.CSS_SELECTOR, ".note summary"))
    driver.find_element(By.CSS_SELECTOR, ".note summary").click()
    drawn = "return performance.getEntriesByType('resource').some(e => e.name.includes('preview.png'))"
    until(driver, lambda d: d.execute_script(drawn))
    driver.execute_script("document.querySelector('[name=ending][value=tif]').click()")
    driver.execute_script("document.getElementById('dpi').value = '900'")
    driver.find_element(By.CSS_SELECTOR, ".way-form .main-button").click()
    under_way = "return document.getElementById('exports').textContent.includes('strip')"
    until(driver, lambda d: d.execute_script(under_way))
    time.sleep(1)


VIEWS: dict[str, Callable[[Chrome, str], None]] = {
    "home": home,
    "new-project": new,
    "ground": ground,
    "systems": systems,
    "georeferencing": georeferencing,
    "import": importing,
    "compile": compile_overview,
    "compile-findings": compile_findings,
    "table": table,
    "plane": plane,
    "net": net,
    "section": section,
    "symbols": symbols,
    "labels": labels,
    "draw-a-symbol": draw,
    "sheet": sheet,
    "explanation": explanation,
    "proof": proof,
    # It keeps another scale, which the others are not to show.
    "aiming": aiming,
}


def named_in_guide() -> set[str]:
    """The pictures that chapters of the guide show."""
    chapters = (GUIDE / "chapters").glob("*.md")
    return {name for chapter in chapters for name in re.findall(r"\((\S+)\.png\)", chapter.read_text())}


def for_guide(shot: Path) -> None:
    """A picture as the guide shows it: smaller, and of few colours, since it ships with the application."""
    with Image.open(shot) as image:
        small = image.convert("RGB").resize(
            (GUIDE_WIDTH, round(image.height * GUIDE_WIDTH / image.width)), Image.LANCZOS
        )
        few = small.quantize(160, dither=Image.Dither.NONE)
        few.save(GUIDE / "static" / shot.name, optimize=True)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("names", nargs="*", metavar="NAME", help=", ".join(VIEWS))
    parser.add_argument("--to", type=Path, default=SHOTS)
    parser.add_argument("--data", type=Path, help="a folder with the demo; a fresh one without it")
    parser.add_argument("--size", default="1280x800")
    options = parser.parse_args()
    options.to.mkdir(parents=True, exist_ok=True)
    width, height = (int(v) for v in options.size.split("x"))
    with (
        tempfile.TemporaryDirectory() as fresh,
        application(options.data or Path(fresh), "demo") as (address, _),
    ):
        for name in options.names or VIEWS:
            with browser(width, height) as driver:
                VIEWS[name](driver, address)
                driver.save_screenshot(str(options.to / f"{name}.png"))
                if options.to == SHOTS and name in named_in_guide():
                    for_guide(options.to / f"{name}.png")
                # What is half drawn is no concern of the next picture.
                ActionChains(driver).send_keys(Keys.ESCAPE).perform()
                time.sleep(0.3)
                for entry in driver.get_log("browser"):
                    if entry["level"] in ("SEVERE", "WARNING"):
                        print(name, entry["level"], entry["message"][:300])


if __name__ == "__main__":
    main()

"""Every sort of control of every view is pressed twice, in a furnished and in a new project; no page complains."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from selenium.webdriver import Chrome

from orvik.core.features.map_unit import MapUnit
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.core.symbols.symbol_rule import SymbolRule
from orvik.store.creation import create
from orvik.store.project import Project
from orvik.usecases.symbols.drawn_symbols import begin_symbol
from orvik.usecases.symbols.emphasis import begin_emphasis
from orvik.usecases.symbols.symbol_rules import add_rule
from orvik.usecases.symbols.units import add_unit
from orvik.web.app import ROUTERS
from tests.browser.chromium import served
from tests.browser.hands import heard, until
from tests.examples import drawn

BENCHES = ("symbols/labels", "symbols/draw", "symbols/emphases", "symbols/colours", "symbols/conditions")
VIEWS = ("ground", "systems", "compile", "symbols", "sheet", "proof")
# What leads away, takes everything elsewhere, or opens a window of the system's own.
LEFT_OUT = (
    "a, [type=file], [type=color], [hx-post*='/systems/change'], [hx-post='/demo'], #begin-symbol, #remove-symbol"
)
ROUTE_WORDS = {word for router in ROUTERS for route in router.routes for word in route.path.split("/")}  # type: ignore[attr-defined]
# A control by what it is called and does, so that one that was drawn anew is the same; ``list`` gives all in sight.
CONTROLS = f"""
const kinds = 'button, input, select, textarea, summary, [role=button]';
const names = [
  'id', 'name', 'value', 'aria-label', 'hx-post', 'hx-get', 'hx-delete', 'data-pen', 'data-tool', 'data-act',
];
const list = [...document.querySelector(arguments[0]).querySelectorAll(kinds)]
  .filter(e => e.checkVisibility() && !e.disabled && !e.matches({LEFT_OUT!r}) && !e.closest('dialog:not([open])'));
const seen = new Map();
const called = list.map(e => {{
  const held = names.map(n => e.type === 'text' && n === 'value' ? '' : e.getAttribute(n) ?? '');
  const name = [e.tagName, e.type, ...held, e.tagName === 'SELECT' ? '' : e.textContent.trim().slice(0, 40)].join('|');
  seen.set(name, (seen.get(name) ?? 0) + 1);
  return `${{name}}|${{seen.get(name)}}`;
}});
// What one template makes again and again: the same but for figures and for what is not a word of an address of ours.
const words = new Set({sorted(ROUTE_WORDS)});
const shape = path => (path ?? '').split(/[/?&=]/).map(w => words.has(w) ? w : '*').join('/');
const plain = text => (text ?? '').replaceAll(/\\d+/g, '');
const alike = list.map(e => [
  e.tagName, e.type, e.className, e.id.split('-')[0], plain(e.name), e.dataset.act, e.dataset.tool,
  shape(e.getAttribute('hx-post')), shape(e.getAttribute('hx-get')), shape(e.getAttribute('hx-delete')),
  plain(e.getAttribute('hx-vals')),
].join('|'));
"""
PRESS = """
const e = list[called.indexOf(arguments[2])];
if (!e) return false;
e.scrollIntoView({block: 'center'});
if (e.tagName === 'SELECT') {
  e.selectedIndex = (e.selectedIndex + 1) % e.options.length;
  e.dispatchEvent(new Event('change', {bubbles: true}));
}
else if (e.matches('textarea, input:not([type=checkbox]):not([type=radio]):not([type=range])')) {
  e.focus(); e.value = arguments[1];
  for (const what of ['input', 'change']) e.dispatchEvent(new Event(what, {bubbles: true}));
} else if (e.type === 'range') { e.value = 40; e.dispatchEvent(new Event('change', {bubbles: true})); }
else e.click();
return true;
"""
WHERE_IT_LED = "return [Boolean(document.querySelector('dialog[open]')), location.href]"


def complaints(driver: Chrome) -> list[str]:
    """What the page has complained of that is not a refusal of ours."""
    told = [e["message"] for e in driver.get_log("browser") if e["level"] == "SEVERE"]
    return [t for t in told if not re.search(r"status of 4(04|09|13|22)|Status Error Code 4(04|09|13|22)", t)]


def some_of(called: list[str], alike: list[str]) -> list[str]:
    """The controls to press: of many that are alike the first, one in the middle and the last."""
    groups: dict[str, list[str]] = {}
    for name, kind in zip(called, alike, strict=True):
        groups.setdefault(kind, []).append(name)
    return [name for group in groups.values() for name in dict.fromkeys((group[0], group[len(group) // 2], group[-1]))]


def press_all(driver: Chrome, address: str, first: str = "", where: str = "body") -> int:
    """Press a sample of the controls of a view twice, all of them in a sweep; gives how many there are.

    Parameters
    ----------
    first
        What is clicked before that, each time that the view is loaded.
    """

    def load() -> list[str]:
        driver.get(address)
        heard(driver)
        if first:
            until(
                driver,
                lambda d: d.execute_script(
                    "const e = document.querySelector(arguments[0]); e?.click(); return Boolean(e)", first
                ),
            )
            heard(driver)
        # What is folded away is pressed, too: a summary closes it and opens it again.
        driver.execute_script("document.querySelectorAll('details').forEach(d => d.open = true)")
        called: list[list[str]] = driver.execute_script(CONTROLS + "return [called, alike];", where)
        return some_of(*called)

    def press(name: str, text: str) -> tuple[bool, bool]:
        """Whether it was there, and whether the page is no longer the same."""
        before = driver.execute_script("return performance.timeOrigin")
        if not driver.execute_script(CONTROLS + PRESS, where, text, name):
            return False, False
        heard(driver)
        asks, at = driver.execute_script(WHERE_IT_LED)
        anew = driver.execute_script("return performance.timeOrigin") != before
        return True, anew or asks or not at.startswith(address)

    there, pressed = load(), 0
    chosen = drawn(there, 8)
    # What takes back comes last: it may take back what the others are about.
    for name in sorted(chosen, key=lambda name: "|undo|" in name or "|redo|" in name):
        led = False
        for text in ("12", ""):
            done, led = press(name, text)
            if not done and text:
                # What was pressed before has put others in its place, or has led elsewhere.
                load()
                done, led = press(name, text)
            if not done:
                break
            pressed += 1
        assert complaints(driver) == [], name
        if led:
            load()
    # What one press takes away, such as a row, is not there for the second; most are.
    assert pressed >= len(chosen)
    return len(there)


@pytest.fixture(autouse=True)
def small_window(driver: Chrome) -> Iterator[None]:
    """What is pressed need not be seen: a small window is painted in half the time."""
    metrics = {"deviceScaleFactor": 1, "mobile": False}
    driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", {"width": 640, "height": 420, **metrics})
    yield
    driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", {"width": 1280, "height": 800, **metrics})


@pytest.mark.browser
@pytest.mark.parametrize("view", VIEWS)
def test_every_control_of_a_furnished_project(driver: Chrome, corner_address: str, view: str) -> None:
    assert press_all(driver, f"{corner_address}/p/isle-of-quennet/{view}") > (5 if view == "proof" else 15)


SLIPS = (
    ("compile", ".pen[data-pen=unit_tag-certain]", "#slip"),
    ("compile", ".pen[data-pen=bedding-certain]", "#slip"),
    ("compile", ".pen[data-pen=dyke-certain]", "#slip"),
    ("compile", ".pen[data-pen=unit_area-certain]", "#slip"),
    ("compile", ".pen[data-pen=gauged_spring-certain]", "#slip"),
    ("compile", "#findings-count", "#findings"),
    ("compile", "#notebook-count", "#notebook"),
    ("sheet", ".placed-part", "#part-slip"),
    ("ground", "#stack .text-link", "#underlay-slip"),
)


@pytest.mark.browser
@pytest.mark.parametrize(("view", "first", "where"), SLIPS)
def test_every_control_of_a_slip(driver: Chrome, corner_address: str, view: str, first: str, where: str) -> None:
    assert press_all(driver, f"{corner_address}/p/isle-of-quennet/{view}", first, where) >= 2


@pytest.mark.browser
def test_every_control_of_georeferencing_and_home(driver: Chrome, corner_address: str) -> None:
    assert press_all(driver, f"{corner_address}/p/isle-of-quennet/underlays/2/georeference") > 10
    press_all(driver, f"{corner_address}/")
    assert press_all(driver, f"{corner_address}/new") > 6


@pytest.mark.browser
@pytest.mark.parametrize(
    "view",
    [
        "symbols/colours",
        "symbols/draw?symbol=peak",
        "symbols/draw?symbol=shore",
        "symbols/draw?symbol=spots",
        "symbols/emphases",
        "symbols/conditions",
    ],
)
def test_every_control_of_a_bench(driver: Chrome, tmp_path: Path, view: str) -> None:
    """In a small project with something of each: a unit, a symbol of every sort, an emphasis."""
    folder = tmp_path / "projects"
    folder.mkdir()
    create(folder / "bare.gpkg", "Bare", project_crs("EPSG:32628"), Scales(25_000, 6_250))
    project = Project.open(folder / "bare.gpkg")
    add_unit(project, MapUnit("Kp", "Pellan Mudstone", "", "#BBD5A6"))
    for family, title in (("points", "Peak"), ("lines", "Shore"), ("patterns", "Spots")):
        begin_symbol(project, family, title)  # type: ignore[arg-type]
    begin_emphasis(project, "Faults")
    for finest in (10_000, 50_000):
        add_rule(project, SymbolRule("lines", "contact", finest=finest, look="kind", worn="fault"))
    project.close()
    with served(folder) as address:
        assert press_all(driver, f"{address}/p/bare/{view}", where="main" if "draw" not in view else "body") >= 1
        driver.get("about:blank")


@pytest.mark.browser
def test_every_control_of_the_labels_that_want_a_look(driver: Chrome, corner_address: str) -> None:
    press_all(driver, f"{corner_address}/p/isle-of-quennet/symbols/labels", where="#label-lists")
    assert press_all(driver, f"{corner_address}/p/isle-of-quennet/symbols/labels", where="footer") >= 2


@pytest.mark.browser
def test_every_control_of_a_new_project(driver: Chrome, tmp_path: Path) -> None:
    folder = tmp_path / "projects"
    folder.mkdir()
    create(folder / "bare.gpkg", "Bare", project_crs("EPSG:32628"), Scales(25_000, 6_250))
    with served(folder) as address:
        for view in (*VIEWS, *BENCHES):
            press_all(driver, f"{address}/p/bare/{view}", where="main" if "/" in view else "body")
        driver.get("about:blank")


@pytest.mark.browser
def test_units_are_added_one_after_the_other(driver: Chrome, tmp_path: Path) -> None:
    """A second unit can be made, the slip stays, and the strip counts."""
    folder = tmp_path / "projects"
    folder.mkdir()
    create(folder / "bare.gpkg", "Bare", project_crs("EPSG:32628"), Scales(25_000, 6_250))
    with served(folder) as address:
        driver.get(f"{address}/p/bare/symbols")
        heard(driver)
        for count, code in enumerate(("Qal", "Qt", "Kp"), 1):
            driver.execute_script("[...document.querySelectorAll('#strata .tray-head button')].at(-1).click()")
            heard(driver)
            until(
                driver,
                lambda d: d.execute_script("return document.querySelector('#unit-slip h2').textContent === 'New unit'"),
            )
            for name, value in (("code", code), ("name", f"Unit {code}")):
                driver.find_element("css selector", f"#unit-slip [name={name}]").send_keys(value)
            driver.find_element("css selector", "#unit-slip .main-button").click()
            until(
                driver,
                lambda d, c=code: (
                    f"Unit {c}" in d.execute_script("return document.querySelector('#unit-slip h2').textContent")
                ),
            )
            until(
                driver,
                lambda d, n=count: d.execute_script(
                    "return document.getElementById('unit-count').textContent"
                ).startswith(f"{n} map unit"),
            )
        driver.get("about:blank")

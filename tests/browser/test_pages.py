"""Every main view: no complaint of axe-core, and the map by keyboard alone."""

from __future__ import annotations

from pathlib import Path

import pytest
from selenium.webdriver import Chrome, Keys

from orvik.core.errors import NotFound
from orvik.core.symbols.symbol_rule import SymbolRule
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from orvik.usecases.symbols.drawn_symbols import begin_symbol
from orvik.usecases.symbols.emphasis import begin_emphasis
from orvik.usecases.symbols.symbol_rules import add_rule
from tests.browser.hands import MapHand, find, until

pytestmark = pytest.mark.browser

AXE = Path(__file__).with_name("vendor") / "axe.min.js"
PROJECT = "/p/isle-of-quennet"
# What stands there again and again by one template, and pictures of the map: once is enough.
REPEATED = [".emphasis-maps svg", ".label-kind:nth-of-type(n+4)", ".rank-row:nth-of-type(n+6)", ".trial svg"]
# What must be there before a view is judged.
VIEWS = {
    "/": "img",
    "/new": "#crs-search",
    f"{PROJECT}/ground": "#map[data-painted]",
    f"{PROJECT}/compile": "#map[data-painted]",
    f"{PROJECT}/symbols": ".specimen",
    f"{PROJECT}/symbols/colours": ".colour-pair",
    f"{PROJECT}/symbols/draw?symbol=peak": "#draw-grid .grid-grip",
    f"{PROJECT}/symbols/emphases?emphasis=Faults": ".emphasis-maps svg",
    f"{PROJECT}/symbols/conditions": "#condition-form",
    f"{PROJECT}/symbols/labels": "#map[data-places]",
    f"{PROJECT}/sheet": "#desk[data-revision]",
    f"{PROJECT}/proof": "#proof-desk image",
}


def test_axe_has_no_complaint(driver: Chrome, corner_address: str, corner: Path) -> None:
    project = Project.open(corner)
    begin_symbol(project, "points", "Peak")
    begin_emphasis(project, "Faults")
    add_rule(project, SymbolRule("points", "bedding", certainty="certain", look="kind", worn="foliation"))
    project.close()
    found = []
    for path, ready in VIEWS.items():
        driver.get(corner_address + path)
        until(driver, lambda d, css=ready: d.find_elements("css selector", css))
        driver.execute_script(AXE.read_text(encoding="utf-8"))
        report = driver.execute_async_script(
            f"axe.run({{exclude: {REPEATED}}}, {{rules: {{'target-size': {{enabled: true}}}}}}).then(arguments[0])"
        )
        found += [(path, v["id"], [n["html"][:120] for n in v["nodes"][:3]]) for v in report["violations"]]
    assert not found, "\n".join(map(str, found))


def test_a_line_by_keyboard_alone(driver: Chrome, demo_address: str, demo: Path) -> None:
    driver.get(f"{demo_address}{PROJECT}/compile")
    hand = MapHand(driver, 0, 0, 25_000).wait()
    before = hand.revision()
    hand.pen("7")
    hand.keys(*[Keys.ARROW_LEFT] * 3, ".", *[Keys.ARROW_UP] * 12, ".")
    hand.keys(*[Keys.ARROW_RIGHT] * 20, ".", Keys.BACKSPACE, Keys.ARROW_DOWN, ".", Keys.ENTER)
    hand.kept(before + 1)
    project = ReadProject.open(demo)
    newest = project.feature("lines", project.count("lines"))
    assert (newest.kind, len(newest.geometry.coords)) == ("dyke", 3)
    find(driver, "#undo").send_keys(Keys.ENTER)
    hand.kept(before + 2)
    with pytest.raises(NotFound):
        project.feature("lines", newest.id or 0)
    project.close()


def test_nothing_scrolls_but_lists(driver: Chrome, corner_address: str) -> None:
    """At 1280 by 800 every stage shows all that it has without scrolling the page or a tray."""
    for stage in ("ground", "compile", "symbols", "sheet", "proof"):
        driver.get(f"{corner_address}{PROJECT}/{stage}")
        until(driver, lambda d: d.find_elements("css selector", ".bottom-strip"))
        overflowing = driver.execute_script(
            "return [...document.querySelectorAll('html, .tray, .strip')]"
            ".filter(e => e.scrollHeight > e.clientHeight + 1 || e.scrollWidth > e.clientWidth + 1)"
            ".map(e => e.className)"
        )
        assert overflowing == [], stage

"""10 000 features in the browser: opening, panning and zooming from the cached picture, and sharp again."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Iterator
from itertools import pairwise
from pathlib import Path

from selenium.webdriver import Chrome
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import WebDriverWait
from tests.browser.chromium import application, browser

from benchmarks import data
from benchmarks.yardstick import Row, limit_row, resident_mb

# Moves the map by real pointer events, one a frame, and says how many frames were painted in what time.
PAN = """
const done = arguments[arguments.length - 1];
const field = document.getElementById('map-field');
const box = field.getBoundingClientRect();
const at = (type, x, y) => field.dispatchEvent(new PointerEvent(type, {clientX: box.left + x, clientY: box.top + y,
  button: 1, buttons: 4, pointerId: 1, bubbles: true, cancelable: true}));
field.setPointerCapture = () => {};
const stamps = [];
let i = 0;
at('pointerdown', 380, 340);
function step(now) {
  stamps.push(now);
  if (i < 90) { i += 1; at('pointermove', 380 + 2 * i, 340 + i); requestAnimationFrame(step); }
  else { at('pointerup', 380 + 2 * i, 340 + i); done(stamps); }
}
requestAnimationFrame(step);
"""
ZOOM = """
const done = arguments[arguments.length - 1];
const field = document.getElementById('map-field');
const box = field.getBoundingClientRect();
const stamps = [];
let i = 0;
function step(now) {
  stamps.push(now);
  if (i < 60) {
    i += 1;
    const deltaY = i % 40 < 20 ? -20 : 20;
    field.dispatchEvent(new WheelEvent('wheel', {deltaY, shiftKey: true, clientX: box.left + 380,
      clientY: box.top + 340, bubbles: true, cancelable: true}));
    requestAnimationFrame(step);
  } else done(stamps);
}
requestAnimationFrame(step);
"""
# Milliseconds from the last move until the sharp picture is on the canvas.
SHARP = """
const done = arguments[arguments.length - 1];
const root = document.getElementById('map');
const before = Number(root.dataset.sharp);
const field = document.getElementById('map-field');
const box = field.getBoundingClientRect();
const start = performance.now();
field.dispatchEvent(new WheelEvent('wheel', {deltaY: -30, shiftKey: true, clientX: box.left + 380,
  clientY: box.top + 340, bubbles: true, cancelable: true}));
new MutationObserver((_, observer) => {
  if (Number(root.dataset.sharp) > before) { observer.disconnect(); done(performance.now() - start); }
}).observe(root, {attributes: true});
"""


def run() -> Iterator[Row]:
    """7 000 lines of 30 vertices, 1 500 areas of 100 and 1 500 points, all in view."""
    with tempfile.TemporaryDirectory() as temporary:
        folder = Path(temporary)
        data.project(folder / "ten.gpkg", 7000, 30, 1500, 100, 1500, 4000.0)
        data.project(folder / "ornate.gpkg", 7000, 30, 1500, 100, 1500, 4000.0, ornate=True)
        data.project(folder / "other.gpkg", 10, 30, 0, 100, 0, 4000.0)
        with application(folder) as (address, process), browser() as driver:
            driver.set_script_timeout(60)
            # The server is warm and the browser has the scripts, but this project was never opened.
            _open(driver, f"{address}/p/other/compile")
            yield limit_row(
                "Opening 10 000 features, all in view, first time",
                _open(driver, f"{address}/p/ten/compile"),
                1500,
            )
            yield limit_row("the same, opened before", _open(driver, f"{address}/p/ten/compile"), 1500)
            yield from _moved(driver, "10 000 features", 300)
            _open(driver, f"{address}/p/ornate/compile")
            yield from _moved(driver, "10 000, ornaments and patterns", 250)
            yield Row(
                "Memory of the server with 10 000 features open",
                f"{resident_mb(process.pid):.0f} MB",
                "",
                None,
            )


def _moved(driver: Chrome, what: str, most: float) -> Iterator[Row]:
    """Frames while the view moves, and how long until it is sharp again."""
    for name, script in (("Panning", PAN), ("Zooming", ZOOM)):
        yield _frames(f"{name}, {what} in view", driver.execute_async_script(script))
        time.sleep(1)
    taken = sorted(float(driver.execute_async_script(SHARP)) for _ in range(7))
    yield limit_row(f"Sharp again, {what}, median", taken[3], most)
    yield limit_row("the same, slowest of seven", taken[-1], most)


def _open(driver: Chrome, url: str) -> float:
    start = time.perf_counter()
    driver.get(url)
    WebDriverWait(driver, 30, poll_frequency=0.01).until(
        lambda d: d.find_element(By.ID, "map").get_dom_attribute("data-painted")
    )
    return (time.perf_counter() - start) * 1000


def _frames(name: str, stamps: list[float]) -> Row:
    rate = 1000 * (len(stamps) - 1) / (stamps[-1] - stamps[0])
    longest = max(b - a for a, b in pairwise(stamps))
    return Row(
        name,
        f"{rate:.0f} frames/s, longest {longest:.0f} ms",
        "above 30",
        rate > 30,
    )

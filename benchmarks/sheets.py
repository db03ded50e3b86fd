"""The sheet on the page: a part that is dragged, and a panel of ten thousand features that is changed."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Iterator
from functools import partial
from pathlib import Path

import numpy as np
from selenium.webdriver import Chrome
from tests.browser.chromium import browser, served

from benchmarks import data
from benchmarks.yardstick import Row, limit_row, seconds
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.store.read_project import ReadProject
from orvik.web.session.jobs import panel_ink

# A dragged part is repainted at each frame of the screen; the longest time between two of them counts.
DRAG = """
const done = arguments[0], field = document.getElementById('desk-field');
const hit = document.querySelector('[data-hit="%d"]').getBoundingClientRect();
let x = hit.left + hit.width / 2, y = hit.top + hit.height / 2;
const send = (kind, target) => target.dispatchEvent(new PointerEvent(kind, {clientX: x, clientY: y, button: 0,
  pointerId: 1, bubbles: true, cancelable: true}));
field.setPointerCapture = () => {};
send('pointerdown', document.elementFromPoint(x, y));
const times = [];
function frame(now) {
  times.push(now);
  x += times.length %% 60 < 30 ? 3 : -3;
  send('pointermove', field);
  if (times.length < 120) requestAnimationFrame(frame);
  else { send('pointercancel', field); done(times.slice(1).map((t, i) => t - times[i])); }
}
requestAnimationFrame(frame);
"""
# From a typed scale to the panel's new ink on the page: all but its labels, and all.
CHANGED = """
const done = arguments[0], begun = performance.now(), desk = document.getElementById('desk');
const panel = document.querySelector('canvas[data-part="%d"]');
const taken = [];
new MutationObserver((changes, observer) => requestAnimationFrame(() => setTimeout(() => {
  taken.push(performance.now() - begun);
  if (panel.dataset.ink !== 'whole') return;
  observer.disconnect();
  done([taken[0], taken.at(-1)]);
}))).observe(panel, {attributes: true, attributeFilter: ['data-ink']});
fetch(`/p/${desk.dataset.slug}/parts/%d`, {method: 'POST', body: new URLSearchParams({scale: '1:%d'})});
"""


def run() -> Iterator[Row]:
    """Rows of the table."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "bench.gpkg"
        data.project(path, 7_000, 30, 1_500, 100, 1_500, 4_000.0)
        project = ReadProject.open(path)
        sheet = project.sheets()[0].id or 0
        parts = project.parts(sheet)
        project.close()
        panel = next(p for p in parts if isinstance(p.settings, MapPanel))
        for what, lettered in (("without labels", False), ("with 3 000 labels", True)):
            drawn = seconds(partial(panel_ink, path, panel.id or 0, lettered), 3)
            yield Row(f"Ink of a panel of 10 000 features, {what}", f"{drawn * 1000:.0f} ms", "", None)
        with served(path.parent) as address, browser() as driver:
            yield from _in_browser(driver, address, path.stem, panel.id or 0, parts[-1].id or 0)


def _in_browser(driver: Chrome, address: str, stem: str, panel: int, other: int) -> Iterator[Row]:
    driver.set_script_timeout(120)
    driver.get(f"{address}/p/{stem}/sheet")
    while not driver.execute_script("return document.getElementById('desk')?.dataset.revision"):
        time.sleep(0.1)
    time.sleep(1.0)
    for what, number in (("explanation", other), ("panel of 10 000 features", panel)):
        gaps = np.array(driver.execute_async_script(DRAG % number))
        rate = 1000 / float(np.median(gaps))
        good = rate >= 30 and float(gaps.max()) < 100
        yield Row(f"Dragging the {what}", f"{rate:.0f} /s, longest {gaps.max():.0f} ms", "above 30 /s", good)
        time.sleep(1.5)
    scales = (24_000, 26_000, 25_000)
    taken = np.array([driver.execute_async_script(CHANGED % (panel, panel, scale)) for scale in scales])
    sharp, lettered = np.median(taken, axis=0).tolist()
    yield limit_row("A changed panel of 10 000 features, sharp again", sharp, 500)
    yield Row("The same with its 3 000 labels placed anew", f"{lettered:.0f} ms", "", None)

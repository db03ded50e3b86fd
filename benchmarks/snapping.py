"""Snapping in 100 000 lines (2 million vertices): the core query, and the whole way over the WebSocket."""

from __future__ import annotations

import tempfile
import threading
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import shapely
from tests.browser.chromium import application
from tests.web.wire import wire

from benchmarks import data
from benchmarks.yardstick import Row, limit_row, ratio_row, resident_mb
from orvik.core.arrays import Floats
from orvik.core.geometry.snapping import SnapIndex, Switches
from orvik.store.project import Project

LINES, VERTICES, SIDE = 100_000, 20, 20_000.0
RADIUS = 15.0
EVERY = ("vertex", "edge", "end", "crossing", "middle", "extension")


def run() -> Iterator[Row]:
    """Core ratio, then 95th percentiles over the WebSocket, at rest and while a PDF is made."""
    with tempfile.TemporaryDirectory() as temporary:
        path = Path(temporary) / "hundred.gpkg"
        data.project(path, LINES, VERTICES, 0, 100, 0, SIDE)
        yield from _core(path)
        yield from _live(path)


def _places(count: int) -> Floats:
    return data.CORNER + np.random.default_rng(5).uniform(0, SIDE, (count, 2))


def _core(path: Path) -> Iterator[Row]:
    project = Project.open(path)
    features = project.all_features()
    project.close()
    index = SnapIndex(features)
    tree = shapely.STRtree(features["lines"].geometries)
    switches = Switches()
    ours, theirs = [], []
    for x, y in _places(4000).tolist():
        start = time.perf_counter()
        tree.query(shapely.points(x, y), predicate="dwithin", distance=RADIUS)
        between = time.perf_counter()
        index.snap(x, y, RADIUS, switches)
        theirs.append(between - start)
        ours.append(time.perf_counter() - between)
    yield ratio_row(
        "Snap query, 100 000 lines, against STRtree.query(dwithin), median",
        float(np.median(ours)),
        float(np.median(theirs)),
        3,
    )
    yield ratio_row("the same, 95th percentile", float(np.percentile(ours, 95)), float(np.percentile(theirs, 95)), 3)


def _live(path: Path) -> Iterator[Row]:
    with application(path.parent) as (address, process), wire(address, "hundred") as page:
        ask = page.ask

        def percentile(until: threading.Thread | None = None) -> tuple[float, int]:
            taken = []
            for x, y in _places(20_000).tolist():
                start = time.perf_counter()
                ask(do="hover", x=x, y=y)
                taken.append(time.perf_counter() - start)
                # About as often as a pointer reports.
                time.sleep(0.004)
                if (until is None and len(taken) == 1500) or (until is not None and not until.is_alive()):
                    break
            return float(np.percentile(taken, 95)) * 1000, len(taken)

        ask(do="pen", name="contact-certain")
        for x, y in _places(50).tolist():
            ask(do="hover", x=x, y=y)
        yield limit_row("Snap over the WebSocket, 100 000 lines, 95th percentile", percentile()[0], 8)
        ask(do="snap", radius=15, unit="m", **dict.fromkeys(EVERY, True))
        yield limit_row("the same with crossings, middles and extensions held, too", percentile()[0], 8)
        ask(do="snap", radius=15, unit="m", vertex=True, edge=True, end=True)
        printing = threading.Thread(target=_export_routes, args=(f"{address}/p/hundred/exports",))
        printing.start()
        worst, count = percentile(printing)
        yield limit_row(f"the same while a PDF is made ({count} queries)", worst, 8)
        memory = resident_mb(process.pid)
        yield Row("Memory of the server with 2 million vertices open", f"{memory:.0f} MB", "", None)


def _export_routes(address: str) -> None:
    """Order a PDF of the first sheet, and wait until it is there."""
    urllib.request.urlopen(address, data=b"sheet=1").read()
    while b'data-state="done"' not in urllib.request.urlopen(address).read():
        time.sleep(0.1)

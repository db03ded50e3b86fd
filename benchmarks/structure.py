"""Structure: a plane over a thousand by a thousand cells, a net of thousands of readings, a section, and the ring."""

from __future__ import annotations

import tempfile
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import rasterio
import shapely
from rasterio.transform import from_origin
from tests.browser.chromium import application
from tests.core.structure.relief import hills
from tests.web.wire import wire

from benchmarks import data
from benchmarks.crowding import posted
from benchmarks.yardstick import Row, limit_row, seconds
from orvik.core.features.feature import Feature
from orvik.core.features.kind import SECTION_LINE
from orvik.store import rows
from orvik.store.project import Project
from orvik.store.read_project import opened_for_reading
from orvik.usecases.ground.sources import add_underlay
from orvik.usecases.structure.sections import section_lines

SIDE, CELL, READINGS, CROSSED = 20_000.0, 20.0, 5_000, 500
WINDOW = "a-window"
SETTLED_SECONDS = 12.0


def run() -> Iterator[Row]:
    """From the page's request to the page's answer, as a page asks."""
    with tempfile.TemporaryDirectory() as temporary:
        path = Path(temporary) / "busy.gpkg"
        data.project(path, 2_000, 20, 0, 40, 0, SIDE)
        _furnished(path)
        with application(path.parent) as (address, _), wire(address, "busy") as page:
            page.ask(do="hello", window_id=WINDOW)
            place = f"{address}/p/busy"
            west, south = data.CORNER
            # A thousand cells a side, with what is drawn beyond the view.
            view = {"west": west + 4000, "south": south + 4000, "east": west + 17_300, "north": south + 17_300}
            window = {name: str(value) for name, value in view.items()} | {"pixel": "13", "window_id": WINDOW}
            asked = window | {"table": "points", "id": "1"}
            # What a project begins with, its labels and its findings, is done by then.
            time.sleep(SETTLED_SECONDS)
            posted(f"{place}/plane", asked)
            yield limit_row(
                "The trace of a plane over 1 000 x 1 000 cells",
                1000 * seconds(lambda: posted(f"{place}/plane/trace", window), 9),
                150,
            )
            net = {name: str(value) for name, value in view.items()} | {"kind": "bedding", "density": "true"}
            posted(f"{place}/net", net)
            yield limit_row(
                f"A net of {READINGS} readings", 1000 * seconds(lambda: posted(f"{place}/net", net), 9), 100
            )
            line = section_line(path)
            fetched(f"{place}/section/{line}")
            yield limit_row(
                f"A section with {CROSSED} crossings",
                1000 * seconds(lambda: fetched(f"{place}/section/{line}"), 9),
                300,
            )
            rng = np.random.default_rng(3)
            taken = []
            for _ in range(200):
                x, y = (data.CORNER + rng.uniform(0, SIDE, 2)).tolist()
                start = time.perf_counter()
                page.ask(do="hover", x=x, y=y)
                taken.append(1000 * (time.perf_counter() - start))
            yield limit_row("The ring with the trace in sight, 95th percentile", float(np.percentile(taken, 95)), 20)


def section_line(path: Path) -> int:
    """The number of the section line."""
    with opened_for_reading(path) as project:
        return section_lines(project)[0].number


def fetched(address: str) -> str:
    """What an address answers."""
    with urllib.request.urlopen(address, timeout=300) as answer:
        return str(answer.read().decode())


def _furnished(path: Path) -> None:
    """Heights over it, and readings of two folds."""
    rng = np.random.default_rng(5)
    west, south = data.CORNER
    heights = path.with_name("heights.tif")
    profile = {"driver": "GTiff", "dtype": "float32", "count": 1, "height": 1000, "width": 1000, "crs": "EPSG:32628"}
    with rasterio.open(heights, "w", transform=from_origin(west, south + SIDE, CELL, CELL), **profile) as out:
        out.write(hills(4, size=1000).heights, 1)
    project = Project.open(path)
    try:
        add_underlay(project, heights, None, "Heights")
        places = np.array([west, south]) + rng.uniform(2000, SIDE - 2000, (READINGS, 2))
        strikes = rng.normal(60, 20, READINGS).round() % 360
        dips = np.clip(rng.normal(35, 15, READINGS).round(), 1, 90)
        made = [
            Feature("points", shapely.Point(place), "bedding", azimuth=float(s), inclination=float(d))
            for place, s, d in zip(places, strikes, dips, strict=True)
        ]
        steps = np.linspace(2_000, SIDE - 2_000, CROSSED)
        across = south + np.linspace(4_000, SIDE - 4_000, 60)
        for step in steps.tolist():
            course = np.column_stack([west + step + 15 * np.sin(across / 700), across])
            made.append(Feature("lines", shapely.LineString(course), "contact"))
        ends = [
            (west + 1_000, south + SIDE / 2),
            (west + SIDE / 2, south + SIDE / 2 + 500),
            (west + SIDE - 1_000, across[20]),
        ]
        made.append(Feature("lines", shapely.LineString(ends), SECTION_LINE, note="A"))
        project.apply("readings, contacts and a section", rows.feature_changes(made, project.srs_id))
    finally:
        project.close()

"""A large map proofed and put out: checking as it grows, an A0 as PDF, SVG and PNG, and the memory that these take."""

from __future__ import annotations

import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from datetime import date
from pathlib import Path

import numpy as np
import shapely

from benchmarks import data
from benchmarks.forming import SETTING, _formed, linework
from benchmarks.yardstick import Row, ratio_row
from orvik.core.features.feature import Feature, Features
from orvik.core.features.table import TABLES
from orvik.core.findings.survey import Survey
from orvik.core.ground.scale import Scales
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.templates import laid_out
from orvik.core.sheet.templates.brief import Brief
from orvik.store import rows
from orvik.store.creation import create
from orvik.store.project import opened_for_writing
from orvik.usecases.compile.forming import form_units

A0 = (1189.0, 841.0)
# A command that says last how much memory it took at most, in kilobytes: what getrusage says may be its parent's.
COMMAND = """
import re, sys
from orvik.cli import main
status = main(sys.argv[1:])
print(re.search(r"VmHWM:\\s*(\\d+)", open("/proc/self/status").read())[1])
sys.exit(status)
"""


def run() -> Iterator[Row]:
    """Checks first, then what is put out."""
    yield from _checking()
    yield from _surveying()
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "large.gpkg"
        data.project(path, 35_000, 30, 7_500, 100, 7_500, 4_000.0)
        _lay_out(path)
        for ending, seconds_most, mb_most in ((".pdf", 20.0, 1000.0), (".svg", None, None), (".png", None, 600.0)):
            target = Path(folder) / f"large{ending}"
            dpi = ["--dpi", "600"] if ending == ".png" else []
            taken, memory = _measured(["export", str(path), "--sheet", "Large", "--to", str(target), *dpi])
            size = target.stat().st_size / 1e6
            what = f"A0 with 50 000 features as {ending[1:].upper()}{' of 600 dots per inch' if dpi else ''}"
            promise = f"at most {seconds_most:g} s" if seconds_most else ""
            yield Row(what, f"{taken:.1f} s, {size:.1f} MB", promise, taken <= seconds_most if seconds_most else None)
            yield Row(
                "    its memory",
                f"{memory:.0f} MB",
                f"at most {mb_most:g} MB" if mb_most else "",
                memory <= mb_most if mb_most else None,
            )


def _measured(arguments: list[str]) -> tuple[float, float]:
    """Seconds and the most megabytes that a command takes, in a process of its own."""
    begun = time.perf_counter()
    done = subprocess.run([sys.executable, "-c", COMMAND, *arguments], capture_output=True, text=True)
    taken = time.perf_counter() - begun
    assert done.returncode in (0, 1), done.stderr
    return taken, float(done.stdout.split()[-1]) / 1024


def _lay_out(path: Path) -> None:
    """An A0 that shows all of the ground."""
    with opened_for_writing(path) as project:
        border = project.border()
        assert border is not None
        brief = Brief("Large", project.name, A0, border, 6_000, project.crs, date(2026, 7, 2), "A0")
        parts = laid_out(brief)
        project.apply("sheet", rows.sheet_changes(Sheet("Large", "A0", *A0), parts))


def _checking() -> Iterator[Row]:
    """``orvik check`` of more and more features, a mosaic of contacts with tags, areas and readings."""
    first = 0.0
    with tempfile.TemporaryDirectory() as folder:
        for share in (0.25, 0.5, 1.0):
            path = Path(folder) / f"mosaic-{share}.gpkg"
            count = _mosaic(path, round(52_000 * share))
            taken, memory = _measured(["check", str(path)])
            first = first or taken / count
            good = taken <= 20 if share == 1 else None
            promise = "at most 20 s" if share == 1 else ""
            yield Row(f"orvik check of {count} features", f"{taken:.1f} s, {memory:.0f} MB", promise, good)
        growth = taken / count / first
        yield Row("    for each feature, against the smallest", f"{growth:.2f}", "at most 1.5", growth <= 1.5)


def _mosaic(path: Path, lines: int) -> int:
    """Write a mosaic with its areas formed, and a reading for every third line; gives the number of features."""
    tables = linework(lines)
    create(path, path.stem, data.CRS, Scales(25_000, 6_250))
    rng = np.random.default_rng(5)
    with opened_for_writing(path) as project:
        project.apply("units", [rows.unit_change(None, unit) for unit in SETTING.units.values()])
        held = [table.feature(i) for table in tables.values() for i in range(len(table))]
        made = [feature.changed(id=None, capture_scale=6_250) for feature in held]
        west, south, east, north = shapely.total_bounds(tables["lines"].geometries)
        places = rng.uniform((west, south), (east, north), (lines // 3, 2))
        made += [
            Feature("points", shapely.Point(*np.round(xy, 2)), "bedding", azimuth=40.0, inclination=30.0)
            for xy in places
        ]
        project.apply("features", [rows.feature_change(feature, project.srs_id) for feature in made])
        form_units(project)
        return sum(project.count(table) for table in TABLES)


def _surveying() -> Iterator[Row]:
    """The first survey of a project, against forming the same."""
    features = linework(100_000)
    begun = time.perf_counter()
    plan = _formed(features)
    formed = time.perf_counter() - begun
    areas = Features.of("areas", [area.changed(id=i) for i, area in enumerate(plan.kept, 1)])
    begun = time.perf_counter()
    survey = Survey(features | {"areas": areas}, SETTING)
    assert survey.findings is not None
    taken = time.perf_counter() - begun
    yield ratio_row("First survey of 100 000 lines, against forming them", taken, formed, 2.0)

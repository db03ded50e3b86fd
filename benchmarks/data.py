"""Made-up projects of a stated size."""

from __future__ import annotations

from datetime import date
from pathlib import Path

import numpy as np
import shapely

from orvik.core.arrays import Objects
from orvik.core.features.feature import Feature
from orvik.core.features.map_unit import MapUnit
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.templates import laid_out
from orvik.core.sheet.templates.brief import Brief
from orvik.store import rows
from orvik.store.creation import create
from orvik.store.project import Project

WEST, SOUTH = 510_000.0, 6_800_000.0
CORNER = np.array([WEST, SOUTH])
CRS = project_crs("EPSG:32628")


def walks(rng: np.random.Generator, count: int, vertices: int, side: float, step: float) -> Objects:
    """Wandering lines: each keeps its course and bends a little at every vertex."""
    starts = rng.uniform(0, side, (count, 1, 2)) + CORNER
    course = rng.uniform(0, 2 * np.pi, (count, 1)) + np.cumsum(rng.normal(0, 0.15, (count, vertices)), axis=1)
    xy = starts + np.cumsum(step * np.stack([np.cos(course), np.sin(course)], axis=2), axis=1)
    lines = np.empty(count, dtype=object)
    lines[:] = shapely.linestrings(np.round(xy, 2))
    return lines


def cells(rng: np.random.Generator, count: int, vertices: int, side: float) -> list[shapely.Polygon]:
    """Closed areas on a grid of their own, each with a wavy edge."""
    per_row = int(np.ceil(np.sqrt(max(1, count))))
    pitch = side / per_row
    angle = np.linspace(0, 2 * np.pi, vertices - 1, endpoint=False)
    found = []
    for i in range(count):
        middle = CORNER + pitch * (np.array(divmod(i, per_row)) + 0.5)
        radius = 0.42 * pitch * (1 + 0.12 * np.sin(3 * angle + rng.uniform(0, 6)) + 0.06 * np.sin(7 * angle))
        found.append(
            shapely.Polygon(np.round(middle + radius[:, None] * np.column_stack([np.cos(angle), np.sin(angle)]), 2))
        )
    return found


def project(
    path: Path,
    lines: int,
    line_vertices: int,
    areas: int,
    area_vertices: int,
    points: int,
    side: float,
    ornate: bool = False,
) -> None:
    """Write a project file with so many features of so many vertices, and one sheet.

    Where it is ``ornate``, every unit has a pattern, and two lines of nine have teeth or ticks.
    """
    rng = np.random.default_rng(8460)
    create(path, path.stem, CRS, Scales(25_000, 6_250))
    opened = Project.open(path)
    corners = [
        (WEST, SOUTH),
        (WEST + 5000, SOUTH),
        (WEST + 5000, SOUTH + 4000),
        (WEST, SOUTH + 4000),
        (WEST, SOUTH),
    ]
    features = [Feature("lines", shapely.LineString(corners), "border", capture_scale=6250)]
    kinds = {0: "thrust", 4: "fault_scarp"} if ornate else {0: "fault"}
    patterns = ("shale", "gneiss", "gravel", "till", "sandstone", "limestone") if ornate else ("",) * 6
    certainties = ("certain", "approximate", "inferred", "concealed")
    features += [
        Feature(
            "lines",
            line,
            kinds.get(i % 9, "contact"),
            certainty=certainties[i % 4],
            capture_scale=6250,
        )
        for i, line in enumerate(walks(rng, lines, line_vertices, side, 8.0))
    ]
    features += [
        Feature("areas", area, "unit_area", map_unit=f"U{i % 6}", capture_scale=6250)
        for i, area in enumerate(cells(rng, areas, area_vertices, side))
    ]
    places = rng.uniform(0, side, (points, 2)) + CORNER
    features += [
        Feature(
            "points",
            shapely.Point(np.round(place, 2)),
            "bedding",
            azimuth=float(i * 7 % 360),
            inclination=float(5 + i % 80),
        )
        for i, place in enumerate(places)
    ]
    units = [
        MapUnit(f"U{i}", f"Unit {i}", "", f"#{0xD0 - 9 * i:02X}{0xB0 + 8 * i:02X}A0", position=i + 1, pattern=pattern)
        for i, pattern in enumerate(patterns)
    ]
    opened.apply("units", [rows.unit_change(None, u) for u in units])
    opened.apply("features", [rows.feature_change(f, opened.srs_id) for f in features])
    border = opened.border()
    assert border is not None
    parts = laid_out(Brief("Bench", path.stem, (420, 297), border, 25_000, CRS, date(2026, 7, 2)))
    opened.apply("sheet", rows.sheet_changes(Sheet("Bench", "A3", 420, 297), parts))
    opened.close()

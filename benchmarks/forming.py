"""Forming units: against bare noding and polygonizing of the same lines, again after one edit, and as lines grow."""

from __future__ import annotations

import math
import time
from collections.abc import Iterator
from functools import partial

import numpy as np
import shapely

from benchmarks import data
from benchmarks.yardstick import Row, ratio_row, seconds
from orvik.core.arrays import Objects
from orvik.core.faces import forming
from orvik.core.faces.plan import FormingPlan, edge_scales, plan
from orvik.core.features.feature import Feature, Features
from orvik.core.features.kind import BOUNDING
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.table import Table
from orvik.core.findings.survey import Survey, SurveyContext
from orvik.core.ground.scale import Scales

LINES = 20_000
# Ground for a line, so that density is the same whatever their number.
SIDE_OF_ONE = 20_000 / math.sqrt(LINES)
SETTING = SurveyContext(
    {f"U{i}": MapUnit(f"U{i}", f"Unit {i}", "", "#C0C0A0", position=i + 1) for i in range(6)},
    Scales(25_000, 6_250),
    1.0,
    BOUNDING,
)


def mosaic(rng: np.random.Generator, count: int, side: float) -> Objects:
    """Lines that meet at their ends, as contacts do: the edges of a mosaic, each bent a little, 20 vertices each."""
    seeds = shapely.multipoints(rng.uniform(0, side, (count // 3, 2)))
    edges = shapely.get_parts(shapely.voronoi_polygons(seeds, only_edges=True))
    edges = edges[shapely.covered_by(edges, shapely.box(0, 0, side, side))]
    ends = shapely.get_coordinates(edges).reshape(-1, 2, 2)
    t = np.linspace(0, 1, 20)[None, :, None]
    along = ends[:, :1] + t * (ends[:, 1:] - ends[:, :1])
    across = (ends[:, 1] - ends[:, 0])[:, ::-1] * np.array([-1.0, 1.0])
    bend = 0.03 * np.sin(np.pi * t) * np.sin(rng.uniform(4, 9, (len(ends), 1, 1)) * t)
    xy = along + bend * across[:, None, :] + data.CORNER
    xy[:, [0, -1]] = ends + data.CORNER
    lines = np.empty(len(xy), dtype=object)
    lines[:] = shapely.linestrings(xy)
    return lines


def linework(count: int, wandering: bool = False) -> dict[Table, Features]:
    """A mosaic within a border, cut by a hundredth of faults, with a tag in every face.

    Or lines that wander, cross and close few faces, so that one face lies around almost everything.
    """
    rng = np.random.default_rng(77)
    side = SIDE_OF_ONE * math.sqrt(count)
    west, south = data.CORNER
    ring = shapely.LineString(shapely.box(west, south, west + side, south + side).exterior.coords)
    lines = [Feature("lines", ring, "border", id=1)]
    pieces = data.walks(rng, count, 20, side, 8.0) if wandering else mosaic(rng, count, side)
    faults = data.walks(rng, 0 if wandering else count // 100, 20, side, 40.0)
    lines += [
        Feature("lines", line, "contact" if i < len(pieces) else "fault", id=i + 2)
        for i, line in enumerate([*pieces, *faults])
    ]
    table = Features.of("lines", lines)
    faces = forming.faces_of(forming.pieces_of(table, SETTING.bounding).lines, shapely.Polygon(ring))
    tags = [
        Feature("points", place, "unit_tag", id=i, map_unit=f"U{i % 6}")
        for i, place in enumerate(shapely.point_on_surface(faces), 1)
    ]
    return {"lines": table, "areas": Features.of("areas", []), "points": Features.of("points", tags)}


def _formed(features: dict[Table, Features]) -> FormingPlan:
    pieces = forming.pieces_of(features["lines"], SETTING.bounding).lines
    frame = shapely.Polygon(features["lines"].geometries[0])
    faces = forming.tagged(forming.faces_of(pieces, frame), features["points"])
    return plan(faces, features["areas"], partial(edge_scales, features["lines"], SETTING.bounding))


def _bare(features: dict[Table, Features]) -> object:
    noded = shapely.node(shapely.multilinestrings(features["lines"].geometries))
    return shapely.get_parts(shapely.polygonize(shapely.get_parts(noded)))


def run() -> Iterator[Row]:
    """The ratio, the rebuild, and the table of growth."""
    features = linework(LINES)
    bare = seconds(lambda: _bare(features), 3)
    full = seconds(lambda: _formed(features), 3)
    yield ratio_row(f"Form units, {LINES} lines, against shapely's node and polygonize", full, bare, 1.5)
    yield ratio_row("Formed again after one edit, against the full build", _again(features), full, 0.1)
    loose = linework(LINES, wandering=True)
    yield ratio_row(
        "the same where one face lies around almost all lines", _again(loose), seconds(lambda: _formed(loose), 3), 0.1
    )
    yield from _growth()


def _again(features: dict[Table, Features]) -> float:
    """The median time of forming again after one edit; what is formed is taken as kept before the next one."""
    plan = _formed(features)
    areas = [a.changed(id=i) for i, a in enumerate(plan.kept, 1)]
    survey = Survey(features | {"areas": Features.of("areas", areas)}, SETTING)
    survey.formed()
    again = []
    for number in (40, 4000, 9000, 15_000, 19_000):
        line = survey.features["lines"].geometries[number]
        moved = Feature("lines", shapely.transform(line, lambda xy: xy + 3.0), "contact", id=number + 1)
        start = time.perf_counter()
        survey.update_faces([moved])
        survey.plan()
        again.append(time.perf_counter() - start)
        survey.formed()
    return float(np.median(again))


def _growth() -> Iterator[Row]:
    first: float | None = None
    for count in (1000, 3000, 10_000, 30_000, 100_000):
        features = linework(count)
        taken = seconds(lambda f=features: _formed(f), 1 if count > 30_000 else 3)  # type: ignore[misc]
        per = taken / (count * math.log(count))
        first = first or per
        yield Row(
            f"{count} lines: time by n log n, 1 000 lines being 1",
            f"{per / first:.2f} ({taken * 1000:.0f} ms)",
            "at most 1.5",
            per / first <= 1.5,
        )

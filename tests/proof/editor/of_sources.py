"""Errors of sources, and sources that look like such and are right."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely

from orvik.core.features.feature import Feature
from orvik.core.pictures.georeferencing import ControlSet
from orvik.core.pictures.source import IMPORTED, Source
from orvik.store import rows
from orvik.store.journal import Change
from orvik.store.project import Project
from tests.proof.editor.seed_kind import Counter, Random, SeedKind, Told, any_of, key_of, of_kinds, right, write
from tests.proof.seeds import contact, every, keep

SOURCES: list[SeedKind] = []
RIGHT_SOURCES: list[Counter] = []


def _scan(project: Project) -> Source:
    return next(source for source in project.sources() if source.fit)


def _refit(project: Project, points: list, kind: str = "affine") -> None:  # type: ignore[type-arg]
    held = ControlSet(kind, tuple(points))
    project.apply("seed", [Change("sources", _scan(project).id, {"fit": held.json})])


@of_kinds(SOURCES, rule="fit_untold")
def a_fit_with_just_as_many_points_as_it_needs(project: Project, random: Random) -> Told:
    points = list(ControlSet.of_json(_scan(project).fit).points)
    kind, need = any_of(random, (("affine", 3), ("similarity", 2)))
    some = [points[i] for i in sorted(random.permutation(len(points))[:need].tolist())]
    _refit(project, some, kind)
    return Told((_scan(project).name, str(need), "not known"))


@of_kinds(SOURCES, rule="sparse")
def a_curve_with_few_vertices(project: Project, random: Random) -> Told:
    x, y = 513_000.0 + float(random.uniform(-1500, 1500)), 6_802_500.0 + float(random.uniform(-1500, 1500))
    radius, steps = float(random.uniform(250, 450)), int(random.integers(9, 13))
    turn = np.linspace(0, 1.6 * np.pi, steps)
    line = shapely.LineString(np.column_stack([x + radius * np.cos(turn), y + radius * np.sin(turn)]))
    key = write(project, Feature("lines", line, "fault", certainty="inferred", capture_scale=project.scales.digitizing))
    return Told(("vertices", r"\d mm"), features=(key,))


@of_kinds(SOURCES, rule="unlogged")
def stations_that_nobody_logged(project: Project, random: Random) -> Told:
    names = [f"{900 + i}" for i in range(int(random.integers(1, 5)))]
    for i, name in enumerate(names):
        values = {"name": name, "x": 512_000.0 + 90 * i, "y": 6_802_000.0, "kind": "bedding", "azimuth": 40.0}
        project.apply("seed", [Change("stations", None, {**values, "inclination": 20.0, "note": ""})])
    return Told(("not logged", names[0]))


@of_kinds(SOURCES, rule="source_gap")
def ground_of_a_source_without_its_features(project: Project, random: Random) -> Told:
    scan = _scan(project)
    xy = np.array([(p.x, p.y) for p in ControlSet.of_json(scan.fit).points])
    corner = xy[int(random.integers(len(xy)))]
    lines = [f for f in every(project, "lines") if f.kind != "border"]
    near = [f for f in lines if f.geometry.distance(shapely.Point(corner)) < 250]
    keep(project, *(f.changed(source_id=scan.id) for f in near))
    return Told((scan.name, "no feature", "%"))


@of_kinds(SOURCES, rule="source_uncredited")
def a_source_without_credit(project: Project, random: Random) -> Told:
    source = any_of(random, [s for s in project.sources() if s.kind == IMPORTED])
    project.apply("seed", [Change("sources", source.id, {"credit": ""})])
    return Told((source.name, "credit"))


@of_kinds(SOURCES, rule="fit_in_line")
def control_points_in_a_line(project: Project, random: Random) -> Told:
    points = list(ControlSet.of_json(_scan(project).fit).points)
    one, two = points[0], points[-1]
    between = [
        replace(
            one,
            column=one.column + t * (two.column - one.column) + float(random.uniform(-4, 4)),
            row=one.row + t * (two.row - one.row),
            x=one.x + t * (two.x - one.x),
            y=one.y + t * (two.y - one.y) + float(random.uniform(-6, 6)),
        )
        for t in (0.3, 0.6)
    ]
    _refit(project, [one, two, *between])
    return Told((_scan(project).name, "line"))


# Sources that are right


@right(RIGHT_SOURCES, "fit_untold", "fit_in_line")
def a_fit_with_points_to_spare(project: Project, random: Random) -> None:
    points = list(ControlSet.of_json(_scan(project).fit).points)
    _refit(project, points[:3], "similarity")


@right(RIGHT_SOURCES, "sparse")
def a_polygon_with_corners(project: Project, random: Random) -> None:
    ring = [(0, 0), (700, 0), (700, 500), (300, 900), (0, 500), (0, 0)]
    line = shapely.LineString([(512_000 + x, 6_802_000 + y) for x, y in ring])
    write(project, Feature("lines", line, "fault", certainty="inferred", capture_scale=project.scales.digitizing))


@right(RIGHT_SOURCES, "unlogged")
def a_station_that_is_logged(project: Project, random: Random) -> None:
    reading = next(every(project, "points", kind="bedding"))
    values = {"name": "901", "x": reading.geometry.x, "y": reading.geometry.y, "kind": "bedding", "note": ""}
    reading_of = {"azimuth": reading.azimuth, "inclination": reading.inclination}
    project.apply("seed", [Change("stations", None, {**values, **reading_of})])


@right(RIGHT_SOURCES, "coarse_source", "source_unused", "source_uncredited")
def a_finer_source(project: Project, random: Random) -> None:
    project.apply("seed", [rows.source_change(Source(IMPORTED, "Quarry plan", credit="Quarry plan, 1:500, 1999"))])
    number = max(source.id or 0 for source in project.sources())
    keep(project, contact(project).changed(source_id=number))


@right(RIGHT_SOURCES, "off_source", "source_gap")
def features_of_a_scan_within_it(project: Project, random: Random) -> None:
    scan = _scan(project)
    xy = np.array([(p.x, p.y) for p in ControlSet.of_json(scan.fit).points])
    ground = shapely.box(*xy.min(axis=0) - 700, *xy.max(axis=0) + 700)
    both = [*every(project, "lines"), *every(project, "points")]
    inside = [f for f in both if f.geometry.intersects(ground)]
    held = [f for f in inside if f.kind not in ("border", "section_line")]
    reaches = [f for f in held if f.geometry.distance(shapely.MultiPoint(xy).convex_hull) < 150]
    keep(project, *(f.changed(source_id=scan.id) for f in reaches))
    assert key_of(reaches[0])

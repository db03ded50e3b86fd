"""The demo is what the project promises, and sound as a map."""

from __future__ import annotations

from collections import Counter
from pathlib import Path

import shapely

from orvik.core.georef import ControlSet
from orvik.demo.island import BORDER, island
from orvik.store.project import Project


def test_it_holds_what_a_map_holds(demo: Path) -> None:
    project = Project.open(demo)
    lines, points = project.features("lines"), project.features("points")
    kinds = Counter(zip(lines.columns["kind"], lines.columns["certainty"], strict=True))
    assert {c for k, c in kinds if k == "contact"} == {"certain", "approximate", "inferred", "concealed"}
    assert kinds["dyke", "certain"] == 1
    assert 5 <= len(project.units()) <= 7
    assert 55 <= Counter(points.columns["kind"])["bedding"] <= 70
    assert [s.name for s in project.sheets()] == ["Harrack Head"]
    assert [r["name"] for r in project.sources()] == ["Relief", "Field sheet 3"]
    assert [v["name"] for v in project.views()] == ["Head of the burn", "Whole of the island"]
    assert ControlSet.of_json(project.sources()[1]["fit"]).kind == "affine"
    assert project.scales.publication == 25_000
    project.close()


def test_two_faults() -> None:
    faults = shapely.line_merge(shapely.union_all([x.geometry for x in island().lines if x.kind == "fault"]))
    assert len(shapely.get_parts(faults)) == 2


def test_areas_cover_the_island_without_gap_or_overlap() -> None:
    """Coverage by GEOS (shapely.coverage_is_valid), and the balance of areas."""
    ground = island()
    faces = [f.geometry for f in ground.faces]
    assert shapely.coverage_is_valid(faces)
    total = sum(f.area for f in faces)
    assert abs(total - shapely.union_all(faces).area) < 0.01
    assert abs(total - ground.shore.area) / ground.shore.length < 0.01


def test_lines_share_vertices_with_areas(demo: Path) -> None:
    """Every edge of an area is a contact, a fault or the shore: nothing is outlined for itself."""
    ground = island()
    edges = shapely.union_all([shapely.boundary(f.geometry) for f in ground.faces])
    drawn = shapely.union_all([x.geometry for x in ground.lines if x.kind != "dyke"])
    assert shapely.difference(edges, drawn).length < 0.01


def test_it_is_always_the_same() -> None:
    one, two = island(), island()
    assert [x.geometry.wkb for x in one.lines] == [x.geometry.wkb for x in two.lines]
    assert one.stations == two.stations
    assert BORDER[2] - BORDER[0] == 7000

"""Areas, overlays and lines along them, after any chain of operations: what ran together runs together still."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import closing
from pathlib import Path

import numpy as np
import pytest
import shapely

from orvik.core.drawing import area_operations
from orvik.core.errors import FeatureRefused
from orvik.core.faces.forming import proven
from orvik.core.features.feature import Feature
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.table import TABLES
from orvik.core.geometry.shared_edges import ON_EDGE
from orvik.core.geometry.snapping import SnapIndex
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.scale import Scales
from orvik.store import rows
from orvik.store.creation import create
from orvik.store.journal import Change
from orvik.store.project import Project
from orvik.usecases.compile.features import FeatureEdit, keep_features
from orvik.usecases.compile.reshaping import reshaping

X, Y, SIDE = 511_000.0, 6_801_000.0, 1000.0


def everything(project: Project) -> list[Feature]:
    return [f for t in TABLES for f in project.whole(t, project.features(t).ids.tolist()).values()]


@pytest.fixture
def project(tmp_path: Path, crs: ProjectCrs) -> Iterator[Project]:
    create(tmp_path / "mosaic.gpkg", "Mosaic", crs, Scales(25_000, 6_250))
    with closing(Project.open(tmp_path / "mosaic.gpkg")) as opened:
        units = [MapUnit(code, code, "", "#BBD5A6", position=i) for i, code in enumerate(("Qt", "Kp", "Jh"), 1)]
        opened.apply("units", [rows.unit_change(None, unit) for unit in units])
        yield opened


def mosaic(project: Project, rng: np.random.Generator) -> None:
    """Voronoi areas, the contacts between them as lines of their own, and an overlay over some edges."""
    places = shapely.multipoints(rng.uniform(0, SIDE, (7, 2)) + (X, Y))
    whole = shapely.box(X, Y, X + SIDE, Y + SIDE)
    cells = [c.intersection(whole) for c in shapely.get_parts(shapely.voronoi_polygons(places, extend_to=whole))]
    nodes = shapely.node(shapely.union_all([c.boundary for c in cells]))
    lines = [p for p in shapely.get_parts(shapely.line_merge(nodes)) if p.length > 1]
    faces = shapely.get_parts(shapely.polygonize(list(shapely.get_parts(nodes))))
    kept = [Feature("areas", f, "unit_area", map_unit="Kp" if i % 2 else "Jh") for i, f in enumerate(faces)]
    kept += [Feature("lines", line, "contact") for line in lines]
    kept += [Feature("areas", faces[0], "alteration"), Feature("areas", blob(rng), "landslide")]
    project.apply("mosaic", [rows.feature_change(f, project.srs_id) for f in kept])


def blob(rng: np.random.Generator) -> shapely.Polygon:
    angle = np.sort(rng.uniform(0, 2 * np.pi, int(rng.integers(5, 9))))
    radius = rng.uniform(60, 260, len(angle))
    middle = rng.uniform(100, 900, 2) + (X, Y)
    ring = shapely.Polygon(np.column_stack([middle[0] + radius * np.cos(angle), middle[1] + radius * np.sin(angle)]))
    return ring if ring.is_valid else shapely.Point(middle).buffer(90, quad_segs=2)


def parted(features: list[Feature]) -> list[tuple[Feature, Feature, tuple[float, float]]]:
    """Vertices of one that lie on the edge of another which does not have them."""
    out = []
    extended = [f for f in features if f.table != "points"]
    tree = shapely.STRtree([f.edge for f in extended])
    held = [{tuple(p) for p in shapely.get_coordinates(f.geometry).tolist()} for f in extended]
    for i, feature in enumerate(extended):
        xy = shapely.get_coordinates(feature.geometry)
        spot, other = tree.query(shapely.points(xy), predicate="dwithin", distance=ON_EDGE)
        out += [
            (feature, extended[j], tuple(xy[k].tolist()))
            for k, j in zip(spot.tolist(), other.tolist(), strict=True)
            if i != j and tuple(xy[k].tolist()) not in held[j]
        ]
    return out


def step(project: Project, rng: np.random.Generator) -> str:
    there = everything(project)
    units = [f for f in there if f.kind == "unit_area"]
    one = units[int(rng.integers(len(units)))]
    others = [f for f in units if f.id != one.id]
    new = Feature("areas", blob(rng), "unit_area", map_unit="Qt")
    what = str(rng.choice(["fill", "over", "cut", "hole", "split", "merge", "overlay", "reshape", "reshape"]))
    if what == "reshape":
        return reshaped(project, there, rng)
    if what == "fill":
        outcome = area_operations.fill_to_neighbours(new, units)
    elif what == "over":
        outcome = area_operations.laid_over(new, units)
    elif what == "cut":
        outcome = area_operations.cut_out(units, new.geometry, [], new)
    elif what == "hole":
        outcome = area_operations.cut_out([one], new.geometry, others, None)
    elif what == "split":
        turn = rng.uniform(0, np.pi)
        middle = one.geometry.representative_point()
        far = np.array([np.cos(turn), np.sin(turn)]) * 3000
        cut = shapely.LineString([(middle.x - far[0], middle.y - far[1]), (middle.x + far[0], middle.y + far[1])])
        outcome = area_operations.split(one, cut, others)
    elif what == "merge":
        outcome = area_operations.merge([units[int(i)] for i in rng.permutation(len(units))[:2]])
    else:
        overlays = [f for f in there if f.table == "areas" and f.kind == "landslide"]
        outcome = area_operations.laid_over(Feature("areas", blob(rng), "landslide"), overlays)
    edit = FeatureEdit(what, outcome.kept, [("areas", number) for number in outcome.deleted])
    keep_features(project, SnapIndex(project.all_features()), edit, project.revision)
    return what


def reshaped(project: Project, there: list[Feature], rng: np.random.Generator) -> str:
    """A new course between two places of an edge, past whatever meets it there."""
    extended = [f for f in there if f.table == "lines" or f.kind == "unit_area"]
    one = extended[int(rng.integers(len(extended)))]
    ring = one.geometry.exterior if one.table == "areas" else one.geometry
    start, length = rng.uniform(0, ring.length), rng.uniform(0.05, 0.4) * ring.length
    begin, end = (ring.interpolate(at % ring.length) for at in (start, start + length))
    aside = rng.uniform(-60, 60, 2)
    middle = ((begin.x + end.x) / 2 + aside[0], (begin.y + end.y) / 2 + aside[1])
    places = [(begin.x, begin.y), (float(middle[0]), float(middle[1])), (end.x, end.y)]
    index = SnapIndex(project.all_features())
    edit = reshaping(project, index, one, places, 6_250, [])
    keep_features(project, index, edit, project.revision)
    return f"reshape {one.name}"


@pytest.mark.parametrize("seed", range(14))
def test_chains_of_operations_part_nothing(project: Project, seed: int) -> None:
    rng = np.random.default_rng(seed)
    mosaic(project, rng)
    assert not parted(everything(project))
    done = []
    for _ in range(7):
        try:
            done.append(step(project, rng))
        except FeatureRefused:
            continue
        there = everything(project)
        assert not parted(there), (seed, done, parted(there)[0])
        good, over = proven(f.geometry for f in there if f.kind == "unit_area")
        assert good, (seed, done)
        assert abs(over) < 1e-3
    # A vertex of an edge, moved: all that lies there has it, and goes along to the last bit.
    lines = [f for f in everything(project) if f.table == "lines"]
    place = tuple(shapely.get_coordinates(lines[0].geometry)[1].tolist())
    moved = [
        f.changed(
            geometry=shapely.transform(f.geometry, lambda xy: np.where((xy == place).all(1)[:, None], xy + 0.25, xy))
        )
        for f in everything(project)
    ]
    project.apply(
        "move", [Change(c.table, c.id, c.values) for c in (rows.feature_change(f, project.srs_id) for f in moved)]
    )
    assert not parted(everything(project))
    assert done

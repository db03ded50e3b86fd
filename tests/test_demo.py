"""The demo is what the project promises, and sound as a map."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace
from functools import lru_cache
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
import shapely
from scipy.ndimage import gaussian_filter
from scipy.optimize import brentq
from scipy.spatial import cKDTree
from shapely.ops import substring

from orvik.core.arrays import Floats
from orvik.core.errors import StructureRefused
from orvik.core.features.map_unit import out_of_order
from orvik.core.pictures.georeferencing import ControlSet
from orvik.core.structure.best_plane import best_plane
from orvik.core.symbols.portrayal.line_ink import part_symbols
from orvik.demo.island import Island, island
from orvik.demo.landscape import CELL
from orvik.demo.rock import BORDER, along_strike
from orvik.store.project import Project
from orvik.store.tables.symbol_book import symbol_book_of
from orvik.usecases.compile.survey import survey_of


def test_it_holds_what_a_map_holds(demo: Path) -> None:
    project = Project.open(demo)
    lines, points = project.features("lines"), project.features("points")
    kinds = Counter(zip(lines.columns["kind"], lines.columns["certainty"], strict=True))
    assert {c for k, c in kinds if k == "contact"} == {"certain", "approximate", "inferred", "concealed"}
    assert kinds["dyke", "certain"] == 3
    assert kinds["shoreline", "certain"] >= 4
    assert 5 <= len(project.units()) <= 7
    assert 55 <= Counter(points.columns["kind"])["bedding"] <= 70
    assert [s.name for s in project.sheets()] == ["Harrack Head", "Quennet and its waters", "Figure 1"]
    underlays = ["Relief", "Field sheet 3", "Lands around"]
    assert [r.name for r in project.sources()] == [*underlays, "Field sheets", "Thesis map", "Aerial pictures"]
    assert [v.name for v in project.views()] == ["Head of the burn", "Whole of the island"]
    assert ControlSet.of_json(project.sources()[1].fit).kind == "affine"
    assert project.scales.publication == 25_000
    project.close()


@lru_cache(maxsize=1)
def the_island() -> Island:
    return island()


def test_two_faults() -> None:
    faults = shapely.line_merge(shapely.union_all([x.geometry for x in the_island().lines if x.kind == "fault"]))
    assert len(shapely.get_parts(faults)) == 2


def test_areas_cover_the_island_without_gap_or_overlap() -> None:
    """Coverage by GEOS (shapely.coverage_is_valid), and the balance of areas."""
    ground = the_island()
    faces = [f.geometry for f in ground.faces]
    assert shapely.coverage_is_valid(faces)
    total = sum(f.area for f in faces)
    assert abs(total - shapely.union_all(faces).area) < 0.01
    assert abs(total - ground.shore.area) / ground.shore.length < 0.01


def test_lines_share_vertices_with_areas(demo: Path) -> None:
    """Every edge of an area is a contact, a fault or the shore: nothing is outlined for itself."""
    ground = the_island()
    edges = shapely.union_all([shapely.boundary(f.geometry) for f in ground.faces])
    drawn = shapely.union_all([x.geometry for x in ground.lines if x.kind != "dyke"])
    assert shapely.difference(edges, drawn).length < 0.01


def test_streams_run_down_the_ground_and_into_the_sea_or_each_other() -> None:
    ground = the_island()
    land = ground.land
    assert len(land.streams) > 15
    shore = shapely.boundary(ground.shore)
    others = shapely.union_all(land.streams)
    for stream in land.streams:
        rows = ((land.north - shapely.get_coordinates(stream)[:, 1]) / CELL).astype(int)
        columns = ((shapely.get_coordinates(stream)[:, 0] - land.west) / CELL).astype(int)
        heights = land.heights[rows, columns]
        # Down from head to mouth, but for what smoothing has moved.
        assert heights[0] > heights[-1]
        steps = np.diff(heights[::16])
        assert (steps > 2.0).sum() <= max(1, 0.15 * len(steps))
        mouth = shapely.Point(stream.coords[-1])
        assert shore.distance(mouth) < 120 or shapely.difference(others, stream.buffer(1)).distance(mouth) < 60


def test_the_ground_is_smooth_at_its_own_cells() -> None:
    """No step between neighbours that a slope of the model could not have."""
    heights = the_island().land.heights
    assert np.abs(np.diff(heights, axis=0)).max() < 12
    assert np.abs(np.diff(heights, n=2, axis=1)).max() < 4


def test_it_is_always_the_same() -> None:
    one, two = the_island(), island()
    assert [x.geometry.wkb for x in one.lines] == [x.geometry.wkb for x in two.lines]
    assert one.stations == two.stations
    assert BORDER[2] - BORDER[0] == 7000


def test_contacts_lie_where_the_model_meets_the_ground() -> None:
    """The model's heights above the foot of a bed, along its contacts away from faults and drift: a metre or two."""
    ground = the_island()
    grid, rock = ground.land.grid, ground.rock
    cover = shapely.union_all([f.geometry for f in ground.faces if f.unit in ("Qt", "Qal")]).buffer(5)
    faults = shapely.union_all([x.geometry for x in ground.lines if x.kind == "fault"]).buffer(150)
    checked = 0
    for line in ground.lines:
        free = shapely.difference(line.geometry, shapely.union(cover, faults))
        if line.kind != "contact" or line.certainty == "concealed" or free.is_empty:
            continue
        xy = shapely.get_coordinates(free)
        z = grid.at(xy)
        block = rock.block(xy, z)
        above = np.array([rock.above_base(p[None], h[None], int(b))[0] for p, h, b in zip(xy, z, block, strict=True)])
        feet = np.array([foot for _, foot in rock.floors])
        off = np.abs(above[:, None] - feet[None, :]).min(axis=1)
        assert np.quantile(off, 0.95) < 2.0, line
        checked += len(xy)
    assert checked > 500


def test_beds_are_as_thick_everywhere_as_the_model_says() -> None:
    """Straight up from a foot by the thickness over the cosine of the dip is the next foot, on the straight flanks."""
    rock = the_island().rock
    for v in (-1400.0, -1100.0):
        xy = along_strike(np.array([0.0]), np.array([v]))
        foot = brentq(lambda z, xy=xy: float(rock.above_base(xy, np.array([z]), 1)[0]), -900, 900)
        _, dip = rock.bedding(float(xy[0, 0]), float(xy[0, 1]), foot)
        for (_, below), (_, above) in pairwise(rock.floors):
            top = foot + above / np.cos(np.radians(dip))
            # The axis meanders, by which thickness may be out by 2 %.
            assert float(rock.above_base(xy, np.array([top]), 1)[0]) - above == pytest.approx(0, abs=0.02 * above)
            assert above > below


def test_the_distance_from_the_base_is_the_least() -> None:
    """Against scipy's nearest of many places on the curve."""
    fold = the_island().rock.fold
    base = []
    for bend in fold.bends:
        t = np.linspace(0, 1, 4000)
        rises = bend.begins + t * (bend.ends - bend.begins)
        if bend.radius:
            v = bend.v + bend.radius * (np.sin(rises) - np.sin(bend.begins))
            base.append(np.column_stack([v, bend.z - bend.radius * (np.cos(rises) - np.cos(bend.begins))]))
        else:
            along = t * bend.length
            way = (np.cos(bend.begins), np.sin(bend.begins))
            base.append(np.column_stack([bend.v + along * way[0], bend.z + along * way[1]]))
    places = np.random.default_rng(5).uniform((-3500, -800), (3500, 700), (2000, 2))
    nearest, _ = cKDTree(np.vstack(base)).query(places)
    still = replace(fold, plunge=0.0, meander=lambda u: u * 0)
    found, _ = still.above_base(np.zeros(2000), *places.T)
    assert np.abs(np.abs(found) - nearest).max() < 0.05


def test_readings_are_the_model_s() -> None:
    """Poles within a few degrees; and what the faults have moved is lower on the side that they dip to."""
    ground = the_island()
    off = []
    for station in ground.stations:
        strike, dip = ground.beds(station.x, station.y)
        one, two = (_pole(*a) for a in ((strike, dip), (station.azimuth, station.inclination)))
        off.append(np.degrees(np.arccos(min(abs(float(one @ two)), 1.0))))
    assert np.median(off) < 3.5
    assert max(off) < 9
    assert all(ground.rock.slid(block)[1] <= 0 for block in range(3))


def _pole(strike: float, dip: float) -> Floats:
    towards, slope = np.radians(strike + 90), np.radians(dip)
    return np.array([np.sin(slope) * np.sin(towards), np.sin(slope) * np.cos(towards), np.cos(slope)])


def test_it_holds_every_kind_of_thing_that_compile_makes(demo: Path) -> None:
    project = Project.open(demo)
    lines, points, areas = (
        project.whole(t, project.features(t).ids.tolist()).values() for t in ("lines", "points", "areas")
    )
    assert any(f.knots for f in lines)
    assert {s.certainty for f in lines if f.kind == "fault" for s in f.stretches} == {"inferred"}
    bands = [f for f in lines if f.band]
    assert {f.band.on for f in bands if f.band} == {"ground", "sheet"}
    assert any(f.band.right == "inferred" for f in bands if f.band)
    assert any(s.side == "left" for f in bands for s in f.stretches)
    # Dip marks on one of them, and a cover over one.
    assert any(f.band.dips and f.inclination for f in bands if f.band)
    assert any(s.certainty == "concealed" for f in bands for s in f.stretches)
    kinds = {f.kind for f in points}
    assert kinds >= {
        "bedding",
        "overturned_bedding",
        "foliation",
        "joint",
        "fault_plane",
        "lineation",
        "unit_tag",
        "gauged_spring",
    }
    dips = {f.inclination for f in points if f.kind == "bedding"}
    assert {0.0, 90.0} <= dips
    assert any(f.geometry.interiors for f in areas)  # type: ignore[union-attr]
    assert {k["family"] for k in project.kinds()} == {"points", "lines", "areas"}
    assert {f.fields.get("Flow") for f in points if f.kind == "gauged_spring"} == {"dry", "seep", "steady"}
    assert len(project.stations()) == 12
    project.close()


def test_it_shows_many_symbols_and_patterns_with_good_sense(demo: Path) -> None:
    """At least 40 symbols of the book and 6 patterns; what lies on rock of one sort lies there."""
    project = Project.open(demo)
    book, features = symbol_book_of(project), project.all_features()
    used = {symbol.id for table in features.values() for symbol in book.symbols_of(table)}
    used |= {symbol.id for _, symbol in part_symbols(features["lines"], book)}
    assert len({name for name in used if not name.startswith("own-")}) >= 40
    assert len({unit.pattern for _, unit in project.units()} - {""}) >= 6
    assert out_of_order([unit for _, unit in project.units()]) == []
    for _, unit in project.units():
        assert unit.span is not None
        assert book.pattern(unit.pattern) is not None
    rock = {
        code: shapely.union_all(
            [
                g
                for g, u in zip(features["areas"].geometries, features["areas"].columns["map_unit"], strict=True)
                if u == code
            ]
        )
        for code in ("pCg", "Qt", "Kp")
    }
    expected = {"mineral_lineation": "pCg", "mine_shaft": "pCg", "gravel_pit": "Qt", "fossil": "Kp", "thrust": "pCg"}
    expected |= {"esker": "Qt", "moraine_crest": "Qt"}
    for table in ("lines", "points"):
        for kind, geometry in zip(features[table].columns["kind"], features[table].geometries, strict=True):  # type: ignore[index]
            if kind in expected:
                assert rock[expected[kind]].covers(geometry), kind
    project.close()


def test_it_opens_with_two_honest_findings(demo: Path) -> None:
    project = Project.open(demo)
    survey = survey_of(project)
    assert [(f.rule, f.severity) for f in survey.findings] == [
        ("dangle", "error"),
        ("coarse", "warning"),
    ]
    assert [bool(f.fix) for f in survey.findings] == [True, False]
    # The units are as lines and tags say.
    plan = survey.plan()
    assert (plan.kept, plan.deleted) == ((), ())
    project.close()


def test_planes_along_the_island_s_straight_flanks_hold_their_errors() -> None:
    """Contacts digitized and draped with errors, where the model's beds are planar: 90 to 99 of 100 within the bound.

    The median is below 5 degrees where they span 30 m of height and are not near straight.
    """
    ground, rng = the_island(), np.random.default_rng(5)
    contacts = [x.geometry for x in ground.lines if x.kind == "contact" and x.certainty != "concealed"]
    cover = shapely.union_all([f.geometry for f in ground.faces if f.unit in ("Qt", "Qal")]).buffer(5)
    parts = [p for g in contacts for p in shapely.get_parts(shapely.difference(g, cover)) if p.length > 300]
    within, off = [], []
    for _ in range(1500):
        line = parts[int(rng.integers(len(parts)))]
        long = float(rng.uniform(250, min(900, line.length)))
        begin = float(rng.uniform(0, line.length - long))
        drawn = shapely.segmentize(substring(line, begin, begin + long), 12.0)
        xy = shapely.get_coordinates(drawn)
        z = ground.land.grid.at(xy)
        poles = np.array([_pole(*ground.rock.bedding(*p, h)) for p, h in zip(xy[::6].tolist(), z[::6], strict=True)])
        true = poles.mean(axis=0) / np.linalg.norm(poles.mean(axis=0))
        if np.degrees(np.arccos(np.clip(poles @ true, -1, 1))).max() > 0.5 or np.ptp(z) < 30:
            continue
        # Half a millimetre at the scale of capture, and what is stated of the heights.
        wander = gaussian_filter(rng.normal(0, 1, xy.shape), (2, 0))
        away = gaussian_filter(rng.normal(0, 1, len(xy)), 2)
        xyz = np.column_stack([xy + wander / wander.std() * 3.1, z + away / away.std() * 1.5])
        try:
            found = best_plane(xyz, 3.125, 1.5)
        except StructureRefused:
            continue
        turn = float(np.degrees(np.arccos(min(abs(float(np.array(found.plane.normal) @ true)), 1.0))))
        within.append(turn <= found.bound)
        if found.straightness < 1:
            off.append(turn)
    assert len(within) > 60
    assert 0.90 <= float(np.mean(within)) <= 0.99
    assert float(np.median(off)) < 5

"""Snapping against a search by brute force, and through edits."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
import shapely
import shapely.affinity
from hypothesis import assume, given
from hypothesis import strategies as st

from orvik.core.features.feature import Feature, Features
from orvik.core.features.table import Table
from orvik.core.geometry.snapping import EXTENSION_RINGS, SnapIndex, Switches
from tests.examples import examples

COORDINATES = st.integers(0, 40)
LINES = st.lists(
    st.lists(st.tuples(COORDINATES, COORDINATES), min_size=2, max_size=6, unique=True), min_size=1, max_size=8
)


def index_of(*features: Feature) -> SnapIndex:
    tables = {f.table for f in features}
    return SnapIndex({t: Features.of(t, [f for f in features if f.table == t]) for t in tables})


def line(number: int, *places: tuple[float, float]) -> Feature:
    return Feature("lines", shapely.LineString(places), "contact", id=number)


@examples(150)
@given(LINES, COORDINATES, COORDINATES, st.integers(1, 12))
def test_nearest_vertex_by_brute_force(paths: list[list[tuple[int, int]]], x: int, y: int, radius: int) -> None:
    features = [line(i, *p) for i, p in enumerate(paths, 1)]
    index = index_of(*features)
    found = index.snap(x, y, radius, Switches(vertex=True, edge=False, end=True))
    reach = min(np.hypot(px - x, py - y) for p in paths for px, py in p)
    if reach <= radius:
        assert found is not None
        assert np.hypot(found.x - x, found.y - y) == reach
        assert (found.x, found.y) in paths[found.id - 1]
        ends = [e for p in paths if p[0] != p[-1] for e in (p[0], p[-1])]
        assert (found.what == "end") == ((found.x, found.y) in ends)
    else:
        assert found is None


@examples(150)
@given(LINES, COORDINATES, COORDINATES, st.integers(1, 12))
def test_nearest_edge_against_shapely(paths: list[list[tuple[int, int]]], x: int, y: int, radius: int) -> None:
    features = [line(i, *p) for i, p in enumerate(paths, 1)]
    found = index_of(*features).snap(x, y, radius, Switches(vertex=False, edge=True, end=False))
    reach = min(f.geometry.distance(shapely.Point(x, y)) for f in features)
    # Just so far away as the ring is large, rounding decides.
    assume(abs(reach - radius) > 1e-9)
    if reach <= radius:
        assert found is not None
        assert np.hypot(found.x - x, found.y - y) == pytest.approx(reach, abs=1e-9)
        assert features[found.id - 1].geometry.distance(shapely.Point(found.x, found.y)) < 1e-9
    else:
        assert found is None


def test_coordinates_are_bit_equal() -> None:
    place = (513_482.123456789, 6_803_117.987654321)
    index = index_of(line(7, (513_000.1, 6_803_000.3), place))
    found = index.snap(513_483.0, 6_803_118.0, 15, Switches())
    assert found is not None
    assert (found.x, found.y) == place
    assert found.label == "end of contact 7"


def test_ties_are_broken_in_the_stated_order() -> None:
    shared = (10.0, 10.0)
    inner = line(1, (0, 10), shared, (20, 10))
    ending = line(2, shared, (10, 30))
    area = Feature("areas", shapely.Polygon([(10, 10), (30, 10), (30, 30)]), "unit_area", id=1)
    found = index_of(inner, ending, area).snap(11, 11, 5, Switches())
    assert found is not None
    assert (found.what, found.table, found.id) == ("end", "lines", 2)
    found = index_of(inner, area).snap(11, 11, 5, Switches())
    assert found is not None
    assert (found.what, found.table) == ("vertex", "lines")


def test_a_vertex_goes_before_a_nearer_edge() -> None:
    index = index_of(line(1, (0, 0), (100, 0)), line(2, (50, 3), (50, 80)))
    found = index.snap(50, 0.5, 5, Switches())
    assert found is not None
    assert (found.what, found.id) == ("end", 2)


def test_closed_lines_have_no_ends() -> None:
    index = index_of(line(1, (0, 0), (10, 0), (10, 10), (0, 0)))
    found = index.snap(0, 0, 3, Switches())
    assert found is not None
    assert found.what == "vertex"
    assert index.snap(0, 0, 3, Switches(vertex=False, edge=False, end=True)) is None


def test_hidden_tables_are_not_held() -> None:
    index = index_of(line(1, (0, 0), (10, 0)))
    assert index.snap(0, 0, 3, Switches(), frozenset({"areas"})) is None


def test_index_follows_edits() -> None:
    rng = np.random.default_rng(3)
    live = {i: line(i, *rng.uniform(0, 500, (5, 2)).tolist()) for i in range(1, 60)}
    index = index_of(*live.values())
    for step in range(1500):
        number = int(rng.integers(1, 90))
        if number in live and rng.random() < 0.3:
            del live[number]
            index.update([], [("lines", number)])
        else:
            live[number] = line(number, *rng.uniform(0, 500, (5, 2)).tolist())
            index.update([live[number]], [])
        if step % 50 == 0:
            fresh = index_of(*live.values())
            for x, y in rng.uniform(0, 500, (20, 2)):
                assert index.snap(x, y, 20, Switches()) == fresh.snap(x, y, 20, Switches())
                assert index.pick(x, y, 5) == fresh.pick(x, y, 5)


def test_pick_prefers_points_then_lines_then_the_smallest_area() -> None:
    big = Feature("areas", shapely.box(0, 0, 100, 100), "unit_area", id=1)
    small = Feature("areas", shapely.box(40, 40, 60, 60), "unit_area", id=2)
    edge = line(3, (0, 50), (100, 50))
    point = Feature("points", shapely.Point(50, 52), "bedding", id=4)
    index = index_of(big, small, edge, point)
    assert index.pick(50, 51, 5) == ("points", 4)
    assert index.pick(45, 51, 2) == ("lines", 3)
    assert index.pick(45, 56, 2) == ("areas", 2)
    assert index.pick(5, 5, 2) == ("areas", 1)
    assert index.pick(500, 500, 2) is None


@examples(120)
@given(LINES, COORDINATES, COORDINATES, st.integers(1, 12))
def test_crossings_against_geos(paths: list[list[tuple[int, int]]], x: int, y: int, radius: int) -> None:
    """The nearest place where two lines cross, by GEOS's intersections of all pairs."""
    features = [line(i, *p) for i, p in enumerate(paths, 1)]
    switches = Switches(vertex=False, edge=False, end=False, crossing=True)
    found = index_of(*features).snap(x, y, radius, switches)
    places = [
        place
        for i, a in enumerate(features)
        for b in features[i + 1 :]
        for place in shapely.get_coordinates(shapely.intersection(a.geometry, b.geometry)).tolist()
    ]
    if found is None:
        # Where lines run along one another they have no crossing, but GEOS tells the ends of what is common.
        near = [p for p in places if np.hypot(p[0] - x, p[1] - y) <= radius - 1e-6]
        assert all(
            shapely.intersection(a.geometry, b.geometry).length > 0
            for p in near
            for i, a in enumerate(features)
            for b in features[i + 1 :]
            if shapely.dwithin(a.geometry, shapely.Point(p), 1e-9)
            and shapely.dwithin(b.geometry, shapely.Point(p), 1e-9)
        )
        return
    assert found.what == "crossing"
    assert found.other is not None
    both = [features[found.id - 1], features[found.other[1] - 1]]
    assert all(f.geometry.distance(shapely.Point(found.x, found.y)) < 1e-9 for f in both)
    assert found.id < found.other[1]


def test_the_middle_of_an_edge_and_beyond_an_end() -> None:
    index = index_of(line(1, (0, 0), (100, 0), (100, 60)), line(2, (300, 10), (300, 90)))
    middle = Switches(vertex=False, edge=True, end=False, middle=True)
    found = index.snap(52, 3, 10, middle)
    assert found is not None
    assert (found.what, found.x, found.y) == ("middle", 50, 0)
    assert found.label == "middle of contact 1"
    beyond = Switches(edge=True, extension=True)
    found = index.snap(103, 75, 10, beyond)
    assert found is not None
    assert (found.what, found.x, found.y) == ("extension", 100, 75)
    # Not behind the line, not too far ahead, and never before an edge.
    assert index.snap(-50, 40, 10, beyond) is None
    assert index.snap(103, 200, 10, beyond) is None
    found = index.snap(301, 60, 10, beyond)
    assert found is not None
    assert found.what == "edge"


def test_the_order_of_sorts() -> None:
    """A vertex before a crossing, a crossing before a middle, that before an edge."""
    index = index_of(line(1, (0, 0), (40, 0)), line(2, (20, -20), (20, 20)), line(3, (24, 3), (60, 30)))
    every = Switches(crossing=True, middle=True, extension=True)
    told = [
        index.snap(21, 1, 8, s)
        for s in (
            every,
            Switches(vertex=False, end=False, crossing=True, middle=True),
            Switches(vertex=False, end=False, middle=True),
            Switches(vertex=False, end=False),
        )
    ]
    assert [t.what for t in told if t] == ["end", "crossing", "middle", "edge"]
    crossing = told[1]
    assert crossing is not None
    assert (crossing.x, crossing.y, crossing.label) == (20, 0, "crossing of contact 1 and contact 2")


def test_what_lies_in_a_box_and_at_a_place() -> None:
    area = Feature("areas", shapely.box(0, 0, 100, 100), "unit_area", id=1)
    index = index_of(line(1, (10, 10), (20, 20)), line(2, (90, 90), (200, 200)), area)
    every = frozenset({"lines", "areas", "points"})
    assert index.within((0, 0, 50, 50), every) == [("lines", 1), ("areas", 1)]  # type: ignore[arg-type]
    assert index.within((0, 0, 50, 50), every, whole=True) == [("lines", 1)]  # type: ignore[arg-type]
    assert index.within((-5, -5, 120, 120), every, whole=True) == [("lines", 1), ("areas", 1)]  # type: ignore[arg-type]
    assert index.within((40, 40, 50, 50), every) == [("areas", 1)]  # type: ignore[arg-type]
    assert index.touching(100, 50) == [("areas", 1)]
    assert index.touching(15, 15) == [("lines", 1)]
    index.update([line(1, (300, 300), (310, 310))], [("areas", 1)])
    assert index.within((0, 0, 50, 50), every) == []  # type: ignore[arg-type]
    assert index.touching(100, 50) == []


def only(**on: bool) -> Switches:
    """Nothing is held but what is named."""
    return Switches(**({"vertex": False, "edge": False, "end": False} | on))


@examples(150)
@given(LINES, COORDINATES, COORDINATES, st.integers(1, 12))
def test_nearest_middle_by_brute_force(paths: list[list[tuple[int, int]]], x: int, y: int, radius: int) -> None:
    found = index_of(*(line(i, *p) for i, p in enumerate(paths, 1))).snap(x, y, radius, only(middle=True))
    gaps = [
        (np.hypot((a[0] + b[0]) / 2 - x, (a[1] + b[1]) / 2 - y), number, ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2))
        for number, path in enumerate(paths, 1)
        for a, b in itertools.pairwise(path)
    ]
    gap, number, _ = min(gaps)
    if gap <= radius:
        assert found is not None
        assert (found.what, found.id) == ("middle", number)
        assert (gap, number, (found.x, found.y)) in gaps
    else:
        assert found is None


@examples(200)
@given(LINES, COORDINATES, COORDINATES, st.integers(1, 12))
def test_nearest_place_beyond_an_end_by_complex_numbers(
    paths: list[list[tuple[int, int]]], x: int, y: int, radius: int
) -> None:
    """Straight on from the last two vertices, at most as far as stated, never behind the end."""
    found = index_of(*(line(i, *p) for i, p in enumerate(paths, 1))).snap(x, y, radius, only(extension=True))
    best: list[tuple[float, int, complex]] = []
    for number, path in enumerate(paths, 1):
        for end, before in ((path[0], path[1]), (path[-1], path[-2])):
            course = complex(*end) - complex(*before)
            turned = (complex(x, y) - complex(*end)) * (course / abs(course)).conjugate()
            # Just so far away as is looked for, rounding decides.
            limits = (radius, radius * EXTENSION_RINGS)
            sizes = (abs(turned.imag), turned.real, abs(turned))
            assume(all(abs(size - limit) > 1e-9 for size in sizes for limit in limits))
            in_reach = 1e-9 < turned.real <= radius * EXTENSION_RINGS and abs(turned.imag) <= radius
            # What is further than the rings can see from any place of the line is not looked at.
            if in_reach and abs(turned) <= radius * EXTENSION_RINGS:
                best.append((abs(turned.imag), number, complex(*end) + turned.real * course / abs(course)))
    if not best:
        assert found is None
        return
    assert found is not None
    assert found.what == "extension"
    assert abs(complex(found.x, found.y) - complex(x, y)) == pytest.approx(min(best)[0], abs=1e-9)
    assert any(n == found.id and abs(place - complex(found.x, found.y)) < 1e-9 for _, n, place in best)


def anything(rng: np.random.Generator, number: int) -> list[Feature]:
    """Points, lines, and areas with holes, some over others."""
    out = []
    for i in range(1, number + 1):
        x, y = rng.uniform(0, 100, 2)
        wide, high = rng.uniform(5, 25, 2)
        hole = shapely.box(x + wide / 3, y + high / 3, x + wide / 2, y + high / 2)
        out.append(Feature("areas", shapely.box(x, y, x + wide, y + high) - hole, "unit_area", id=i))
        out.append(line(i, *rng.uniform(0, 100, (int(rng.integers(2, 6)), 2)).tolist()))
        out.append(Feature("points", shapely.Point(rng.uniform(0, 100, 2)), "bedding", id=i))
    return out


EVERY: frozenset[Table] = frozenset({"lines", "areas", "points"})


@pytest.mark.parametrize("seed", range(6))
@pytest.mark.parametrize("edited", [False, True])
def test_boxes_places_and_clicks_against_shapely(seed: int, edited: bool) -> None:
    rng = np.random.default_rng(seed)
    features = anything(rng, 14)
    index = index_of(*features)
    if edited:
        # Some are moved, some go, some come: what was there before is not found any more.
        gone, changed, come = features[:9], features[9:18], anything(rng, 20)[42:]
        moved = [f.changed(geometry=shapely.affinity.translate(f.geometry, 30, -20)) for f in changed]
        index.update([*moved, *come], [f.key for f in gone])
        features = [*moved, *features[18:], *come]
    for _ in range(60):
        x, y = (float(v) for v in rng.uniform(-5, 105, 2))
        reach = float(rng.uniform(0.5, 15))
        for tables in (EVERY, frozenset[Table]({"areas"}), frozenset[Table]({"lines", "points"})):
            box = shapely.box(x, y, x + reach * 3, y + reach * 2)
            touched = {f.key for f in features if f.table in tables and shapely.intersects(f.geometry, box)}
            assert set(index.within(box.bounds, tables)) == touched
            whole = {f.key for f in features if f.table in tables and shapely.covers(box, f.geometry)}
            assert set(index.within(box.bounds, tables, whole=True)) == whole
            course = shapely.LineString([(x, y), (x + reach, y + 2 * reach)])
            beside = {f.key for f in features if f.table in tables and shapely.dwithin(f.edge, course, reach / 4)}
            assert set(index.beside(course, tables, reach / 4)) == beside
            here = shapely.Point(x, y)
            ranks = [
                (0 if f.table == "points" else 1, shapely.distance(f.geometry, here), f.key)
                for f in features
                if f.table in tables and f.table != "areas" and shapely.distance(f.geometry, here) <= reach
            ]
            ranks += [
                (2, f.geometry.area, f.key)
                for f in features
                if f.table in tables and f.table == "areas" and shapely.intersects(f.geometry, here)
            ]
            assert index.pick(x, y, reach, tables) == (min(ranks)[2] if ranks else None)
        assert set(index.touching(x, y, reach)) == {
            f.key for f in features if shapely.dwithin(f.edge, shapely.Point(x, y), reach)
        }


def test_of_two_at_one_distance_the_older_is_held() -> None:
    """Whatever order they are asked in, and whichever tier they are in."""
    index = index_of(line(5, (0, 10), (40, 10)), line(3, (0, -10), (40, -10)))
    index.update([line(2, (0, 10), (40, 10))], [])
    for switches, what in ((only(edge=True), "edge"), (only(middle=True), "middle")):
        found = index.snap(20, 0, 10, switches)
        assert found is not None
        assert (found.what, found.id) == (what, 2)
    for switches in (only(vertex=True, end=True), only(end=True)):
        found = index.snap(0, 0, 10, switches)
        assert found is not None
        assert (found.what, found.id) == ("end", 2)
    found = index.snap(-5, 0, 10, only(extension=True))
    assert found is not None
    assert found.id == 2
    assert index.snap(20, 0, 9.99, only(edge=True, middle=True, vertex=True, end=True)) is None


def test_only_what_is_stored_is_indexed() -> None:
    with pytest.raises(ValueError, match="can be indexed"):
        index_of().update([Feature("points", shapely.Point(0, 0), "bedding")], [])
    empty = index_of()
    assert empty.snap(0, 0, 5, Switches(crossing=True, middle=True, extension=True)) is None
    assert empty.within((0, 0, 1, 1), EVERY) == []
    empty.update([], [("lines", 4)])
    empty.update([line(4, (0, 0), (9, 0))], [])
    assert empty.pick(4, 1, 2) == ("lines", 4)

"""Nodes that several features have in common are the same place to the last bit."""

from __future__ import annotations

import numpy as np
import shapely
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.features.stretch import Stretch
from orvik.core.geometry.nodes import NODE, nodes_of, parted_at_arms, same_edge, same_nodes, with_common_nodes
from orvik.core.geometry.vertices import paths_of, without_repeats
from tests.core.pieces import area, line
from tests.examples import examples

SQUARE = shapely.box(500_000, 6_800_000, 501_000, 6_801_000)


def test_a_node_within_rounding_takes_the_place_of_the_one_that_was_there() -> None:
    near = shapely.Polygon([(501_000 + 3e-10, 6_800_000), (502_000, 6_800_000), (501_000, 6_801_000 - 5e-10)])
    (moved,) = same_nodes(np.array([near]), nodes_of(np.array([SQUARE])))
    assert set(shapely.get_coordinates(moved)[:, 0]) == {501_000.0, 502_000.0}
    assert moved.exterior.coords[2] == (501_000.0, 6_801_000.0)
    apart = shapely.transform(near, lambda xy: xy + 10 * NODE)
    (stays,) = same_nodes(np.array([apart]), nodes_of(np.array([SQUARE])))
    assert stays.equals_exact(apart, 0)


def test_the_same_edge_but_for_nodes_on_it() -> None:
    more = shapely.Polygon([*SQUARE.exterior.coords[:1], (501_000, 6_800_400), *SQUARE.exterior.coords[1:]])
    assert same_edge(SQUARE, SQUARE)
    assert same_edge(SQUARE, shapely.segmentize(SQUARE, 100))
    assert not same_edge(shapely.segmentize(SQUARE, 100), SQUARE)
    assert not same_edge(
        SQUARE, shapely.Polygon(more.exterior, [shapely.box(500_100, 6_800_100, 500_200, 6_800_200).exterior])
    )
    bent = shapely.Polygon(
        [(500_000, 6_800_000), (501_000, 6_800_000), (501_001, 6_800_500), (501_000, 6_801_000), (500_000, 6_801_000)]
    )
    assert not same_edge(SQUARE, bent)


@examples(60)
@given(st.integers(0, 10_000))
def test_areas_cut_by_any_line_settle_into_a_coverage(seed: int) -> None:
    """Each part is computed by itself, so that its nodes differ in their last bits from those of the other."""
    rng = np.random.default_rng(seed)
    (x, y), (u, v) = rng.uniform(100, 900, (2, 2))
    cut = shapely.Polygon(
        [(500_000 + x, 6_799_000), (500_000 + u, 6_802_000), (503_000, 6_802_000), (503_000, 6_799_000)]
    )
    beside = area(3, shapely.box(500_000 + v, 6_801_000, 501_500, 6_801_000 + y), "Kp")
    east, west = shapely.intersection(SQUARE, cut), shapely.difference(SQUARE, cut.buffer(0))
    put, around = with_common_nodes([area(1, east, "Qt"), area(2, west, "Qt")], [beside])
    geometries = [f.geometry for f in (*put, *around)]
    assert shapely.coverage_is_valid(geometries)
    assert abs(sum(g.area for g in geometries[:2]) - SQUARE.area) < 1e-3


@examples(60)
@given(st.integers(0, 10_000))
def test_bodies_that_only_an_arm_thinner_than_rounding_joins_are_parted(seed: int) -> None:
    """An hourglass whose waist is a few last bits wide; turned anyhow, shapely sees two bodies once it is closed."""
    rng = np.random.default_rng(seed)
    waist = float(rng.uniform(1e-10, 0.4 * NODE))
    glass = np.array([(-9, -7), (-waist / 2, 0), (-8, 9), (7, 8), (waist / 2, 0), (9, -6)], dtype=float)
    turn = rng.uniform(0, 2 * np.pi)
    matrix = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
    whole = shapely.Polygon(glass @ matrix.T + rng.uniform(-2000, 2000, 2))
    bodies = parted_at_arms(whole)
    assert len(bodies) == 2
    assert all(body.is_valid for body in bodies)
    assert abs(sum(body.area for body in bodies) - whole.area) < 1e-4
    wide = shapely.Polygon(np.where(np.abs(glass) < NODE, glass * 1e8, glass) @ matrix.T)
    assert parted_at_arms(wide) == [wide]


def test_vertices_on_one_another_become_one_and_stretches_keep_their_ground() -> None:
    doubled = line(
        1,
        [(0, 0), (10, 0), (10, 0), (10, 0), (20, 0), (30, 0)],
        stretches=(Stretch(3, 4, "inferred"),),
        knots=(0, 2, 5),
    )
    one = without_repeats(doubled)
    assert paths_of(one)[0].tolist() == [[0, 0], [10, 0], [20, 0], [30, 0]]
    assert one.stretches == (Stretch(1, 2, "inferred"),)
    assert one.knots == (0, 1, 3)
    ring = area(2, shapely.Polygon([(0, 0), (0, 0), (10, 0), (10, 10), (0, 0)]), "Qt")
    assert paths_of(without_repeats(ring))[0].tolist() == [[0, 0], [10, 0], [10, 10], [0, 0]]
    # Where too few would be left it stays, and is refused with the reason that fits.
    nothing = line(3, [(5, 5), (5, 5)])
    assert without_repeats(nothing) is nothing

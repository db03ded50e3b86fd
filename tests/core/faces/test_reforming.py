"""Faces built again after an edit are those that would be built from the beginning."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.arrays import Objects
from orvik.core.faces.forming import faces_of
from orvik.core.faces.reforming import refaced
from tests.examples import examples

FRAME = shapely.box(0, 0, 1000, 1000)
BORDER = shapely.LineString(FRAME.exterior.coords)
Lines = list[shapely.LineString]


def array(lines: Lines) -> Objects:
    made = np.empty(len(lines), dtype=object)
    made[:] = lines
    return made


def ring(x: float, y: float, size: float) -> shapely.LineString:
    return shapely.LineString(shapely.box(x, y, x + size, y + size).exterior.coords)


def after(was: Lines, now: Lines) -> Objects:
    """The faces of ``now`` as they follow from those of ``was``; checked against those built from the beginning."""
    old = faces_of(array([BORDER, *was]), FRAME)
    touched = array([g for g in [*was, *now] if (g in was) != (g in now)])
    keep, new = refaced(old, array([BORDER, *now]), touched, FRAME)
    followed = np.concatenate([old[keep], new])
    anew = faces_of(array([BORDER, *now]), FRAME)
    assert len(followed) == len(anew)
    assert same(followed, anew)
    assert shapely.coverage_is_valid(followed)
    assert shapely.area(followed).sum() == pytest.approx(1e6)
    return followed


def same(one: Objects, two: Objects) -> bool:
    tree = shapely.STRtree(two)
    for polygon in one:
        twins = tree.query(shapely.point_on_surface(polygon), predicate="intersects")
        if len(twins) != 1 or shapely.hausdorff_distance(polygon, two[twins[0]]) > 1e-6:
            return False
    return True


def test_an_island_drawn_in_a_face_becomes_its_hole() -> None:
    faces = after([], [ring(100, 100, 100)])
    assert sorted(shapely.get_num_interior_rings(faces).tolist()) == [0, 1]


def test_islands_that_the_edit_does_not_reach_stay_holes() -> None:
    islands = [ring(100 * i, 100 * j, 30) for i in range(1, 9) for j in range(1, 9)]
    faces = after(islands, [*islands, shapely.LineString([(0, 450), (1000, 450)])])
    assert sorted(shapely.get_num_interior_rings(faces).tolist())[-2:] == [32, 32]


def test_a_line_moved_between_a_face_and_an_island_within_its_island() -> None:
    """The face that lies around a hole, and one within that hole, are both touched, the ring of the hole is not."""
    nested = [ring(100, 100, 800), ring(200, 200, 600), ring(300, 300, 400)]
    after([*nested, ring(20, 20, 40)], [*nested, ring(400, 400, 40)])
    after([*nested, ring(20, 20, 40)], [*nested, ring(220, 220, 40)])


def test_a_cycle_closed_through_a_bridge_between_two_islands() -> None:
    """Neither end of the new line touches the bridge, yet with it and the islands it closes a face."""
    islands = [ring(100, 400, 100), ring(700, 400, 100), shapely.LineString([(200, 450), (700, 450)])]
    faces = after(islands, [*islands, shapely.LineString([(150, 400), (150, 300), (750, 300), (750, 400)])])
    assert len(faces) == 4


def test_islands_that_touch_at_a_corner_stay_whole() -> None:
    touching = [ring(100, 100, 100), ring(200, 200, 100), ring(500, 500, 100)]
    after(
        touching, [*touching, shapely.LineString([(150, 0), (150, 100)]), shapely.LineString([(150, 200), (150, 1000)])]
    )


def test_a_line_taken_away_joins_what_it_parted() -> None:
    cut = [shapely.LineString([(0, 500), (1000, 500)]), ring(100, 100, 100), ring(100, 700, 100)]
    faces = after(cut, cut[1:])
    assert sorted(shapely.get_num_interior_rings(faces).tolist()) == [0, 0, 2]


def drawn(rng: np.random.Generator) -> shapely.LineString:
    """A ring on a coarse grid, so that rings nest, touch and share edges; or a line between grid points."""
    if rng.random() < 0.6:
        x, y = (50 * rng.integers(0, 20, 2)).tolist()
        return ring(x, y, 50 * int(rng.integers(1, 8)))
    xy = np.unique(25 * rng.integers(0, 41, (3, 2)), axis=0)
    return shapely.LineString(xy if len(xy) > 1 else [(0, 0), (25, 25)])


@examples(150)
@given(st.integers(0, 100_000))
def test_any_edit_of_several_lines_as_if_from_the_beginning(seed: int) -> None:
    rng = np.random.default_rng(seed)
    lines = [drawn(rng) for _ in range(int(rng.integers(1, 14)))]
    for _ in range(3):
        gone = set(rng.choice(len(lines), min(len(lines), int(rng.integers(0, 3))), replace=False).tolist())
        now = [g for i, g in enumerate(lines) if i not in gone] + [drawn(rng) for _ in range(int(rng.integers(1, 3)))]
        after(lines, now)
        lines = now

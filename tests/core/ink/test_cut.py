"""Ink cut to an area: many lines, areas and symbols at once, against shapely, one by one."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from orvik.core.ink.cut import cut, cut_to, drawn_out, polygons_of
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import Fill, Group, LineStyle, Marks, Stamp, Stroke

RNG = np.random.default_rng(31)


def ragged() -> shapely.Geometry:
    """An area of several parts with holes and many bends."""
    spots = shapely.points(RNG.uniform(0, 200, (40, 2)))
    holes = shapely.union_all(shapely.buffer(shapely.points(RNG.uniform(0, 200, (25, 2))), 6.0))
    return shapely.difference(shapely.union_all(shapely.buffer(spots, RNG.uniform(4, 18, 40))), holes)


def lines(count: int) -> list[np.ndarray]:
    """Short ones and some that run across everything; one of a single vertex, which is none."""
    out = [np.cumsum(RNG.normal(0, 3, (RNG.integers(2, 9), 2)), axis=0) + RNG.uniform(0, 200, 2) for _ in range(count)]
    out += [RNG.uniform(-20, 220, (3, 2)) for _ in range(5)]
    return [*out[:3], np.array([[100.0, 100.0]]), *out[3:]]


@pytest.mark.parametrize("count", [10, 600])
def test_lines_end_where_the_area_does(count: int) -> None:
    area, paths = ragged(), lines(count)
    keys = np.arange(len(paths))
    found = cut_to(Stroke(LineStyle(0.2, "#000000"), Paths.of(*paths), keys), area)
    assert len(found) == 1
    stroke = found[0]
    assert isinstance(stroke, Stroke)
    assert stroke.keys is not None
    pieces = stroke.paths.lines()
    for key, xy in enumerate(paths):
        mine = shapely.union_all(pieces[stroke.keys == key])
        wanted = shapely.LineString(xy).intersection(area) if len(xy) > 1 else shapely.LineString()
        assert shapely.length(mine) == pytest.approx(wanted.length, abs=1e-9)
        assert shapely.hausdorff_distance(mine, wanted) < 1e-9 or wanted.is_empty


@pytest.mark.parametrize("count", [10, 300])
def test_areas_end_where_the_area_does(count: int) -> None:
    area = ragged()
    boxes = shapely.box(*(corner := RNG.uniform(0, 195, (count, 2))).T, *(corner + RNG.uniform(1, 30, (count, 2))).T)
    paths = Paths.of(*(shapely.get_coordinates(box) for box in boxes))
    fill = Fill("#808080", paths, np.arange(count + 1), keys=np.arange(count))
    (found,) = cut_to(fill, area)
    assert isinstance(found, Fill)
    assert found.keys is not None
    pieces = polygons_of(found)
    for key, box in enumerate(boxes):
        mine = shapely.union_all(pieces[found.keys == key])
        assert shapely.area(shapely.symmetric_difference(mine, box.intersection(area))) < 1e-9


def test_symbols_stay_whole_away_from_the_edge_and_are_cut_at_it() -> None:
    area = ragged()
    cross = Stroke(LineStyle(0.1, "#000000"), Paths.of([(-2.0, 0.0), (2.0, 0.0)], [(0.0, -2.0), (0.0, 2.0)]))
    marks = Marks(Stamp("cross", (cross,)), RNG.uniform(-5, 205, (800, 2)), RNG.uniform(0, 360, 800))
    found = cut_to(marks, area)
    drawn = [stroke for item in found for stroke in (drawn_out(item) if isinstance(item, Marks) else [item])]
    assert any(isinstance(item, Marks) for item in found)
    assert any(isinstance(item, Stroke) for item in found)
    length = sum(shapely.length(stroke.paths.lines()).sum() for stroke in drawn if isinstance(stroke, Stroke))
    whole = [stroke.paths.lines() for stroke in drawn_out(marks) if isinstance(stroke, Stroke)]
    wanted = sum(shapely.length(shapely.intersection(one, area)).sum() for one in whole)
    assert length == pytest.approx(wanted, rel=1e-9)


def test_clips_that_touch_beside_what_they_share_leave_only_areas() -> None:
    """Two clips have a corner and an edge in common as well; symbols at the edge of what is left are cut as well."""
    outer = Paths.of([(0.0, 0.0), (10.0, 0.0), (10.0, 10.0), (0.0, 10.0), (0.0, 0.0)])
    inner = Paths.of(
        [(5.0, 5.0), (15.0, 5.0), (15.0, 8.0), (5.0, 8.0), (5.0, 5.0)],
        [(10.0, 0.0), (15.0, 0.0), (15.0, 3.0), (10.0, 3.0), (10.0, 0.0)],
    )
    bar = Stroke(LineStyle(0.1, "#000000"), Paths.of([(-2.0, 0.0), (2.0, 0.0)]))
    marks = Marks(Stamp("bar", (bar,)), np.array([(9.0, 6.0), (7.0, 6.5)]), np.zeros(2))
    (group,) = cut((Group("a", (Group("b", (marks,), clip=inner),), clip=outer),))
    strokes = [s for item in group.items[0].items for s in (drawn_out(item) if isinstance(item, Marks) else [item])]
    assert sum(shapely.length(s.paths.lines()).sum() for s in strokes) == pytest.approx(3.0 + 4.0)

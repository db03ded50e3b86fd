"""Reference layers and contour lines as ink, against shapely and against what a grid says of itself."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
import shapely

from orvik.core.ink.primitives import Fill, Marks, Stroke
from orvik.core.pictures.reference_look import ReferenceLook
from orvik.core.pictures.relief import contour_lines
from orvik.core.pictures.underlay_ink import CONTOUR_WIDTH, INDEX_WIDTH, contour_ink, reference_ink

WINDOW = shapely.box(0, 0, 100, 80)
LOOK = ReferenceLook("#7A3E9D")


def lines_of(stroke: Stroke) -> shapely.MultiLineString:
    return shapely.MultiLineString([stroke.paths[i] for i in range(len(stroke.paths))])


def random_geometries(seed: int) -> np.ndarray:
    rng = np.random.default_rng(seed)
    middles = rng.uniform(-40, 140, (30, 2))
    lines = [shapely.LineString(m + np.cumsum(rng.normal(0, 12, (8, 2)), axis=0)) for m in middles[:10]]
    areas = [shapely.Point(m).buffer(rng.uniform(5, 40)).difference(shapely.Point(m).buffer(3)) for m in middles[10:20]]
    points = [shapely.MultiPoint([m, m + 5]) for m in middles[20:]]
    return np.array([*lines, *areas, *points, None, shapely.LineString()], dtype=object)


@pytest.mark.parametrize("seed", range(20))
def test_the_ink_is_what_lies_within(seed: int) -> None:
    """Lines and edges of areas against shapely's intersection with the window: the same length, the same place."""
    geometries = random_geometries(seed)
    ink = reference_ink(geometries, LOOK, WINDOW, 0.0)
    edges = [g.boundary if g.geom_type == "Polygon" else g for g in geometries[:20]]
    wanted = shapely.union_all([shapely.intersection(edge, WINDOW) for edge in edges])
    strokes = [item for item in ink if isinstance(item, Stroke)]
    drawn = shapely.union_all(lines_of(strokes[0]))
    assert drawn.length == pytest.approx(wanted.length)
    assert drawn.hausdorff_distance(wanted) < 1e-9
    dots = next((item.at for item in ink if isinstance(item, Marks)), np.zeros((0, 2)))
    all_points = shapely.get_coordinates(geometries[20:30])
    near = [g for g in geometries[20:30] if g.intersects(WINDOW)]
    assert len(dots) == len(shapely.get_coordinates(np.array(near, dtype=object)))
    assert {tuple(d) for d in dots} <= {tuple(p) for p in all_points}


def test_the_edge_of_the_window_is_not_drawn() -> None:
    (stroke,) = reference_ink(np.array([shapely.box(50, 40, 300, 300)], dtype=object), LOOK, WINDOW, 0.0)
    assert isinstance(stroke, Stroke)
    assert lines_of(stroke).length == pytest.approx(50 + 40)


@pytest.mark.parametrize("tolerance", [0.01, 0.5])
def test_thinned_lines_stay_within_the_tolerance(tolerance: float) -> None:
    geometries = random_geometries(3)[:20]
    (whole,) = reference_ink(geometries, LOOK, WINDOW, 0.0)
    (thin,) = reference_ink(geometries, LOOK, WINDOW, tolerance)
    assert isinstance(whole, Stroke)
    assert isinstance(thin, Stroke)
    assert lines_of(thin).hausdorff_distance(lines_of(whole)) <= tolerance + 1e-9
    assert len(thin.paths.xy) < len(whole.paths.xy)


def test_nothing_in_sight_is_no_ink() -> None:
    assert reference_ink(np.array([shapely.box(200, 200, 300, 300), None], dtype=object), LOOK, WINDOW, 0.0) == []
    assert contour_ink([], 10, WINDOW, 0.0) == []


def test_contour_lines_of_a_slope_stand_where_it_has_them() -> None:
    """A plane that rises a metre a cell: lines every 5 m are straight, and every fifth of them is heavier."""
    heights = np.tile(np.arange(101, dtype=np.float32), (81, 1))
    contours = contour_lines(heights, 5.0, -0.5, 80.5, (1.0, 1.0))
    # Lines that run along the window's own edge lie on no side of it.
    thin, heavy = contour_ink(contours, 5.0, WINDOW, 0.0)
    assert isinstance(thin, Stroke)
    assert isinstance(heavy, Stroke)
    assert (thin.style.width, heavy.style.width) == (CONTOUR_WIDTH, INDEX_WIDTH)
    assert sorted(set(heavy.paths.xy[:, 0].round(6))) == [25, 50, 75]
    assert sorted(set(thin.paths.xy[:, 0].round(6))) == [x for x in range(0, 101, 5) if x % 25]


@pytest.mark.parametrize("seed", range(8))
def test_filled_areas_are_what_lies_within(seed: int) -> None:
    """Against shapely: the same ground is filled, holes left out, in the tint over white."""
    geometries = random_geometries(seed)
    look = ReferenceLook("#112233", outlined=False, fill="#000000", fill_opacity=0.25)
    ink = reference_ink(geometries, look, WINDOW, 0.0)
    areas = [g for g in geometries[10:20] if g.intersects(WINDOW)]
    fills = [item for item in ink if isinstance(item, Fill)]
    assert len(fills) == bool(areas)
    for fill in fills:
        assert fill.colour == "#BFBFBF"
        rings = [fill.paths[i] for i in range(len(fill.paths))]
        drawn = [shapely.Polygon()]
        for a, b in pairwise(fill.parts.tolist()):
            drawn.append(shapely.Polygon(rings[a], rings[a + 1 : b]))
        wanted = sum(shapely.intersection(area, WINDOW).area for area in areas)
        assert sum(polygon.area for polygon in drawn) == pytest.approx(wanted)
    strokes = [item for item in ink if isinstance(item, Stroke)]
    lines = [g for g in geometries[:10] if g.intersects(WINDOW)]
    assert bool(strokes) == bool(lines), "areas have no outline"


def test_a_look_is_read_as_it_was_kept_and_what_is_none_is_as_usual() -> None:
    look = ReferenceLook("#112233", 0.4, "dotted", False, "#AABBCC", 0.3, True)
    assert ReferenceLook.of(look.colour, look.text) == look
    for text in ("", "x", "[]", '{"width": 99}', '{"dash": "wavy"}', '{"fill": "red"}'):
        assert ReferenceLook.of("red", text) == ReferenceLook()
    for shape in ("lines", "areas", "points"):
        assert look.symbol("Roads", shape).title == "Roads"

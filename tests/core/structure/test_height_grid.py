"""Heights asked at places, along lines and for slopes, against scipy; where there are none, there are none."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from scipy.interpolate import RegularGridInterpolator

from orvik.core.structure.height_grid import HeightGrid
from tests.core.structure.relief import CELL, hills


def test_places_between_middles() -> None:
    ground = hills(1, size=40)
    rng = np.random.default_rng(2)
    xy = rng.uniform(CELL / 2, 39.5 * CELL, (500, 2))
    reference = RegularGridInterpolator(
        (ground.north_of_middles[::-1], ground.east_of_middles), ground.heights[::-1].astype(float)
    )
    assert ground.at(xy) == pytest.approx(reference(xy[:, ::-1]), abs=1e-9)
    corners = np.array([(CELL / 2, CELL / 2), (39.5 * CELL, 39.5 * CELL)])
    assert ground.at(corners).tolist() == [ground.heights[39, 0], ground.heights[0, 39]]


def test_beyond_the_grid_and_at_holes_there_is_no_height() -> None:
    ground = hills(1, size=40)
    assert np.isnan(ground.at(np.array([(-1.0, 100), (100, 5000), (np.nan, 3), (3.0, 100), (800, 400)]))).all()
    holed = ground.heights.copy()
    holed[20, 20] = np.nan
    asked = HeightGrid(holed, ground.west, ground.north, ground.cell)
    hole = np.array([asked.east_of_middles[20], asked.north_of_middles[20]])
    around = asked.at(hole + np.array([(0, 0), (9, 0), (-9, 9), (20, 0), (21, 0), (0, -21)]))
    assert np.isnan(around).tolist() == [True, True, True, False, False, False]
    single = HeightGrid(np.array([[7.0]], dtype=np.float32), 0, 10, (10, 10))
    assert single.at(np.array([(5.0, 5.0)])).tolist() == [7.0]


def test_slopes_of_planes() -> None:
    x, y = np.meshgrid(np.arange(20) * 10 + 5, 200 - np.arange(20) * 10 - 5)
    ground = HeightGrid((100 - 0.1 * x - 0.2 * y).astype(np.float32), 0, 200, (10, 10))
    steep, towards = ground.slope_at(np.array([(100.0, 100.0)]))
    assert (steep[0], towards[0]) == (pytest.approx(12.604, abs=0.01), pytest.approx(26.565, abs=0.05))
    level = HeightGrid(np.zeros((20, 20), dtype=np.float32), 0, 200, (10, 10))
    steep, towards = level.slope_at(np.array([(100.0, 100.0)]))
    assert steep[0] == 0
    assert np.isnan(towards[0])


def test_a_draped_line_has_all_vertices_and_steps_between() -> None:
    ground = hills(1, size=40)
    line = shapely.LineString([(100, 100), (500, 130), (400, 600), (900, 600)])
    draped = ground.draped(line)
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(draped[:, :2], axis=0).T))])
    profile = np.column_stack([along, draped[:, 2]])
    assert np.diff(profile[:, 0]).max() <= CELL + 1e-9
    assert profile[-1, 0] == pytest.approx(line.length)
    for vertex in line.coords:
        assert np.abs(profile[:, 0] - line.project(shapely.Point(vertex))).min() < 1e-9
    # Beyond the grid nothing is known.
    inside = profile[:, 0] < line.project(shapely.Point(780, 600))
    assert np.isfinite(profile[inside, 1]).all()
    assert np.isnan(profile[profile[:, 0] > line.project(shapely.Point(790.1, 600)) + 1e-6, 1]).all()

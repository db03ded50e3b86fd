"""Planes: attitudes both ways, heights, apparent dips, and traces over the relief."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.features.attitude import Attitude, apart
from orvik.core.structure.height_grid import HeightGrid
from orvik.core.structure.plane import Plane
from tests.core.structure.relief import CELL, hills, some_plane
from tests.examples import examples


@examples(400)
@given(st.floats(0, 359.9), st.floats(0.1, 90), st.floats(-5, 5))
def test_an_attitude_comes_back(strike: float, dip: float, convergence: float) -> None:
    plane = Plane.of_attitude((1.0, 2.0, 3.0), Attitude(strike, dip), convergence)
    assert math.hypot(*plane.normal) == pytest.approx(1)
    back = plane.attitude(convergence, digits=6)
    assert back.inclination == pytest.approx(dip, abs=1e-5)
    # An upright plane has two names.
    assert min(apart(back.azimuth, strike), apart(back.azimuth + 180, strike) if dip == 90 else 360) < 1e-4
    # Down the dip by a metre on the map, it falls by the tangent.
    if dip < 89:
        towards = math.radians(strike + 90 - convergence)
        down = plane.height_at(np.array([[1 + math.sin(towards), 2 + math.cos(towards)]]))
        assert 3 - float(down[0]) == pytest.approx(math.tan(math.radians(dip)), rel=1e-9)


@pytest.mark.parametrize(("strike", "dips_to"), [(180, "W"), (85, "S"), (355, "E")])
def test_the_right_hand_rule(strike: float, dips_to: str) -> None:
    """Strike 180 dips west, 085 south, 355 east (common practice)."""
    east, north, up = Plane.of_attitude((0, 0, 0), Attitude(strike, 30), 0.0).normal
    assert up > 0
    assert {"W": -east, "S": -north, "E": east}[dips_to] == pytest.approx(0.5, abs=0.01)


@examples(200)
@given(st.floats(0, 359), st.floats(0, 89), st.floats(0, 359), st.floats(1, 10))
def test_an_apparent_dip_is_what_a_section_cuts(strike: float, dip: float, direction: float, tall: float) -> None:
    """Two places on the plane along the section, drawn with the heights exaggerated."""
    plane = Plane.of_attitude((0, 0, 0), Attitude(strike, dip), 0.0)
    way = math.radians(direction)
    drop = -float(plane.height_at(np.array([[math.sin(way), math.cos(way)]]))[0])
    drawn = math.degrees(math.atan(tall * drop))
    assert plane.apparent_dip(direction, tall) == pytest.approx(drawn, abs=1e-6)


def test_level_and_upright_planes() -> None:
    level = Plane.of_attitude((0, 0, 5), Attitude(0, 0), 0.0)
    assert level.apparent_dip(123) == pytest.approx(0)
    assert level.height_at(np.array([[100.0, 50.0]])).tolist() == [5.0]
    upright = Plane.of_attitude((0, 0, 5), Attitude(30, 90), 0.0)
    assert np.isnan(upright.height_at(np.array([[100.0, 50.0]]))).all()
    assert upright.apparent_dip(120) == 90
    assert upright.apparent_dip(30) == pytest.approx(0, abs=1e-6)


@pytest.mark.parametrize("seed", range(8))
def test_on_its_trace_plane_and_ground_are_one(seed: int) -> None:
    ground = hills(seed)
    plane = some_plane(seed, ground)
    lines = plane.trace(ground)
    assert lines
    for line in lines:
        # Between middles the ground is taken as straight: on edges of the grid it is so.
        on_edges = np.isclose(np.mod(line[:, 0] / CELL - 0.5, 1), [[0], [1]], atol=1e-6).any(axis=0)
        on_edges |= np.isclose(np.mod(line[:, 1] / CELL - 0.5, 1), [[0], [1]], atol=1e-6).any(axis=0)
        assert on_edges.all()
        xyz = np.column_stack([line, ground.at(line)])
        assert np.abs(plane.distance_to(xyz)).max() < 1e-3


def test_an_upright_plane_runs_straight_and_none_is_drawn_where_no_heights_are() -> None:
    ground = hills(3)
    holed = ground.heights.copy()
    holed[60:80, 60:80] = np.nan
    upright = Plane.of_attitude((1500, 1500, 0), Attitude(40, 90), 0.0)
    lines = upright.trace(HeightGrid(holed, ground.west, ground.north, ground.cell))
    assert len(lines) == 2
    way = math.radians(40)
    for line in lines:
        across = (line[:, 0] - 1500) * math.cos(way) - (line[:, 1] - 1500) * math.sin(way)
        assert np.abs(across).max() < 1e-6
        assert not shapely.LineString(line).intersects(shapely.box(1220, 1420, 1580, 1780))


def test_no_ground_no_trace() -> None:
    nothing = HeightGrid(np.full((5, 5), np.nan, dtype=np.float32), 0, 100, (20, 20))
    assert Plane.of_attitude((50, 50, 0), Attitude(0, 20), 0.0).trace(nothing) == []
    assert (
        Plane.of_attitude((50, 50, 0), Attitude(0, 20), 0.0).trace(HeightGrid(nothing.heights[:1], 0, 0, (1, 1))) == []
    )

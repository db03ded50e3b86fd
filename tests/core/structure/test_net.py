"""The net: projections both ways, great circles, and axes whichever end points down."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.structure.net import (
    downwards,
    great_circle,
    lines,
    poles,
    projected,
    raised,
    small_circle,
    strike_and_dip,
    trend_and_plunge,
)
from tests.examples import examples

PROJECTIONS = ("equal_area", "equal_angle")


@pytest.mark.parametrize("projection", PROJECTIONS)
def test_the_formulas_of_the_handbooks(projection: str) -> None:
    """A level plane's pole in the middle, a level line on the rim; between: √2 sin, or tan, of half the angle down."""
    assert projected(poles([77], [0]), projection)[0] == pytest.approx([0, 0], abs=1e-12)
    assert projected(lines([90], [0]), projection)[0] == pytest.approx([1, 0], abs=1e-12)
    for plunge in (10, 45, 80):
        half = math.radians(90 - plunge) / 2
        radius = math.sqrt(2) * math.sin(half) if projection == "equal_area" else math.tan(half)
        assert projected(lines([0], [plunge]), projection)[0] == pytest.approx([0, radius])


@pytest.mark.parametrize("projection", PROJECTIONS)
@examples(300)
@given(st.floats(0, 360), st.floats(0.01, 89.99))
def test_places_and_directions_come_back(projection: str, trend: float, plunge: float) -> None:
    direction = lines([trend], [plunge])
    assert raised(projected(direction, projection), projection) == pytest.approx(direction, abs=1e-9)
    back = trend_and_plunge(-direction[0])
    assert back[1] == pytest.approx(plunge, abs=1e-6)
    assert math.cos(math.radians(back[0] - trend)) == pytest.approx(1, abs=1e-9)
    # As the pole of a plane, it has its strike and dip.
    strike, dip = strike_and_dip(poles([trend], [plunge])[0])
    assert dip == pytest.approx(plunge, abs=1e-6)
    assert math.cos(math.radians(strike - trend)) == pytest.approx(1, abs=1e-9)


@pytest.mark.parametrize("projection", PROJECTIONS)
@pytest.mark.parametrize(("strike", "dip"), [(0, 0), (30, 45), (200, 90), (359, 1), (120, 89.9)])
def test_a_great_circle_is_at_right_angles_to_its_pole(projection: str, strike: float, dip: float) -> None:
    pole = poles([strike], [dip])[0]
    circle = great_circle(pole, projection)
    assert np.hypot(*circle.T).max() <= 1 + 1e-9
    assert np.hypot(*circle[[0, -1]].T) == pytest.approx([1, 1])
    assert raised(circle, projection) @ pole == pytest.approx(np.zeros(len(circle)), abs=1e-6)
    # It bows to the side to which the plane dips.
    towards = projected(lines([strike + 90], [dip]), projection)[0]
    assert np.hypot(*(circle - towards).T).min() < 0.02


def test_a_cone_across_the_rim_goes_on_at_the_other_side() -> None:
    axis = lines([90], [5])[0]
    parts = small_circle(axis, 20, "equal_area")
    assert len(parts) >= 2
    for part in parts:
        assert np.hypot(*part.T).max() <= 1 + 1e-9
        assert np.abs(raised(part, "equal_area") @ axis) == pytest.approx(
            np.full(len(part), math.cos(math.radians(20)))
        )
    assert len(small_circle(lines([90], [60])[0], 20, "equal_area")) == 1


def test_axes_point_down() -> None:
    rng = np.random.default_rng(1)
    some = rng.normal(size=(100, 3))
    assert (downwards(some)[:, 2] >= 0).all()
    assert np.abs((downwards(some) * some).sum(axis=1)) == pytest.approx((some**2).sum(axis=1))
    level = downwards(np.array([[-1.0, 0, 0], [0, -1.0, 0], [1, 0, 0]]))
    assert level.tolist() == [[1, 0, 0], [0, 1, 0], [1, 0, 0]]

"""Smooth lines against SciPy's splines."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from scipy.interpolate import CubicHermiteSpline, CubicSpline

from orvik.core.geometry.curve import smoothed, tangents
from tests.examples import examples

PLACES = st.lists(st.tuples(st.integers(-1000, 1000), st.integers(-1000, 1000)), min_size=3, max_size=12).map(
    lambda ps: np.array([p for i, p in enumerate(ps) if i == 0 or p != ps[i - 1]], dtype=float)
)


@examples(80)
@given(PLACES)
def test_the_curve_is_the_hermite_spline_of_its_tangents(places: np.ndarray) -> None:
    """Every vertex lies on SciPy's cubic Hermite spline through the same places with the same derivatives."""
    if len(places) < 3:
        return
    t, derivatives = tangents(places)
    spline = CubicHermiteSpline(t, places, derivatives)
    vertices, knots = smoothed(places, 1.0)
    assert (vertices[knots] == places).all()
    for i, (a, b) in enumerate(pairwise(knots)):
        steps = np.linspace(t[i], t[i + 1], b - a + 1)
        assert vertices[a : b + 1] == pytest.approx(spline(steps), abs=1e-6)


@examples(80)
@given(PLACES)
def test_no_chord_leaves_the_curve_by_more_than_was_allowed(places: np.ndarray) -> None:
    if len(places) < 3:
        return
    t, derivatives = tangents(places)
    spline = CubicHermiteSpline(t, places, derivatives)
    vertices, knots = smoothed(places, 1.25)
    for i, (a, b) in enumerate(pairwise(knots)):
        steps = np.linspace(t[i], t[i + 1], b - a + 1)
        for j in range(a, b):
            inner = spline(np.linspace(steps[j - a], steps[j - a + 1], 9)[1:-1])
            chord = vertices[j + 1] - vertices[j]
            length = max(float(np.hypot(*chord)), 1e-12)
            off = np.abs((inner[:, 0] - vertices[j, 0]) * chord[1] - (inner[:, 1] - vertices[j, 1]) * chord[0]) / length
            # 200 pieces are the most that a span is cut into.
            assert off.max() <= 1.25 * 1.0001 or b - a == 200


def test_near_to_a_natural_spline_on_smooth_ground() -> None:
    """Places on a circle: both go round within a hundredth of its radius, and SciPy's differs no more."""
    angle = np.linspace(0, 2 * np.pi, 13)
    places = 100 * np.column_stack([np.cos(angle), np.sin(angle)])
    places[-1] = places[0]
    vertices, _ = smoothed(places, 0.05, closed=True)
    assert np.abs(np.hypot(*vertices.T) - 100).max() < 1.0
    natural = CubicSpline(angle, places, bc_type="periodic")(np.linspace(0, 2 * np.pi, 400))
    assert float(shapely.distance(shapely.points(natural), shapely.LineString(vertices)).max()) < 1.0


def test_a_place_moves_only_the_spans_around_it() -> None:
    places = np.column_stack([np.arange(10) * 50.0, 30 * np.sin(np.arange(10))])
    one, at = smoothed(places, 0.5)
    places[5, 1] += 40
    two, now = smoothed(places, 0.5)
    assert (one[: at[3]] == two[: now[3]]).all()
    assert (one[at[7] :] == two[now[7] :]).all()
    assert one[at[4] : at[5]].shape != two[now[4] : now[5]].shape or (one[at[4] : at[5]] != two[now[4] : now[5]]).any()


def test_no_loop_within_a_span() -> None:
    """Centripetal spans have no cusp or loop (Yuksel et al. 2011): also with places very unevenly apart."""
    places = np.array([(0.0, 0.0), (100.0, 0.0), (101.0, 5.0), (200.0, 5.0), (201.0, 80.0)])
    vertices, knots = smoothed(places, 0.01)
    for a, b in pairwise(knots):
        assert shapely.LineString(vertices[a : b + 1]).is_simple

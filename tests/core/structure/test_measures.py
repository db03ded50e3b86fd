"""Thickness and depth against plain trigonometry and against planes themselves."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.features.attitude import Attitude
from orvik.core.structure.measures import apparent_dip, depth_below, true_thickness
from orvik.core.structure.plane import Plane
from tests.examples import examples


def test_examples_of_handbooks() -> None:
    """Traverses across the strike (common practice; the figures are plain trigonometry, computed here by hand)."""
    beds = Plane.of_attitude((0, 0, 0), Attitude(0, 30), 0.0)
    # Level ground: t = h sin d.
    assert true_thickness((0, 0, 0), (100, 0, 0), beds).metres == pytest.approx(50)
    # The ground falls with the dip: t = h sin d - v cos d; and against it, the sum.
    assert true_thickness((0, 0, 0), (100, 0, -20), beds).metres == pytest.approx(50 - 20 * math.cos(math.radians(30)))
    assert true_thickness((0, 0, 0), (100, 0, 20), beds).metres == pytest.approx(50 + 20 * math.cos(math.radians(30)))
    # Askew to the dip by 60°: half of it.
    askew = true_thickness((0, 0, 0), (50, 100 * math.sin(math.radians(60)), 0), beds)
    assert (askew.metres, askew.turned) == (pytest.approx(25), pytest.approx(60))
    assert askew.words == "|100 m · sin 30° · cos 60° − 0 m · cos 30°|"
    # Askew to the strike by 30°: tan a = tan 30° sin 30°.
    shown = apparent_dip(beds, 30.0)
    assert shown.degrees == pytest.approx(math.degrees(math.atan(math.tan(math.radians(30)) / 2)))
    assert shown.words == "tan a = tan 30° · sin 30°"
    # A bed of 30°, 100 m down the dip on level ground: tan 30° lower.
    depth = depth_below((100, 0, 0), beds)
    assert depth is not None
    assert depth.metres == pytest.approx(57.735, abs=1e-3)
    assert depth.words == "100 m · tan 30° · cos 0° + 0 m"
    assert depth_below((100, 0, 0), Plane.of_attitude((0, 0, 0), Attitude(0, 90), 0.0)) is None


@examples(300)
@given(st.floats(0, 359), st.floats(0, 89), st.tuples(*[st.floats(-1000, 1000)] * 3))
def test_the_parts_of_the_formula_give_the_figure(strike: float, dip: float, to: tuple[float, float, float]) -> None:
    beds = Plane.of_attitude((0, 0, 0), Attitude(strike, dip), 0.0)
    told = true_thickness((0, 0, 0), to, beds)
    d, c = math.radians(told.dip), math.radians(told.turned)
    by_parts = abs(told.across * math.sin(d) * math.cos(c) - told.fall * math.cos(d))
    assert told.metres == pytest.approx(by_parts, abs=1e-6)
    assert told.metres == pytest.approx(abs(float(beds.distance_to(np.array([to]))[0])), abs=1e-6)
    depth = depth_below(to, beds)
    assert depth is not None
    by_parts = depth.across * math.tan(d) * math.cos(math.radians(depth.turned)) + depth.rise
    assert depth.metres == pytest.approx(by_parts, abs=1e-5)
    assert to[2] - depth.metres == pytest.approx(float(beds.height_at(np.array([to[:2]]))[0]), abs=1e-5)

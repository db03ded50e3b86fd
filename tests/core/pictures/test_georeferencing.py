"""Georeferencing whatever the points: properties that hold for any fit."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from orvik.core.errors import FitRefused
from orvik.core.pictures.georeferencing import (
    FIT_KINDS,
    LEAST,
    ControlPoint,
    ControlSet,
    Fit,
    Mapping,
    fit,
    mapped,
    switched,
)
from tests.examples import examples

pixel = st.floats(0, 10_000).map(lambda v: round(v, 2))
ground_x = st.floats(400_000, 600_000).map(lambda v: round(v, 2))
ground_y = st.floats(6_700_000, 6_900_000).map(lambda v: round(v, 2))
point = st.builds(ControlPoint, pixel, pixel, ground_x, ground_y)


def fitted(points: list[ControlPoint], kind: str) -> Fit | str:
    try:
        return fit(points, kind)
    except FitRefused as refusal:
        return refusal.sentence


@examples(150)
@given(st.lists(point, min_size=0, max_size=12), st.sampled_from(sorted(FIT_KINDS)))
def test_any_points_are_fitted_or_refused_in_words(points: list[ControlPoint], kind: str) -> None:
    found = fitted(points, kind)
    if isinstance(found, str):
        assert found.endswith(".")
        return
    assert len(points) >= LEAST[kind]
    assert np.isfinite(found.mapping.numbers).all()
    assert found.residuals.shape == (len(points), 2)
    # The mean residual of a least-squares fit with a free shift is nought.
    if kind != "projective":
        assert np.abs(found.residuals.mean(axis=0)).max() < 1e-3 + 1e-6 * np.abs(found.residuals).max()


@examples(100)
@given(
    st.floats(0.2, 20),
    st.floats(0, 6.28),
    ground_x,
    ground_y,
    st.lists(st.tuples(pixel, pixel), min_size=4, max_size=10, unique=True),
)
def test_a_true_similarity_is_found_by_every_kind(
    scale: float, turn: float, x: float, y: float, pixels: list[tuple[float, float]]
) -> None:
    xy = np.array(pixels)
    spread = np.linalg.svd(xy - xy.mean(axis=0), compute_uv=False)
    assume(spread[1] > 0.05 * spread[0])
    assume(spread[1] > 50)
    a, b = scale * np.cos(turn), scale * np.sin(turn)
    true = Mapping("similarity", (a, b, x, b, -a, y))
    points = [ControlPoint(c, r, *g) for (c, r), g in zip(pixels, true.ground(xy).tolist(), strict=True)]
    for kind in ("similarity", "affine"):
        found = mapped(points, kind)
        assert np.abs(found.ground(xy) - true.ground(xy)).max() < 1e-5 * scale * 10_000


def test_a_point_that_is_off_does_not_pull() -> None:
    corners = [(0, 0), (1000, 0), (1000, 800), (0, 800), (500, 400)]
    points = [ControlPoint(float(c), float(r), 500_000.0 + c, 6_800_000.0 - r) for c, r in corners]
    points[4] = ControlPoint(500.0, 400.0, 500_900.0, 6_799_000.0, on=False)
    assert fit(points, "affine").rms < 1e-9
    assert fit(switched(points, 4), "affine").rms > 100
    # It is measured all the same.
    assert np.hypot(*fit(points, "affine").residuals[4]) == pytest.approx(np.hypot(400, 600), abs=1e-6)


def test_what_is_kept_comes_back() -> None:
    kept = ControlSet("projective", (ControlPoint(1.5, 2.5, 3.0, 4.0), ControlPoint(5.0, 6.0, 7.0, 8.0, on=False)))
    assert ControlSet.of_json(kept.json) == kept
    assert ControlSet.of_json("") == ControlSet()


@pytest.mark.parametrize(
    ("kind", "places"),
    [
        ("affine", [(0, 0, 4e5, 6.7e6), (1, 1, 4e5, 6.7e6), (0, 1, 4e5, 6_808_164), (0, 1, 599_832, 6_700_001)]),
        (
            "projective",
            [(0, 0, 4e5, 6.7e6), (1, 0, 599_977, 6_764_646), (0, 1, 599_979, 6_764_644), (0, 3, 4e5, 6_808_288)],
        ),
        (
            "second_order",
            [
                (4992, 0, 4e5, 6.7e6),
                (2, 884, 4e5, 6_700_009),
                (0, 0, 4e5, 6.7e6),
                (0, 61.5, 477_756, 6.7e6),
                (1, 0, 4e5, 6.7e6),
                (0, 61.44, 4e5, 6.7e6),
            ],
        ),
    ],
)
def test_points_that_contradict_one_another_are_refused_in_words_or_fitted(
    kind: str, places: list[tuple[float, ...]]
) -> None:
    found = fitted([ControlPoint(*place) for place in places], kind)
    if isinstance(found, str):
        assert found.endswith(".")
    else:
        assert np.isfinite(found.pixel_residuals).all()

"""Georeferencing against scikit-image and GDAL."""

from __future__ import annotations

import subprocess

import numpy as np
import pytest
from skimage.transform import AffineTransform, ProjectiveTransform, SimilarityTransform

from orvik.core.errors import FitRefused
from orvik.core.pictures.georeferencing import ControlPoint, Mapping, fit, switched

RNG = np.random.default_rng(11)
PIXELS = RNG.uniform(0, 4000, (9, 2))
PROBES = RNG.uniform(0, 4000, (50, 2))
EAST, NORTH = 513_000.0, 6_803_000.0


def control(ground: np.ndarray, pixels: np.ndarray = PIXELS) -> list[ControlPoint]:
    return [ControlPoint(c, r, x, y) for (c, r), (x, y) in zip(pixels.tolist(), ground.tolist(), strict=True)]


def askew(pixels: np.ndarray) -> np.ndarray:
    """A photograph of a sheet, exactly projective."""
    h = np.array([[1.4, 0.06, EAST], [0.05, -1.5, NORTH], [1.1e-8, -6e-9, 1.0]])
    q = np.column_stack([pixels, np.ones(len(pixels))]) @ h.T
    return q[:, :2] / q[:, 2:]


def bent(pixels: np.ndarray) -> np.ndarray:
    """Paper that has swollen: exactly of the second order."""
    u, v = pixels.T / 4000
    return np.column_stack(
        [
            EAST + 5600 * u + 40 * v + 21 * u * u - 9 * u * v + 4 * v * v,
            NORTH + 30 * u - 5600 * v - 6 * u * u + 13 * u * v + 17 * v * v,
        ]
    )


@pytest.mark.parametrize(("kind", "theirs"), [("affine", AffineTransform), ("projective", ProjectiveTransform)])
def test_exact_points_against_scikit_image(kind: str, theirs: type) -> None:
    ground = askew(PIXELS) if kind == "projective" else PIXELS @ np.array([[1.6, 0.2], [0.1, -1.5]]) + [EAST, NORTH]
    origin = np.array([EAST, NORTH])
    reference = theirs.from_estimate(PIXELS, ground - origin)
    ours = fit(control(ground), kind)
    assert ours.rms_pixels < 1e-6
    there = reference(PROBES) + origin
    back = ours.mapping.pixels(there)
    assert np.abs(back - PROBES).max() < 1e-6


def test_similarity_against_scikit_image() -> None:
    """Theirs knows no mirror: it is given rows counted upwards."""
    turned = SimilarityTransform(scale=1.6, rotation=np.radians(1.3), translation=(300, -200))
    up = PIXELS * [1, -1]
    ground = turned(up) + [EAST, NORTH] + RNG.normal(0, 2, up.shape)
    reference = SimilarityTransform.from_estimate(up, ground - [EAST, NORTH])
    ours = fit(control(ground), "similarity")
    there = reference(PROBES * [1, -1]) + [EAST, NORTH]
    assert np.abs(ours.mapping.ground(PROBES) - there).max() < 1e-6
    assert np.abs(ours.mapping.pixels(there) - PROBES).max() < 1e-6


@pytest.mark.parametrize(("kind", "order"), [("affine", 1), ("second_order", 2)])
def test_least_squares_against_gdal(kind: str, order: int) -> None:
    """gdaltransform -order 1 and 2 fit the same polynomials to ground control points."""
    ground = bent(PIXELS) + (RNG.normal(0, 3, PIXELS.shape) if kind == "affine" else 0)
    command = ["gdaltransform", "-order", str(order), "-output_xy"]
    for (c, r), (x, y) in zip(PIXELS.tolist(), ground.tolist(), strict=True):
        command += ["-gcp", repr(c), repr(r), repr(x), repr(y)]
    probes = "\n".join(f"{c!r} {r!r}" for c, r in PROBES.tolist())
    told = subprocess.run(command, input=probes, capture_output=True, text=True, check=True).stdout
    theirs = np.array([[float(v) for v in line.split()] for line in told.splitlines()])
    ours = fit(control(ground), kind)
    assert np.abs(ours.mapping.pixels(theirs) - PROBES).max() < 1e-6


@pytest.mark.parametrize("kind", ["similarity", "affine", "projective", "second_order"])
def test_there_and_back_and_kept(kind: str) -> None:
    mapping = fit(control(askew(PIXELS) + RNG.normal(0, 4, PIXELS.shape)), kind).mapping
    assert np.abs(mapping.pixels(mapping.ground(PROBES)) - PROBES).max() < 1e-6
    again = Mapping.of_json(mapping.json)
    assert np.array_equal(again.ground(PROBES), mapping.ground(PROBES))


def test_projective_minimizes_distances_on_the_ground() -> None:
    """No small change of the eight numbers makes the sum of squares smaller."""
    ground = askew(PIXELS) + RNG.normal(0, 5, PIXELS.shape)
    best = fit(control(ground), "projective")
    least = (best.residuals**2).sum()
    numbers = np.array(best.mapping.numbers)
    for i in range(8):
        for symbol in (-1, 1):
            moved = numbers.copy()
            moved[i] *= 1 + symbol * 1e-6
            # Coordinates of seven figures before the point leave the sum some 1e-7 of rounding.
            assert (((Mapping("projective", tuple(moved)).ground(PIXELS)) - ground) ** 2).sum() > least - 1e-6


def test_a_blunder_shows_when_left_out() -> None:
    ground = PIXELS @ np.array([[1.6, 0.0], [0.0, -1.6]]) + [EAST, NORTH]
    ground[4] += [0, 60]
    found = fit(control(ground), "affine")
    assert int(np.argmax(found.left_out)) == 4
    assert found.left_out[4] == pytest.approx(60, abs=1e-6)
    assert found.left_out[4] > np.hypot(*found.residuals[4])
    off = fit(switched(control(ground), 4), "affine")
    assert off.rms < 1e-8
    assert np.hypot(*off.residuals[4]) == pytest.approx(60, abs=1e-6)


@pytest.mark.parametrize(
    ("kind", "pixels", "why"),
    [
        ("similarity", [(1, 1)], "1 more is needed"),
        ("affine", [(0, 0), (1, 1)], "1 more is"),
        ("affine", [(0, 0), (1, 1), (2, 2), (5, 5)], "on one line"),
        ("second_order", [(0, 0)] * 4, "2 more are"),
        ("similarity", [(3, 3), (3, 3)], "one place"),
        ("projective", [(0, 0), (1, 0), (2, 0), (0, 1)], "one line"),
        ("second_order", [(0, 0), (2, 0), (1, 1), (1, -1), (1.6, 0.8), (0.4, -0.8)], "one curve"),
        ("spline", [], "not a kind"),
    ],
)
def test_points_that_cannot_hold_a_fit(kind: str, pixels: list[tuple[float, float]], why: str) -> None:
    points = [ControlPoint(c * 100.0, r * 100.0, EAST + c * 160, NORTH - r * 160) for c, r in pixels]
    with pytest.raises(FitRefused, match=why):
        fit(points, kind)

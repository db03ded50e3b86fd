"""Statistics of axes: steep beds on both sides of the rim, girdles, few and scattered readings."""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy.optimize import minimize_scalar
from scipy.stats import chi2

from orvik.core.errors import StructureRefused
from orvik.core.features.attitude import apart
from orvik.core.structure.axes import UNIFORM, axial_statistics
from orvik.core.structure.net import downwards, lines, poles
from orvik.core.structure.rose import rose


def fisher(seed: int, k: float, count: int, about: np.ndarray) -> np.ndarray:
    """Directions after Fisher's distribution about an axis (Fisher, Lewis and Embleton, 1987, from memory)."""
    rng = np.random.default_rng(seed)
    cosine = 1 + np.log(rng.uniform(size=count) * (1 - math.exp(-2 * k)) + math.exp(-2 * k)) / k
    turn = rng.uniform(0, 2 * math.pi, count)
    one = np.cross(about, [0.0, 0.0, 1.0] if abs(about[2]) < 0.9 else [1.0, 0.0, 0.0])
    one /= np.linalg.norm(one)
    other = np.cross(about, one)
    sine = np.sqrt(1 - cosine**2)
    return np.asarray(
        cosine[:, None] * about + sine[:, None] * (np.cos(turn)[:, None] * one + np.sin(turn)[:, None] * other)
    )


def test_steep_beds_on_both_sides_of_the_rim_are_one_set() -> None:
    """Fifty near-vertical beds: as they fall on the lower hemisphere they add up to nothing; turned, to one set."""
    axes = downwards(fisher(3, 300, 50, lines([90], [0])[0]))
    fallen = np.linalg.norm(axes.sum(axis=0))
    assert 49 / (50 - fallen) < 2
    found = axial_statistics(axes)
    assert found is not None
    assert found.fisher_k is not None
    assert 200 < found.fisher_k < 450
    strike, dip = found.mean_plane
    assert min(apart(strike, 0), apart(strike, 180)) < 3
    assert dip > 87


@pytest.mark.parametrize("seed", range(6))
def test_fishers_k_is_the_likeliest(seed: int) -> None:
    """Against the maximum of the likelihood by scipy, with the factor (n - 1)/n that Fisher's estimate has."""
    about = lines([40 * seed], [60])[0]
    axes = fisher(seed, 40, 80, about)
    found = axial_statistics(downwards(axes))
    assert found is not None
    assert found.fisher_k is not None
    length = float(np.linalg.norm(axes.sum(axis=0)))
    likely = minimize_scalar(
        lambda k: -(80 * (math.log(k) - k - math.log1p(-math.exp(-2 * k))) + k * length),
        bounds=(1, 500),
        method="bounded",
    ).x
    assert found.fisher_k == pytest.approx(likely * 79 / 80, rel=1e-3)


def test_the_cone_holds_the_mean_in_95_of_100() -> None:
    about = lines([120], [70])[0]
    inside = 0
    for seed in range(400):
        found = axial_statistics(fisher(seed, 25, 12, about))
        assert found is not None
        away = math.degrees(math.acos(min(1.0, abs(float(found.eigenvectors[0] @ about)))))
        inside += found.cone is not None and away <= found.cone
    assert 0.92 < inside / 400 < 0.98


def test_eigenvectors_are_numpys_and_a_fold_has_an_axis() -> None:
    """Poles of beds around a fold whose axis plunges 18 towards 142: the girdle's pole is that axis."""
    rng = np.random.default_rng(2)
    axis = lines([142], [18])[0]
    one = np.cross(axis, [0.0, 0.0, 1.0])
    one /= np.linalg.norm(one)
    other = np.cross(axis, one)
    turn = rng.uniform(-1.2, 1.2, 65)[:, None]
    beds = np.cos(turn) * other + np.sin(turn) * one + rng.normal(0, 0.03, (65, 3))
    axes = downwards(beds / np.linalg.norm(beds, axis=1)[:, None])
    found = axial_statistics(axes)
    assert found is not None
    values = np.linalg.svd(axes, compute_uv=False) ** 2 / 65
    assert found.eigenvalues == pytest.approx(tuple(values))
    assert found.girdle_axis == (pytest.approx(142, abs=3), pytest.approx(18, abs=3))
    assert (found.fisher_k, found.cone) == (None, None)
    assert "girdle" in found.reason
    assert found.girdle == (pytest.approx(232, abs=3), pytest.approx(72, abs=3))


def test_few_and_scattered_readings_say_why_there_is_no_cone() -> None:
    assert axial_statistics(np.empty((0, 3))) is None
    one = axial_statistics(poles([30], [40]))
    assert one is not None
    assert "Fewer than 5" in one.reason
    assert one.mean_plane == (pytest.approx(30), pytest.approx(40))
    rng = np.random.default_rng(4)
    all_around = rng.normal(size=(300, 3))
    scattered = axial_statistics(downwards(all_around / np.linalg.norm(all_around, axis=1)[:, None]))
    assert scattered is not None
    assert scattered.cone is None
    assert "no preferred direction" in scattered.reason
    same = axial_statistics(np.repeat(poles([30], [40]), 20, axis=0))
    assert same is not None
    assert same.cone == pytest.approx(0, abs=1e-4)


def test_petals_have_the_area_of_their_count() -> None:
    azimuths = np.array([5, 5, 5, 5, 185, 92, 272.0])
    found = rose(azimuths)
    assert found.counts[0] == found.counts[18] == 5
    assert found.counts[9] == found.counts[27] == 2
    areas = found.radii**2
    assert areas[9] / areas[0] == pytest.approx(2 / 5)
    assert rose(azimuths, axial=False).counts[18] == 1
    # A direction on the border of sectors is in the one that begins there, and 360 is 0.
    assert rose(np.array([10.0, 360.0]), axial=False).counts[:2] == (1, 1)
    assert len(found.petals()) == 4
    for bad in (0, -5, 7, 50, 120, float("nan")):
        with pytest.raises(StructureRefused):
            rose(azimuths, bad)
    assert rose(np.empty(0)).petals() == []


def test_bingham_tells_scattered_axes_in_95_of_100() -> None:
    """Axes all around: that they have a preferred direction is said of some 5 in 100 (chi squared by scipy)."""
    assert pytest.approx(float(chi2.ppf(0.95, 5)), abs=0.01) == UNIFORM
    said = 0
    for seed in range(400):
        some = np.random.default_rng(seed).normal(size=(60, 3))
        found = axial_statistics(downwards(some / np.linalg.norm(some, axis=1)[:, None]))
        assert found is not None
        said += found.reason != "The readings have no preferred direction."
    assert 0.02 < said / 400 < 0.09
    # Poles of beds of every dip alike are preferred, and scattered.
    rng = np.random.default_rng(1)
    found = axial_statistics(poles(rng.uniform(0, 360, 5000), rng.uniform(0, 90, 5000)))
    assert found is not None
    assert "too scattered" in found.reason

"""Nets and densities against mplstereonet 0.6.3, steep beds on both sides of the rim among them."""

from __future__ import annotations

import warnings

import numpy as np
import pytest

from orvik.core.structure.axes import axial_statistics
from orvik.core.structure.density import density_grid, kamb
from orvik.core.structure.net import great_circle, lines, poles, projected, raised, strike_and_dip, trend_and_plunge

with warnings.catch_warnings():
    # It is older than its libraries.
    warnings.simplefilter("ignore")
    import mplstereonet
    from mplstereonet import stereonet_math


def theirs_on_net(lon: np.ndarray, lat: np.ndarray) -> np.ndarray:
    """Where its longitudes and latitudes lie on its equal-area net of radius 1 (Lambert's azimuthal projection)."""
    with np.errstate(invalid="ignore"):
        alpha = np.cos(lat) * np.cos(lon)
        k = np.sqrt(1 / (1 + alpha))
    return np.column_stack([k * np.cos(lat) * np.sin(lon), k * np.sin(lat)])


def beds(seed: int, count: int, steep: bool) -> tuple[np.ndarray, np.ndarray]:
    rng = np.random.default_rng(seed)
    if steep:
        return rng.normal(40, 10, count) + 180 * rng.integers(0, 2, count), rng.uniform(78, 90, count)
    return rng.uniform(0, 360, count), rng.uniform(0, 90, count)


@pytest.mark.parametrize("steep", [True, False])
def test_poles_lines_and_planes_lie_where_theirs_do(steep: bool) -> None:
    strike, dip = beds(1, 200, steep)
    assert projected(poles(strike, dip), "equal_area") == pytest.approx(
        theirs_on_net(*mplstereonet.pole(strike, dip)), abs=1e-9
    )
    assert projected(lines(strike, dip), "equal_area") == pytest.approx(
        theirs_on_net(*mplstereonet.line(dip, strike)), abs=1e-9
    )
    for s, d in zip(strike[:20], dip[:20], strict=True):
        theirs = theirs_on_net(*(a[:, 0] for a in mplstereonet.plane(s, d, segments=400)))
        ours = great_circle(poles([s], [d])[0], "equal_area", 400)
        gaps = np.linalg.norm(ours[:, None] - theirs[None], axis=2).min(axis=1)
        assert gaps.max() < 0.01


@pytest.mark.parametrize("steep", [True, False])
@pytest.mark.parametrize("count", [1, 7, 65, 500])
def test_densities_are_theirs(steep: bool, count: int) -> None:
    strike, dip = beds(count, count, steep)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        lon, lat, theirs = mplstereonet.density_grid(
            strike, dip, measurement="poles", method="exponential_kamb", sigma=3, gridsize=40
        )
    x, y, z = stereonet_math.sph2cart(lon.ravel(), lat.ravel())
    # Theirs: x down, y east, z north.
    at = np.column_stack([y, z, x])
    ours = kamb(poles(strike, dip), at, 3.0)
    # It leaves nothing below zero, and no more below where no axis is near.
    assert np.maximum(ours, 0) == pytest.approx(np.maximum(theirs.ravel(), 0), abs=2e-3)


def test_a_grid_is_the_density_at_its_nodes_also_of_many_alike() -> None:
    strike, dip = beds(3, 300, False)
    axes = poles(np.round(strike, -1), np.round(dip, -1))
    across, found = density_grid(axes, "equal_angle", side=21)
    x, y = np.meshgrid(across, across)
    plain = kamb(axes, raised(np.column_stack([x.ravel(), y.ravel()]), "equal_angle"))
    near = np.isfinite(found.ravel())
    assert near[np.hypot(x.ravel(), y.ravel()) <= 1.06].all()
    assert found.ravel()[near] == pytest.approx(plain[near], abs=1e-6)


@pytest.mark.parametrize("seed", range(5))
def test_girdles_and_poles_are_theirs(seed: int) -> None:
    rng = np.random.default_rng(seed)
    strike, dip = rng.normal(60, 25, 80), rng.uniform(20, 90, 80)
    found = axial_statistics(poles(strike, dip))
    assert found is not None
    theirs = mplstereonet.fit_girdle(strike, dip, measurement="poles")
    assert np.abs(poles([theirs[0]], [theirs[1]])[0] @ poles([found.girdle[0]], [found.girdle[1]])[0]) > 1 - 1e-9
    mean = mplstereonet.fit_pole(strike, dip, measurement="poles")
    assert np.abs(poles([mean[0]], [mean[1]])[0] @ found.eigenvectors[0]) > 1 - 1e-9
    plunge, trend = mplstereonet.pole2plunge_bearing(strike, dip)
    for one in range(5):
        assert trend_and_plunge(poles([strike[one]], [dip[one]])[0]) == (
            pytest.approx(float(trend[one]), abs=1e-6),
            pytest.approx(float(plunge[one]), abs=1e-6),
        )
        assert strike_and_dip(poles([strike[one]], [dip[one]])[0])[1] == pytest.approx(dip[one])


def test_fishers_statistics_are_theirs_of_a_set_within_the_rim() -> None:
    """Their mean is that of vectors as they fall; of a set in the middle of the net that is the same."""
    rng = np.random.default_rng(8)
    plunge, trend = rng.normal(62, 6, 60), rng.normal(140, 10, 60)
    found = axial_statistics(lines(trend, plunge))
    _, (_, cone, k) = mplstereonet.find_fisher_stats(plunge, trend, measurement="lines", conf=95)
    assert found is not None
    assert found.fisher_k == pytest.approx(k, rel=1e-6)
    assert found.cone == pytest.approx(cone, rel=1e-3)

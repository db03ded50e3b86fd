"""The best plane: three places, many, errors that hold, and what is refused."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from scipy.ndimage import gaussian_filter
from scipy.stats import t as student

from orvik.core.errors import StructureRefused
from orvik.core.features.attitude import Attitude
from orvik.core.structure.best_plane import _student, best_plane
from orvik.core.structure.height_grid import HeightGrid
from orvik.core.structure.plane import Plane
from tests.core.structure.relief import CELL, between, hills, some_plane
from tests.examples import MANY, SEED


def test_three_places() -> None:
    """z = 100 - 0.1 x - 0.2 y dips 12.60° towards 026.57 (computed by hand: atan sqrt(0.05), atan 1/2)."""
    found = best_plane(np.array([(0, 0, 100), (500, 0, 50), (0, 500, 0)], dtype=float), 5.0, 2.0)
    assert found.plane.dip == pytest.approx(12.604, abs=1e-3)
    assert found.plane.dip_direction == pytest.approx(26.565, abs=1e-3)
    assert found.plane.attitude(0.0).azimuth == pytest.approx(296.6)
    assert found.residual == pytest.approx(0, abs=1e-9)


@pytest.mark.parametrize("seed", range(20))
def test_places_on_a_plane_give_it_back_and_as_any_fit_does(seed: int) -> None:
    rng = np.random.default_rng(seed)
    plane = Plane.of_attitude((0, 0, 0), Attitude(float(rng.uniform(0, 359)), float(rng.uniform(1, 85))), 0.0)
    xy = rng.uniform(-500, 500, (30, 2))
    exact = np.column_stack([xy, plane.height_at(xy)])
    assert between(best_plane(exact, 1.0, 1.0).plane, plane) < 1e-5
    # With errors alike in all directions the best plane is that of the singular values (numpy).
    noisy = exact + rng.normal(0, 3, exact.shape)
    _, _, axes = np.linalg.svd(noisy - noisy.mean(axis=0))
    found = best_plane(noisy, 2.0, 2.0)
    assert abs(float(axes[2] @ found.plane.normal)) == pytest.approx(1, abs=1e-12)
    spread = np.linalg.eigvalsh(np.cov(noisy.T, bias=True))[::-1]
    assert found.eigenvalues == pytest.approx(tuple(spread))
    assert found.flatness == pytest.approx(math.log(spread[0] / spread[2]))
    # With no error on the map it is the least squares of heights.
    tall = best_plane(noisy, 1e-6, 1.0).plane
    slopes = np.linalg.lstsq(np.column_stack([noisy[:, :2], np.ones(30)]), noisy[:, 2], rcond=None)[0]
    assert (-tall.normal[0] / tall.normal[2], -tall.normal[1] / tall.normal[2]) == pytest.approx(tuple(slopes[:2]))


def draped_plane(seed: int) -> tuple[Plane, np.ndarray, float] | None:
    """A plane, and a stretch of its trace as somebody digitized it, draped over heights that err, too."""
    rng = np.random.default_rng(seed)
    ground = hills(seed)
    plane = some_plane(seed, ground)
    line = max(plane.trace(ground), key=len, default=np.empty((0, 2)))
    if len(line) < 25:
        return None
    count = int(rng.integers(20, min(len(line), 160)))
    first = int(rng.integers(0, len(line) - count))
    wander = gaussian_filter(rng.normal(0, 1, (count, 2)), (2, 0))
    drawn = line[first : first + count] + wander / wander.std() * 4
    heights = (ground.heights + rng.normal(0, 2, ground.heights.shape)).astype(np.float32)
    xyz = HeightGrid(heights, ground.west, ground.north, ground.cell).draped(shapely.LineString(drawn), CELL / 2)
    return (plane, xyz, float(np.nanmax(xyz[:, 2]) - np.nanmin(xyz[:, 2]))) if np.isfinite(xyz).all() else None


def test_the_error_stated_holds_in_95_of_100() -> None:
    """Traces of planes over hills, digitized and draped with errors: between 90 and 99 of 100 lie within it."""
    within, off, refused = [], [], []
    for seed in range(1000 if MANY else 240):
        made = draped_plane(1000 + seed)
        if made is None or made[2] < 30:
            continue
        plane, xyz, _ = made
        try:
            found = best_plane(xyz, 5.0, 2.5)
        except StructureRefused as refusal:
            refused.append(str(refusal)[:35])
            continue
        away = between(found.plane, plane)
        within.append(away <= found.bound)
        if found.straightness < 1:
            off.append(away)
    assert len(within) > 150
    assert set(refused) <= {"These places do not tell the plane:"}
    assert 0.90 <= float(np.mean(within)) <= 0.99
    assert float(np.median(off)) < 5


def test_students_distribution() -> None:
    for freedom in (3.0, 4.0, 7.5, 20.0, 300.0):
        assert _student(freedom) == pytest.approx(float(student.ppf(0.975, freedom)), rel=0.01)


def test_what_is_refused_and_why() -> None:
    three = np.array([(0, 0, 0), (100, 0, 10), (0, 100, 20)], dtype=float)
    with pytest.raises(StructureRefused, match="at least three"):
        best_plane(three[:2], 5, 2)
    with pytest.raises(StructureRefused, match="at least three"):
        best_plane(three[[0, 0, 0]], 5, 2)
    with pytest.raises(StructureRefused, match="one line"):
        best_plane(np.array([(0, 0, 0), (50, 50, 5), (100, 100, 10)], dtype=float), 5, 2)
    with pytest.raises(StructureRefused, match="do not reach"):
        best_plane(np.where([[False, False, True]], np.nan, three), 5, 2)
    # Beside the line by less than the errors.
    with pytest.raises(StructureRefused, match="do not tell"):
        best_plane(np.array([(0, 0, 0), (50, 51, 5), (100, 100, 10)], dtype=float), 5, 2)
    # A dome is no plane.
    xy = np.random.default_rng(SEED).uniform(-300, 300, (60, 2))
    dome = np.column_stack([xy, 300 - (xy**2).sum(axis=1) / 300])
    with pytest.raises(StructureRefused, match="too curved"):
        best_plane(dome, 5, 2)


def test_doubts_are_said() -> None:
    along = np.linspace(0, 1000, 60)
    xyz = np.column_stack([along, 25 * np.sin(along / 200), 0.1 * along + 4 * np.sin(along / 120)])
    assert any("nearly in one line" in doubt for doubt in best_plane(xyz, 3, 2).doubts)
    wide = best_plane(np.random.default_rng(1).uniform(-500, 500, (30, 3)) * [1, 1, 0.001], 3, 2)
    assert wide.doubts == ()


@pytest.mark.parametrize("dip", [0.0, 90.0])
def test_level_and_upright(dip: float) -> None:
    rng = np.random.default_rng(4)
    along, down = rng.uniform(-300, 300, (2, 40))
    upright = np.column_stack([along * 0.6, along * 0.8, down])
    xyz = upright if dip else np.column_stack([along, down, np.full(40, 7.0)])
    found = best_plane(xyz, 2, 2)
    assert found.plane.dip == pytest.approx(dip, abs=1e-4)
    if dip:
        assert found.plane.attitude(0).azimuth % 180 == pytest.approx(math.degrees(math.atan2(0.6, 0.8)), abs=0.1)

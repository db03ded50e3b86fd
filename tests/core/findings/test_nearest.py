"""The nearest readings, against all distances looked at one by one, on grids and in heaps, too."""

from __future__ import annotations

import numpy as np
import pytest

from orvik.core.findings.points.neighbours import SAME, nearest
from tests.examples import SEED


def by_all_distances(xy: np.ndarray, reach: float, most: int) -> list[list[int]]:
    apart = np.sqrt(((xy[:, None] - xy[None]) ** 2).sum(axis=2))
    out = []
    for row in apart:
        near = [(far, i) for i, far in enumerate(row.tolist()) if SAME < far <= reach]
        out.append([i for _, i in sorted(near)[:most]])
    return out


def places(rng: np.random.Generator) -> np.ndarray:
    """Readings anywhere, on a grid, and many at one place."""
    grid = np.stack(np.meshgrid(np.arange(8), np.arange(6)), axis=-1).reshape(-1, 2) * 10.0
    heap = np.repeat(rng.uniform(0, 80, (3, 2)), rng.integers(1, 30), axis=0)
    return rng.permutation(np.vstack([grid, heap, rng.uniform(0, 80, (rng.integers(0, 60), 2))]))


@pytest.mark.parametrize("seed", range(SEED, SEED + 20))
def test_those_of_all_distances(seed: int) -> None:
    rng = np.random.default_rng(seed)
    xy, reach, most = places(rng), float(rng.choice([5.0, 10.0, 25.0, 200.0])), int(rng.integers(1, 8))
    near, count, apart = nearest(xy, reach, most)
    found = [near[i, : count[i]].tolist() for i in range(len(xy))]
    assert found == by_all_distances(xy, reach, most)
    assert (np.isfinite(apart).sum(axis=1) == count).all()


@pytest.mark.parametrize("seed", range(SEED, SEED + 10))
def test_the_same_where_only_those_around_are_asked(seed: int) -> None:
    rng = np.random.default_rng(seed)
    xy, reach = places(rng), float(rng.choice([5.0, 10.0, 25.0]))
    near, count, _ = nearest(xy, reach, 6)
    i = int(rng.integers(len(xy)))
    some = np.flatnonzero((np.abs(xy - xy[i]) <= reach + 0.5).all(axis=1))
    near_some, count_some, _ = nearest(xy[some], reach, 6)
    at = int(np.flatnonzero(some == i)[0])
    assert some[near_some[at, : count_some[at]]].tolist() == near[i, : count[i]].tolist()


def test_of_one_or_none() -> None:
    for xy in (np.empty((0, 2)), np.zeros((1, 2)), np.zeros((5, 2))):
        near, count, _ = nearest(xy, 10.0, 6)
        assert near.shape == (len(xy), 6)
        assert not count.any()


def test_a_heap_of_readings_at_one_place_costs_no_more_than_one() -> None:
    heap = np.repeat([[500_000.0, 6_800_000.0], [500_003.0, 6_800_004.0]], 30_000, axis=0)
    near, count, apart = nearest(heap, 10.0, 6)
    assert (count == 6).all()
    assert (apart == 5.0).all()
    assert (near[:30_000] == np.arange(30_000, 30_006)).all()
    assert (near[30_000:] == np.arange(6)).all()

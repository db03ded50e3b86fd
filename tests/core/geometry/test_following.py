"""Following edges: the shortest way along the linework, to the last bit."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from scipy.sparse import csr_array
from scipy.sparse.csgraph import dijkstra

from orvik.core.errors import FeatureRefused
from orvik.core.geometry.following import followed
from tests.core.pieces import area, line
from tests.examples import examples

SQUARE = area(1, shapely.box(0, 0, 100, 100), "Kp")


def test_the_shorter_way_round_a_ring_from_edge_to_edge() -> None:
    assert followed([SQUARE], (0, 80), (30, 100)) == [(0, 80), (0, 100), (30, 100)]
    assert followed([SQUARE], (30, 100), (0, 80)) == [(30, 100), (0, 100), (0, 80)]


def test_over_from_one_feature_to_another() -> None:
    on = line(2, [(100, 100), (150, 120), (200, 100)])
    way = followed([SQUARE, on], (100, 50), (200, 100))
    assert way == [(100, 50), (100, 100), (150, 120), (200, 100)]


def test_where_no_edge_leads() -> None:
    with pytest.raises(FeatureRefused, match="No edges lead"):
        followed([SQUARE, line(2, [(300, 0), (300, 50)])], (0, 0), (300, 50))
    with pytest.raises(FeatureRefused, match="must be on an edge"):
        followed([SQUARE], (50, 50), (0, 0))


@examples(60)
@given(st.integers(0, 100_000))
def test_as_short_as_scipy_says(seed: int) -> None:
    """Against SciPy's Dijkstra over the same vertices and edges."""
    rng = np.random.default_rng(seed)
    grid = [(float(x), float(y)) for x in range(5) for y in range(5)]
    places = {p: (p[0] * 10 + rng.uniform(-3, 3), p[1] * 10 + rng.uniform(-3, 3)) for p in grid}
    edges = [
        (a, b) for a in grid for b in grid if (b[0] - a[0], b[1] - a[1]) in ((1, 0), (0, 1)) and rng.random() < 0.7
    ]
    lines = [line(i, [places[a], places[b]]) for i, (a, b) in enumerate(edges, 1)]
    weights = np.zeros((25, 25))
    for a, b in edges:
        weights[grid.index(a), grid.index(b)] = np.hypot(*np.subtract(places[a], places[b]))
    far = dijkstra(csr_array(weights), directed=False, indices=0)[24]
    try:
        way = followed(lines, places[grid[0]], places[grid[24]])
    except FeatureRefused:
        assert not np.isfinite(far)
        return
    assert float(np.hypot(*np.diff(np.array(way), axis=0).T).sum()) == pytest.approx(far)

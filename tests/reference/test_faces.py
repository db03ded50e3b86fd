"""Faces of the linework against GEOS, through shapely, and against Euler's formula."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.faces import forming
from tests.examples import examples


def lines_of(seed: int, count: int) -> np.ndarray:
    rng = np.random.default_rng(seed)
    out = np.empty(count, dtype=object)
    out[:] = [
        shapely.LineString(rng.integers(0, 400, (int(rng.integers(2, 5)), 2)).astype(float) + rng.uniform(0, 0.4, 2))
        for _ in range(count)
    ]
    return np.array([line for line in out if line.length > 0], dtype=object)


@examples(60)
@given(st.integers(0, 100_000), st.integers(3, 25))
def test_the_same_faces_as_geos_makes_of_the_union(seed: int, count: int) -> None:
    """GEOS 3.14: unary union nodes by another algorithm than ours (overlay), then polygonizes."""
    lines = lines_of(seed, count)
    ours = forming.faces_of(lines, None)
    theirs = shapely.get_parts(shapely.polygonize(shapely.get_parts(shapely.union_all(lines))))
    assert len(ours) == len(theirs)
    assert float(shapely.area(ours).sum()) == pytest.approx(float(shapely.area(theirs).sum()), rel=1e-9)
    assert shapely.union_all(ours).symmetric_difference(shapely.union_all(theirs)).area < 1e-6


@examples(40)
@given(st.integers(0, 100_000), st.integers(3, 25))
def test_as_many_faces_as_euler_says(seed: int, count: int) -> None:
    """V - E + F = 1 + C for the planar graph (Euler), F counting the outer face and C connected parts.

    The bounded faces of the graph are those that are polygonized and, within them, nothing else: holes are
    faces of their own.
    """
    noded = shapely.get_parts(shapely.node(shapely.multilinestrings(lines_of(seed, count))))
    ends = {tuple(p) for e in noded for p in (e.coords[0], e.coords[-1])}
    parent = {p: p for p in ends}

    def root(p: tuple[float, ...]) -> tuple[float, ...]:
        while parent[p] != p:
            parent[p] = parent[parent[p]]
            p = parent[p]
        return p

    for e in noded:
        parent[root(e.coords[0])] = root(e.coords[-1])
    parts = len({root(p) for p in ends})
    euler = 1 + parts - len(ends) + len(noded)
    assert len(forming.faces_of(lines_of(seed, count), None)) == euler - 1

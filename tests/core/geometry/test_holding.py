"""Points in polygons, asked from either side: as shapely says pair by pair."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from orvik.core.geometry.holding import holders


@pytest.mark.parametrize("count", [3, 2_000])
def test_pairs_are_those_that_intersect(count: int) -> None:
    rng = np.random.default_rng(4)
    # On a grid, so that many points lie on edges and corners, which counts.
    corners = rng.integers(0, 30, (60, 2))
    sizes = rng.integers(1, 8, (60, 2))
    boxes = np.asarray(shapely.box(*corners.T, *(corners + sizes).T))
    points = np.asarray(shapely.points(rng.integers(0, 38, (count, 2)).astype(float)))
    point, polygon = holders(points, shapely.STRtree(boxes))
    wanted = np.argwhere(shapely.intersects(points[:, None], boxes[None, :]))
    assert sorted(zip(point.tolist(), polygon.tolist(), strict=True)) == [tuple(pair) for pair in wanted.tolist()]

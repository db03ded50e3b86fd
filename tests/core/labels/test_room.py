"""What stands in the way of labels: boxes and leaders against shapely, and what rules places out, one by one."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from orvik.core.labels.obstacles import NEVER, OVER_LINE, Obstacles
from orvik.core.labels.placement import _runs_over


def test_a_leader_runs_over_a_box_where_shapely_says_so() -> None:
    rng = np.random.default_rng(3)
    # On a grid, so that many are level, upright, without length, or touch a corner; and off it.
    for grid in (True, False):
        lines, boxes = rng.uniform(0, 9, (3000, 4)), rng.uniform(0, 9, (3000, 4))
        if grid:
            lines, boxes = np.floor(lines), np.floor(boxes)
        boxes = np.hstack([np.minimum(boxes[:, :2], boxes[:, 2:]), np.maximum(boxes[:, :2], boxes[:, 2:]) + 1])
        found = [_runs_over(line, box) for line, box in zip(lines.tolist(), boxes.tolist(), strict=True)]
        wanted = shapely.intersects(shapely.linestrings(lines.reshape(-1, 2, 2)), shapely.box(*boxes.T))
        still = (lines[:, :2] == lines[:, 2:]).all(axis=1)
        assert (np.array(found) == wanted)[~still].all()
        assert 0.1 < wanted.mean() < 0.9


@pytest.mark.parametrize("crowd", [5, 400])
def test_places_cost_what_they_lie_over(crowd: int) -> None:
    rng = np.random.default_rng(crowd)
    ends = rng.uniform(0, 100, (crowd, 2))
    pieces = np.asarray(shapely.linestrings(np.stack([ends, ends + rng.normal(0, 12, (crowd, 2))], axis=1)))
    hard, keys = rng.random(crowd) < 0.5, rng.integers(0, 40, crowd)
    corners = rng.uniform(0, 100, (300, 2))
    places = np.asarray(shapely.box(*corners.T, *(corners + 4).T))
    own = rng.integers(0, 40, 300)
    cost = Obstacles(pieces, hard, keys).costs(places, own)
    for i, place in enumerate(places):
        over = shapely.intersects(pieces, place) & (keys != own[i])
        assert cost[i] == (NEVER if (over & hard).any() else pytest.approx(OVER_LINE * over.sum()))

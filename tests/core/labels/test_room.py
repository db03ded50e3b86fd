"""What stands in the way of labels: boxes and leaders against shapely, and what rules places out, one by one."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from orvik.core.ground.crs import project_crs
from orvik.core.ink.primitives import moved
from orvik.core.labels.candidates import CLEAR, boxes
from orvik.core.labels.label_request import AGAIN, LabelRequest
from orvik.core.labels.label_requests import Written
from orvik.core.labels.labelled import placed, to_sheet
from orvik.core.labels.obstacles import NEVER, OVER_LINE, Obstacles
from orvik.core.labels.placement import LabelPlace, _runs_over
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.portrayal.ink_keys import key_of
from orvik.core.symbols.portrayal.portray import portray
from tests.core.labels.ground import UNITS, crowded


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


@pytest.mark.parametrize("seed", range(4))
def test_a_code_without_room_has_none_anywhere_in_its_area(seed: int) -> None:
    """Thousands of places at random in each such area: its letters lie over a symbol, a fault or a label."""
    crs, book, scale = project_crs("EPSG:32628"), standard(), 25_000
    features = crowded(160, 200, 12, side=2600, seed=seed)
    layers = portray(features, book, UNITS, crs, scale)
    written = Written(book, UNITS, crs)
    m = to_sheet(written, scale)
    found = placed(features, layers, written, scale)
    lost = [
        i
        for i, w in enumerate(found.requests)
        if w.placing == "inside" and w.priority != AGAIN and i not in found.chosen
    ]
    assert lost
    ink = [item for name in ("linework", "attitudes") for item in moved(layers[name].items, m)]
    faults = [row for row, kind in enumerate(features["lines"].columns["kind"]) if kind == "fault"]
    hard = np.array([key_of("lines", int(features["lines"].ids[row])) for row in faults], dtype=np.int64)
    obstacles = Obstacles.of(ink, hard, scale)
    standing = [_ground_of(found.requests[i], place) for i, place in found.chosen.items()]
    taken = shapely.STRtree([*obstacles.pieces[obstacles.hard], *standing])
    rng = np.random.default_rng(seed)
    free = 0
    for i in lost:
        west, north, east, south = found.pages[i].bounds
        middles = rng.uniform((west, north), (east, south), (4000, 2))
        halves = np.repeat(np.array([found.requests[i].half]), len(middles), axis=0)
        letters = boxes(middles, halves, np.zeros(len(middles)), CLEAR)
        inside = letters[shapely.contains_properly(found.pages[i], letters)]
        met = np.unique(taken.query(inside, predicate="intersects")[0])
        free += len(met) < len(inside)
    # Random places fall between those that are a quarter of a millimetre apart now and then.
    assert free <= 0.1 * len(lost)


def _ground_of(request: LabelRequest, standing: LabelPlace) -> shapely.Geometry:
    letters = boxes(np.array([standing.middle]), np.array([request.half]), np.array([standing.angle]), 0.15)[0]
    return letters if standing.leader is None else letters.union(shapely.LineString(standing.leader))

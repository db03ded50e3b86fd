"""Ends that meet nothing and lines that cross, in random linework: as shapely says line by line."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from orvik.core.features.feature import Feature
from orvik.core.findings.lines import ends, pairs
from orvik.core.geometry.nodes import NODE
from tests.core.findings.lines.test_doubling import ground


def linework(seed: int) -> list[Feature]:
    """Lines on a grid, which share ends and vertices, touch, cross, close on themselves and lie alone; some hidden."""
    rng = np.random.default_rng(seed)
    out = []
    for number in range(1, 90):
        xy = np.unique(rng.integers(0, 12, (rng.integers(2, 5), 2)), axis=0)
        rng.shuffle(xy)
        if rng.random() < 0.1 and len(xy) > 2:
            xy = np.vstack([xy, xy[:1]])
        line = shapely.LineString(xy * 400.0 + (510_000, 6_800_000)) if len(xy) > 1 else None
        if line is None or not line.is_simple:
            continue
        kind = ("contact", "contact", "fault", "dyke")[rng.integers(0, 4)]
        certainty = "concealed" if rng.random() < 0.15 else "certain"
        out.append(Feature("lines", line, kind, id=number, certainty=certainty))
    return out


@pytest.mark.parametrize("seed", range(6))
def test_an_end_is_told_that_no_other_line_meets(seed: int) -> None:
    lines = linework(seed)
    told = {(f.features[0][1], f.at) for f in ends.dangles(ground(*lines))}
    wanted = set()
    for one in lines:
        if one.kind != "contact" or one.certainty == "concealed" or one.geometry.is_closed:
            continue
        for place in (one.geometry.coords[0], one.geometry.coords[-1]):
            if all(o is one or o.geometry.distance(shapely.Point(place)) > NODE for o in lines):
                wanted.add((one.id, place))
    assert {key for key in told if key[0] in {o.id for o in lines if o.kind == "contact"}} == wanted
    assert wanted


@pytest.mark.parametrize("seed", range(6))
def test_lines_are_told_that_cross_where_not_both_have_a_vertex(seed: int) -> None:
    lines = linework(seed)
    found = pairs.pairs(ground(*lines))
    doubled = {frozenset(n for _, n in f.features) for f in found if f.rule == "doubled"}
    told = {(frozenset(n for _, n in f.features), f.at) for f in found if f.rule == "crossing"}
    wanted = set()
    shown = [o for o in lines if o.kind == "contact" and o.certainty == "certain"]
    for i, one in enumerate(shown):
        for other in shown[i + 1 :]:
            both = frozenset((one.id, other.id))
            if both in doubled or not one.geometry.relate_pattern(other.geometry, "T********"):
                continue
            for place in shapely.get_coordinates(one.geometry.intersection(other.geometry)).tolist():
                here = (place[0], place[1])
                if here in one.geometry.coords and here in other.geometry.coords:
                    continue
                # So near to an end it is an overshoot, which is told with the ends.
                if any(
                    not o.geometry.is_closed
                    and min(along, o.geometry.length - along) <= min(25.0, o.geometry.length / 2)
                    for o in (one, other)
                    for along in [o.geometry.project(shapely.Point(here))]
                ):
                    continue
                wanted.add((both, here))
    assert {key for key in told if key[0] <= {o.id for o in shown}} == wanted
    assert wanted

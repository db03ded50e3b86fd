"""Readings at one place, against all pairs looked at one by one."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from orvik.core.faces.forming import Faces
from orvik.core.features.feature import Feature, Features
from orvik.core.findings.finding import CheckInput
from orvik.core.findings.single import same_place
from orvik.core.ground.scale import SEEN_MM
from tests.core.pieces import SETTING
from tests.examples import SEED


def ground_of(points: list[Feature]) -> CheckInput:
    none = Features.of("lines", []), Features.of("areas", [])
    faces = Faces(np.empty(0, dtype=object))
    table = Features.of("points", points)
    return CheckInput(none[0], table, none[1], faces, {}, SETTING.scales, 1.0, SETTING.bounding)


def readings(rng: np.random.Generator) -> list[Feature]:
    """Many at few places and beside them, of two kinds, with few numbers."""
    reach = SEEN_MM * SETTING.scales.publication / 1000
    middles = rng.uniform(0, 40 * reach, (5, 2))
    out = []
    for number in rng.permutation(np.arange(1, 41)).tolist():
        at = middles[rng.integers(5)] + rng.choice([0.0, 0.5, 0.9, 1.2]) * reach * np.array([1.0, 0.0])
        kind = ("bedding", "foliation")[int(rng.integers(2))]
        azimuth, dip = float(rng.integers(2)), float(rng.integers(20, 22))
        out.append(Feature("points", shapely.Point(*at), kind, id=number, azimuth=azimuth, inclination=dip))
    return sorted(out, key=lambda feature: feature.number)


@pytest.mark.parametrize("seed", range(SEED, SEED + 10))
def test_each_is_told_once_against_an_older_one(seed: int) -> None:
    points = readings(np.random.default_rng(seed))
    ground = ground_of(points)
    reach = ground.units_on_ground(SEEN_MM)
    wanted = {}
    for newer in points:
        near = [
            older
            for older in points
            if older.number < newer.number
            and older.kind == newer.kind
            and older.geometry.distance(newer.geometry) <= reach
        ]
        same = [o for o in near if (o.azimuth, o.inclination) == (newer.azimuth, newer.inclination)]
        if near:
            wanted[newer.number] = ((same or near)[0].number, "error" if same else "warning")
    found = {f.features[0][1]: (f.features[1][1], f.severity) for f in same_place(ground)}
    assert found == wanted


def test_a_heap_is_looked_at_place_by_place() -> None:
    rng = np.random.default_rng(1)
    heap = [
        Feature("points", shapely.Point(5, 5), "bedding", id=i + 1, azimuth=float(a), inclination=30.0)
        for i, a in enumerate(rng.integers(0, 360, 20_000))
    ]
    # Of all pairs there are two hundred million.
    assert len(same_place(ground_of(heap))) == 19_999

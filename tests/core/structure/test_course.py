"""What the course of a line leaves open: planes on made-up hills, against a dense search of another kind."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely

from orvik.core.features.attitude import Attitude
from orvik.core.structure.course import Course, dips_allowed, least_turns
from orvik.core.structure.plane import Plane
from tests.core.structure.relief import hills, some_plane


def traced(seed: int) -> tuple[Plane, np.ndarray]:
    """A plane and its longest trace over hills, draped, with errors of a few metres."""
    rng = np.random.default_rng(seed)
    ground = hills(seed)
    plane = some_plane(seed, ground)
    line = max((shapely.LineString(one) for one in plane.trace(ground)), key=shapely.length)
    xyz = ground.draped(line)
    return plane, xyz + rng.normal(0, 1.0, xyz.shape)


@pytest.mark.parametrize("seed", range(25))
def test_a_plane_may_stay_where_the_line_is_its_own_outcrop(seed: int) -> None:
    plane, xyz = traced(seed)
    course = Course.of_places(xyz, 3.0, 1.5)
    assert course is not None
    assert least_turns([course], np.array([plane.normal]))[0] < 3
    gentlest, steepest = dips_allowed(course)
    assert gentlest - 2 <= plane.dip <= steepest + 2


@pytest.mark.parametrize("seed", range(25))
def test_the_turn_is_the_least_that_a_search_along_great_circles_finds(seed: int) -> None:
    """Turned about every axis in small steps until the places fit: an independent way to the same angle."""
    rng = np.random.default_rng(seed + 100)
    _, xyz = traced(seed)
    course = Course.of_places(xyz, 3.0, 1.5)
    assert course is not None
    stated = rng.normal(size=3)
    stated /= np.linalg.norm(stated) * np.sign(stated[2])
    away = xyz - xyz.mean(axis=0)
    _, spread, axes = np.linalg.svd(away, full_matrices=False)
    best = spread[2] / math.sqrt(len(away))
    across = np.linalg.svd(stated[None])[2][1:]
    # In small steps the best plane of all may be missed.
    least = math.degrees(math.acos(min(1.0, abs(float(axes[2] @ stated)))))
    for around in np.radians(np.arange(0, 360, 2.0)):
        way = np.cos(around) * across[0] + np.sin(around) * across[1]
        for turn in np.arange(0, least, 0.5):
            normal = np.cos(np.radians(turn)) * stated + np.sin(np.radians(turn)) * way
            off = math.sqrt(((away @ normal) ** 2).mean())
            noise = math.hypot(3.0 * math.hypot(*normal[:2]), 1.5 * normal[2])
            if off <= max(2 * noise, 1.6 * best):
                least = turn
                break
    assert least_turns([course], stated[None])[0] == pytest.approx(least, abs=2.5)


def test_a_straight_line_over_level_ground_leaves_every_dip_open_and_a_short_one_everything() -> None:
    x = np.linspace(0, 500, 60)
    level = Course.of_places(np.column_stack([x, 0 * x, 0 * x]), 3.0, 1.5)
    assert level is not None
    assert dips_allowed(level)[0] < 3
    assert dips_allowed(level)[1] > 88
    # Its strike is not open: beds that strike across it must be turned until they strike along it.
    across = np.array(Plane.of_attitude((0, 0, 0), Attitude(0.0, 90.0), 0.0).normal)
    assert least_turns([level], across[None])[0] > 80
    few = Course.of_places(np.column_stack([x[:4], 0 * x[:4], 0 * x[:4]]), 3.0, 1.5)
    assert few is None
    holes = np.column_stack([x, 0 * x, np.full(60, np.nan)])
    assert Course.of_places(holes, 3.0, 1.5) is None
    short = Course.of_places(np.column_stack([x / 100, 0 * x, 0 * x]), 3.0, 1.5)
    assert short is not None
    assert least_turns([short], across[None])[0] == 0

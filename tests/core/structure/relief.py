"""Ground for tests of structure: rough hills, and the frame that they lie in."""

from __future__ import annotations

import math

import numpy as np
from scipy.ndimage import gaussian_filter

from orvik.core.features.attitude import Attitude
from orvik.core.structure.height_grid import HeightGrid
from orvik.core.structure.plane import Plane

CELL = 20.0


def hills(seed: int, size: int = 150, height: float = 60.0, wide: float = 12.0) -> HeightGrid:
    """Hills of a height and a width in cells about 300 m, over a square that begins at 0, 0."""
    rough = gaussian_filter(np.random.default_rng(seed).normal(0, 1, (size, size)), wide)
    return HeightGrid((rough / rough.std() * height + 300).astype(np.float32), 0.0, size * CELL, (CELL, CELL))


def some_plane(seed: int, ground: HeightGrid, steepest: float = 70.0) -> Plane:
    """A plane of a random attitude through the ground in the middle of a square."""
    rng = np.random.default_rng(seed)
    middle = ground.heights.shape[0] * CELL / 2
    height = float(ground.at(np.array([[middle, middle]]))[0])
    attitude = Attitude(float(rng.uniform(0, 359)), float(rng.uniform(5, steepest)))
    return Plane.of_attitude((middle, middle, height), attitude, 0.0)


def between(one: Plane, other: Plane) -> float:
    """The angle between two planes in degrees, 0 to 90."""
    return math.degrees(math.acos(min(1.0, abs(float(np.dot(one.normal, other.normal))))))

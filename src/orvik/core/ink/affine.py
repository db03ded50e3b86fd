"""Affine mappings of the plane: from the ground to the sheet, from a part to its page."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from orvik.core.arrays import Floats

# Two by three: x' = a x + b y + c, y' = d x + e y + f.
Affine = tuple[float, float, float, float, float, float]


def apply(m: Affine, xy: Floats) -> Floats:
    """Points through an affine mapping; ``xy`` is (n, 2).

    >>> apply((0.04, 0.0, 10.0, 0.0, -0.04, 90.0), np.array([[100.0, 200.0]])).tolist()
    [[14.0, 82.0]]
    """
    moved_xy: Floats = xy @ np.array([[m[0], m[3]], [m[1], m[4]]]) + np.array([m[2], m[5]])
    return moved_xy


def inverse(m: Affine) -> Affine:
    """The mapping that leads back.

    >>> inverse((2.0, 0.0, 10.0, 0.0, -2.0, 4.0))
    (0.5, 0.0, -5.0, 0.0, -0.5, 2.0)
    """
    a, b, c, d, e, f = m
    size = a * e - b * d
    back = (e / size, -b / size, -d / size, a / size)
    x, y = -(back[0] * c + back[1] * f), -(back[2] * c + back[3] * f)
    return tuple(v + 0.0 for v in (back[0], back[1], x, back[2], back[3], y))  # type: ignore[return-value]


def chained(outer: Affine, inner: Affine) -> Affine:
    """The mapping that carries out the inner one first.

    >>> chained((2.0, 0.0, 10.0, 0.0, -2.0, 4.0), (1.0, 0.0, 3.0, 0.0, 1.0, 5.0))
    (2.0, 0.0, 16.0, 0.0, -2.0, -6.0)
    """
    a, b, c, d, e, f = inner
    return (
        outer[0] * a + outer[1] * d,
        outer[0] * b + outer[1] * e,
        outer[0] * c + outer[1] * f + outer[2],
        outer[3] * a + outer[4] * d,
        outer[3] * b + outer[4] * e,
        outer[3] * c + outer[4] * f + outer[5],
    )


# Asked for each piece of ink that is moved by one and the same mapping.
@lru_cache(maxsize=256)
def turn_of(m: Affine) -> float:
    """By how many degrees clockwise the frame's upward direction turns."""
    flipped = m[0] * m[4] - m[1] * m[3] < 0
    up = -np.array([m[1], m[4]]) if not flipped else np.array([m[1], m[4]])
    return float(np.degrees(np.arctan2(up[0], -up[1])))

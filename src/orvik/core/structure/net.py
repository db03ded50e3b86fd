"""The net: directions on the lower hemisphere, equal-area or equal-angle; poles, great circles and lines.

A direction is a vector of length 1: east, north and down, and it points down.
"""

from __future__ import annotations

from typing import Literal

import numpy as np

from orvik.core.arrays import Flags, Floats

Projection = Literal["equal_area", "equal_angle"]


def lines(trend: Floats, plunge: Floats) -> Floats:
    """Directions (n, 3) of lines by trend and plunge in degrees."""
    t, p = np.radians(np.asarray(trend, dtype=float)), np.radians(np.asarray(plunge, dtype=float))
    return np.column_stack([np.cos(p) * np.sin(t), np.cos(p) * np.cos(t), np.sin(p)])


def poles(strike: Floats, dip: Floats) -> Floats:
    """Directions (n, 3) at right angles to planes by strike and dip in degrees, right-hand rule."""
    return lines(np.asarray(strike, dtype=float) - 90.0, 90.0 - np.asarray(dip, dtype=float))


def downwards(directions: Floats) -> Floats:
    """The ends of axes that point down; of level ones, those between north and south by east."""
    east, north, down = directions.T
    up = (down < 0) | ((down == 0) & ((east < 0) | ((east == 0) & (north < 0))))
    return np.where(up[:, None], -directions, directions)


def trend_and_plunge(direction: Floats) -> tuple[float, float]:
    """Trend and plunge of an axis in degrees."""
    (east, north, down) = downwards(direction[None])[0].tolist()
    trend = float(np.degrees(np.arctan2(east, north)) % 360)
    return trend, float(np.degrees(np.arctan2(down, np.hypot(east, north))))


def strike_and_dip(pole: Floats) -> tuple[float, float]:
    """Strike and dip of the plane at right angles to an axis, in degrees."""
    trend, plunge = trend_and_plunge(pole)
    return (trend + 90.0) % 360, 90.0 - plunge


def projected(directions: Floats, projection: Projection) -> Floats:
    """Places (n, 2) of directions on a net of radius 1, north up.

    Equal area: r = √2 sin((90° − plunge) / 2); equal angle: r = tan((90° − plunge) / 2) (common practice).
    """
    east, north, down = np.asarray(directions, dtype=float).T
    away = np.sqrt(1 / (1 + down)) if projection == "equal_area" else 1 / (1 + down)
    return np.column_stack([east * away, north * away])


def raised(places: Floats, projection: Projection) -> Floats:
    """Directions (n, 3) of places on a net of radius 1: the other way round. Those beyond the rim point up."""
    square = (np.asarray(places, dtype=float) ** 2).sum(axis=1)
    if projection == "equal_area":
        down = 1 - square
        away = np.sqrt(np.maximum(2 - square, 0.0))
    else:
        down = (1 - square) / (1 + square)
        away = 1 + down
    return np.column_stack([places * away[:, None], down])


def great_circle(pole: Floats, projection: Projection, steps: int = 90) -> Floats:
    """The line (n, 2) in which a plane cuts the net, from rim to rim."""
    east, north, down = downwards(pole[None])[0]
    flat = float(np.hypot(east, north))
    # Along the strike, and straight down the dip.
    along = np.array([north, -east, 0.0]) / flat if flat > 1e-12 else np.array([1.0, 0.0, 0.0])
    dip = np.cross(along, [east, north, down])
    dip = dip if dip[2] >= 0 else -dip
    turn = np.linspace(0, np.pi, steps + 1)[:, None]
    circle = np.cos(turn) * along + np.sin(turn) * dip
    circle[:, 2] = np.maximum(circle[:, 2], 0.0)
    return projected(circle, projection)


def small_circle(axis: Floats, degrees: float, projection: Projection, steps: int = 120) -> list[Floats]:
    """The lines (n, 2) of a cone about an axis; where it crosses the rim, its other end goes on across the net."""
    one = np.array([0.0, 0.0, 1.0]) if abs(axis[2]) < 0.9 else np.array([1.0, 0.0, 0.0])
    across = np.cross(axis, one)
    across /= np.linalg.norm(across)
    other = np.cross(axis, across)
    turn = np.linspace(0, 2 * np.pi, steps + 1)[:, None]
    wide = np.radians(degrees)
    cone = np.cos(wide) * axis + np.sin(wide) * (np.cos(turn) * across + np.sin(turn) * other)
    up: Flags = cone[:, 2] < 0
    places = projected(np.where(up[:, None], -cone, cone), projection)
    breaks = np.flatnonzero(np.diff(up.astype(int)) != 0) + 1
    return [part for part in np.split(places, breaks) if len(part) > 1]

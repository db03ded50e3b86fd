"""Smooth lines: a curve through clicked places, flattened so that no chord is seen to leave it.

A centripetal Catmull-Rom spline: it passes through every place, a place moves only the two spans on each
side of it, and within a span it has neither cusp nor loop (Yuksel, Schaefer and Keyser 2011,
"Parameterization and applications of Catmull-Rom curves", Computer-Aided Design 43).
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.errors import FeatureRefused
from orvik.core.features.feature import Feature
from orvik.core.features.stretch import shifted
from orvik.core.geometry.vertices import is_ring

# How far a chord may leave the curve, in millimetres on the sheet.
FLAT_MM = 0.05
# A smooth span has at least one vertex between its knots; a straight one has none, and is told by that.
LEAST = 2
MOST_PIECES = 200


def tangents(places: Floats, closed: bool = False) -> tuple[Floats, Floats]:
    """Centripetal parameters of places and the curve's derivative by them.

    Parameters
    ----------
    places
        (n, 2), neighbours apart; of a closed curve the first one again at the end.

    Returns
    -------
    parameters, derivatives
        (n,) and (n, 2). The derivative at a place is that of the parabola through it and its neighbours; at
        an end that of the parabola through the last three places.
    """
    steps = np.sqrt(np.hypot(*np.diff(places, axis=0).T))
    t = np.concatenate([[0.0], np.cumsum(steps)])
    slopes = np.diff(places, axis=0) / steps[:, None]
    out = np.empty_like(places)
    if len(places) == 2:
        out[:] = slopes[0]
        return t, out
    before, after = steps[:-1, None], steps[1:, None]
    out[1:-1] = (after * slopes[:-1] + before * slopes[1:]) / (before + after)
    if closed:
        a, b = steps[-1], steps[0]
        out[0] = out[-1] = (b * slopes[-1] + a * slopes[0]) / (a + b)
    else:
        out[0] = 2 * slopes[0] - out[1]
        out[-1] = 2 * slopes[-1] - out[-2]
    return t, out


def smoothed(places: Floats, tolerance: float, closed: bool = False) -> tuple[Floats, list[int]]:
    """The curve through places as vertices.

    >>> vertices, knots = smoothed(np.array([(0.0, 0.0), (50.0, 20.0), (100.0, 0.0)]), tolerance=1.0)
    >>> vertices[knots].tolist()
    [[0.0, 0.0], [50.0, 20.0], [100.0, 0.0]]

    Parameters
    ----------
    places
        (n, 2), neighbours apart; of a closed curve the first one again at the end.
    tolerance
        The furthest that a chord may be from the curve, in the unit of the places.

    Returns
    -------
    vertices, knots
        (m, 2), and the numbers of the vertices that are the places, to the last bit.
    """
    _, derivatives = tangents(places, closed)
    # Not the differences of the parameters: their rounding depends on all that lies before.
    steps = np.sqrt(np.hypot(*np.diff(places, axis=0).T))[:, None]
    p, q, m, n = places[:-1], places[1:], derivatives[:-1] * steps, derivatives[1:] * steps
    # A chord over a parameter of h leaves a curve by at most h² max|C''| / 8, and the second derivative of a
    # cubic is greatest at one of its ends.
    bend = np.maximum(np.hypot(*(6 * (q - p) - 4 * m - 2 * n).T), np.hypot(*(-6 * (q - p) + 2 * m + 4 * n).T))
    pieces = np.clip(np.ceil(np.sqrt(bend / (8 * tolerance))), LEAST, MOST_PIECES).astype(np.int64)
    knots = np.concatenate([[0], np.cumsum(pieces)])
    span = np.repeat(np.arange(len(pieces)), pieces)
    s = ((np.arange(knots[-1]) - knots[span]) / pieces[span])[:, None]
    out = (
        (2 * s**3 - 3 * s**2 + 1) * p[span]
        + (s**3 - 2 * s**2 + s) * m[span]
        + (3 * s**2 - 2 * s**3) * q[span]
        + (s**3 - s**2) * n[span]
    )
    out[knots[:-1]] = p
    return np.concatenate([out, places[-1:]]), knots.tolist()


def flattened(places: Floats, smooth: Sequence[bool], tolerance: float) -> tuple[Floats, list[int]]:
    """A line of straight and smooth spans as vertices.

    Parameters
    ----------
    places
        (n, 2), neighbours apart.
    smooth
        For each of the n - 1 spans, whether it is smooth. A corner stands where a straight one begins or ends.
    """
    if len(smooth) == len(places) - 1 and all(smooth):
        return smoothed(places, tolerance, is_ring(places))
    out, knots, at = [places[:1]], [0], 0
    while at < len(places) - 1:
        stop = at + 1
        while smooth[at] and stop < len(places) - 1 and smooth[stop]:
            stop += 1
        base = sum(len(p) for p in out) - 1
        if smooth[at]:
            vertices, held = smoothed(places[at : stop + 1], tolerance)
        else:
            vertices, held = places[at : stop + 1], [0, 1]
        out.append(vertices[1:])
        knots += [base + k for k in held[1:]]
        at = stop
    return np.concatenate(out), knots


def redrawn(feature: Feature, tolerance: float) -> Feature:
    """A smooth line drawn anew through its knots; as it is where it has none.

    Stretches keep the knots that they begin and end at.

    Raises
    ------
    FeatureRefused
        Two knots that follow one another are on the same place.
    """
    if not feature.knots:
        return feature
    xy = shapely.get_coordinates(feature.geometry)
    knots = sorted({0, len(xy) - 1, *feature.knots})
    if (xy[knots[1:]] == xy[knots[:-1]]).all(axis=1).any():
        raise FeatureRefused("A vertex of this curve would lie on the one beside it; remove one of them instead.")
    smooth = [b - a > 1 for a, b in pairwise(knots)]
    vertices, now = flattened(xy[knots], smooth, tolerance)

    def where(i: int) -> int:
        j = int(np.searchsorted(knots, i))
        if j < len(knots) and knots[j] == i:
            return now[j]
        share = (i - knots[j - 1]) / (knots[j] - knots[j - 1])
        return now[j - 1] + round(share * (now[j] - now[j - 1]))

    return feature.changed(
        geometry=shapely.LineString(vertices),
        stretches=shifted(feature.stretches, where, len(vertices)),
        knots=tuple(now),
    )

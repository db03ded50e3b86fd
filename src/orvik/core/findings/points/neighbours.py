"""Readings as directions, and the readings around each."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Floats, Ints
from orvik.core.findings.finding import CheckInput

# Neighbours stand within so many millimetres on the sheet; the nearest so many are asked.
NEAR_MM, MOST = 25.0, 6
# So many say something; fewer only where they stand nearer and agree better, and that is said.
LEAST, FEW, FEW_MM = 4, 2, 10.0
# They agree that lie within so many degrees of their mean.
AGREE, FEW_AGREE = 25.0, 12.0


def poles(strikes: Floats, dips: Floats) -> Floats:
    """The upward normals of planes by the right-hand rule, (n, 3): east, north, up."""
    down, dip = np.radians(strikes + 90.0), np.radians(dips)
    return np.column_stack([np.sin(dip) * np.sin(down), np.sin(dip) * np.cos(down), np.cos(dip)])


def lines(trends: Floats, plunges: Floats) -> Floats:
    """The directions of lines that plunge, (n, 3)."""
    trend, plunge = np.radians(trends), np.radians(plunges)
    return np.column_stack([np.cos(plunge) * np.sin(trend), np.cos(plunge) * np.cos(trend), -np.sin(plunge)])


def angles(one: Floats, other: Floats, axial: bool) -> Floats:
    """Degrees between directions; of axes, which point both ways, never more than 90."""
    dots = np.einsum("...i,...i->...", one, other)
    return np.asarray(np.degrees(np.arccos(np.clip(np.abs(dots) if axial else dots, -1.0, 1.0))))


@dataclass(frozen=True)
class Around:
    """The readings around each of some readings.

    Attributes
    ----------
    near
        Their places among those asked, (n, MOST); what lies behind ``count`` is none.
    count
        How many there are.
    mean
        Their mean direction, (n, 3).
    spread
        By how many degrees the farthest of them lies off that.
    agree
        Whether they agree well enough for their number to say something.
    """

    near: Ints
    count: Ints
    mean: Floats
    spread: Floats
    agree: np.ndarray


def around(ground: CheckInput, rows: Ints, directions: Floats, axial: bool) -> Around:
    """What stands around each reading; ``rows`` of the points, with their directions, (n, 3)."""
    # Loaded with the first readings: the application starts without it.
    from scipy.spatial import cKDTree

    xy = shapely.get_coordinates(ground.points.geometries[rows])
    k = min(MOST + 3, len(rows))
    apart, near = cKDTree(xy).query(xy, k=k, distance_upper_bound=ground.units_on_ground(NEAR_MM))
    apart, near = apart.reshape(len(rows), -1), near.reshape(len(rows), -1)
    # What stands at the same place is another matter, and told as such.
    order = np.argsort(np.where((apart > 1e-6) & np.isfinite(apart), apart, np.inf), axis=1, kind="stable")[:, :MOST]
    apart, near = np.take_along_axis(apart, order, 1), np.take_along_axis(near, order, 1)
    there = (apart > 1e-6) & np.isfinite(apart)
    near = np.where(there, near, 0)
    its = directions[near] * there[..., None]
    if axial:
        its = its * np.where(np.einsum("nki,ni->nk", its, its[:, 0]) < 0, -1.0, 1.0)[..., None]
    mean = its.sum(axis=1)
    mean /= np.maximum(np.linalg.norm(mean, axis=1), 1e-12)[:, None]
    off = np.where(there, angles(its, np.broadcast_to(mean[:, None, :], its.shape), axial), 0.0)
    spread, count = off.max(axis=1, initial=0.0), there.sum(axis=1)
    within = np.where(there, apart, 0.0).max(axis=1, initial=0.0) <= ground.units_on_ground(FEW_MM)
    few = (count >= FEW) & (count < LEAST) & within & (spread <= FEW_AGREE)
    agree = ((count >= LEAST) & (spread <= AGREE)) | few
    return Around(near, count, mean, spread, agree)

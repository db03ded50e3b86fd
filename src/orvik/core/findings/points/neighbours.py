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


# Places no further apart than this, in project units, are the same: what stands there is told as such.
SAME = 1e-6


def nearest(xy: Floats, reach: float, most: int) -> tuple[Ints, Ints, Floats]:
    """The nearest other places around each of some places, which are the same among more or fewer others.

    Parameters
    ----------
    xy
        Places, (n, 2).
    reach, most
        How far they are looked for, in project units, and how many at the most.

    Returns
    -------
    near, count, apart
        For each place the rows of those around it, (n, most), the nearest first and of those as near the lower row;
        what lies behind the count is none. How far each is away, infinite behind the count.
    """
    # Loaded with the first readings: the application starts without it.
    from scipy.spatial import cKDTree

    # By places: a thousand readings at one cost no more than one.
    places, place_of = np.unique(xy, axis=0, return_inverse=True)
    place_of = place_of.reshape(-1)
    # The first readings of each place, (places, most); behind their number there is none, -1.
    order = np.argsort(place_of, kind="stable")
    nth = np.arange(len(xy)) - np.searchsorted(place_of[order], place_of[order])
    first = nth < most
    held = np.full((len(places), most), -1, dtype=np.int64)
    held[place_of[order[first]], nth[first]] = order[first]
    near = np.full((len(places), most), -1, dtype=np.int64)
    apart = np.full((len(places), most), np.inf)
    open_rows, asked = np.arange(len(places)), most + 4
    tree = cKDTree(places)
    while len(open_rows):
        k = min(asked, len(places))
        far, found = (out.reshape(len(open_rows), -1) for out in tree.query(places[open_rows], k=k))
        farthest = far[:, -1]
        readings = held[found].reshape(len(open_rows), -1)
        each = np.repeat(far, most, axis=1)
        each = np.where((readings >= 0) & (each > SAME) & (each <= reach), each, np.inf)
        # By distance, and by row where that is the same.
        best = np.lexsort((readings, each), axis=1)[:, :most]
        near[open_rows] = np.take_along_axis(readings, best, 1)
        apart[open_rows] = np.take_along_axis(each, best, 1)
        # One that was not seen yet may be as near as the last.
        unsure = (farthest <= reach) & (farthest <= apart[open_rows, -1])
        open_rows = open_rows[unsure] if k < len(places) else open_rows[:0]
        asked *= 2
    apart = apart[place_of]
    count = np.isfinite(apart).sum(axis=1)
    return np.where(np.isfinite(apart), near[place_of], 0), count, apart


def around(ground: CheckInput, rows: Ints, directions: Floats, axial: bool) -> Around:
    """What stands around each reading; ``rows`` of the points, with their directions, (n, 3)."""
    xy = shapely.get_coordinates(ground.points.geometries[rows])
    near, count, apart = nearest(xy, ground.units_on_ground(NEAR_MM), MOST)
    there = np.isfinite(apart)
    its = directions[near] * there[..., None]
    if axial:
        its = its * np.where(np.einsum("nki,ni->nk", its, its[:, 0]) < 0, -1.0, 1.0)[..., None]
    mean = its.sum(axis=1)
    mean /= np.maximum(np.linalg.norm(mean, axis=1), 1e-12)[:, None]
    off = np.where(there, angles(its, np.broadcast_to(mean[:, None, :], its.shape), axial), 0.0)
    spread = off.max(axis=1, initial=0.0)
    within = np.where(there, apart, 0.0).max(axis=1, initial=0.0) <= ground.units_on_ground(FEW_MM)
    few = (count >= FEW) & (count < LEAST) & within & (spread <= FEW_AGREE)
    agree = ((count >= LEAST) & (spread <= AGREE)) | few
    return Around(near, count, mean, spread, agree)

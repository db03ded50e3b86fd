"""What the course of a line over the relief says of the plane that it is the outcrop of.

A line over hills and valleys determines a plane; one over level ground no more than its strike, a short or straight one
hardly anything. So the question is turned round: by how much must a plane that is stated be turned until the line may
be its outcrop? Where the line determines nothing, the answer is not at all.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from orvik.core.arrays import Floats

# Directions that are tried, over the upper half of a sphere: about 1.5 degrees apart.
DIRECTIONS = 9_000
# A plane fits where places lie off it by so many standard errors on the mean square ...
ERRORS = 2.0
# ... or by so much more than off the best plane of all: what folds bend is no plane, and says less.
WORSE = 1.6
# Standard error of a line that was digitized, on a sheet of the scale it was digitized at (common practice).
DIGITIZED_MM = 0.5
# Through fewer places goes any plane.
FEWEST = 6


@dataclass(frozen=True, eq=False)
class Course:
    """A part of a line over the relief.

    Attributes
    ----------
    covariance
        Of its places about their mean: easting, northing and up, in square metres (3, 3).
    plan_error, height_error
        Standard errors of its places, in metres.
    """

    covariance: Floats
    plan_error: float
    height_error: float

    @staticmethod
    def of_places(xyz: Floats, plan_error: float, height_error: float) -> Course | None:
        """Through places (n, 3); None through too few."""
        known = xyz[np.isfinite(xyz[:, 2])]
        if len(known) < FEWEST:
            return None
        away = known - known.mean(axis=0)
        return Course(away.T @ away / len(away), plan_error, height_error)


def least_turns(courses: Sequence[Course], normals: Floats) -> Floats:
    """By how many degrees each stated plane must be turned at least until the line may be its outcrop.

    Parameters
    ----------
    normals
        Of the stated planes (n, 3), each of length 1.

    Returns
    -------
    Degrees (n,), no finer than the directions that are tried; 0 where the plane may stay as it is.
    """
    out = np.zeros(len(courses))
    for number, (course, normal) in enumerate(zip(courses, normals, strict=True)):
        if not _allowed(course, normal[None])[0]:
            nearest = np.abs(_open_to(course) @ normal).max()
            out[number] = np.degrees(np.arccos(np.clip(nearest, 0.0, 1.0)))
    return out


def dips_allowed(course: Course) -> tuple[float, float]:
    """The gentlest and the steepest dip, in degrees, of the planes that a line may be the outcrop of."""
    up = np.abs(_open_to(course)[:, 2])
    return float(np.degrees(np.arccos(min(up.max(), 1.0)))), float(np.degrees(np.arccos(up.min())))


def _open_to(course: Course) -> Floats:
    """Directions that may be at right angles to the line's surface (n, 3); the best of all is always among them."""
    tried = _upper_half()
    best = np.linalg.eigh(course.covariance)[1][:, 0]
    return np.vstack([tried[_allowed(course, tried)], best])


def _allowed(course: Course, directions: Floats) -> np.ndarray[tuple[int, ...], np.dtype[np.bool_]]:
    """Which directions may be at right angles to the line's surface."""
    off = ((directions @ course.covariance) * directions).sum(axis=1)
    up = directions[:, 2] ** 2
    noise = course.plan_error**2 * (1 - up) + course.height_error**2 * up
    best = float(np.linalg.eigvalsh(course.covariance)[0])
    return np.asarray(off <= np.maximum(ERRORS**2 * noise, WORSE**2 * max(best, 0.0)))


@lru_cache(maxsize=1)
def _upper_half() -> Floats:
    """Directions evenly over the upper half of a sphere, on a spiral of the golden angle (from memory)."""
    number = np.arange(DIRECTIONS) + 0.5
    up = 1 - number / DIRECTIONS
    around = np.pi * (1 + np.sqrt(5)) * number
    out = np.sqrt(1 - up**2)
    return np.column_stack([out * np.cos(around), out * np.sin(around), up])

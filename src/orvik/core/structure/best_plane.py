"""The plane that lies best through places on a contact, its error, and how well the places determine it.

Best plane by the eigenvectors of the covariance of the places about their mean; what the eigenvalues say about it after
Woodcock, N. H. (1977), Specification of fabric shapes using an eigenvalue method, GSA Bulletin 88, and Fernández, O.
(2005), Obtaining a best fitting plane through 3D georeferenced data, Journal of Structural Geology 27 (from memory).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from orvik.core.arrays import Floats
from orvik.core.errors import StructureRefused
from orvik.core.structure.plane import Plane

# Through fewer places go many planes.
FEWEST_PLACES = 3
# What is known of errors before a look at the places counts as so many places.
PRIOR = 3.0
# A bound beyond this, in degrees, says nothing; beyond the second it is said to be wide.
HOPELESS, WIDE = 40.0, 10.0
# How far places leave the plane, by their spread in its narrower direction: beyond this no plane lies along them.
CURVED = 0.25
# So many times the errors stated, and no less, is a curve.
ERRORS = 3.0
# After Fernández: planes are trusted where ln(λ1/λ3) is above 4 and Woodcock's K below 0.8.
FLAT_ENOUGH, BROAD_ENOUGH = 4.0, 0.8


@dataclass(frozen=True)
class BestPlane:
    """A plane through places, with what speaks for it.

    Attributes
    ----------
    plane
        Through the mean of the places.
    bound
        In degrees; the true plane lies within so much of this one in 95 of 100 cases.
    count
        Of the places.
    residual
        Root mean square of how far they lie from it, in metres.
    eigenvalues
        Of the covariance of the places, in square metres, the greatest first.
    span
        The height between the lowest and the highest of them, in metres.
    """

    plane: Plane
    bound: float
    count: int
    residual: float
    eigenvalues: tuple[float, float, float]
    span: float

    @property
    def flatness(self) -> float:
        """Fernández' M, ln(λ1/λ3): how much farther the places reach along the plane than out of it."""
        return _log_ratio(self.eigenvalues[0], self.eigenvalues[2])

    @property
    def straightness(self) -> float:
        """Woodcock's K, ln(λ1/λ2)/ln(λ2/λ3): above 1 they lie along a line more than over a plane."""
        first, second, third = self.eigenvalues
        return _log_ratio(first, second) / max(_log_ratio(second, third), 1e-9)

    @property
    def doubts(self) -> tuple[str, ...]:
        """What a compiler should know before trusting it."""
        out = []
        if self.straightness > BROAD_ENOUGH:
            out.append("The places lie nearly in one line.")
        if self.flatness < FLAT_ENOUGH:
            out.append("The places lie off the plane by much of their reach: the surface is curved, or they are few.")
        if self.bound > WIDE:
            out.append(f"The true plane may differ by {self.bound:.0f}°.")
        return tuple(out)


def best_plane(xyz: Floats, plan_error: float, height_error: float) -> BestPlane:
    """The best plane through places in the order in which they lie along a contact.

    Places are weighed by their errors: distances on the map count in units of the error there, heights in units of
    theirs, and the plane is the one of the least distances then. Neighbours along a line err alike; so the error of
    the plane is reckoned with as many places as are independent of each other by the course of what is left over.

    Parameters
    ----------
    xyz
        (n, 3) easting, northing and height in metres; NaN where no height is known.
    plan_error, height_error
        Standard errors of a place on the map and of its height, in metres.

    Raises
    ------
    StructureRefused
        Fewer than three places with heights, or they lie along a line, or along no plane.
    """
    known = xyz[np.isfinite(xyz).all(axis=1)]
    if len(known) < len(xyz) and len(known) < FEWEST_PLACES:
        raise StructureRefused("The project's heights do not reach these places; choose others, or add a grid.")
    known = known[np.concatenate([[True], np.any(np.diff(known, axis=0) != 0, axis=1)])] if len(known) else known
    if len(known) < FEWEST_PLACES:
        raise StructureRefused("A plane needs at least three places; pick another one.")
    mean = known.mean(axis=0)
    errors = np.array([plan_error, plan_error, height_error])
    scaled = (known - mean) / errors
    values, vectors = np.linalg.eigh(scaled.T @ scaled / len(known))
    normal = vectors[:, 0] / errors
    normal /= np.linalg.norm(normal)
    if normal[2] < 0 or (normal[2] == 0 and normal[0] < 0):
        normal = -normal
    plane = Plane(tuple(mean.tolist()), tuple(normal.tolist()))
    spread = np.linalg.eigvalsh(np.cov(known.T, bias=True))[::-1]
    first, second, third = (max(float(v), 0.0) for v in spread)
    if second <= max(1e-9 * first, (plan_error + height_error) ** 2 * 1e-6):
        raise StructureRefused("These places lie in one line; through a line go many planes. Pick one beside it.")
    away = plane.distance_to(known)
    residual = float(np.sqrt(np.mean(away**2)))
    # Near one line, places leave any plane by much of their spread beside it: that is an error, and no curve.
    if len(known) > 3 and residual > CURVED * math.sqrt(second) and math.sqrt(max(values[0], 0.0)) > ERRORS:
        raise StructureRefused("No plane lies along these places: the surface is too curved, or they are on several.")
    bound = _bound(scaled, values, vectors, errors, normal)
    if bound > HOPELESS:
        raise StructureRefused(
            f"These places do not tell the plane: it may differ by {bound:.0f}°. Pick places farther apart, beside the "
            "line through the others, or at other heights."
        )
    return BestPlane(plane, bound, len(known), residual, (first, second, third), float(np.ptp(known[:, 2])))


def _bound(scaled: Floats, values: Floats, vectors: Floats, errors: Floats, normal: Floats) -> float:
    """The 95 % bound on the angle between the plane found and the true one, in degrees."""
    off = scaled @ vectors[:, 0]
    free = max(independent(off) - 3.0, 0.0)
    # What was known of the errors, and what the places say of them, by what either rests on; the plane has taken up
    # three of what is independent.
    variance = (PRIOR + float(np.mean(off**2)) * (free + 3.0)) / (PRIOR + free)
    effective = max(free, 3.0)
    worst = np.zeros(2)
    for i, k in enumerate((1, 2)):
        # Tilting about the other axis by the standard error of the slope along this one.
        tilt = math.sqrt(variance / (effective * max(float(values[k]), 1e-300)))
        tilted = (vectors[:, 0] + tilt * vectors[:, k]) / errors
        tilted /= np.linalg.norm(tilted)
        worst[i] = math.acos(min(abs(float(tilted @ normal)), 1.0))
    return math.degrees(_student(PRIOR + free) * float(np.hypot(*worst))) + 1e-6


def independent(off: Floats) -> float:
    """As many of a course of values as tell apart: its length by the time over which it stays alike.

    The sum of the autocorrelation until it first falls below zero (Sokal, A. D., 1997, Monte Carlo methods in
    statistical mechanics, from memory).
    """
    off = off - off.mean()
    power = float(off @ off)
    if power <= 1e-20 * len(off) or len(off) < 4:
        return float(len(off))
    wide = 1 << (2 * len(off) - 1).bit_length()
    spectrum = np.abs(np.fft.rfft(off, wide)) ** 2
    course = np.fft.irfft(spectrum, wide)[: len(off)] / power
    below = np.flatnonzero(course < 0)
    until = int(below[0]) if len(below) else len(course)
    alike = 1 + 2 * float(course[1:until].sum())
    return max(len(off) / alike, 1.0)


def _student(freedom: float) -> float:
    """The 97.5th percentile of Student's distribution, by its expansion about the normal one.

    Abramowitz and Stegun (1964), 26.7.5; within 1 % from 3 degrees of freedom on.
    """
    z = 1.959964
    terms = (
        (z**3 + z) / 4,
        (5 * z**5 + 16 * z**3 + 3 * z) / 96,
        (3 * z**7 + 19 * z**5 + 17 * z**3 - 15 * z) / 384,
        (79 * z**9 + 776 * z**7 + 1482 * z**5 - 1920 * z**3 - 945 * z) / 92160,
    )
    return z + sum(term / freedom ** (i + 1) for i, term in enumerate(terms))


def _log_ratio(one: float, other: float) -> float:
    return math.log(max(one, 1e-300) / max(other, 1e-300))

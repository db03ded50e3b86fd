"""Statistics of axes: mean, spread, Fisher's cone, the best girdle and its axis.

Poles and lines are axes: each has two ends, and which of them falls on the lower hemisphere says nothing. Near the rim
half of a steep bed's poles fall on the one side and half on the other; a plain sum of them is nothing.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from orvik.core.arrays import Floats
from orvik.core.structure.net import downwards, strike_and_dip, trend_and_plunge
from orvik.core.structure.readings import NetReadings

# Fewer than these have no mean that is worth a cone (common practice).
FEWEST = 5
# Woodcock's C = ln(λ1/λ3): below this axes are too scattered for a cone, which is that of a cluster (from memory).
SCATTERED = 1.0
# Bingham (1974): of axes without a preferred direction 15 n/2 times the sum of (λ - 1/3)² is above this in 5 of 100
# cases, the 95th percentile of chi squared with 5 degrees of freedom (from memory).
UNIFORM = 11.07


@dataclass(frozen=True)
class AxialStatistics:
    """What axes say together.

    Attributes
    ----------
    count
        Of the axes.
    eigenvalues
        Of their orientation tensor, which add up to 1, the greatest first.
    eigenvectors
        (3, 3) the directions that belong to them, in rows, pointing down.
    fisher_k, cone
        Fisher's concentration, and the half angle in degrees of the cone in which the mean lies in 95 of 100 cases;
        None where there is a reason against it.
    reason
        Why there is no cone.
    """

    count: int
    eigenvalues: tuple[float, float, float]
    eigenvectors: Floats
    fisher_k: float | None
    cone: float | None
    reason: str

    @property
    def mean(self) -> tuple[float, float]:
        """Trend and plunge of the mean axis, in degrees."""
        return trend_and_plunge(self.eigenvectors[0])

    @property
    def mean_plane(self) -> tuple[float, float]:
        """Strike and dip of the plane whose pole is the mean axis."""
        return strike_and_dip(self.eigenvectors[0])

    @property
    def girdle(self) -> tuple[float, float]:
        """Strike and dip of the plane along which the axes lie best."""
        return strike_and_dip(self.eigenvectors[2])

    @property
    def girdle_axis(self) -> tuple[float, float]:
        """Trend and plunge of the pole of the best girdle: of poles to beds, the axis of the fold."""
        return trend_and_plunge(self.eigenvectors[2])

    @property
    def shape(self) -> float:
        """Woodcock's K = ln(λ1/λ2) / ln(λ2/λ3): below 1 a girdle, above 1 a cluster."""
        first, second, third = self.eigenvalues
        return _log_ratio(first, second) / max(_log_ratio(second, third), 1e-9)

    @property
    def strength(self) -> float:
        """Woodcock's C = ln(λ1/λ3): how strongly they are preferred."""
        return _log_ratio(self.eigenvalues[0], self.eigenvalues[2])


def statistics_of(readings: NetReadings) -> AxialStatistics | None:
    """Statistics of readings; None where none has a place on the net, and of planes and lines together."""
    return None if readings.mixed else axial_statistics(readings.axes[readings.on_net])


def axial_statistics(directions: Floats) -> AxialStatistics | None:
    """Statistics of axes (n, 3); None where there are none.

    Each axis is turned to the side of the first eigenvector before anything is added up (Scheidegger, 1965, and
    Watson, 1966, from memory); k and the cone after Fisher, R. A. (1953), Dispersion on a sphere, Proceedings of the
    Royal Society A 217.
    """
    count = len(directions)
    if not count:
        return None
    values, vectors = np.linalg.eigh(directions.T @ directions / count)
    first, second, third = (max(float(v), 0.0) for v in values[::-1])
    axes = downwards(vectors.T[::-1])
    turned = directions * np.where(directions @ axes[0] < 0, -1.0, 1.0)[:, None]
    length = float(np.linalg.norm(turned.sum(axis=0)))
    found = AxialStatistics(count, (first, second, third), axes, None, None, "")
    if count < FEWEST:
        return _without(found, f"Fewer than {FEWEST} readings have no mean that is worth a cone.")
    if 7.5 * count * sum((value - 1 / 3) ** 2 for value in found.eigenvalues) < UNIFORM:
        return _without(found, "The readings have no preferred direction.")
    if found.strength < SCATTERED:
        return _without(found, "The readings are too scattered for one.")
    if found.shape < 1:
        return _without(found, "The readings lie along a girdle; its axis says more than a mean.")
    k = (count - 1) / max(count - length, 1e-12)
    inner = (count - length) / length * (20.0 ** (1 / (count - 1)) - 1)
    cone = math.degrees(math.acos(max(-1.0, min(1.0, 1 - inner))))
    return AxialStatistics(count, found.eigenvalues, axes, k, cone, "")


def _without(found: AxialStatistics, reason: str) -> AxialStatistics:
    return AxialStatistics(found.count, found.eigenvalues, found.eigenvectors, None, None, reason)


def _log_ratio(one: float, other: float) -> float:
    return math.log(max(one, 1e-12) / max(other, 1e-12))

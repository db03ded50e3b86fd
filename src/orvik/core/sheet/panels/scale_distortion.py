"""Truth of scale: what the scale of a panel really is over the ground that it shows."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import pyproj
import shapely

from orvik.core.arrays import Floats
from orvik.core.errors import SheetRefused
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.distortion import tissot
from orvik.core.ground.scale import figures, spaced
from orvik.core.ink.affine import apply
from orvik.core.sheet.panels.panel import Panel

# Places across and down a panel at which its scale is reckoned.
GRID = 13
# A nominal scale that is off by more than this over a panel is warned of: a millimetre in half a metre.
TOLERANCE = 0.002
# The length over which a scale factor in one direction is taken.
STEP_METRES = 200.0
# No map that is meant to be measured on stretches its ground so many times.
FARTHEST = 5.0


@dataclass(frozen=True)
class Truth:
    """The scale factors of a panel over the shown ground; 1 is exactly its nominal scale.

    Attributes
    ----------
    factors
        (rows, columns) from the upper left, the mean of both axes of the indicatrix; NaN off the shown ground.
    least, greatest
        Over all places and directions.
    middle
        At the middle of the panel.
    squeezed
        By how much lengths in two directions at one place differ at most, as a share: none in a conformal system.
    """

    factors: Floats
    least: float
    greatest: float
    middle: float
    squeezed: float = 0.0

    @property
    def off(self) -> float:
        """By how much lengths are off at worst, as a share."""
        return max(abs(self.least - 1), abs(self.greatest - 1))

    def warning(self, scale: float) -> str:
        """A sentence where the nominal scale is off by more than the tolerance; else empty."""
        if self.off <= TOLERANCE:
            return ""
        low, high = sorted((scale / self.least, scale / self.greatest))
        advice = (
            "Lengths depend on their direction; choose a conformal system."
            if self.squeezed > TOLERANCE
            else "Choose a system made for this ground, or have the bar drawn true for a place."
        )
        return (
            f"The true scale is 1:{spaced(low)} to 1:{spaced(high)}: lengths on this panel are off by up to "
            f"{figures(self.off * 100, 2)} %. {advice}"
        )

    @property
    def exact(self) -> bool:
        """Whether the scale is exact somewhere on the panel."""
        return self.least <= 1 <= self.greatest


def truth_of(panel: Panel) -> Truth:
    """The scale factors over a panel.

    Raises
    ------
    SheetRefused
        Its system cannot show the ground there.
    """
    part = panel.part
    xs = np.linspace(part.x, part.x + part.width, GRID)
    ys = np.linspace(part.y, part.y + part.height, GRID)
    page = np.column_stack([grid.ravel() for grid in np.meshgrid(xs, ys)])
    ground = apply(panel.to_ground, np.vstack([page, [part.middle]]))
    longitude, latitude = panel.crs.to_geographic(ground[:, 0], ground[:, 1])
    with np.errstate(all="ignore"):
        found = tissot(panel.crs, longitude, latitude)
        back = np.column_stack(panel.crs.from_geographic(longitude, latitude))
        away = np.hypot(*(back - ground).T) * panel.crs.metres_per_unit
    sound = np.isfinite(found.largest) & np.isfinite(found.smallest) & (away < 1.0)
    inside = np.append(shapely.intersects_xy(panel.page_area, page[:, 0], page[:, 1]), True)
    if not (sound[inside]).all():
        raise SheetRefused(NOWHERE.format(panel.crs.label))
    mean = (found.largest + found.smallest) / 2
    factors = np.where(inside[:-1], mean[:-1], np.nan).reshape(GRID, GRID)
    squeezed = float((found.largest[inside] / found.smallest[inside]).max() - 1)
    least, greatest = float(found.smallest[inside].min()), float(found.largest[inside].max())
    return Truth(factors, least, greatest, float(mean[-1]), squeezed)


def factor_along(crs: ProjectCrs, place: tuple[float, float], way: tuple[float, float]) -> float:
    """The scale factor at a place of a system in one direction, in which a scale bar lies.

    Where a projection is not conformal, lengths are off by another share in each direction: what a bar is to measure
    lies along it. The length on the ground is that of the geodesic on the ellipsoid (PROJ).

    Parameters
    ----------
    way
        The direction, in coordinates of the system.

    Raises
    ------
    SheetRefused
        The place is none that the system can show.
    """
    half = np.array(way) / max(float(np.hypot(*way)), 1e-300) * (STEP_METRES / 2 / crs.metres_per_unit)
    ends = np.array([place - half, place + half])
    longitude, latitude = crs.to_geographic(ends[:, 0], ends[:, 1])
    semi_major, flattening = crs.ellipsoid
    _, _, there = pyproj.Geod(a=semi_major, f=flattening).inv(longitude[0], latitude[0], longitude[1], latitude[1])
    factor = STEP_METRES / there if there > 0 else np.inf
    if not 0 < factor < np.inf:
        raise SheetRefused(f"{place[0]:.0f}, {place[1]:.0f} is not a place that {crs.label} can show; give another.")
    return float(factor)


NOWHERE = (
    "{} cannot show all the ground of this panel: part of it lies beyond what the projection reaches, or on the other "
    "side of the 180th meridian. Choose a system made for this ground, or a larger scale."
)


def check_shown(panel: Panel) -> None:
    """Refuse a panel whose ground its system cannot show, or shows out of all shape.

    Raises
    ------
    SheetRefused
        Which of both, and what to do.
    """
    found = truth_of(panel)
    if found.greatest > FARTHEST or found.least < 1 / FARTHEST:
        raise SheetRefused(
            f"In {panel.crs.label} lengths on this panel would be off up to {max(found.greatest, 1 / found.least):.0f} "
            "times; choose a system made for its ground."
        )

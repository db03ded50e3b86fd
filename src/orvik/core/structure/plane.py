"""Planes below and above the ground: their attitude, their heights, and where they meet the relief.

All places are easting and northing on the project's grid, and up, in metres.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.features.attitude import Attitude
from orvik.core.structure.height_grid import HeightGrid

# Planes steeper than this, in degrees, have no height at a place: a hair beside it they are anywhere.
VERTICAL = 89.9
# Cells on a side of the blocks in which a trace is looked for.
BLOCK = 64


@dataclass(frozen=True)
class Plane:
    """A plane through a place.

    Attributes
    ----------
    at
        A place on it: easting, northing and up.
    normal
        The direction of length 1 that is at right angles to it and does not point down.
    """

    at: tuple[float, float, float]
    normal: tuple[float, float, float]

    @staticmethod
    def of_attitude(at: tuple[float, float, float], attitude: Attitude, convergence: float) -> Plane:
        """The plane of a strike and dip from true north through a place.

        Parameters
        ----------
        convergence
            Grid convergence there in degrees: a true azimuth is that on the grid and the convergence.
        """
        towards = math.radians(attitude.dip_direction - convergence)
        dip = math.radians(attitude.inclination or 0.0)
        return Plane(at, (math.sin(dip) * math.sin(towards), math.sin(dip) * math.cos(towards), math.cos(dip)))

    @property
    def dip(self) -> float:
        """In degrees below the horizontal, 0 to 90."""
        east, north, up = self.normal
        return math.degrees(math.atan2(math.hypot(east, north), up))

    @property
    def dip_direction(self) -> float:
        """The direction on the grid that it dips to, in degrees; 0 where it is level."""
        east, north, _ = self.normal
        return math.degrees(math.atan2(east, north)) % 360 if math.hypot(east, north) > 1e-12 else 0.0

    def attitude(self, convergence: float, digits: int = 1) -> Attitude:
        """Strike and dip from true north, rounded to so many digits."""
        strike = round(self.dip_direction - 90 + convergence, digits) % 360
        return Attitude(strike, round(self.dip, digits))

    def height_at(self, xy: Floats) -> Floats:
        """Its height at places (n, 2); NaN everywhere for a plane that stands upright."""
        east, north, up = self.normal
        if self.dip > VERTICAL:
            return np.full(len(xy), np.nan)
        return self.at[2] - ((xy[:, 0] - self.at[0]) * east + (xy[:, 1] - self.at[1]) * north) / up

    def distance_to(self, xyz: Floats) -> Floats:
        """How far places (n, 3) lie from it at right angles, above it positive."""
        return np.asarray((xyz - np.array(self.at)) @ np.array(self.normal))

    def apparent_dip(self, direction: float, exaggeration: float = 1.0) -> float:
        """The dip that shows in an upright section, in degrees; positive where it goes down in that direction.

        tan a = V tan d sin b: V the vertical exaggeration, d the true dip, b the angle between the strike and the
        section (common practice, as in every handbook of structural geology).

        Parameters
        ----------
        direction
            Of the section on the grid, in degrees.
        """
        east, north, up = self.normal
        way = math.radians(direction)
        # The normal in the section: sin d sin b across, cos d up.
        across = east * math.sin(way) + north * math.cos(way)
        return math.degrees(math.atan2(exaggeration * across, up)) if abs(across) > 1e-9 else 0.0

    def trace(self, ground: HeightGrid) -> list[Floats]:
        """The lines (n, 2) in which it meets the ground: where the ground's distance from it is zero."""
        if min(ground.heights.shape) < 2:
            return []
        x, y = ground.east_of_middles, ground.north_of_middles
        east, north, up = self.normal
        level = (x[None, :] - self.at[0]) * east + (y[:, None] - self.at[1]) * north
        return zero_lines(x, y, level + (ground.heights - self.at[2]) * up)


def zero_lines(x: Floats, y: Floats, values: Floats) -> list[Floats]:
    """The lines (n, 2) along which values over a grid are zero; none where they are not known.

    Most of a grid lies wholly on one side, and is not looked at cell by cell.
    """
    import contourpy

    positive = values > 0
    crossed = positive[:-1, :-1].astype(np.int8)
    crossed += positive[1:, :-1]
    crossed += positive[:-1, 1:]
    crossed += positive[1:, 1:]
    mixed = (crossed > 0) & (crossed < 4)
    rows, columns = mixed.shape
    tops, lefts = np.arange(0, rows, BLOCK), np.arange(0, columns, BLOCK)
    busy = np.logical_or.reduceat(np.logical_or.reduceat(mixed, tops, axis=0), lefts, axis=1)
    pieces: list[Floats] = []
    for i, top in enumerate(tops.tolist()):
        below = min(top + BLOCK, rows) + 1
        # Blocks side by side in one go.
        ends = np.flatnonzero(np.diff(np.concatenate([[False], busy[i], [False]]).astype(np.int8)))
        for first, last in ends.reshape(-1, 2).tolist():
            left, right = int(lefts[first]), min(last * BLOCK, columns) + 1
            part = np.ma.masked_invalid(values[top:below, left:right])
            generator = contourpy.contour_generator(
                x[left:right], y[top:below], part, line_type=contourpy.LineType.Separate
            )
            pieces += [np.asarray(line) for line in generator.lines(0.0) if len(line) > 1]
    if not pieces:
        return []
    joined = shapely.get_parts(shapely.line_merge(shapely.multilinestrings([shapely.LineString(p) for p in pieces])))
    return [shapely.get_coordinates(line) for line in joined]

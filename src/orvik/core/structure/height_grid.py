"""Heights of the ground as a grid: asked at places, along lines, and for slopes. Where none is known it says so."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Floats, Heights


@dataclass(frozen=True, eq=False)
class HeightGrid:
    """Heights over a window, in a frame of metres: easting and northing on the project's grid, and up.

    Attributes
    ----------
    heights
        (rows, columns) from the north-west, in metres; each stands for the middle of its cell, NaN where none is known.
    west, north
        The north-west corner of the grid, in metres.
    cell
        Width and height of a cell, in metres.
    """

    heights: Heights
    west: float
    north: float
    cell: tuple[float, float]

    @property
    def east_of_middles(self) -> Floats:
        """Eastings of the middles of columns."""
        return np.asarray(self.west + (np.arange(self.heights.shape[1]) + 0.5) * self.cell[0])

    @property
    def north_of_middles(self) -> Floats:
        """Northings of the middles of rows, from the north."""
        return np.asarray(self.north - (np.arange(self.heights.shape[0]) + 0.5) * self.cell[1])

    def at(self, xy: Floats) -> Floats:
        """Heights of places (n, 2), bilinear between the four middles around each; NaN where one of them has none."""
        column, row = self._in_cells(xy)
        rows, columns = self.heights.shape
        beyond = ~((column >= 0) & (column <= columns - 1) & (row >= 0) & (row <= rows - 1))
        column, row = np.where(beyond, 0.0, column), np.where(beyond, 0.0, row)
        left = np.clip(np.floor(column), 0, max(columns - 2, 0)).astype(int)
        top = np.clip(np.floor(row), 0, max(rows - 2, 0)).astype(int)
        right, below = np.minimum(left + 1, columns - 1), np.minimum(top + 1, rows - 1)
        across, down = column - left, row - top
        out: Floats = np.zeros(len(xy))
        for r, c, weight in (
            (top, left, (1 - down) * (1 - across)),
            (top, right, (1 - down) * across),
            (below, left, down * (1 - across)),
            (below, right, down * across),
        ):
            # A neighbour that does not count may be unknown.
            out += np.where(weight == 0, 0.0, self.heights[r, c] * weight)
        out[beyond] = np.nan
        return out

    def slope_at(self, xy: Floats) -> tuple[Floats, Floats]:
        """How steeply the ground falls at places, in degrees, and the direction on the grid that it falls to.

        Central differences over a cell. The direction is NaN on level ground; both are where heights are missing.
        """
        dx, dy = self.cell
        east = (self.at(xy + [dx, 0]) - self.at(xy - [dx, 0])) / (2 * dx)
        north = (self.at(xy + [0, dy]) - self.at(xy - [0, dy])) / (2 * dy)
        steep = np.hypot(east, north)
        towards = np.degrees(np.arctan2(-east, -north)) % 360
        return np.degrees(np.arctan(steep)), np.where(steep > 0, towards, np.nan)

    def draped(self, line: shapely.LineString, step: float | None = None) -> Floats:
        """Places along a line with their heights (n, 3): its vertices, and between them one for each step.

        Parameters
        ----------
        step
            In metres; the smaller side of a cell without it.
        """
        dense = shapely.segmentize(line, step or min(self.cell))
        xy = shapely.get_coordinates(dense)
        return np.column_stack([xy, self.at(xy)]).astype(float)

    def _in_cells(self, xy: Floats) -> tuple[Floats, Floats]:
        """Places in columns and rows, whole numbers at middles; a hair beyond the outermost middles is on them."""
        column = (xy[:, 0] - self.west) / self.cell[0] - 0.5
        row = (self.north - xy[:, 1]) / self.cell[1] - 0.5
        return _held(column, self.heights.shape[1]), _held(row, self.heights.shape[0])


def _held(number: Floats, count: int) -> Floats:
    last = count - 1
    number = np.where((number < 0) & (number > -1e-6), 0.0, number)
    return np.where((number > last) & (number < last + 1e-6), float(last), number)

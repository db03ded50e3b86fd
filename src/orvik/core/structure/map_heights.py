"""The heights that a whole map stands on, as its checks ask them."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass, field

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.ground.crs import ProjectCrs
from orvik.core.structure.height_grid import HeightGrid


@dataclass(frozen=True, eq=False)
class MapHeights:
    """Heights over a map, with the standard error that is stated of them, and the system that its places are in."""

    grid: HeightGrid
    error: float
    crs: ProjectCrs
    # By how much planes must be turned for lines, by what was asked: these heights are asked the same after every edit.
    turns: dict[Hashable, float | None] = field(default_factory=dict, repr=False)

    def draped(self, line: shapely.LineString) -> Floats:
        """Places along a line of the map (n, 3): easting, northing and up, in metres, one for each cell or closer."""
        metres = self.crs.metres_per_unit
        return self.grid.draped(shapely.LineString(shapely.get_coordinates(line) * metres))

    def falls(self, xy: Floats, towards: Floats) -> Floats:
        """How far the ground falls in a metre at places (n, 2) of the map; NaN where no heights are known.

        Parameters
        ----------
        towards
            Directions on the grid in degrees (n,).
        """
        slope, downhill = self.grid.slope_at(xy * self.crs.metres_per_unit)
        return np.where(slope == 0, 0.0, np.tan(np.radians(slope)) * np.cos(np.radians(downhill - towards)))

"""What ground a picture is asked for: a system, and where its pixels lie in it."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from orvik.core.arrays import Floats
from orvik.core.coordinates import GroundBox
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ink.affine import Affine, apply


@dataclass(frozen=True)
class GroundView:
    """A grid of pixels over the ground, upright or turned.

    Attributes
    ----------
    crs
        The system that its ground is in.
    place
        From pixels, counted from the upper left corner, to the ground.
    width, height
        In pixels.
    """

    crs: ProjectCrs
    place: Affine
    width: int
    height: int

    @staticmethod
    def of_window(crs: ProjectCrs, window: GroundBox, width: int, height: int) -> GroundView:
        """An upright view of a window: west, south, east and north."""
        west, south, east, north = window
        return GroundView(crs, ((east - west) / width, 0.0, west, 0.0, (south - north) / height, north), width, height)

    @property
    def cell(self) -> tuple[float, float]:
        """Width and height of a pixel in units of the system."""
        a, b, _, d, e, _ = self.place
        return float(np.hypot(a, d)), float(np.hypot(b, e))

    @property
    def window(self) -> GroundBox:
        """West, south, east and north of what it holds."""
        corners = self.ground(np.array([(0, 0), (self.width, 0), (self.width, self.height), (0, self.height)], float))
        (west, south), (east, north) = corners.min(axis=0), corners.max(axis=0)
        return float(west), float(south), float(east), float(north)

    @property
    def unit_place(self) -> Affine:
        """From the unit square, y downwards, to the ground: where the finished picture lies."""
        a, b, c, d, e, f = self.place
        return (a * self.width, b * self.height, c, d * self.width, e * self.height, f)

    def ground(self, pixels: Floats) -> Floats:
        """Places on the ground of pixels (n, 2), counted from the corner."""
        return apply(self.place, pixels)

    def grown(self, margin: int) -> GroundView:
        """The same with more pixels on every side."""
        a, b, c, d, e, f = self.place
        place = (a, b, c - margin * (a + b), d, e, f - margin * (d + e))
        return replace(self, place=place, width=self.width + 2 * margin, height=self.height + 2 * margin)

    def tiles(self, largest: int) -> list[GroundView]:
        """The view in pieces, none of more pixels a side than so many."""
        a, b, c, d, e, f = self.place
        out = []
        for top in range(0, self.height, largest):
            for left in range(0, self.width, largest):
                place = (a, b, c + a * left + b * top, d, e, f + d * left + e * top)
                size = min(largest, self.width - left), min(largest, self.height - top)
                out.append(replace(self, place=place, width=size[0], height=size[1]))
        return out

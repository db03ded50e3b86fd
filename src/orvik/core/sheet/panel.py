"""A panel: the part that shows the map, at an exact scale."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.features.feature import Features
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ink import Affine, apply
from orvik.core.paths import Paths
from orvik.core.sheet.page import Part

NEATLINE = 0.35


@dataclass(frozen=True)
class Panel:
    """What ground a panel shows and how it comes to the page.

    Attributes
    ----------
    part
        Its frame on the page.
    scale
        Denominator of its scale.
    centre
        Project coordinates of the middle of the frame.
    border
        The ground it is cut to, in project coordinates; None shows all within the frame.
    """

    part: Part
    scale: int
    centre: tuple[float, float]
    crs: ProjectCrs
    border: shapely.Polygon | None = None

    @staticmethod
    def of(part: Part, crs: ProjectCrs, border: shapely.LineString | None) -> Panel:
        """The panel that a part's settings describe."""
        settings = part.panel
        cut = shapely.Polygon(border) if border is not None and settings.cut else None
        return Panel(part, settings.scale, settings.centre, crs, cut)

    @property
    def mm_per_unit(self) -> float:
        """Millimetres on the page of one project unit."""
        return self.crs.metres_per_unit * 1000.0 / self.scale

    @property
    def to_page(self) -> Affine:
        """From project coordinates to millimetres on the page."""
        k = self.mm_per_unit
        x = self.part.x + self.part.width / 2
        y = self.part.y + self.part.height / 2
        return (k, 0.0, x - k * self.centre[0], 0.0, -k, y + k * self.centre[1])

    @property
    def window(self) -> tuple[float, float, float, float]:
        """West, south, east and north of the frame, in project coordinates."""
        half_x = self.part.width / 2 / self.mm_per_unit
        half_y = self.part.height / 2 / self.mm_per_unit
        x, y = self.centre
        return (x - half_x, y - half_y, x + half_x, y + half_y)

    @property
    def ground(self) -> shapely.Polygon:
        """The ground that is shown: the frame, cut to the border where they share any."""
        frame = shapely.box(*self.window)
        if self.border is None:
            return frame
        shared = shapely.intersection(frame, self.border)
        return shared if isinstance(shared, shapely.Polygon) and shared.area > 0 else frame

    @property
    def neatline(self) -> Paths:
        """The line around the shown ground, in millimetres on the page."""
        ring = shapely.get_coordinates(self.ground.exterior)
        return Paths(apply(self.to_page, ring), np.array([0, len(ring)]))

    def shows(self, features: Features) -> Features:
        """Those features of which some part lies on the shown ground."""
        ground = self.ground
        shapely.prepare(ground)
        return features.select(shapely.intersects(ground, features.geometries))


def aimed(border: shapely.LineString, scale: int, crs: ProjectCrs) -> tuple[tuple[float, float], float, float]:
    """Centre, and width and height in millimetres, of a frame that shows exactly a border at a scale."""
    west, south, east, north = border.bounds
    k = crs.metres_per_unit * 1000.0 / scale
    return ((west + east) / 2, (south + north) / 2), (east - west) * k, (north - south) * k

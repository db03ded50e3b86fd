"""A panel: ground that is shown on a page, at an exact scale, in a system and a turn of its own."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.features.feature import Features
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ink.affine import Affine, apply, inverse
from orvik.core.ink.paths import Paths
from orvik.core.sheet.page.part import Part

# What a neatline follows, by what is kept and what is shown.
NEATLINES = {"border": "the project border", "rectangle": "its frame", "circle": "a circle in its frame"}
# Pieces that a circle is drawn with: half a metre across, none leaves it by more than 0.005 mm.
CIRCLE_PIECES = 720


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
        The middle of its frame, in coordinates of its own system.
    crs
        The system that it is drawn in.
    rotation
        By how much the ground is turned on the page, in degrees clockwise.
    symbol_scale
        How much larger its symbols and labels are than the symbol book says.
    shape
        What its neatline follows: a name of ``NEATLINES``.
    border
        The project border as an area, in the panel's system; None where the project has none.
    layers, underlays
        How strongly they are printed, by name and by number.
    emphasis
        What it is printed in; empty for as it is.
    """

    part: Part
    scale: float
    centre: tuple[float, float]
    crs: ProjectCrs
    rotation: float = 0.0
    symbol_scale: float = 1.0
    shape: str = "border"
    border: shapely.Polygon | None = None
    layers: Mapping[str, float] = field(default_factory=dict)
    underlays: Mapping[str, float] = field(default_factory=dict)
    emphasis: str = ""

    @property
    def mm_per_unit(self) -> float:
        """Millimetres on the page of one unit of its system."""
        return self.crs.metres_per_unit * 1000.0 / self.scale

    @cached_property
    def to_page(self) -> Affine:
        """From coordinates of its system to millimetres on the page."""
        k, angle = self.mm_per_unit, np.radians(self.rotation)
        cos, sin = float(k * np.cos(angle)), float(k * np.sin(angle))
        (x, y), (east, north) = self.part.middle, self.centre
        return (cos, sin, x - cos * east - sin * north, sin, -cos, y - sin * east + cos * north)

    @cached_property
    def to_ground(self) -> Affine:
        """From millimetres on the page to coordinates of its system."""
        return inverse(self.to_page)

    @property
    def natural(self) -> Panel:
        """The panel at which symbols have the size that the book gives them.

        Drawn larger by ``symbol_scale`` about the page's corner it is this one: what the scale decides, such as which
        labels fit, is decided at its scale times its symbol scale.
        """
        part, k = self.part, self.symbol_scale
        if k == 1:
            return self
        smaller = replace(part, x=part.x / k, y=part.y / k, width=part.width / k, height=part.height / k)
        return replace(self, part=smaller, scale=self.scale * k, symbol_scale=1.0)

    @cached_property
    def frame(self) -> shapely.Polygon:
        """Its frame on the page, in millimetres."""
        part = self.part
        return shapely.box(part.x, part.y, part.x + part.width, part.y + part.height)

    @cached_property
    def page_area(self) -> shapely.Polygon:
        """What of the page shows ground, in millimetres: the frame, or what its neatline leaves of that."""
        if self.shape == "circle":
            turn = np.linspace(0, 2 * np.pi, CIRCLE_PIECES, endpoint=False)
            radius = min(self.part.width, self.part.height) / 2
            return shapely.Polygon(np.column_stack([np.cos(turn), np.sin(turn)]) * radius + self.part.middle)
        if self.shape == "border" and self.border is not None:
            border = shapely.transform(self.border, lambda xy: apply(self.to_page, xy))
            shared = shapely.intersection(self.frame, border)
            if isinstance(shared, shapely.Polygon) and shared.area > 0:
                return shared
        return self.frame

    @cached_property
    def ground(self) -> shapely.Polygon:
        """The ground that is shown, in its own system."""
        area: shapely.Polygon = shapely.transform(self.page_area, lambda xy: apply(self.to_ground, xy))
        return area

    @property
    def neatline(self) -> Paths:
        """The line around the shown ground, in millimetres on the page."""
        ring = shapely.get_coordinates(self.page_area.exterior)
        return Paths(ring, np.array([0, len(ring)]))

    @property
    def corners(self) -> Floats:
        """The corners of its frame on the ground from the upper left one clockwise, (4, 2)."""
        part = self.part
        xs, ys = (part.x, part.x + part.width), (part.y, part.y + part.height)
        return apply(self.to_ground, np.array([(xs[0], ys[0]), (xs[1], ys[0]), (xs[1], ys[1]), (xs[0], ys[1])]))

    @property
    def window(self) -> tuple[float, float, float, float]:
        """West, south, east and north of the ground within its frame, in its own system."""
        (west, south), (east, north) = self.corners.min(axis=0), self.corners.max(axis=0)
        return (float(west), float(south), float(east), float(north))

    def shows(self, features: Features) -> Features:
        """Those features, in its own system, of which some part lies on the shown ground."""
        ground = self.ground
        shapely.prepare(ground)
        return features.select(shapely.intersects(ground, features.geometries))


def aimed(border: shapely.LineString, scale: float, crs: ProjectCrs) -> tuple[tuple[float, float], float, float]:
    """Centre, and width and height in millimetres, of a frame that shows exactly a border at a scale."""
    west, south, east, north = border.bounds
    k = crs.metres_per_unit * 1000.0 / scale
    return ((west + east) / 2, (south + north) / 2), (east - west) * k, (north - south) * k

"""How a projection bends the ground: Tissot's indicatrix on a grid over the sheet, and what it means in words."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from orvik.core.arrays import Floats
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.scale import spaced

# Half the length of the pieces of meridian and parallel that are compared, in degrees: about 11 m.
STEP = 1e-4
# Places along each side of the ground.
GRID = 21
# A sheet whose lengths are off by more than this is warned of: 1 in 500.
FAR_FROM_TRUE = 0.002

Geographic = tuple[float, float, float, float]


@dataclass(frozen=True)
class Tissot:
    """The indicatrix at places: all arrays have the shape of the places.

    Attributes
    ----------
    largest, smallest
        Scale factors along the axes of the ellipse (1 is true to scale).
    meridian, parallel
        Scale factors along the meridian (h) and the parallel (k).
    area
        Area factor.
    angle
        Largest change of an angle in degrees.
    """

    largest: Floats
    smallest: Floats
    meridian: Floats
    parallel: Floats
    area: Floats
    angle: Floats


@dataclass(frozen=True)
class Distortion:
    """What a system does over the whole ground of a sheet.

    ``corners`` are the grid convergences in degrees at the south-west, south-east, north-east and north-west.
    """

    largest: float
    smallest: float
    area_largest: float
    area_smallest: float
    angle: float
    corners: tuple[float, float, float, float]

    @property
    def worst(self) -> float:
        """The largest relative error of a length."""
        return max(abs(self.largest - 1), abs(self.smallest - 1))

    @property
    def far_from_true(self) -> bool:
        return self.worst > FAR_FROM_TRUE

    @property
    def true_to(self) -> str:
        """``1 in 2 500``: by how much a length on the sheet may be off."""
        if self.worst < 1e-6:
            return "better than 1 in 1 000 000"
        parts = 1 / self.worst
        digits = 2 - int(np.floor(np.log10(parts))) - 1
        return f"1 in {spaced(round(parts, min(0, digits)))}"

    @property
    def verdict(self) -> str:
        """The plain sentence for a list."""
        if self.far_from_true:
            return f"lengths off by up to 1 in {spaced(max(1, round(1 / self.worst)))}: made for other ground"
        return f"{'' if self.true_to[0] == 'b' else 'true to '}{self.true_to} over this sheet"


def tissot(crs: ProjectCrs, longitude: Floats, latitude: Floats) -> Tissot:
    """The indicatrix of a projection at places.

    The derivative of the projection is taken along a piece of the meridian and one of the parallel, whose
    lengths on the ellipsoid come from its radii of curvature; the singular values of that matrix are the
    axes of the ellipse (Snyder, Map Projections: A Working Manual, USGS Professional Paper 1395, chapter 4).

    Parameters
    ----------
    longitude, latitude
        In degrees, on the system's own datum, of one shape.
    """
    semi_major, flattening = crs.ellipsoid
    phi = np.radians(latitude)
    e2 = flattening * (2 - flattening)
    w = np.sqrt(1 - e2 * np.sin(phi) ** 2)
    prime_vertical = semi_major / w
    meridional = semi_major * (1 - e2) / w**3
    metres = crs.metres_per_unit
    x0, y0 = crs.from_geographic(longitude, latitude - STEP)
    x1, y1 = crs.from_geographic(longitude, latitude + STEP)
    north = 2 * np.radians(STEP) * meridional
    a, c = (x1 - x0) * metres / north, (y1 - y0) * metres / north
    x0, y0 = crs.from_geographic(longitude - STEP, latitude)
    x1, y1 = crs.from_geographic(longitude + STEP, latitude)
    east = 2 * np.radians(STEP) * prime_vertical * np.cos(phi)
    b, d = (x1 - x0) * metres / east, (y1 - y0) * metres / east
    # Columns of the derivative: (a, c) for a metre to the north, (b, d) for a metre to the east.
    area = np.abs(b * c - a * d)
    squares = a * a + b * b + c * c + d * d
    total = np.sqrt(squares + 2 * area)
    apart = np.sqrt(np.maximum(squares - 2 * area, 0))
    return Tissot(
        largest=(total + apart) / 2,
        smallest=(total - apart) / 2,
        meridian=np.hypot(a, c),
        parallel=np.hypot(b, d),
        area=area,
        angle=np.degrees(2 * np.arcsin(np.clip(apart / total, 0, 1))),
    )


def over(crs: ProjectCrs, ground: Geographic) -> Distortion | None:
    """The distortion over a ground, on a grid of places and at its corners.

    Parameters
    ----------
    ground
        West, south, east and north in degrees; east is not less than west.

    Returns
    -------
    None where the projection cannot show all of the ground.
    """
    longitude, latitude = places(ground)
    found = tissot(crs, longitude, latitude)
    if not all(np.isfinite(v).all() for v in (found.largest, found.smallest, found.area)):
        return None
    west, south, east, north = ground
    x, y = crs.from_geographic(np.array([west, east, east, west]), np.array([south, south, north, north]))
    turns = [float(v) for v in crs.convergence(x, y)]
    return Distortion(
        largest=float(found.largest.max()),
        smallest=float(found.smallest.min()),
        area_largest=float(found.area.max()),
        area_smallest=float(found.area.min()),
        angle=float(found.angle.max()),
        corners=(turns[0], turns[1], turns[2], turns[3]),
    )


def places(ground: Geographic, count: int = GRID) -> tuple[Floats, Floats]:
    """Longitudes and latitudes of a grid over a ground, from the south-west corner."""
    west, south, east, north = ground
    longitude, latitude = np.meshgrid(np.linspace(west, east, count), np.linspace(south, north, count))
    return longitude, latitude

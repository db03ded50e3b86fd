"""Thickness and depth from an attitude and the ground, each with the parts of its formula.

All lengths are in metres, all directions on the project's grid.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from orvik.core.structure.plane import VERTICAL, Plane

Place = tuple[float, float, float]


@dataclass(frozen=True)
class Thickness:
    """The true thickness between two contacts, from a line across them.

    t = |h sin d cos c - v cos d|: h the way on the map, v how far it falls, d the dip, and c the angle between the way
    and the direction of dip; the projection of the way on the normal of the beds (common practice).

    Attributes
    ----------
    metres
        True thickness, at right angles to the beds.
    across, fall
        The way on the map, and how far the ground falls on it (negative where it rises).
    dip
        True dip in degrees.
    turned
        The angle between the way and the direction of dip, 0 to 180 degrees.
    """

    metres: float
    across: float
    fall: float
    dip: float
    turned: float

    @property
    def words(self) -> str:
        """The formula's parts: ``|120 m · sin 30° · cos 0° − 0 m · cos 30°|``."""
        d, c = f"{self.dip:.0f}°", f"{self.turned:.0f}°"
        sign = "−" if self.fall >= 0 else "+"
        return f"|{self.across:.0f} m · sin {d} · cos {c} {sign} {abs(self.fall):.0f} m · cos {d}|"


def true_thickness(one: Place, other: Place, beds: Plane) -> Thickness:
    """The thickness of what lies between two places at its top and at its base, by the attitude of the beds."""
    dx, dy, dz = other[0] - one[0], other[1] - one[1], other[2] - one[2]
    across = math.hypot(dx, dy)
    way = math.degrees(math.atan2(dx, dy))
    turned = abs((way - beds.dip_direction + 180) % 360 - 180)
    east, north, up = beds.normal
    return Thickness(abs(dx * east + dy * north + dz * up), across, -dz, beds.dip, turned)


@dataclass(frozen=True)
class ApparentDip:
    """The dip of a plane that shows in an upright section; see ``Plane.apparent_dip``.

    Attributes
    ----------
    degrees
        Positive where it goes down in the direction of the section.
    dip
        True dip in degrees.
    between
        The angle between strike and section, 0 to 90 degrees.
    """

    degrees: float
    dip: float
    between: float

    @property
    def words(self) -> str:
        """The formula's parts: ``tan a = tan 30° · sin 90°``."""
        return f"tan a = tan {self.dip:.0f}° · sin {self.between:.0f}°"


def apparent_dip(plane: Plane, direction: float) -> ApparentDip:
    """The dip that shows in a section of a direction on the grid, in degrees."""
    between = abs((direction - (plane.dip_direction - 90) + 90) % 180 - 90)
    return ApparentDip(plane.apparent_dip(direction), plane.dip, between)


@dataclass(frozen=True)
class Depth:
    """How far below a place a plane lies; negative above it.

    z = h tan d cos c + v: h the way on the map from a place on the plane, d the dip, c the angle between the way and
    the direction of dip, v how much higher the ground is (common practice).
    """

    metres: float
    across: float
    rise: float
    dip: float
    turned: float

    @property
    def words(self) -> str:
        """The formula's parts: ``120 m · tan 30° · cos 0° + 12 m``."""
        sign = "+" if self.rise >= 0 else "−"
        return f"{self.across:.0f} m · tan {self.dip:.0f}° · cos {self.turned:.0f}° {sign} {abs(self.rise):.0f} m"


def depth_below(place: Place, plane: Plane) -> Depth | None:
    """The depth to a plane straight below a place; None for one that stands upright."""
    dx, dy, dz = (place[i] - plane.at[i] for i in range(3))
    if plane.dip > VERTICAL:
        return None
    across = math.hypot(dx, dy)
    turned = abs((math.degrees(math.atan2(dx, dy)) - plane.dip_direction + 180) % 360 - 180)
    east, north, up = plane.normal
    return Depth(dz + (dx * east + dy * north) / up, across, dz, plane.dip, turned)

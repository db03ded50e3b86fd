"""Crossings of grid lines and of the graticule: the places on a sheet whose coordinates are printed."""

from __future__ import annotations

import math
from dataclasses import dataclass

from orvik.core.ground.coordinates import format_angle
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.scale import spaced

# Grid lines stand at whole multiples of this, in project units; a kilometre on systems in metres.
GRID_STEP = 1000.0
# The graticule is taken at whole minutes.
MINUTES = 1.0


@dataclass(frozen=True)
class Crossing:
    """A crossing and what it is called."""

    x: float
    y: float
    label: str


def nearest_crossing(crs: ProjectCrs, x: float, y: float, radius: float) -> Crossing | None:
    """The nearest crossing of the kilometre grid or of whole minutes within a radius in project units."""
    gx, gy = round(x / GRID_STEP) * GRID_STEP, round(y / GRID_STEP) * GRID_STEP
    found = [Crossing(gx, gy, f"grid {spaced(gx)} E {spaced(gy)} N")]
    longitude, latitude = (float(v) for v in crs.to_geographic(x, y))
    if math.isfinite(longitude) and math.isfinite(latitude):
        longitude = round(longitude * 60 / MINUTES) * MINUTES / 60
        latitude = round(latitude * 60 / MINUTES) * MINUTES / 60
        px, py = (float(v) for v in crs.from_geographic(longitude, latitude))
        words = f"{format_angle(latitude, 'latitude', 0)} {format_angle(longitude, 'longitude', 0)}"
        found.append(Crossing(px, py, f"graticule {words}"))
    near = min(found, key=lambda c: math.hypot(c.x - x, c.y - y))
    return near if math.hypot(near.x - x, near.y - y) <= radius else None

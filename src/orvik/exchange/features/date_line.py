"""Geometries in degrees as files hold them: none leaves -180 to 180, and what crosses it is cut there."""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from orvik.core.arrays import Floats
from orvik.core.errors import FileRefused

# Between two vertices of anything that is drawn there is less than this; more is the neighbourhood of a pole.
WIDEST_STEP = 90.0


def cut_at_180(geometry: BaseGeometry, name: str) -> BaseGeometry:
    """A line or an area, in parts where it crosses longitude 180° (RFC 7946, 3.1.9); anything else as it is.

    Parameters
    ----------
    geometry
        Longitude and latitude in degrees.
    name
        What it is, for a refusal.

    Raises
    ------
    FileRefused
        It lies about a pole or runs over one: no line in longitude and latitude can show that.
    """
    whole: BaseGeometry
    if isinstance(geometry, shapely.LineString):
        whole = shapely.LineString(_unrolled(shapely.get_coordinates(geometry), name))
    elif isinstance(geometry, shapely.Polygon):
        shell = _unrolled(shapely.get_coordinates(geometry.exterior), name, closed=True)
        middle = (shell[:, 0].min() + shell[:, 0].max()) / 2
        holes = []
        for ring in geometry.interiors:
            hole = _unrolled(shapely.get_coordinates(ring), name, closed=True)
            hole[:, 0] += 360.0 * np.round((middle - hole[:, 0].mean()) / 360.0)
            holes.append(hole)
        whole = shapely.Polygon(shell, holes)
    else:
        return geometry
    west, _, east, _ = whole.bounds
    if west >= -180.0 and east <= 180.0:
        return whole
    parts: list[BaseGeometry] = []
    for turn in range(int(np.floor((west + 180) / 360)), int(np.ceil((east - 180) / 360)) + 1):
        window = shapely.box(-180 + 360 * turn, -90, 180 + 360 * turn, 90)
        shared = shapely.get_parts(shapely.intersection(whole, window))
        parts += [_moved(part, -360.0 * turn) for part in shared if part.geom_type == geometry.geom_type]
    if len(parts) == 1:
        return parts[0]
    gathered: Any = shapely.multipolygons if isinstance(geometry, shapely.Polygon) else shapely.multilinestrings
    out: BaseGeometry = gathered(parts)
    return out


def _unrolled(degrees: Floats, name: str, closed: bool = False) -> Floats:
    """Vertices whose longitudes follow one another without a leap."""
    longitude = np.unwrap(degrees[:, 0], period=360.0)
    over = len(longitude) > 1 and float(np.abs(np.diff(longitude)).max()) > WIDEST_STEP
    if over or (closed and abs(longitude[-1] - longitude[0]) > 180):
        raise FileRefused(
            f"The {name} lies about a pole or runs over it, which longitude and latitude cannot show; "
            "write a format that keeps the project's system, such as .gpkg."
        )
    return np.column_stack([longitude, degrees[:, 1]])


def _moved(geometry: BaseGeometry, by: float) -> BaseGeometry:
    moved: BaseGeometry = shapely.transform(geometry, lambda xy: xy + np.array([by, 0.0]))
    return moved

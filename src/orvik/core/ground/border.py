"""The sheet border: from four corner values to a closed line in the project's system."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.errors import CoordinateRefused
from orvik.core.ground.coordinates import format_angle, parse_angle, parse_number
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.scale import spaced

# Parallels and meridians are curves on the grid. 64 pieces a side keep the chord within 0.01 mm on the
# sheet for a side of half a metre in every projection that is drawn here.
PIECES = 64
# How many diagonals of the border away something may lie and still belong to the project.
FARTHEST_DIAGONALS = 10.0
# How far off its box a grid rectangle may be, and a quadrangle between its vertices, as shares of the diagonal.
ROUNDING, SAG = 1e-9, 2e-6
# A border stands so much of its larger side outside what it is made around.
MARGIN = 0.02
METRES_PER_DEGREE = 111_320.0
# Steps of sheet series.
SERIES_MINUTES = (7.5, 15.0, 30.0, 60.0)

Bounds = tuple[float, float, float, float]


def grid_border(crs: ProjectCrs, west: str, south: str, east: str, north: str) -> shapely.LineString:
    """A grid rectangle from typed eastings and northings in the project's unit.

    Raises
    ------
    CoordinateRefused
        A value cannot be read or right, or the corners are the wrong way round.
    """
    values = [parse_number(text) for text in (west, south, east, north)]
    return _rectangle(crs, *values)


def geographic_border(crs: ProjectCrs, west: str, south: str, east: str, north: str) -> shapely.LineString:
    """A quadrangle of meridians and parallels, curved as the projection curves them.

    Raises
    ------
    CoordinateRefused
        A value cannot be read or right, or the corners are the wrong way round.
    """
    w, e = parse_angle(west, "longitude"), parse_angle(east, "longitude")
    s, n = parse_angle(south, "latitude"), parse_angle(north, "latitude")
    if not s < n:
        raise CoordinateRefused("The north edge is not north of the south edge; swap the two latitudes.")
    if not 0 < (e - w) % 360 < 180:
        raise CoordinateRefused("The east edge is not east of the west edge; swap the two longitudes.")
    e = w + (e - w) % 360
    t = np.linspace(0, 1, PIECES + 1)[:-1]
    longitude = np.concatenate([w + (e - w) * t, np.full(PIECES, e), e - (e - w) * t, np.full(PIECES, w)])
    latitude = np.concatenate([np.full(PIECES, s), s + (n - s) * t, np.full(PIECES, n), n - (n - s) * t])
    x, y = crs.from_geographic(longitude, latitude)
    for corner in range(0, 4 * PIECES, PIECES):
        crs.check_place(float(x[corner]), float(y[corner]))
    ring = np.column_stack([x, y])
    return shapely.LineString(np.vstack([ring, ring[:1]]))


def series_corners(longitude: float, latitude: float, step: float) -> dict[str, str]:
    """Corner values, ready to be typed, of the sheet of a series that holds a place.

    Sheets of a series are quadrangles whose sides are whole multiples of the step (common practice).

    Parameters
    ----------
    longitude, latitude
        In degrees.
    step
        Minutes: 7.5, 15, 30 or 60.

    Raises
    ------
    CoordinateRefused
        Another step.
    """
    if step not in SERIES_MINUTES:
        raise CoordinateRefused("Sheets of a series are 7.5, 15, 30 or 60 minutes wide; choose one of these.")
    degrees = step / 60
    west, south = math.floor(longitude / degrees) * degrees, math.floor(latitude / degrees) * degrees
    return {
        "west": format_angle(west, "longitude", 0),
        "south": format_angle(south, "latitude", 0),
        "east": format_angle(west + degrees, "longitude", 0),
        "north": format_angle(south + degrees, "latitude", 0),
    }


def ground_of(crs: ProjectCrs, border: shapely.LineString) -> Bounds:
    """West, south, east and north in degrees of the ground within a border; east may pass 180."""
    xy = shapely.get_coordinates(shapely.segmentize(border, border.length / 100))
    longitude, latitude = crs.to_geographic(xy[:, 0], xy[:, 1])
    if longitude.max() - longitude.min() > 180:
        longitude = np.where(longitude < 0, longitude + 360, longitude)
    return float(longitude.min()), float(latitude.min()), float(longitude.max()), float(latitude.max())


def check_reach(what: str, bounds: Bounds, border: shapely.LineString | None) -> None:
    """Refuse what lies so far from the sheet that its coordinates or its system must be wrong.

    Parameters
    ----------
    what
        How it is called in the sentence.
    bounds
        West, south, east and north in project coordinates.
    border
        The sheet border; without one nothing can be said.

    Raises
    ------
    CoordinateRefused
        It is further from the border than ten times the border's diagonal.
    """
    if border is None:
        return
    frame = shapely.box(*border.bounds)
    diagonal = float(np.hypot(*np.subtract(border.bounds[2:], border.bounds[:2])))
    away = float(shapely.distance(frame, shapely.box(*bounds)))
    if away > FARTHEST_DIAGONALS * diagonal:
        raise CoordinateRefused(
            f"{what} lies {away / diagonal:.0f} times the sheet's diagonal away from the sheet border; "
            "check its coordinates and its coordinate system."
        )


@dataclass(frozen=True)
class TypedCorners:
    """Corner values as they would be typed to make a border again; ``geographic`` ones are degrees."""

    west: str
    south: str
    east: str
    north: str
    geographic: bool


def corners_of(line: shapely.LineString, crs: ProjectCrs) -> TypedCorners | None:
    """The corner values of a border that is a grid rectangle or a quadrangle of meridians and parallels, else None.

    What ends on a border has put its vertices there, which change nothing of its shape.
    """
    xy = shapely.get_coordinates(line)
    diagonal = float(np.hypot(*np.ptp(xy, axis=0)))
    if _fills_its_box(xy, diagonal * ROUNDING):
        west, south, east, north = (_grid_words(v) for v in line.bounds)
        return TypedCorners(west, south, east, north, geographic=False)
    longitude, latitude = crs.to_geographic(xy[:, 0], xy[:, 1])
    if np.ptp(longitude) > 180:
        longitude = np.where(longitude < 0, longitude + 360, longitude)
    degrees = np.column_stack([longitude, latitude])
    # Between vertices a border runs straight; what has snapped to it lies that little beside its meridian.
    off = diagonal * crs.metres_per_unit * SAG / METRES_PER_DEGREE
    if not np.isfinite(degrees).all() or not _fills_its_box(degrees, off):
        return None
    (w, s), (e, n) = (tuple(map(float, side)) for side in (degrees.min(axis=0), degrees.max(axis=0)))
    return TypedCorners(
        _angle_words(w, "longitude", off),
        _angle_words(s, "latitude", off),
        _angle_words((e + 180) % 360 - 180, "longitude", off),
        _angle_words(n, "latitude", off),
        geographic=True,
    )


def corners_around(west: float, south: float, east: float, north: float) -> Bounds:
    """Corners of a border around some ground, on round coordinates: a hundredth to a tenth of its larger side.

    >>> corners_around(512_345, 6_800_123, 516_345, 6_801_123)
    (512200.0, 6800000.0, 516500.0, 6801300.0)
    """
    side = max(east - west, north - south, 100.0)
    margin = MARGIN * side
    step = 10.0 ** math.floor(math.log10(side / 10))
    step = step if side / step <= 40 else 2.5 * step
    return (
        math.floor((west - margin) / step) * step,
        math.floor((south - margin) / step) * step,
        math.ceil((east + margin) / step) * step,
        math.ceil((north + margin) / step) * step,
    )


def typed_corners(corners: Bounds) -> TypedCorners:
    """Corners on the grid as they would be typed."""
    west, south, east, north = (f"{value:.10g}" for value in corners)
    return TypedCorners(west, south, east, north, geographic=False)


def _fills_its_box(xy: Floats, off: float) -> bool:
    """Whether a ring runs along its own bounding box, (n, 2), no farther from it than so much."""
    box = shapely.box(*xy.min(axis=0), *xy.max(axis=0))
    if (shapely.distance(box.exterior, shapely.points(xy)) > off).any() or len(xy) < 5:
        return False
    return bool(abs(shapely.Polygon(xy).area - box.area) <= box.length * off)


def _grid_words(value: float) -> str:
    """A grid coordinate with as many decimals as it has, to a tenth of a millimetre."""
    return spaced(value, next((d for d in range(4) if abs(round(value, d) - value) < 5e-5), 4))


def _angle_words(degrees: float, axis: str, off: float) -> str:
    """An angle with as many decimals of its seconds as it has, up to four; ``off`` in degrees is none."""
    seconds = degrees * 3600
    return format_angle(
        degrees, axis, next((d for d in range(4) if abs(round(seconds, d) - seconds) <= max(off * 3600, 5e-5)), 4)
    )


def _rectangle(crs: ProjectCrs, west: float, south: float, east: float, north: float) -> shapely.LineString:
    crs.check_place(west, south)
    crs.check_place(east, north)
    if not west < east:
        raise CoordinateRefused("The east edge is not east of the west edge; swap the two eastings.")
    if not south < north:
        raise CoordinateRefused("The north edge is not north of the south edge; swap the two northings.")
    if min(east - west, north - south) * crs.metres_per_unit < 10:
        raise CoordinateRefused("The border is less than 10 m across; check the digits.")
    return shapely.LineString([(west, south), (east, south), (east, north), (west, north), (west, south)])

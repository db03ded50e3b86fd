"""The lines of a graticule on a panel: where they run, where they reach the neatline, and where they cross."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.errors import SheetRefused
from orvik.core.ink.affine import apply
from orvik.core.sheet.panels.panel import Panel
from orvik.core.sheet.parts.graticule.grid_system import GridSystem

# Lines nearer to each other than this on the sheet are no help in reading it.
CLOSEST_MM = 30.0
# Pieces that a line is drawn with from edge to edge.
PIECES = 256
MOST_LINES = 200
# A line that meets the neatline at less than this is no longer read there.
GRAZING_DEGREES = 20.0


@dataclass(frozen=True)
class GridLine:
    """One line on the page.

    Attributes
    ----------
    axis
        0 where u is the same along it (a meridian), 1 where v is.
    value
        Its coordinate.
    pieces
        What of it lies on shown ground, each (n, 2) in millimetres.
    """

    axis: int
    value: float
    pieces: tuple[Floats, ...]


@dataclass(frozen=True)
class Exit:
    """Where a line reaches the neatline.

    Attributes
    ----------
    at
        In millimetres on the page.
    outward
        The direction in which the line leaves the shown ground, of length 1.
    normal
        The direction away from the neatline, of length 1.
    """

    axis: int
    value: float
    at: tuple[float, float]
    outward: tuple[float, float]
    normal: tuple[float, float]


def spacing(panel: Panel, system: GridSystem) -> float:
    """A round step at which the lines stand well apart on the sheet."""
    closest = min(CLOSEST_MM, min(panel.part.width, panel.part.height) / 2.2)
    return system.step_of(float(np.max(np.hypot(*gradient(panel, system).T))) * closest)


def grid_lines(panel: Panel, system: GridSystem, step: float) -> list[GridLine]:
    """The lines at whole multiples of a step that cross the shown ground.

    Raises
    ------
    SheetRefused
        There would be too many of them.
    """
    uv = system.of_ground(apply(panel.to_ground, _scattered(panel)))
    uv = uv[np.isfinite(uv).all(axis=1)]
    if not len(uv):
        return []
    low, high = uv.min(axis=0), uv.max(axis=0)
    pad = 0.02 * (high - low)
    count = int(np.sum((high - low) / step))
    if count > MOST_LINES:
        raise SheetRefused(f"Lines so close together would be {count} on this panel; type a larger spacing.")
    found = []
    for axis in (0, 1):
        along = np.linspace(low[1 - axis] - pad[1 - axis], high[1 - axis] + pad[1 - axis], PIECES + 1)
        for n in range(int(np.ceil(low[axis] / step - 1e-9)), int(np.floor(high[axis] / step + 1e-9)) + 1):
            course = np.empty((len(along), 2))
            course[:, axis], course[:, 1 - axis] = n * step, along
            pieces = _within(panel, system.to_ground(course))
            if pieces:
                found.append(GridLine(axis, n * step, pieces))
    return found


def crossings(panel: Panel, system: GridSystem, lines: list[GridLine]) -> list[tuple[Floats, Floats]]:
    """Where lines cross on shown ground: the place, and the directions of both lines there, (2, 2), of length 1."""
    us = [line.value for line in lines if line.axis == 0]
    vs = [line.value for line in lines if line.axis == 1]
    uv = np.array([(u, v) for u in us for v in vs]).reshape(-1, 2)
    if not len(uv):
        return []
    at = apply(panel.to_page, system.to_ground(uv))
    inside = np.asarray(shapely.contains_xy(panel.page_area, at[:, 0], at[:, 1]))
    if not inside.any():
        return []
    ways = [_direction(panel, system, uv[inside], axis) for axis in (0, 1)]
    return [(place, np.array([one, other])) for place, one, other in zip(at[inside], *ways, strict=True)]


def exits(panel: Panel, lines: list[GridLine]) -> list[Exit]:
    """Where lines reach the neatline, other than grazing it."""
    edge = panel.page_area.exterior
    found = []
    for line in lines:
        for piece in line.pieces:
            for end, inner in ((piece[0], piece[1]), (piece[-1], piece[-2])):
                out = _unit(end - inner)
                normal = _normal(panel.page_area, edge, end)
                if float(out @ normal) > np.sin(np.radians(GRAZING_DEGREES)):
                    found.append(Exit(line.axis, line.value, _pair(end), _pair(out), _pair(normal)))
    return found


def gradient(panel: Panel, system: GridSystem) -> Floats:
    """How much u and v change over a millimetre to the right and down at the middle of a panel, (2, 2)."""
    x, y = panel.part.middle
    places = np.array([(x - 0.5, y), (x + 0.5, y), (x, y - 0.5), (x, y + 0.5)])
    uv = system.of_ground(apply(panel.to_ground, places))
    if not np.isfinite(uv).all():
        raise SheetRefused("The middle of this panel is not a place that the system of its graticule can show.")
    return np.column_stack([uv[1] - uv[0], uv[3] - uv[2]])


def _scattered(panel: Panel) -> Floats:
    """Places all over the shown part of the page and along its edge."""
    part = panel.part
    xs, ys = np.meshgrid(np.linspace(part.x, part.x + part.width, 33), np.linspace(part.y, part.y + part.height, 33))
    inner = np.column_stack([xs.ravel(), ys.ravel()])
    inner = inner[shapely.contains_xy(panel.page_area, inner[:, 0], inner[:, 1])]
    edge = shapely.get_coordinates(shapely.segmentize(panel.page_area.exterior, max(part.width, part.height) / 64))
    return np.vstack([inner, edge])


def _within(panel: Panel, course: Floats) -> tuple[Floats, ...]:
    known = course[np.isfinite(course).all(axis=1)]
    if len(known) < 2:
        return ()
    shown = shapely.intersection(panel.page_area, shapely.LineString(apply(panel.to_page, known)))
    pieces = [p for p in shapely.get_parts(shown) if isinstance(p, shapely.LineString) and p.length > 0.01]
    return tuple(shapely.get_coordinates(p) for p in pieces)


def _direction(panel: Panel, system: GridSystem, uv: Floats, axis: int) -> Floats:
    """The direction on the page of the line along which u (axis 0) or v stays the same, (n, 2)."""
    small = np.abs(uv).max() * 1e-7 + 1e-7
    step = np.zeros(2)
    step[1 - axis] = small
    before, after = (apply(panel.to_page, system.to_ground(uv + sign * step)) for sign in (-1, 1))
    way = after - before
    unit: Floats = way / np.maximum(np.hypot(*way.T), 1e-12)[:, None]
    return unit


def _normal(area: shapely.Polygon, edge: shapely.LinearRing, place: Floats) -> Floats:
    """The direction away from an area at a place of its edge."""
    along = edge.project(shapely.Point(place))
    before, after = edge.interpolate(max(along - 0.05, 0)), edge.interpolate(min(along + 0.05, edge.length))
    tangent = _unit(np.array([after.x - before.x, after.y - before.y]))
    normal = np.array([tangent[1], -tangent[0]])
    probe = place + normal * 0.2
    return -normal if area.contains(shapely.Point(probe)) else normal


def _unit(way: Floats) -> Floats:
    unit: Floats = way / max(float(np.hypot(*way)), 1e-12)
    return unit


def _pair(way: Floats) -> tuple[float, float]:
    return float(way[0]), float(way[1])

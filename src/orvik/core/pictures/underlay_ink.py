"""Underlays that are lines: reference layers and contour lines as ground ink, the same for canvas and print."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from orvik.core.arrays import Floats, Geometries
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import Fill, Item, LineStyle, Marks, Stroke
from orvik.core.pictures.reference_look import ReferenceLook

# Millimetres on the sheet.
CONTOUR_WIDTH, INDEX_WIDTH = 0.1, 0.2
CONTOUR_COLOUR = "#8C7563"
# Every fifth contour line is drawn heavier (common practice).
INDEX = 5


def reference_ink(geometries: Geometries, look: ReferenceLook, window: shapely.Polygon, tolerance: float) -> list[Item]:
    """Areas, lines, edges of areas, and dots of what a window of ground shows of a reference layer.

    Parameters
    ----------
    geometries
        In project coordinates; None where a row has none.
    look
        How it is drawn.
    window
        The ground that is shown, with what a line's width needs around it.
    tolerance
        How far a line may pass beside its vertices, in project units: less than can be seen.
    """
    near = geometries[shapely.intersects(geometries, window)]
    parts = shapely.get_parts(near)
    kinds = shapely.get_type_id(parts)
    areas = kinds == shapely.GeometryType.POLYGON
    # The edges before they are cut to the window: the window's own edge is none of the layer's.
    edges = [parts[kinds == shapely.GeometryType.LINESTRING]]
    if look.outlined:
        edges.append(shapely.boundary(parts[areas]))
    items: list[Item] = []
    if look.tint and areas.any():
        items += _filled(parts[areas], look.tint, window, tolerance)
    lines = _cut(np.concatenate(edges), window, tolerance)
    if len(lines):
        items.append(Stroke(look.style, lines))
    dots = shapely.get_coordinates(parts[kinds == shapely.GeometryType.POINT])
    if len(dots):
        items.append(Marks(look.dot, dots, np.zeros(len(dots))))
    return items


def contour_ink(
    contours: Sequence[tuple[float, Sequence[Floats]]], interval: float, window: shapely.Polygon, tolerance: float
) -> list[Item]:
    """Contour lines of a window, index lines heavier.

    Parameters
    ----------
    contours
        The height of each and its lines (n, 2) in project coordinates.
    interval
        Metres between lines.
    window, tolerance
        As for ``reference_ink``.
    """
    items: list[Item] = []
    for width, wanted in ((CONTOUR_WIDTH, False), (INDEX_WIDTH, True)):
        chosen = [
            line
            for height, lines in contours
            if (round(height / interval) % INDEX == 0) is wanted
            for line in lines
            if len(line) > 1
        ]
        cut = _cut(np.array([shapely.linestrings(line) for line in chosen], dtype=object), window, tolerance)
        if len(cut):
            items.append(Stroke(LineStyle(width, CONTOUR_COLOUR), cut))
    return items


def _cut(lines: Geometries, window: shapely.Polygon, tolerance: float) -> Paths:
    """Lines within a window, without vertices that cannot be seen."""
    shown = shapely.get_parts(shapely.clip_by_rect(lines, *window.bounds))
    shown = shown[(shapely.get_type_id(shown) == shapely.GeometryType.LINESTRING) & ~shapely.is_empty(shown)]
    return Paths.of_lines(shapely.simplify(shown, tolerance))


def _filled(areas: Geometries, tint: str, window: shapely.Polygon, tolerance: float) -> list[Item]:
    """Areas within a window, in one tint."""
    shown = shapely.get_parts(shapely.intersection(areas, window))
    shown = shown[(shapely.get_type_id(shown) == shapely.GeometryType.POLYGON) & ~shapely.is_empty(shown)]
    shown = shapely.get_parts(shapely.simplify(shown, tolerance))
    if not len(shown):
        return []
    rings, owner = shapely.get_rings(shapely.orient_polygons(shown), return_index=True)
    parts = np.concatenate([[0], np.cumsum(np.bincount(owner, minlength=len(shown)))]).astype(np.int64)
    return [Fill(tint, Paths.of_lines(rings), parts)]

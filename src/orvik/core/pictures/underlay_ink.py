"""Underlays that are lines: reference layers and contour lines as ground ink, the same for canvas and print."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from orvik.core.arrays import Floats, Geometries
from orvik.core.ink import Fill, Item, LineStyle, Marks, Stroke, Symbol
from orvik.core.paths import Paths

# Of a reference layer that has no colour of its own yet.
REFERENCE_COLOUR = "#7A3E9D"
# Millimetres on the sheet.
REFERENCE_WIDTH = 0.25
REFERENCE_DOT = 0.6
CONTOUR_WIDTH, INDEX_WIDTH = 0.1, 0.2
CONTOUR_COLOUR = "#8C7563"
# Every fifth contour line is drawn heavier (common practice).
INDEX = 5


def reference_ink(geometries: Geometries, colour: str, window: shapely.Polygon, tolerance: float) -> list[Item]:
    """Lines, edges of areas, and dots of what a window of ground shows of a reference layer.

    Parameters
    ----------
    geometries
        In project coordinates; None where a row has none.
    colour
        As ``#RRGGBB``.
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
    edges = np.concatenate([parts[kinds == shapely.GeometryType.LINESTRING], shapely.boundary(parts[areas])])
    items: list[Item] = []
    lines = _cut(edges, window, tolerance)
    if len(lines):
        items.append(Stroke(LineStyle(REFERENCE_WIDTH, colour, cap="round"), lines))
    dots = shapely.get_coordinates(parts[kinds == shapely.GeometryType.POINT])
    if len(dots):
        items.append(Marks(_dot(colour), dots, np.zeros(len(dots))))
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


def _dot(colour: str) -> Symbol:
    turn = np.linspace(0, 2 * np.pi, 25)
    ring = REFERENCE_DOT * np.column_stack([np.cos(turn), np.sin(turn)])
    return Symbol("dot", (Fill(colour, Paths(ring, np.array([0, len(ring)])), np.array([0, 1])),))

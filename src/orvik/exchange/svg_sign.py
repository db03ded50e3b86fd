"""A simple SVG as the pieces of a point sign."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from xml.etree.ElementTree import Element

import numpy as np
import shapely
from svgelements import Shape

from orvik.core.errors import SignRefused
from orvik.core.ink import INK
from orvik.core.signs.piece import THINNEST, WIDEST, Piece
from orvik.exchange.svg_shapes import UNITS, SubPath, SvgUse, read_shapes, view_box

LARGEST_FILE = 300_000
SIGN = SvgUse("sign", SignRefused, LARGEST_FILE, 400, 4_000)
# How large a drawing without a size of its own becomes, and the largest that keeps its own, in millimetres.
USUAL_SIZE, LARGEST_SIZE = 4.0, 40.0


def pieces_of_svg(data: bytes) -> tuple[Piece, ...]:
    """The pieces of a drawing, its middle on the anchor.

    Parameters
    ----------
    data
        The file. One with a size in millimetres keeps it, up to ``LARGEST_SIZE``; another becomes ``USUAL_SIZE`` large.

    Raises
    ------
    SignRefused
        As ``read_shapes`` has it, or it has no size. Nothing of it is taken in.
    """
    drawing = read_shapes(data, SIGN)
    xy = np.vstack([points for _, paths in drawing.shapes for points, _ in paths])
    low, high = xy.min(axis=0), xy.max(axis=0)
    size = float((high - low).max())
    if not size > 0:
        raise SignRefused("This drawing has no size; draw it larger.")
    k = _scale(drawing.root, size)
    middle = (low + high) / 2
    return tuple(piece for shape, paths in drawing.shapes for piece in _pieces(shape, paths, middle, k))


def _scale(root: Element, size: float) -> float:
    """Millimetres of one of the drawing's units."""
    width = re.fullmatch(r"\s*([\d.]+)\s*(mm|cm|in|pt|pc)\s*", root.get("width", ""))
    box = view_box(root)
    if width and box:
        try:
            k = float(width.group(1)) * UNITS[width.group(2)] / box[2]
        except ValueError:
            return USUAL_SIZE / size
        if 0 < k * size <= LARGEST_SIZE:
            return k
    return USUAL_SIZE / size


def _pieces(shape: Shape, paths: Sequence[SubPath], middle: np.ndarray, k: float) -> Iterator[Piece]:
    fill, outline = _colour(shape.fill), _colour(shape.stroke)
    width = min(max(float(shape.stroke_width or 0.0) * k, THINNEST), WIDEST) if outline else 0.0
    # What has neither is drawn as SVG draws it: filled.
    placed = [((xy - middle) * k, closed) for xy, closed in paths]
    if fill:
        for ring in _filled([xy for xy, _ in placed if len(xy) > 2]):
            yield Piece("line", _points(ring), closed=True, fill=fill)
    if outline and width:
        for xy, closed in placed:
            yield Piece("line", _points(xy), closed=closed, width=round(width, 3), outline=outline)


def _points(xy: np.ndarray) -> tuple[tuple[float, float], ...]:
    return tuple((round(float(x), 3), round(float(y), 3)) for x, y in xy)


def _colour(colour: object) -> str:
    value = getattr(colour, "hexrgb", None)
    if value is None:
        return ""
    return INK if value.upper() in ("#000000", "#000") else str(value).upper()


def _filled(rings: list[np.ndarray]) -> Iterator[np.ndarray]:
    """Rings that fill the same ground even-odd: holes are joined to their edge by a cut of no width."""
    ground: shapely.Geometry = shapely.Polygon()
    for ring in rings:
        part = shapely.make_valid(shapely.Polygon(ring))
        ground = shapely.symmetric_difference(ground, part)
    for part in shapely.get_parts(ground):
        if isinstance(part, shapely.Polygon) and part.area > 0:
            ring = shapely.get_coordinates(part.exterior)[:-1]
            for hole in part.interiors:
                ring = _cut_to(ring, shapely.get_coordinates(hole)[:-1])
            yield ring


def _cut_to(ring: np.ndarray, hole: np.ndarray) -> np.ndarray:
    apart = np.hypot(*(ring[:, None, :] - hole[None, :, :]).transpose(2, 0, 1))
    i, j = np.unravel_index(int(np.argmin(apart)), apart.shape)
    around = np.vstack([hole[j:], hole[: j + 1]])
    return np.vstack([ring[: i + 1], around, ring[i:]])

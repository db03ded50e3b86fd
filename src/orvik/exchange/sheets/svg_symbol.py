"""A simple SVG as the pieces of a point symbol."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING
from xml.etree.ElementTree import Element

import numpy as np
import shapely

from orvik.core.errors import SymbolRefused
from orvik.core.ink.primitives import INK
from orvik.core.symbols.piece import THINNEST, WIDEST, Piece
from orvik.exchange.sheets.svg_shapes import UNITS, SubPath, SvgUse, read_shapes, view_box

if TYPE_CHECKING:
    from svgelements import Shape

LARGEST_FILE = 300_000
SYMBOL = SvgUse("symbol", SymbolRefused, LARGEST_FILE, 400, 4_000)
# How large a drawing without a size of its own becomes, and the largest that keeps its own, in millimetres.
USUAL_SIZE, LARGEST_SIZE = 4.0, 40.0
PIXEL = 25.4 / 96


def pieces_of_svg(data: bytes) -> tuple[Piece, ...]:
    """The pieces of a drawing, its middle on the anchor.

    Parameters
    ----------
    data
        The file. One with a size in millimetres keeps it, up to ``LARGEST_SIZE``; another becomes ``USUAL_SIZE`` large.

    Raises
    ------
    SymbolRefused
        As ``read_shapes`` has it, or it has no size. Nothing of it is taken in.
    """
    drawing = read_shapes(data, SYMBOL)
    xy = np.vstack([points for _, paths in drawing.shapes for points, _ in paths])
    low, high = xy.min(axis=0), xy.max(axis=0)
    size = float((high - low).max())
    if not size > 0:
        raise SymbolRefused("This drawing has no size; draw it larger.")
    k = _scale(drawing.root, size)
    middle = (low + high) / 2
    return tuple(piece for shape, paths in drawing.shapes for piece in _pieces(shape, paths, middle, k))


def _scale(root: Element, size: float) -> float:
    """Millimetres of one of the drawing's units."""
    width = re.fullmatch(r"\s*([\d.]+)\s*(mm|cm|in|pt|pc)\s*", root.get("width", ""))
    box = view_box(root)
    if width:
        try:
            # Without a view box a unit is a pixel, whatever the size of the page (SVG 1.1, 7.10).
            k = float(width.group(1)) * UNITS[width.group(2)] / box[2] if box else PIXEL
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
        even = str(shape.values.get("fill-rule", "nonzero")).strip() == "evenodd"
        for ring in _filled([xy for xy, _ in placed if len(xy) > 2], even):
            yield Piece("line", _points(ring), closed=True, fill=fill)
    if outline and width:
        cap = str(shape.values.get("stroke-linecap", "butt")).strip()
        dash = _dash(shape, k)
        for xy, closed in placed:
            yield Piece(
                "line",
                _points(xy),
                closed=closed,
                width=round(width, 3),
                outline=outline,
                dash=dash,
                cap=cap if cap in ("round", "square") else "butt",
            )


def _dash(shape: Shape, k: float) -> tuple[float, ...]:
    """The dashes of a shape in millimetres, grown with its lines; none where they cannot be read."""
    text = str(shape.values.get("stroke-dasharray", "none")).replace(",", " ")
    try:
        lengths = [float(word.removesuffix("px")) for word in text.split()] if text.strip() != "none" else []
        own = float(str(shape.values.get("stroke-width", "1")).removesuffix("px"))
    except ValueError:
        return ()
    if not lengths or not own or sum(lengths) <= 0:
        return ()
    grown = float(shape.stroke_width or 0.0) / own * k
    # An odd number of lengths is gone through twice (SVG 1.1, 11.4).
    twice = lengths * (1 + len(lengths) % 2)
    return tuple(round(length * grown, 3) for length in twice)


def _points(xy: np.ndarray) -> tuple[tuple[float, float], ...]:
    return tuple((round(float(x), 3), round(float(y), 3)) for x, y in xy)


def _colour(colour: object) -> str:
    value = getattr(colour, "hexrgb", None)
    if value is None:
        return ""
    return INK if value.upper() in ("#000000", "#000") else str(value).upper()


def _filled(rings: list[np.ndarray], even: bool) -> Iterator[np.ndarray]:
    """Rings that fill the same ground: holes are joined to their edge by a cut of no width.

    Parameters
    ----------
    even
        Whether what lies within an even number of rings is none of it; else what they wind round as often this way as
        that way.
    """
    edges = shapely.node(shapely.MultiLineString([np.vstack([ring, ring[:1]]) for ring in rings]))
    faces = shapely.get_parts(shapely.polygonize(shapely.get_parts(edges)))
    turns = [_turns(face.representative_point(), rings) for face in faces]
    inside = [f for f, (times, sum_) in zip(faces, turns, strict=True) if (times % 2 if even else sum_)]
    ground = shapely.union_all(inside)
    for part in shapely.get_parts(ground):
        if isinstance(part, shapely.Polygon) and part.area > 0:
            ring = shapely.get_coordinates(part.exterior)[:-1]
            for hole in part.interiors:
                ring = _cut_to(ring, shapely.get_coordinates(hole)[:-1])
            yield ring


def _turns(place: shapely.Point, rings: list[np.ndarray]) -> tuple[int, int]:
    """How often a line from a place to the right meets rings, and how often upwards less how often downwards."""
    times = total = 0
    for ring in rings:
        after = np.roll(ring, -1, axis=0)
        up = (ring[:, 1] <= place.y) & (after[:, 1] > place.y)
        down = (ring[:, 1] > place.y) & (after[:, 1] <= place.y)
        rise = after[:, 1] - ring[:, 1]
        share = (place.y - ring[:, 1]) / np.where(rise == 0, 1.0, rise)
        right = ring[:, 0] + share * (after[:, 0] - ring[:, 0]) > place.x
        times += int((up & right).sum() + (down & right).sum())
        total += int((up & right).sum()) - int((down & right).sum())
    return times, total


def _cut_to(ring: np.ndarray, hole: np.ndarray) -> np.ndarray:
    apart = np.hypot(*(ring[:, None, :] - hole[None, :, :]).transpose(2, 0, 1))
    i, j = np.unravel_index(int(np.argmin(apart)), apart.shape)
    around = np.vstack([hole[j:], hole[: j + 1]])
    return np.vstack([ring[: i + 1], around, ring[i:]])

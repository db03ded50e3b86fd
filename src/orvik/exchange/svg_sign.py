"""A simple SVG as the pieces of a point sign: read strictly, and written anew from the few things that a sign has."""

from __future__ import annotations

import io
import math
import re
from collections.abc import Iterator
from xml.etree.ElementTree import Element, ParseError, SubElement, tostring

import defusedxml.ElementTree as safe
import numpy as np
import shapely
from defusedxml import DefusedXmlException
from svgelements import SVG, Arc, Close, CubicBezier, Line, Move, Path, QuadraticBezier, Shape

from orvik.core.errors import SignRefused
from orvik.core.ink import INK
from orvik.core.signs.piece import THINNEST, WIDEST, Piece

# More than a sign ever has; a file beyond this is not read any further.
LARGEST_FILE = 300_000
MOST_ELEMENTS = 400
MOST_POINTS = 4_000
# How large a drawing without a size of its own becomes, and the largest that keeps its own, in millimetres.
USUAL_SIZE, LARGEST_SIZE = 4.0, 40.0
SVG_NAMESPACE = "{http://www.w3.org/2000/svg}"
_SHAPES = {
    "path": ("d",),
    "rect": ("x", "y", "width", "height", "rx", "ry"),
    "circle": ("cx", "cy", "r"),
    "ellipse": ("cx", "cy", "rx", "ry"),
    "line": ("x1", "y1", "x2", "y2"),
    "polyline": ("points",),
    "polygon": ("points",),
}
_LOOK = ("transform", "fill", "stroke", "stroke-width", "fill-rule")
# Words about a drawing, which are no part of it.
_PASSED_OVER = {"title", "desc", "metadata"}
_UNITS = {"mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72, "pc": 25.4 / 6}
# Points along a curve; enough for a sign of a few millimetres.
ALONG_CURVE = 14


def pieces_of_svg(data: bytes) -> tuple[Piece, ...]:
    """The pieces of a drawing, its middle on the anchor.

    Parameters
    ----------
    data
        The file. One with a size in millimetres keeps it, up to ``LARGEST_SIZE``; another becomes ``USUAL_SIZE`` large.

    Raises
    ------
    SignRefused
        It is no SVG, it is too large, or it holds what a sign does not have: scripts, entities, references, pictures,
        letters, style sheets. Nothing of it is taken in.
    """
    root = _root(data)
    clean = _cleaned(root)
    shapes = list(_shapes(tostring(clean)))
    if not shapes:
        raise SignRefused("There is nothing in this SVG that a sign could be made of; draw it as paths or shapes.")
    xy = np.vstack([points for _, paths in shapes for points, _ in paths])
    if len(xy) > MOST_POINTS:
        raise SignRefused(f"This drawing has {len(xy)} points; a sign has {MOST_POINTS} at the most. Simplify it.")
    low, high = xy.min(axis=0), xy.max(axis=0)
    size = float((high - low).max())
    if not size > 0:
        raise SignRefused("This drawing has no size; draw it larger.")
    k = _scale(root, size)
    middle = (low + high) / 2
    return tuple(piece for shape, paths in shapes for piece in _pieces(shape, paths, middle, k))


def _root(data: bytes) -> Element:
    if len(data) > LARGEST_FILE:
        raise SignRefused(f"This file has {len(data) // 1000} kB; a sign has {LARGEST_FILE // 1000} kB at the most.")
    try:
        root: Element = safe.fromstring(data, forbid_dtd=True, forbid_entities=True, forbid_external=True)
    except DefusedXmlException as error:
        raise SignRefused(
            "This SVG has a document type or entities, which may lead elsewhere; save it as a plain SVG without them."
        ) from error
    except (ParseError, ValueError, LookupError, RecursionError) as error:
        raise SignRefused("This is no SVG that can be read.") from error
    if root.tag not in (f"{SVG_NAMESPACE}svg", "svg"):
        raise SignRefused("This is no SVG.")
    count = sum(1 for _ in root.iter())
    if count > MOST_ELEMENTS:
        raise SignRefused(f"This drawing has {count} parts; a sign has {MOST_ELEMENTS} at the most.")
    return root


def _cleaned(root: Element) -> Element:
    """The same drawing of nothing but groups and shapes; raises SignRefused for anything that could be more."""
    out = Element("svg", {"xmlns": "http://www.w3.org/2000/svg"})
    _copy_children(root, out, 0)
    return out


def _copy_children(source: Element, target: Element, depth: int) -> None:
    if depth > 20:
        raise SignRefused("The groups of this drawing are nested too deeply; ungroup them.")
    for child in source:
        tag = str(child.tag)
        if not (tag.startswith(SVG_NAMESPACE) or "}" not in tag):
            # What another program notes for itself.
            continue
        name = tag.removeprefix(SVG_NAMESPACE)
        if name in _PASSED_OVER or (name == "defs" and not len(child)):
            continue
        if name != "g" and name not in _SHAPES:
            raise SignRefused(f"This SVG has a <{name[:20]}>, which a sign does not take; draw with paths and shapes.")
        copy = SubElement(target, name, _attributes(child, name))
        if name == "g":
            _copy_children(child, copy, depth + 1)


def _attributes(element: Element, name: str) -> dict[str, str]:
    out: dict[str, str] = {}
    for key, value in element.attrib.items():
        local = key.rpartition("}")[2].lower()
        if local.startswith("on"):
            raise SignRefused("This SVG has a script; save it without.")
        if local == "href" or "url(" in value.lower() or "javascript:" in value.lower():
            raise SignRefused(
                "This SVG refers to something else; a sign stands for itself. Save it without references."
            )
        if key in _LOOK or key in _SHAPES.get(name, ()):
            out[key] = value
        elif key == "style":
            out |= {n: v for n, v in _declarations(value) if n in _LOOK}
    return out


def _declarations(style: str) -> Iterator[tuple[str, str]]:
    for declaration in style.split(";"):
        name, colon, value = declaration.partition(":")
        if colon:
            yield name.strip(), value.strip()


SubPath = tuple[np.ndarray, bool]


def _shapes(document: bytes) -> Iterator[tuple[Shape, list[SubPath]]]:
    try:
        drawing = SVG.parse(io.BytesIO(document), reify=True, ppi=25.4)
        for element in drawing.elements():
            if isinstance(element, Shape):
                paths = [_flattened(Path(part)) for part in Path(element).as_subpaths()]
                sound = [(xy, closed) for xy, closed in paths if len(xy) > 1 and np.isfinite(xy).all()]
                if sound:
                    yield element, sound
    except (ArithmeticError, AttributeError, LookupError, RuntimeError, TypeError, ValueError) as error:
        # The library trusts what it reads.
        raise SignRefused("A path of this SVG cannot be read; save it anew as a plain SVG.") from error


def _flattened(path: Path) -> SubPath:
    points: list[tuple[float, float]] = []
    closed = False
    for segment in path:
        if isinstance(segment, Move):
            points = [(segment.end.x, segment.end.y)]
        elif isinstance(segment, Close):
            closed = True
        elif isinstance(segment, Line):
            points.append((segment.end.x, segment.end.y))
        elif isinstance(segment, CubicBezier | QuadraticBezier | Arc):
            count = ALONG_CURVE if not isinstance(segment, Arc) else max(4, math.ceil(abs(segment.sweep) * 8))
            found = segment.npoint(np.linspace(0, 1, min(count, 64) + 1)[1:])
            points += [(float(x), float(y)) for x, y in found]
    xy = np.array(points, dtype=float).reshape(-1, 2)
    if len(xy) > 2 and np.allclose(xy[0], xy[-1]):
        closed, xy = True, xy[:-1]
    return xy, closed


def _scale(root: Element, size: float) -> float:
    """Millimetres of one of the drawing's units."""
    width = re.fullmatch(r"\s*([\d.]+)\s*(mm|cm|in|pt|pc)\s*", root.get("width", ""))
    box = root.get("viewBox", "").replace(",", " ").split()
    if width and len(box) == 4:
        try:
            k = float(width.group(1)) * _UNITS[width.group(2)] / float(box[2])
        except (ValueError, ZeroDivisionError):
            return USUAL_SIZE / size
        if 0 < k * size <= LARGEST_SIZE:
            return k
    return USUAL_SIZE / size


def _pieces(shape: Shape, paths: list[SubPath], middle: np.ndarray, k: float) -> Iterator[Piece]:
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

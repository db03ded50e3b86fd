"""The shapes of a simple SVG: read strictly, and written anew from the few things that a drawing here may have."""

from __future__ import annotations

import io
import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING
from xml.etree.ElementTree import Element, ParseError, SubElement, tostring

import numpy as np

from orvik.core.errors import OrvikError

if TYPE_CHECKING:
    from svgelements import Path, Shape

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
_LOOK = (
    *("transform", "fill", "stroke", "stroke-width", "fill-rule"),
    *("stroke-dasharray", "stroke-dashoffset", "stroke-linecap"),
)
# What says that something is not seen, or not all of it.
_SEEN = ("display", "visibility", "opacity", "fill-opacity", "stroke-opacity")
# Words about a drawing, which are no part of it.
_PASSED_OVER = {"title", "desc", "metadata"}
# Millimetres of a unit of length.
UNITS = {"mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72, "pc": 25.4 / 6}
# Points along a curve; enough for a symbol of a few millimetres.
ALONG_CURVE = 14

SubPath = tuple[np.ndarray, bool]


@dataclass(frozen=True)
class SvgUse:
    """What a drawing is read for.

    Attributes
    ----------
    thing
        What refusals call it: ``symbol``.
    refused
        The error that they are.
    bytes, elements, points
        More than it ever has; a file beyond this is not read any further.
    """

    thing: str
    refused: type[OrvikError]
    bytes: int
    elements: int
    points: int


@dataclass(frozen=True)
class SvgShapes:
    """A drawing: its root element, and each shape with its paths flattened, in the units of the drawing."""

    root: Element
    shapes: tuple[tuple[Shape, tuple[SubPath, ...]], ...]


def read_shapes(data: bytes, use: SvgUse) -> SvgShapes:
    """The shapes of a drawing.

    Raises
    ------
    OrvikError
        As ``use`` has it: it is not an SVG, it is too large, or it holds what could be more than a drawing: scripts,
        entities, references, pictures, letters, style sheets. Nothing of it is taken in.
    """
    root = _root(data, use)
    shapes = tuple(_shapes(tostring(_cleaned(root, use)), use))
    if not shapes:
        raise use.refused(
            f"There is nothing in this SVG that a {use.thing} could be made of; draw it as paths or shapes."
        )
    count = sum(len(xy) for _, paths in shapes for xy, _ in paths)
    if count > use.points:
        raise use.refused(f"This drawing has {count} points; a {use.thing} has {use.points} at the most. Simplify it.")
    return SvgShapes(root, shapes)


def view_box(root: Element) -> tuple[float, float, float, float] | None:
    """Left, top, width and height of what a drawing shows, in its units; None where it does not say."""
    try:
        left, top, width, height = (float(v) for v in root.get("viewBox", "").replace(",", " ").split())
    except ValueError:
        return None
    return (left, top, width, height) if width > 0 and height > 0 else None


def _root(data: bytes, use: SvgUse) -> Element:
    import defusedxml.ElementTree as safe
    from defusedxml import DefusedXmlException

    if len(data) > use.bytes:
        raise use.refused(f"This file is too large; a {use.thing} has {use.bytes // 1000} kB at the most.")
    try:
        root: Element = safe.fromstring(data, forbid_dtd=True, forbid_entities=True, forbid_external=True)
    except DefusedXmlException as error:
        raise use.refused(
            "This SVG has a document type or entities, which may lead elsewhere; save it as a plain SVG without them."
        ) from error
    except (ParseError, ValueError, LookupError, RecursionError) as error:
        raise use.refused("This is not an SVG that can be read.") from error
    if root.tag not in (f"{SVG_NAMESPACE}svg", "svg"):
        raise use.refused("This is not an SVG.")
    count = sum(1 for _ in root.iter())
    if count > use.elements:
        raise use.refused(f"This drawing has {count} parts; a {use.thing} has {use.elements} at the most.")
    return root


def _cleaned(root: Element, use: SvgUse) -> Element:
    """The same drawing of nothing but groups and shapes; refused for anything that could be more."""
    out = Element("svg", {"xmlns": "http://www.w3.org/2000/svg"})
    _copy_children(root, out, use, 0, _said(root).get("visibility", "visible"))
    return out


def _said(element: Element) -> dict[str, str]:
    """What an element says of whether it is seen, in attributes or in its style."""
    attributes = {name: element.attrib[name].strip() for name in _SEEN if name in element.attrib}
    return attributes | {n: v for n, v in _declarations(element.get("style", "")) if n in _SEEN}


def _is_nothing(said: dict[str, str], name: str) -> bool:
    """Whether an opacity is none at all."""
    try:
        return float(said.get(name, "1").rstrip("%")) == 0
    except ValueError:
        return False


def _copy_children(source: Element, target: Element, use: SvgUse, depth: int, visibility: str) -> None:
    if depth > 20:
        raise use.refused("The groups of this drawing are nested too deeply; ungroup them.")
    for child in source:
        tag = str(child.tag)
        if not (tag.startswith(SVG_NAMESPACE) or "}" not in tag):
            # What another program notes for itself.
            continue
        name = tag.removeprefix(SVG_NAMESPACE)
        if name in _PASSED_OVER or (name == "defs" and not len(child)):
            continue
        if name != "g" and name not in _SHAPES:
            raise use.refused(
                f"This SVG has a <{name[:20]}>, which a {use.thing} does not take; turn it into paths and shapes."
            )
        said = _said(child)
        seen = said.get("visibility", visibility)
        attributes = _attributes(child, name, use)
        if said.get("display") == "none" or _is_nothing(said, "opacity"):
            continue
        if name != "g" and seen in ("hidden", "collapse"):
            continue
        for what in ("fill", "stroke"):
            if _is_nothing(said, f"{what}-opacity"):
                attributes[what] = "none"
        copy = SubElement(target, name, attributes)
        if name == "g":
            _copy_children(child, copy, use, depth + 1, seen)


def _attributes(element: Element, name: str, use: SvgUse) -> dict[str, str]:
    out: dict[str, str] = {}
    for key, value in element.attrib.items():
        local = key.rpartition("}")[2].lower()
        if local.startswith("on"):
            raise use.refused("This SVG has a script; save it without.")
        if local == "href" or "url(" in value.lower() or "javascript:" in value.lower():
            raise use.refused(
                f"This SVG refers to something else; a {use.thing} stands for itself. Save it without references."
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


def _shapes(document: bytes, use: SvgUse) -> Iterator[tuple[Shape, tuple[SubPath, ...]]]:
    from svgelements import SVG, Path, Shape

    try:
        drawing = SVG.parse(io.BytesIO(document), reify=True, ppi=25.4)
        for element in drawing.elements():
            if isinstance(element, Shape):
                paths = [_flattened(Path(part)) for part in Path(element).as_subpaths()]
                sound = tuple((xy, closed) for xy, closed in paths if len(xy) > 1 and np.isfinite(xy).all())
                if sound:
                    yield element, sound
    except (ArithmeticError, AttributeError, LookupError, RuntimeError, TypeError, ValueError) as error:
        # The library trusts what it reads.
        raise use.refused("A path of this SVG cannot be read; save it anew as a plain SVG.") from error


def _flattened(path: Path) -> SubPath:
    from svgelements import Arc, Close, CubicBezier, Line, Move, QuadraticBezier

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

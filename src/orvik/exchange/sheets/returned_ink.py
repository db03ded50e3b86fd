"""What an SVG draws, path by path, as it stands on the page: shapes, symbols that are used, and pictures."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from xml.etree.ElementTree import Element

import numpy as np
from fontTools.pens.recordingPen import RecordingPen
from fontTools.svgLib.path import parse_path
from svgelements import Color, Matrix

from orvik.core.arrays import Floats
from orvik.core.errors import FileRefused
from orvik.core.sheet.output.returned_paths import PICTURE, DrawnPath

NAME = "{http://www.w3.org/2000/svg}"
LINK = "{http://www.w3.org/1999/xlink}href"
SHAPES = ("path", "rect", "line", "polyline", "polygon", "circle", "ellipse")
# What is not drawn where it stands.
ASIDE = tuple(f"{NAME}{tag}" for tag in ("defs", "symbol", "clipPath", "mask", "pattern", "marker", "style"))
# Symbols that use symbols, and so on, and paths in all: what a sheet has is far less.
DEEPEST, MOST_PATHS = 12, 3_000_000
_NUMBER = re.compile(r"-?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?")


@dataclass(frozen=True)
class Look:
    """How something is painted: attributes, styles and classes, of its own or come down from what it is in."""

    fill: str = "#000000"
    stroke: str = ""
    hidden: bool = False


@dataclass
class InkReader:
    """Walks through a drawing; ``to_mm`` is the way from its units to millimetres of the page."""

    root: Element
    groups: frozenset[str]
    to_mm: Matrix
    _count: int = 0
    _classes: dict[str, dict[str, str]] = field(default_factory=dict)

    def read(self) -> dict[str, list[DrawnPath]]:
        """What is drawn by the innermost group of ours that it is in; what is in none by an empty name.

        Raises
        ------
        FileRefused
            It draws more than any sheet does.
        """
        self._named = {element.get("id"): element for element in self.root.iter() if element.get("id")}
        for style in self.root.iter(f"{NAME}style"):
            for name, body in re.findall(r"\.([\w-]+)\s*\{([^}]*)\}", style.text or ""):
                self._classes.setdefault(name, {}).update(_declared(body))
        out: dict[str, list[DrawnPath]] = {name: [] for name in self.groups}
        for group, path in self._inside(self.root, self.to_mm, Look(), "", 0):
            out.setdefault(group, []).append(path)
            self._count += 1
            if self._count > MOST_PATHS:
                raise FileRefused(f"This drawing has more than {MOST_PATHS:,} paths; no sheet has.")
        return {name: paths for name, paths in out.items() if paths}

    def _inside(
        self, element: Element, matrix: Matrix, look: Look, group: str, depth: int
    ) -> Iterator[tuple[str, DrawnPath]]:
        for child in element:
            if child.tag in ASIDE or not isinstance(child.tag, str):
                continue
            own = self._look(child, look)
            if own.hidden:
                continue
            moved = child.get("transform")
            way = Matrix(moved) * matrix if moved else matrix
            name = child.get("id") or ""
            yield from self._one(child, way, own, name if name in self.groups else group, depth)

    def _one(self, child: Element, way: Matrix, look: Look, group: str, depth: int) -> Iterator[tuple[str, DrawnPath]]:
        kind = child.tag.removeprefix(NAME)
        if kind == "use" and depth < DEEPEST:
            target = self._named.get((child.get("href") or child.get(LINK) or "").lstrip("#"))
            if target is not None:
                x, y = _number(child.get("x")), _number(child.get("y"))
                way = Matrix(f"translate({x} {y})") * way if x or y else way
                if target.tag in (f"{NAME}symbol", f"{NAME}g", f"{NAME}svg"):
                    yield from self._inside(target, way, self._look(target, look), group, depth + 1)
                else:
                    yield from self._one(target, way, self._look(target, look), group, depth + 1)
        elif kind == "image":
            width, height = _number(child.get("width")), _number(child.get("height"))
            x, y = _number(child.get("x")), _number(child.get("y"))
            corners = np.array([(x, y), (x + width, y), (x + width, y + height), (x, y + height)])
            yield group, DrawnPath(_placed(corners, way), PICTURE, "")
        elif kind in SHAPES and not child.get("aria-label"):
            for xy in _lines(kind, child):
                if len(xy) > 1:
                    yield group, DrawnPath(_placed(xy, way), look.fill, look.stroke)
        elif kind in ("g", "svg", "a", "switch"):
            yield from self._inside(child, way, look, group, depth)

    def _look(self, element: Element, above: Look) -> Look:
        said: dict[str, str] = {}
        for name in ("fill", "stroke", "display", "visibility", "opacity"):
            value = element.get(name)
            if value is not None:
                said[name] = value
        for name in (element.get("class") or "").split():
            said.update(self._classes.get(name, {}))
        said.update(_declared(element.get("style") or ""))
        hidden = _hides(said)
        return Look(
            _colour(said["fill"], above.fill) if "fill" in said else above.fill,
            _colour(said["stroke"], above.stroke) if "stroke" in said else above.stroke,
            hidden,
        )


def is_hidden(element: Element) -> bool:
    """Whether an element says of itself that it is not shown."""
    own = {name: value for name in ("display", "visibility", "opacity") if (value := element.get(name)) is not None}
    return _hides(own | _declared(element.get("style") or ""))


def _hides(said: Mapping[str, str]) -> bool:
    if said.get("display") == "none" or said.get("visibility") in ("hidden", "collapse"):
        return True
    return said.get("opacity", "") != "" and _number(said["opacity"]) == 0


def _declared(body: str) -> dict[str, str]:
    pairs = (part.partition(":") for part in body.split(";") if ":" in part)
    return {name.strip().lower(): value.strip() for name, _, value in pairs}


def _colour(text: str, above: str) -> str:
    if text in ("inherit", "currentColor"):
        return above
    if text in ("none", "transparent"):
        return ""
    try:
        found = Color(text)
    except (ValueError, TypeError):
        return text[:40]
    return f"#{found.red:02X}{found.green:02X}{found.blue:02X}" if found.value is not None else text[:40]


def _number(text: str | None) -> float:
    found = _NUMBER.match((text or "").strip())
    return float(found[0]) if found else 0.0


def _placed(xy: Floats, way: Matrix) -> Floats:
    a, b, c, d, e, f = (float(v) for v in (way.a, way.b, way.c, way.d, way.e, way.f))
    return np.column_stack([a * xy[:, 0] + c * xy[:, 1] + e, b * xy[:, 0] + d * xy[:, 1] + f])


def _lines(kind: str, element: Element) -> Iterator[Floats]:
    """The vertices of a shape, line by line; of curves where they end."""

    def number(name: str) -> float:
        return _number(element.get(name))

    if kind == "path":
        pen = RecordingPen()
        parse_path(element.get("d") or "", pen)
        line: list[tuple[float, float]] = []
        for command, places in pen.value:
            if command == "moveTo":
                yield np.array(line).reshape(-1, 2)
                line = []
            if places:
                line.append(places[-1])
        yield np.array(line).reshape(-1, 2)
    elif kind in ("polyline", "polygon"):
        values = [float(v) for v in _NUMBER.findall(element.get("points") or "")]
        yield np.array(values[: len(values) // 2 * 2]).reshape(-1, 2)
    elif kind == "line":
        yield np.array([(number("x1"), number("y1")), (number("x2"), number("y2"))])
    else:
        x, y, w, h = number("x"), number("y"), number("width"), number("height")
        if kind in ("circle", "ellipse"):
            rx, ry = number("rx") or number("r"), number("ry") or number("r")
            x, y, w, h = number("cx") - rx, number("cy") - ry, 2 * rx, 2 * ry
        yield np.array([(x, y), (x + w, y), (x + w, y + h), (x, y + h)])

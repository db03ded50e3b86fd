"""Ink to SVG in millimetres for pages of ours and swatches, which bring the fonts; files are written elsewhere."""

from __future__ import annotations

import base64
import re
from collections.abc import Sequence
from dataclasses import replace
from itertools import count, pairwise

import numpy as np
import shapely

from orvik.core.colour.hex import is_colour
from orvik.core.coordinates import PageBox
from orvik.core.ink.lattice import EVERYWHERE, block, lattice, within
from orvik.core.ink.paths import Paths, beside
from orvik.core.ink.primitives import (
    HALO,
    LEADER,
    Fill,
    Group,
    Item,
    LineStyle,
    Marks,
    Ornaments,
    Pattern,
    Picture,
    Stamp,
    Stroke,
    Text,
)
from orvik.core.lettering import font_face
from orvik.press.xml_text import xml_text

# A pattern of more tiles than this is drawn by blocks of so many tiles across and down: browsers are slow with
# thousands of references.
FEW_TILES, BLOCK = 64, 6
# Coordinates from here on are written with all their figures.
LONG = 1e5


def fragment(items: Sequence[Item], prefix: str) -> str:
    """SVG elements for a page of ours, which brings the fonts; ids start with ``prefix``."""
    painter = _Painter(prefix)
    body = painter.paint(items)
    return f"<defs>{painter.defs()}</defs>{body}"


def swatch(items: Sequence[Item], width: float, height: float, label: str, prefix: str) -> str:
    """A small picture of a symbol at true size, with its name for those who cannot see it."""
    return (
        f'<svg class="swatch" xmlns="http://www.w3.org/2000/svg" width="{width:g}mm" height="{height:g}mm" '
        f'viewBox="0 0 {width:g} {height:g}" role="img" aria-label="{xml_text(label)}">'
        f"{fragment(items, prefix)}</svg>"
    )


class _Painter:
    def __init__(self, prefix: str) -> None:
        self.prefix = _name(prefix)
        # Left, top, right and bottom of what is shown of the items that are painted now.
        self.window: PageBox = EVERYWHERE
        self._defs: list[str] = []
        self._numbers = count()

    def defs(self) -> str:
        return "".join(self._defs)

    def paint(self, items: Sequence[Item]) -> str:
        return "".join(self._one(item) for item in items)

    def _one(self, item: Item) -> str:
        if isinstance(item, Stroke):
            return self._stroke(item)
        if isinstance(item, Fill):
            return area_data(item)
        if isinstance(item, Text):
            return text_data(item)
        if isinstance(item, Marks | Ornaments):
            return self._marks(item)
        if isinstance(item, Pattern):
            return self._pattern(item)
        if isinstance(item, Picture):
            return picture_of(item)
        return self._group(item)

    def _stroke(self, stroke: Stroke) -> str:
        if not len(stroke.paths):
            return ""
        paths = beside(stroke.paths, stroke.style.offset) if stroke.style.offset else stroke.paths
        return f'<path d="{path_data(paths)}" fill="none" {style_of(stroke.style)}/>'

    def _marks(self, marks: Marks | Ornaments) -> str:
        if not len(marks.at):
            return ""
        name = self._stamp(marks.stamp)
        at, angles = marks.at.tolist(), marks.angles.tolist()
        if not any(angles):
            return "".join([f'<use href="#{name}" x="{x:.3f}" y="{y:.3f}"/>' for x, y in at])
        return "".join(
            f'<use href="#{name}" transform="translate({x:.3f} {y:.3f}) rotate({angle:.3f})"/>'
            for (x, y), angle in zip(at, angles, strict=True)
        )

    def _pattern(self, pattern: Pattern) -> str:
        at = lattice(pattern, self.window)
        if len(at) > FEW_TILES:
            pattern = replace(pattern, tile=block(pattern.tile, BLOCK))
            at = lattice(pattern, self.window)
        if not len(at):
            return ""
        clip = self._clip(pattern.paths)
        tiles = Marks(Stamp(pattern.tile.name, pattern.tile.items), at, np.zeros(len(at)))
        return f'<g clip-path="url(#{clip})">{self._marks(tiles)}</g>'

    def _clip(self, paths: Paths) -> str:
        name = f"{self.prefix}-{next(self._numbers)}"
        shape = f'<path d="{path_data(paths, close=True)}"/>'
        self._defs.append(f'<clipPath id="{name}">{shape}</clipPath>')
        return name

    def _stamp(self, stamp: Stamp) -> str:
        name = f"{self.prefix}-{next(self._numbers)}"
        self._defs.append(f'<g id="{name}">{self.paint(stamp.items)}</g>')
        return name

    def _group(self, group: Group) -> str:
        attributes = f'data-name="{xml_text(group.name)}"'
        around = self.window
        if group.clip is not None:
            attributes += f' clip-path="url(#{self._clip(group.clip)})"'
            self.window = within(around, group.clip)
        if group.opacity < 1:
            attributes += f' opacity="{group.opacity:g}"'
        if group.multiply:
            attributes += ' class="multiply"'
        painted = f"<g {attributes}>{self.paint(group.items)}</g>"
        self.window = around
        return painted


def colour_of(colour: str) -> str:
    """A colour as it may stand in an attribute: six digits, whatever a file has put in its place."""
    return colour if is_colour(colour) else "#000000"


def _name(text: str) -> str:
    """A text as it may stand in an identifier."""
    return re.sub(r"[^A-Za-z0-9_-]+", "-", text)


def _together(fill: Fill) -> Paths | None:
    """Areas that are plain rings as one path that can be filled by winding; None where they are not.

    All run the same way round, so that both are filled where two overlap. A ring that crosses or touches itself is
    filled even-odd, and stays alone.
    """
    count = len(fill.paths)
    if count < 2 or len(fill.parts) != count + 1:
        return None
    rings = [fill.paths[i] for i in range(count)]
    if min(map(len, rings)) < 3:
        return None
    areas = [shapely.Polygon(ring) for ring in rings]
    if not all(area.is_valid for area in areas):
        return None
    turned = [ring[::-1] if area.exterior.is_ccw else ring for ring, area in zip(rings, areas, strict=True)]
    return Paths(np.vstack(turned), fill.paths.starts)


def path_data(paths: Paths, close: bool = False) -> str:
    places = np.round(paths.xy, 3)
    if np.abs(places).max(initial=0.0) < LONG:
        # All at once, which takes half of the time.
        texts = ("%g %g\n" * len(places) % tuple(places.ravel().tolist())).split("\n")
    else:
        texts = [f"{x} {y}" for x, y in places.tolist()]
    starts = paths.starts.tolist()
    pieces = ["M" + "L".join(texts[a:b]) for a, b in pairwise(starts) if b - a > 1]
    return ("Z".join(pieces) + "Z") if close and pieces else "".join(pieces)


def style_of(style: LineStyle) -> str:
    dash = f' stroke-dasharray="{" ".join(f"{d:g}" for d in style.dash)}"' if style.dash else ""
    return (
        f'stroke="{colour_of(style.colour)}" stroke-width="{style.width:g}" stroke-linecap="{xml_text(style.cap)}" '
        f'stroke-linejoin="{xml_text(style.join)}"{dash}'
    )


def picture_of(picture: Picture) -> str:
    a, b, c, d, e, f = picture.place
    data = base64.b64encode(picture.png).decode()
    return (
        f'<image transform="matrix({a:.6f} {d:.6f} {b:.6f} {e:.6f} {c:.6f} {f:.6f})" width="1" height="1" '
        f'preserveAspectRatio="none" href="data:image/png;base64,{data}"/>'
    )


def area_data(fill: Fill) -> str:
    """Areas as elements, each with its edge spread."""
    spread, colour = "", colour_of(fill.colour)
    together = None if fill.spread else _together(fill)
    if together is not None:
        return f'<path d="{path_data(together, close=True)}" fill="{colour}" fill-rule="nonzero"/>'
    if fill.spread:
        spread = f' stroke="{colour}" stroke-width="{fill.spread * 2:g}" stroke-linejoin="round"'
    out = []
    for first, last in zip(fill.parts[:-1], fill.parts[1:], strict=True):
        start, stop = fill.paths.starts[first], fill.paths.starts[last]
        area = Paths(fill.paths.xy[start:stop], fill.paths.starts[first : last + 1] - start)
        out.append(f'<path d="{path_data(area, close=True)}" fill="{colour}" fill-rule="evenodd"{spread}/>')
    return "".join(out)


def text_data(text: Text, name: str = "") -> str:
    """A text as elements, one for each font, with its leader; ``name`` is an attribute of the first."""
    x, y = text.at[0] + text.offset[0], text.at[1] + text.offset[1]
    turn = f" rotate({text.angle:.3f})" if text.angle else ""
    out = [leader_data(text)]
    for font, chars, at in text.run.pieces():
        family, weight, slant = font_face(font)
        places = " ".join(f"{p:.3f}" for p in at)
        out.append(
            f'<text{name} transform="translate({x:.3f} {y:.3f}){turn}" x="{places}" xml:space="preserve" '
            f'font-family="{family}" font-weight="{weight}" font-style="{slant}" '
            f'font-size="{text.run.size:g}" fill="{colour_of(text.colour)}"{halo_of(text)}>{xml_text(chars)}</text>'
        )
        name = ""
    return "".join(out)


def halo_of(text: Text) -> str:
    """The attributes of a text's halo, if it has one."""
    if not text.halo:
        return ""
    return f' stroke="{colour_of(text.halo)}" stroke-width="{HALO:g}" stroke-linejoin="round" paint-order="stroke"'


def leader_data(text: Text) -> str:
    """The thin line that leads to a text's place, if it has one."""
    if text.leader is None:
        return ""
    x, y = text.at
    return (
        f'<path d="M{x + text.leader[0]:.3f} {y + text.leader[1]:.3f}L{x:.3f} {y:.3f}" fill="none" '
        f'stroke="{colour_of(text.colour)}" stroke-width="{LEADER:g}"/>'
    )

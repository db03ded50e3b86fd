"""Ink to SVG files that are finished elsewhere: a named group for each layer and part, and nothing that clips.

The unit of the file is the millimetre; its frame is the page. What it is given is cut already (``core.ink_cut``).
"""

from __future__ import annotations

import base64
from collections.abc import Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from itertools import count

from fontTools.pens.svgPathPen import SVGPathPen
from fontTools.pens.transformPen import TransformPen
from slugify import slugify

from orvik.core.features.table import TABLES
from orvik.core.ink.cut import drawn_out
from orvik.core.ink.paths import Paths, beside
from orvik.core.ink.primitives import Fill, Group, Item, Marks, Ornaments, Pattern, Stamp, Stroke, Text, walk
from orvik.core.ink.thin import curve_of
from orvik.core.lettering import FONTS, OWN, draw_letter, font_bytes, font_face
from orvik.core.progress import Tell, tell_nobody
from orvik.press.pattern_pieces import tiles
from orvik.press.svg import (
    area_data,
    colour_of,
    halo_of,
    leader_data,
    path_data,
    picture_of,
    style_of,
    text_data,
)
from orvik.press.xml_text import xml_text


@dataclass(frozen=True)
class Manner:
    """How a file is written.

    Attributes
    ----------
    outlines
        Whether letters are drawn as areas instead of text.
    symbols
        Whether each symbol and pattern stands in the file once and is referred to; else all are drawn out.
    smooth
        Within how many millimetres lines are drawn as curves; 0 for as they are.
    """

    outlines: bool = False
    symbols: bool = True
    smooth: float = 0.0


def document(
    items: Sequence[Item],
    width: float,
    height: float,
    title: str,
    said: str = "",
    manner: Manner | None = None,
    tell: Tell = tell_nobody,
) -> str:
    """A self-contained SVG file of a page.

    Parameters
    ----------
    said
        What the file says of itself: its true scale.
    """
    tell(0.0, "cutting the patterns")
    painter = _FilePainter(manner or Manner(), _tiled(items))
    body = []
    for i, item in enumerate(items):
        tell(i / max(len(items), 1), "writing the file")
        body.append(painter.paint_part(item))
    faces = "".join(_face(name) for name in sorted(painter.fonts))
    style = f"<style>{faces}</style>" if faces else ""
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:g}mm" height="{height:g}mm" '
        f'viewBox="0 0 {width:g} {height:g}"><title>{xml_text(title)}</title><desc>{xml_text(said)}</desc>'
        f"{style}<defs>{''.join(painter.defs)}</defs>"
        f'<rect id="paper" width="{width:g}" height="{height:g}" fill="#FFFFFF"/>{"".join(body)}</svg>'
    )


def _tiled(items: Sequence[Item]) -> dict[int, list[Item]]:
    """The tiles of all patterns by their identity, cut side by side: GEOS lets go of the interpreter meanwhile."""
    patterns = [item for item in walk(items) if isinstance(item, Pattern)]
    with ThreadPoolExecutor() as pool:
        return dict(zip(map(id, patterns), pool.map(tiles, patterns), strict=True))


class _FilePainter:
    def __init__(self, manner: Manner, tiled: Mapping[int, list[Item]]) -> None:
        self.manner = manner
        self._tiled = tiled
        self.fonts: set[str] = set()
        self.defs: list[str] = []
        self._names: set[str] = {"paper"}
        self._stamps: dict[int, tuple[Stamp, str]] = {}
        # The part that is being drawn: its texts are named after it, so that they are known in a returned file.
        self._part = ""

    def paint_part(self, item: Item) -> str:
        """An item of the page, a part of the sheet."""
        self._part = item.name if isinstance(item, Group) else ""
        return self._one(item)

    def paint(self, items: Sequence[Item]) -> str:
        return "".join(self._one(item) for item in items)

    def _one(self, item: Item) -> str:
        if isinstance(item, Stroke):
            return self._stroke(item)
        if isinstance(item, Fill):
            return area_data(item)
        if isinstance(item, Text):
            return self._text(item)
        if isinstance(item, Marks | Ornaments):
            return self._marks(item)
        if isinstance(item, Pattern):
            return self._pattern(item)
        if isinstance(item, Group):
            return self._group(item)
        return picture_of(item)

    def _named(self, name: str) -> str:
        """An id that can be read, and that no other element has."""
        stem = slugify(name, lowercase=False, max_length=80) or "group"
        for number in count(1):
            made = stem if number == 1 else f"{stem}-{number}"
            if made not in self._names:
                self._names.add(made)
                return made
        raise AssertionError("there is always another number")

    def _text_name(self, text: Text) -> str:
        """The id of a text: of a label by its feature, else by its part."""
        if not self._part or (text.run.fonts and not self.manner.outlines):
            # Of several fonts it comes in several pieces, none of which is the whole.
            return ""
        if text.key is None:
            return f' id="{self._named(f"{self._part}-text")}"'
        table, number = TABLES[text.key % len(TABLES)], text.key // len(TABLES)
        return f' id="{self._named(f"{self._part}-label-{table}-{number}")}"'

    def _stroke(self, stroke: Stroke) -> str:
        if not len(stroke.paths):
            return ""
        smooth, offset = self.manner.smooth, stroke.style.offset
        paths = beside(stroke.paths, offset) if offset else stroke.paths
        data = path_data(paths) if not smooth else _curves(paths, smooth)
        phase = f' stroke-dashoffset="{stroke.style.phase:.3f}"' if stroke.style.phase else ""
        return f'<path d="{data}" fill="none" {style_of(stroke.style)}{phase}/>'

    def _text(self, text: Text) -> str:
        if self.manner.outlines:
            return self._outlines(text)
        self.fonts.update(font for font, _, _ in text.run.pieces())
        return text_data(text, self._text_name(text))

    def _outlines(self, text: Text) -> str:
        """The letters of a text as one area, with what they say for who reads the file."""
        x, y = text.at[0] + text.offset[0], text.at[1] + text.offset[1]
        turn = f" rotate({text.angle:.3f})" if text.angle else ""
        drawn = []
        for font, chars, at in text.run.pieces():
            em = draw_letter(font, " ", SVGPathPen(None))
            k = text.run.size / em
            for char, place in zip(chars, at, strict=True):
                pen = SVGPathPen(None, ntos=lambda v: f"{v:.3f}".rstrip("0").rstrip("."))
                draw_letter(font, char, TransformPen(pen, (k, 0, 0, -k, place, 0)))
                drawn.append(pen.getCommands())
        return (
            f'{leader_data(text)}<path{self._text_name(text)} transform="translate({x:.3f} {y:.3f}){turn}" '
            f'd="{"".join(drawn)}" '
            f'fill="{colour_of(text.colour)}"{halo_of(text)} aria-label="{xml_text(text.run.chars)}"/>'
        )

    def _marks(self, marks: Marks | Ornaments) -> str:
        if not len(marks.at):
            return ""
        if not self.manner.symbols:
            return self.paint(drawn_out(marks))
        name = self._stamp(marks.stamp)
        return "".join(
            f'<use href="#{name}" transform="translate({x:.3f} {y:.3f}) rotate({angle:.3f})"/>'
            for (x, y), angle in zip(marks.at, marks.angles, strict=True)
        )

    def _stamp(self, stamp: Stamp) -> str:
        """The id of a symbol, which stands in the file once however often it is drawn."""
        held = self._stamps.get(id(stamp))
        if held is None:
            name = self._named(stamp.name)
            # ``overflow``: a symbol reaches out from its place to all sides.
            drawn = self.paint(stamp.items)
            self.defs.append(f'<symbol id="{name}" style="overflow:visible">{drawn}</symbol>')
            held = self._stamps[id(stamp)] = (stamp, name)
        return held[1]

    def _pattern(self, pattern: Pattern) -> str:
        """Tile by tile, cut to its areas: what repeats by itself is drawn otherwise by every program."""
        return self.paint(self._tiled[id(pattern)])

    def _group(self, group: Group) -> str:
        attributes = f' id="{self._named(group.title)}"' if group.title else ""
        if group.opacity < 1:
            attributes += f' opacity="{group.opacity:g}"'
        if group.multiply:
            attributes += ' style="mix-blend-mode:multiply"'
        painted = self.paint(group.items)
        if not painted and not group.title:
            return ""
        title = f"<title>{xml_text(group.title)}</title>" if group.title else ""
        return f"<g{attributes}>{title}{painted}</g>" if attributes else painted


def _curves(paths: Paths, tolerance: float) -> str:
    """Path data of lines as curves."""
    out = []
    for i in range(len(paths)):
        first = True
        for piece in curve_of(paths[i], tolerance):
            if first:
                out.append(f"M{piece[0, 0]:.3f} {piece[0, 1]:.3f}")
                first = False
            rest = piece[1:]
            places = " ".join(f"{x:.3f} {y:.3f}" for x, y in rest)
            out.append(f"C{places}" if len(piece) == 4 and len(rest) == 3 else f"L{places}")
    return "".join(out)


def _face(name: str) -> str:
    family, weight, slant = font_face(name)
    own = name.startswith(OWN)
    data = base64.b64encode(font_bytes(name) if own else (FONTS / f"{name}.woff2").read_bytes()).decode()
    kind = "ttf" if own else "woff2"
    return (
        f'@font-face{{font-family:"{family}";font-weight:{weight};font-style:{slant};'
        f"src:url(data:font/{kind};base64,{data})}}"
    )

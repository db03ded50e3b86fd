"""Ink to PDF: vector page operators written directly, fonts embedded, through pikepdf.

Frame: sheet millimetres with y downwards. Coordinates are written as whole micrometres under one scaling
matrix, which keeps them exact to half a micrometre, short, and quick to write.
"""

from __future__ import annotations

import io
import zlib
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from functools import partial
from itertools import pairwise

import numpy as np
import pikepdf
from pikepdf import Array, Dictionary, Name
from PIL import Image

from orvik.core.arrays import Bytes
from orvik.core.coordinates import PageBox
from orvik.core.ink.lattice import EVERYWHERE, lattice, within
from orvik.core.ink.paths import Paths, beside
from orvik.core.ink.primitives import (
    HALO,
    LEADER,
    PAPER,
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
from orvik.core.progress import Tell, tell_nobody
from orvik.core.sheet.output.annotation import Annotation
from orvik.press.inks import Inks, ScreenInks
from orvik.press.pdf_annotations import annotate
from orvik.press.pdf_fonts import PdfFont
from orvik.press.pdf_georeference import Viewport, viewports
from orvik.press.pdf_layers import PdfLayers
from orvik.press.pdf_standard import SCREEN, About, Standard, describe

POINTS_PER_MM = 72 / 25.4
MICRO = 1000.0
_CAPS = {"butt": 0, "round": 1, "square": 2}
_JOINS = {"miter": 0, "round": 1, "bevel": 2}


@dataclass(frozen=True)
class Page:
    """The ink of a page in sheet millimetres, its width and its height, and the ground that it shows.

    ``edge`` is how far within it the page lies when it is trimmed, ``bleed`` how far ink reaches beyond that.
    """

    items: Sequence[Item]
    width: float
    height: float
    views: Sequence[Viewport] = ()
    edge: float = 0.0
    bleed: float = 0.0


def page_pdf(items: Sequence[Item], width: float, height: float, title: str) -> bytes:
    """A PDF of one page; as ``pages_pdf``."""
    return pages_pdf([Page(items, width, height)], About(title))


def pages_pdf(
    pages: Iterable[Page],
    about: About,
    tell: Tell = tell_nobody,
    inks: Inks | None = None,
    standard: Standard = SCREEN,
    notes: Sequence[Annotation] = (),
) -> bytes:
    """A PDF of pages, each of its custom size; groups of ink that have a title are its layers.

    Parameters
    ----------
    inks
        How colours are written; for the screen where nothing is said.
    standard
        What the file keeps to.
    notes
        Annotations of its pages, which readers can answer.
    """
    inks = inks or ScreenInks(smooth=not standard.archive)
    pdf = pikepdf.new()
    fonts: dict[str, PdfFont] = {}
    layers = PdfLayers(pdf)
    heights = []
    for number, page in enumerate(pages, 1):
        heights.append(page.height)
        _add_page(pdf, fonts, layers, page, inks, partial(_tell_page, tell, number))
    for font in fonts.values():
        font.finish()
    layers.finish()
    if notes:
        annotate(pdf, notes, heights, POINTS_PER_MM)
    describe(pdf, about, standard)
    out = io.BytesIO()
    # Readers of the last twenty years know 1.7; PDF/X-4 asks for 1.6.
    of_press = standard.press is not None
    pdf.save(
        out,
        min_version="" if of_press else "1.7",
        force_version="1.6" if of_press else "",
        compress_streams=True,
        recompress_flate=False,
        deterministic_id=True,
    )
    return out.getvalue()


def _tell_page(tell: Tell, number: int, share: float) -> None:
    tell(share, f"writing page {number}")


def _add_page(
    pdf: pikepdf.Pdf,
    fonts: dict[str, PdfFont],
    layers: PdfLayers,
    page: Page,
    inks: Inks,
    told: Callable[[float], None],
) -> None:
    painter = _Painter(pdf, fonts, layers, inks)
    painter.window = (0.0, 0.0, page.width, page.height)
    scale = POINTS_PER_MM / MICRO
    painter.out.append(b"%.10f 0 0 %.10f 0 %.6f cm" % (scale, -scale, page.height * POINTS_PER_MM))
    for i, item in enumerate(page.items, 1):
        painter.paint([item])
        told(i / len(page.items))
    made = Dictionary(
        Type=Name.Page,
        MediaBox=Array([0, 0, round(page.width * POINTS_PER_MM, 4), round(page.height * POINTS_PER_MM, 4)]),
        Resources=painter.resources(),
        Contents=painter.stream(),
    )
    if inks.press:
        # What is laid over what is below is laid so in the inks of the press.
        made.Group = Dictionary(S=Name.Transparency, CS=Name(inks.space), I=True)
    if page.edge or inks.press:
        made.TrimBox = _box(page, page.edge)
        made.BleedBox = _box(page, page.edge - page.bleed)
    if page.views:
        made.VP = viewports(page.views, page.height, POINTS_PER_MM)
    pdf.pages.append(pikepdf.Page(pdf.make_indirect(made)))


def _box(page: Page, within: float) -> Array:
    """A rectangle so far within a page on all sides (ISO 32000-2, 14.11.2)."""
    sides = (within, within, page.width - within, page.height - within)
    return Array([round(side * POINTS_PER_MM, 4) for side in sides])


class _Painter:
    """Writes the operators of one content stream; groups with an opacity become forms of their own."""

    def __init__(self, pdf: pikepdf.Pdf, fonts: dict[str, PdfFont], layers: PdfLayers, inks: Inks) -> None:
        self.pdf = pdf
        self.inks = inks
        self.out: list[bytes] = []
        self.fonts = fonts
        self.layers = layers
        self.properties: dict[str, pikepdf.Object] = {}
        self.used_fonts: set[str] = set()
        self.xobjects: dict[str, pikepdf.Object] = {}
        self.states: dict[str, pikepdf.Object] = {}
        # Left, top, right and bottom of what is shown of the items that are painted now.
        self.window: PageBox = EVERYWHERE

    def paint(self, items: Sequence[Item]) -> None:
        for item in items:
            if isinstance(item, Stroke):
                self._stroke(item)
            elif isinstance(item, Fill):
                self._fill(item)
            elif isinstance(item, Text):
                self._text(item)
            elif isinstance(item, Marks | Ornaments):
                self._marks(item)
            elif isinstance(item, Pattern):
                self._pattern(item)
            elif isinstance(item, Picture):
                self._picture(item)
            else:
                self._group(item)

    def stream(self) -> pikepdf.Object:
        return _packed(self.pdf, b"\n".join(self.out))

    def resources(self) -> Dictionary:
        fonts = {f"/{name}": self.fonts[name].object() for name in sorted(self.used_fonts)}
        return Dictionary(
            Font=Dictionary(fonts),
            XObject=Dictionary(self.xobjects),
            ExtGState=Dictionary(self.states),
            Properties=Dictionary(self.properties),
        )

    def _filled(self, colour: str) -> str:
        return f"{self.inks.operators(colour)} {self.inks.fill}"

    def _drawn(self, colour: str) -> str:
        return f"{self.inks.operators(colour)} {self.inks.stroke}"

    def _over(self, colour: str) -> str:
        """What has lines and letters of a colour overprint, or knock out what lies below."""
        if not self.inks.press:
            return ""
        name = "Over" if self.inks.overprints(colour) else "Out"
        on = name == "Over"
        self.states[f"/{name}"] = Dictionary(OP=on, op=on, OPM=1 if on else 0)
        return f"/{name} gs "

    @property
    def _knocking(self) -> str:
        """What has areas knock out what lies below."""
        return self._over(PAPER)

    def _style(self, style: LineStyle) -> None:
        dash = " ".join(str(round(d * MICRO)) for d in style.dash)
        self.out.append(
            f"{self._over(style.colour)}{self._drawn(style.colour)} {round(style.width * MICRO)} w "
            f"[{dash}] {round(style.phase * MICRO)} d {_CAPS[style.cap]} J {_JOINS[style.join]} j".encode()
        )

    def _stroke(self, stroke: Stroke) -> None:
        if len(stroke.paths) and not self.inks.leaves_out(stroke.style.colour):
            self._style(stroke.style)
            offset = stroke.style.offset
            self.out.append(path_operators(beside(stroke.paths, offset) if offset else stroke.paths, b"S"))

    def _fill(self, fill: Fill) -> None:
        if not len(fill.paths):
            return
        self.out.append(f"{self._knocking}{self._filled(fill.colour)}".encode())
        ending = b"f*"
        if fill.spread:
            self.out.append(f"{self._drawn(fill.colour)} {round(fill.spread * 2 * MICRO)} w [] 0 d 0 J 1 j".encode())
            ending = b"B*"
        for first, last in zip(fill.parts[:-1], fill.parts[1:], strict=True):
            start, stop = fill.paths.starts[first], fill.paths.starts[last]
            area = Paths(fill.paths.xy[start:stop], fill.paths.starts[first : last + 1] - start)
            self.out.append(path_operators(area, b"h", ending))

    def _pattern(self, pattern: Pattern) -> None:
        at = lattice(pattern, self.window)
        if len(at):
            self.out.append(b"q")
            self.out.append(path_operators(pattern.paths, b"h", b"W n"))
            self._marks(Marks(Stamp(pattern.tile.name, pattern.tile.items), at, np.zeros(len(at))))
            self.out.append(b"Q")

    def _marks(self, marks: Marks | Ornaments) -> None:
        if not len(marks.at):
            return
        name = f"M{len(self.xobjects)}"
        inner = _Painter(self.pdf, self.fonts, self.layers, self.inks)
        inner.paint(marks.stamp.items)
        form = inner.stream()
        form.stream_dict.update(
            Dictionary(
                Type=Name.XObject,
                Subtype=Name.Form,
                BBox=Array([-20000, -20000, 20000, 20000]),
                Resources=inner.resources(),
            )
        )
        self.xobjects[f"/{name}"] = form
        angles = np.radians(marks.angles)
        cosines, sines = np.cos(angles), np.sin(angles)
        for (x, y), c, s in zip(np.rint(marks.at * MICRO), cosines, sines, strict=True):
            self.out.append(f"q {c:.6f} {s:.6f} {-s:.6f} {c:.6f} {x:.0f} {y:.0f} cm /{name} Do Q".encode())

    def _text(self, text: Text) -> None:
        angle = np.radians(text.angle)
        c, s = float(np.cos(angle)), float(np.sin(angle))
        x = (text.at[0] + text.offset[0]) * MICRO
        y = (text.at[1] + text.offset[1]) * MICRO
        size = text.run.size * MICRO
        set_pieces = []
        for name, chars, places in text.run.pieces():
            font = self.fonts.setdefault(name, PdfFont(self.pdf, name))
            self.used_fonts.add(name)
            start = places[0] * MICRO
            matrix = f"{c:.6f} {s:.6f} {s:.6f} {-c:.6f} {x + c * start:.1f} {y + s * start:.1f} Tm"
            set_pieces.append(f"/{name} {size:.1f} Tf {matrix} {font.shown(chars, places, text.run.size)} TJ")
        shown = " ".join(set_pieces)
        if not shown:
            return
        if text.leader is not None:
            ax, ay = text.at[0] * MICRO, text.at[1] * MICRO
            begin = f"{ax + text.leader[0] * MICRO:.1f} {ay + text.leader[1] * MICRO:.1f} m"
            style = f"{self._over(text.colour)}{self._drawn(text.colour)} {LEADER * MICRO:g} w [] 0 d 0 J"
            if not self.inks.leaves_out(text.colour):
                self.out.append(f"{style} {begin} {ax:.1f} {ay:.1f} l S".encode())
        if text.halo:
            style = f"{self._knocking}{self._drawn(text.halo)} {HALO * MICRO:g} w [] 0 d 1 J 1 j"
            self.out.append(f"{style} BT 1 Tr {shown} 0 Tr ET".encode())
        if not self.inks.leaves_out(text.colour):
            self.out.append(f"{self._over(text.colour)}{self._filled(text.colour)} BT {shown} ET".encode())

    def _picture(self, picture: Picture) -> None:
        image = Image.open(io.BytesIO(picture.png)).convert("RGBA")
        alpha = np.asarray(image.getchannel("A"))
        name = f"I{len(self.xobjects)}"
        smooth = self.inks.smooth
        stream = _image(self.pdf, self.inks.pixels(np.asarray(image.convert("RGB"))), Name(self.inks.space), smooth)
        if alpha.min() < 255:
            stream.stream_dict.SMask = _image(self.pdf, alpha, Name.DeviceGray, smooth)
        self.xobjects[f"/{name}"] = stream
        a, b, c, d, e, f = (v * MICRO for v in picture.place)
        # The unit square of a PDF image has y upwards; the picture's own has y downwards.
        matrix = (a, d, -b, -e, b + c, e + f)
        self.out.append(f"q {' '.join(f'{v:.3f}' for v in matrix)} cm /{name} Do Q".encode())

    def _group(self, group: Group) -> None:
        if group.title:
            name = f"L{len(self.properties)}"
            self.properties[f"/{name}"] = self.layers.begin(group.title)
            self.out.append(f"/OC /{name} BDC".encode())
            self._grouped(group)
            self.out.append(b"EMC")
            self.layers.end()
        else:
            self._grouped(group)

    def _grouped(self, group: Group) -> None:
        self.out.append(b"q")
        around = self.window
        if group.clip is not None:
            self.out.append(path_operators(group.clip, b"h", b"W n"))
            self.window = within(around, group.clip)
        if group.opacity < 1.0 or group.multiply:
            self._form(group)
        else:
            self.paint(group.items)
        self.window = around
        self.out.append(b"Q")

    def _form(self, group: Group) -> None:
        """A group that is laid over what is below as a whole: a transparency group."""
        inner = _Painter(self.pdf, self.fonts, self.layers, self.inks)
        inner.window = self.window
        inner.paint(group.items)
        form = inner.stream()
        form.stream_dict.update(
            Dictionary(
                Type=Name.XObject,
                Subtype=Name.Form,
                BBox=Array([-10_000_000, -10_000_000, 10_000_000, 10_000_000]),
                Resources=inner.resources(),
                Group=Dictionary(S=Name.Transparency, CS=Name(self.inks.space), I=True),
            )
        )
        name, state = f"G{len(self.xobjects)}", f"S{len(self.states)}"
        self.xobjects[f"/{name}"] = form
        self.states[f"/{state}"] = Dictionary(
            ca=group.opacity, CA=group.opacity, BM=Name.Multiply if group.multiply else Name.Normal
        )
        self.out.append(f"/{state} gs /{name} Do".encode())


def path_operators(paths: Paths, *endings: bytes) -> bytes:
    """``m`` and ``l`` operators of paths.

    With one ending, it follows each path (``S``); with two, the first follows each path and the second
    the last one (``h`` and ``f*``).
    """
    each = endings[0].decode()
    micro = np.rint(paths.xy * MICRO).astype(np.int64)
    starts = paths.starts.tolist()
    values = micro.ravel().tolist()
    templates: dict[int, str] = {}
    pieces = []
    for start, stop in pairwise(starts):
        count = stop - start
        if count < 2:
            continue
        template = templates.get(count)
        if template is None:
            template = "%d %d m " + "%d %d l " * (count - 1) + each
            templates[count] = template
        pieces.append(template % tuple(values[2 * start : 2 * stop]))
    text = "\n".join(pieces)
    if len(endings) > 1:
        text = f"{text} {endings[1].decode()}" if text else "n"
    return text.encode()


def _packed(pdf: pikepdf.Pdf, data: bytes) -> pikepdf.Object:
    # Level 2 packs operators nearly as well as the default at a fraction of the time.
    return pikepdf.Stream(pdf, zlib.compress(data, 2), Filter=Name.FlateDecode)


def _image(pdf: pikepdf.Pdf, pixels: Bytes, space: pikepdf.Name, smooth: bool) -> pikepdf.Object:
    stream = pikepdf.Stream(pdf, zlib.compress(pixels.tobytes(), 6), Filter=Name.FlateDecode)
    stream.stream_dict.update(
        Dictionary(
            Type=Name.XObject,
            Subtype=Name.Image,
            Width=pixels.shape[1],
            Height=pixels.shape[0],
            ColorSpace=space,
            BitsPerComponent=8,
            Interpolate=smooth,
        )
    )
    return stream

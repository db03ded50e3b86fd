"""Files for sheets as they are given, made into what is kept; and what is kept, made into what it shows."""

from __future__ import annotations

import io
import warnings
from functools import lru_cache

import numpy as np
import shapely
from PIL import Image, ImageOps

from orvik.core.colour.hex import is_colour
from orvik.core.errors import SheetRefused
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Fill, Item, LineStyle, Stroke
from orvik.core.sheet.page.sheet_file import Drawn, KeptFile
from orvik.exchange.sheets.svg_shapes import SubPath, SvgUse, read_shapes, view_box

LARGEST_FILE = 64_000_000
MOST_DOTS = 64_000_000
DRAWING = SvgUse("drawing", SheetRefused, 8_000_000, 40_000, 800_000)
_FORMATS = ("PNG", "JPEG", "TIFF", "WEBP", "GIF", "BMP")
# Pictures whose modes these are stay as they are; others become colours, with what is seen through if there is such.
_PLAIN = ("L", "RGB", "RGBA")


def picture_or_drawing(name: str, data: bytes) -> KeptFile:
    """A picture as a PNG that stands upright, or a drawing as it is.

    Raises
    ------
    SheetRefused
        It is neither, it is damaged, or it is too large. Nothing of it is taken in.
    """
    if len(data) > LARGEST_FILE:
        raise SheetRefused(f"{name} has more than {LARGEST_FILE // 1_000_000} MB; make it smaller for a sheet.")
    if not data:
        raise SheetRefused(f"{name} is empty; choose another file.")
    if data.lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"<"):
        drawing_of(data)
        return KeptFile(name, "drawing", data)
    return KeptFile(name, "picture", _png(name, data))


def _png(name: str, data: bytes) -> bytes:
    try:
        with warnings.catch_warnings():
            # What is too large is refused below, before anything of it is unpacked.
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            image = Image.open(io.BytesIO(data), formats=_FORMATS)
            if image.width * image.height > MOST_DOTS:
                raise SheetRefused(_too_many(name))
            upright = ImageOps.exif_transpose(image)
            if upright.mode.startswith(("I", "F")):
                upright = _eight_bits(upright)
            if upright.mode not in _PLAIN:
                upright = upright.convert("RGBA" if upright.has_transparency_data else "RGB")
            out = io.BytesIO()
            upright.save(out, "PNG")
    except Image.DecompressionBombError as error:
        raise SheetRefused(_too_many(name)) from error
    except (OSError, SyntaxError, ValueError, EOFError, MemoryError) as error:
        raise SheetRefused(
            f"{name} cannot be read as a picture; choose a PNG, JPEG, TIFF, WebP or a plain SVG that is whole."
        ) from error
    return out.getvalue()


def _eight_bits(image: Image.Image) -> Image.Image:
    """A grey picture of more than eight bits with the greys that it has: whole numbers by the bits that hold the
    brightest of them, and shares of one as they are."""
    values = np.nan_to_num(np.asarray(image, dtype=float), nan=0.0, posinf=0.0, neginf=0.0)
    greatest = float(values.max(initial=0.0))
    if image.mode == "F" and greatest <= 1.0:
        full = 1.0
    else:
        full = next((float(2**bits - 1) for bits in (8, 12, 16) if greatest <= 2**bits - 1), greatest)
    return Image.fromarray(np.clip(np.round(values / full * 255), 0, 255).astype(np.uint8), "L")


def _too_many(name: str) -> str:
    return (
        f"{name} has too many dots: a picture on a sheet has {MOST_DOTS // 1_000_000} million at the most. Make it "
        f"smaller, or import it as an underlay if it lies on the ground."
    )


def shown(kept: KeptFile, most: int | None = None) -> Drawn:
    """What a picture or a drawing shows; a picture with no more dots a side than ``most``, for a screen."""
    if kept.kind == "drawing":
        return drawing_of(kept.data)
    return _picture(kept.data, most)


@lru_cache(maxsize=16)
def _picture(png: bytes, most: int | None) -> Drawn:
    image = Image.open(io.BytesIO(png), formats=("PNG",))
    width, height = image.size
    if most is None or max(width, height) <= most:
        return Drawn(width, height, png=png)
    image.thumbnail((most, most))
    out = io.BytesIO()
    image.save(out, "PNG")
    return Drawn(width, height, png=out.getvalue())


@lru_cache(maxsize=16)
def drawing_of(data: bytes) -> Drawn:
    """The ink of a drawing; raises SheetRefused where it is none, or holds what could be more than one."""
    drawing = read_shapes(data, DRAWING)
    box = view_box(drawing.root)
    if box is None:
        xy = np.vstack([points for _, paths in drawing.shapes for points, _ in paths])
        low, high = xy.min(axis=0), xy.max(axis=0)
        box = (float(low[0]), float(low[1]), float(high[0] - low[0]), float(high[1] - low[1]))
    left, top, width, height = box
    if not (width > 0 and height > 0):
        raise SheetRefused("This drawing has no size; draw it larger.")
    corner = np.array([left, top])
    items: list[Item] = []
    for shape, paths in drawing.shapes:
        placed = [(xy - corner, closed) for xy, closed in paths]
        fill, outline = _colour(shape.fill), _colour(shape.stroke)
        rings = [np.vstack([xy, xy[:1]]) for xy, _ in placed if len(xy) > 2]
        if fill and rings:
            even_odd = str(shape.values.get("fill-rule", "")) == "evenodd"
            filled = rings if even_odd or len(rings) == 1 else _by_winding(rings)
            if filled:
                items.append(Fill(fill, Paths.of(*filled), np.array([0, len(filled)])))
        if outline and shape.stroke_width:
            items.append(Stroke(LineStyle(float(shape.stroke_width), outline, join="miter"), _lines(placed)))
    return Drawn(width, height, tuple(items))


def _lines(paths: list[SubPath]) -> Paths:
    return Paths.of(*(np.vstack([xy, xy[:1]]) if closed else xy for xy, closed in paths))


def _by_winding(rings: list[np.ndarray]) -> list[np.ndarray]:
    """Rings that fill even-odd what these fill by their winding: those that run the other way are holes."""
    areas = [shapely.Polygon(ring) for ring in rings]
    turn = max(areas, key=lambda area: area.area).exterior.is_ccw
    same = shapely.union_all([shapely.make_valid(a) for a in areas if a.exterior.is_ccw == turn])
    holes = shapely.union_all([shapely.make_valid(a) for a in areas if a.exterior.is_ccw != turn])
    ground = shapely.difference(same, holes)
    parts = [part for part in shapely.get_parts(ground) if isinstance(part, shapely.Polygon) and part.area > 0]
    return [shapely.get_coordinates(ring) for part in parts for ring in (part.exterior, *part.interiors)]


def _colour(colour: object) -> str:
    """Six figures, or empty for none."""
    value = str(getattr(colour, "hexrgb", None) or "").upper()
    if len(value) == 4:
        value = "#" + "".join(2 * c for c in value[1:])
    if not is_colour(value):
        return ""
    return INK if value == "#000000" else value

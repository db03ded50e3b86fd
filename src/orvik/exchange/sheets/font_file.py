"""Fonts as they are given, made into what is kept: a TrueType file that may be embedded."""

from __future__ import annotations

import io
from typing import TYPE_CHECKING

from orvik.core.errors import SheetRefused
from orvik.core.sheet.page.sheet_file import KeptFile

if TYPE_CHECKING:
    from fontTools.ttLib import TTFont

LARGEST_FONT = 20_000_000
# Curves of another kind become those of TrueType within this share of the body.
WITHIN = 0.001
# OpenType 1.9, OS/2: the bit of fsType that forbids embedding.
_RESTRICTED = 0x0002
_KEPT = {"cmap", "glyf", "loca", "head", "hhea", "hmtx", "maxp", "name", "OS/2", "post", "GPOS", "GSUB", "GDEF", "kern"}


def font_of(name: str, data: bytes) -> KeptFile:
    """A font to be kept with a project.

    Raises
    ------
    SheetRefused
        It is none, it is damaged or too large, or it may not be embedded.
    """
    from fontTools.ttLib import TTFont, TTLibError

    if len(data) > LARGEST_FONT:
        raise SheetRefused(f"{name} has more than {LARGEST_FONT // 1_000_000} MB; a font for a sheet is smaller.")
    if data[:4] == b"wOF2":
        raise SheetRefused(f"{name} is a font for web pages (WOFF2); choose its TrueType or OpenType file.")
    try:
        font = TTFont(io.BytesIO(data), lazy=False)
        if font["OS/2"].fsType & _RESTRICTED:
            raise SheetRefused(f"{name} says that it may not be embedded, which a PDF needs; choose another font.")
        if not font.getBestCmap():
            raise SheetRefused(f"{name} says of no letter how it is drawn; choose another font.")
        if "glyf" not in font:
            _to_truetype(font)
        for table in set(font.keys()) - _KEPT - {"GlyphOrder"}:
            del font[table]
        font.flavor = None
        out = io.BytesIO()
        # Its own dates, so that the same file becomes the same font.
        font.recalcTimestamp = False
        font.save(out)
    except SheetRefused:
        raise
    except (TTLibError, OSError, LookupError, ValueError, TypeError, AttributeError, AssertionError) as error:
        raise SheetRefused(f"{name} cannot be read as a font; choose a TrueType or OpenType file.") from error
    return KeptFile(name, "font", out.getvalue())


def _to_truetype(font: TTFont) -> None:
    """Draw the glyphs with curves of the second degree, as TrueType has them."""
    from fontTools.pens.cu2quPen import Cu2QuPen
    from fontTools.pens.ttGlyphPen import TTGlyphPen
    from fontTools.ttLib import newTable

    glyphs, order = font.getGlyphSet(), font.getGlyphOrder()
    drawn = {}
    for glyph in order:
        pen = TTGlyphPen(glyphs)
        glyphs[glyph].draw(Cu2QuPen(pen, WITHIN * font["head"].unitsPerEm, reverse_direction=True))
        drawn[glyph] = pen.glyph()
    font["loca"], font["glyf"] = newTable("loca"), newTable("glyf")
    font["glyf"].glyphOrder, font["glyf"].glyphs = order, drawn
    maxp = font["maxp"]
    maxp.tableVersion = 0x00010000
    for name in (
        "maxTwilightPoints",
        "maxStorage",
        "maxFunctionDefs",
        "maxInstructionDefs",
        "maxStackElements",
        "maxSizeOfInstructions",
        "maxComponentElements",
    ):
        setattr(maxp, name, 0)
    maxp.maxZones = 1
    font["post"].formatType = 3.0
    font["post"].glyphOrder = order
    font.sfntVersion = "\000\001\000\000"
    for table in ("CFF ", "CFF2", "VORG"):
        if table in font:
            del font[table]

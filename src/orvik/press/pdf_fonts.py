"""Fonts in PDF: TrueType files embedded whole as Type 0 fonts, text addressed by glyph."""

from __future__ import annotations

import hashlib
import io
import re
import zlib
from functools import lru_cache
from typing import Any

import pikepdf
import uharfbuzz as hb
from fontTools.ttLib import TTFont
from pikepdf import Array, Dictionary, Name, String

from orvik.core.features.age_letters import SPOKEN
from orvik.core.lettering import OWN, font_bytes


@lru_cache(maxsize=16)
def _face(name: str) -> tuple[bytes, dict[int, int], list[int], Any]:
    """File bytes, glyph by character, advance by glyph (in thousandths), and the font's tables."""
    data = font_bytes(name)
    font = TTFont(io.BytesIO(data))
    order = {glyph: i for i, glyph in enumerate(font.getGlyphOrder())}
    glyphs = {code: order[glyph] for code, glyph in font.getBestCmap().items()}
    scale = 1000 / font["head"].unitsPerEm
    widths = [round(font["hmtx"][glyph][0] * scale) for glyph in font.getGlyphOrder()]
    return data, glyphs, widths, font


class PdfFont:
    """One font of a document."""

    def __init__(self, pdf: pikepdf.Pdf, name: str) -> None:
        self.pdf = pdf
        self.name = name
        self.file, self.glyphs, self.widths, self.font = _face(name)
        self.used: dict[int, int] = {}
        self._object: pikepdf.Object | None = None

    def shown(self, chars: str, x: tuple[float, ...], size: float) -> str:
        """The array of a TJ operator that sets characters at their places in millimetres."""
        pieces, pen = [], x[0] if x else 0.0
        for char, place in zip(chars, x, strict=True):
            glyph = self.glyphs.get(ord(char), 0)
            self.used[glyph] = ord(char)
            shift = round((pen - place) / size * 1000, 2)
            if abs(shift) >= 0.5:
                pieces.append(f"{shift:g}")
                pen = place
            pieces.append(f"<{glyph:04X}>")
            pen += self.widths[glyph] / 1000 * size
        return f"[{''.join(pieces)}]"

    def object(self) -> pikepdf.Object:
        """The font dictionary, for the pages to refer to; ``finish`` fills it."""
        if self._object is None:
            self._object = self.pdf.make_indirect(Dictionary())
        return self._object

    def finish(self) -> None:
        """Fill the dictionary, when the characters that all pages use are known."""
        if self._object is not None:
            for key, value in self._dictionary().items():
                self._object[key] = value

    def _dictionary(self) -> Dictionary:
        head, os2, hhea = self.font["head"], self.font["OS/2"], self.font["hhea"]
        scale = 1000 / head.unitsPerEm
        data = self._subset()
        file = pikepdf.Stream(self.pdf, zlib.compress(data), Filter=Name.FlateDecode, Length1=len(data))
        # A font of one's own is called what it calls itself.
        called = str(self.font["name"].getDebugName(6) or self.name) if self.name.startswith(OWN) else self.name
        base = Name(f"/{self._tag()}+" + re.sub(r"[^A-Za-z0-9-]+", "-", called)[:60])
        italic = "Italic" in called
        descriptor = Dictionary(
            Type=Name.FontDescriptor,
            FontName=base,
            Flags=4 | (64 if italic else 0),
            FontBBox=Array([round(v * scale) for v in (head.xMin, head.yMin, head.xMax, head.yMax)]),
            ItalicAngle=-12 if italic else 0,
            Ascent=round(hhea.ascent * scale),
            Descent=round(hhea.descent * scale),
            CapHeight=round(getattr(os2, "sCapHeight", 660) * scale),
            StemV=80,
            FontFile2=self.pdf.make_indirect(file),
        )
        descendant = Dictionary(
            Type=Name.Font,
            Subtype=Name.CIDFontType2,
            BaseFont=base,
            CIDSystemInfo=Dictionary(Registry=String("Adobe"), Ordering=String("Identity"), Supplement=0),
            FontDescriptor=self.pdf.make_indirect(descriptor),
            DW=1000,
            W=Array([0, Array(self.widths)]),
            CIDToGIDMap=Name.Identity,
        )
        return Dictionary(
            Type=Name.Font,
            Subtype=Name.Type0,
            BaseFont=base,
            Encoding=Name("/Identity-H"),
            DescendantFonts=Array([self.pdf.make_indirect(descendant)]),
            ToUnicode=self.pdf.make_stream(self._to_unicode()),
        )

    def _subset(self) -> bytes:
        """The font with the glyphs that are used, under the numbers that they have."""
        wanted = hb.SubsetInput()
        wanted.glyph_set.update(set(self.used))
        wanted.flags = hb.SubsetFlags.RETAIN_GIDS | hb.SubsetFlags.NO_HINTING | hb.SubsetFlags.NOTDEF_OUTLINE
        # Letters are set already.
        wanted.drop_table_tag_set.update({int.from_bytes(tag, "big") for tag in (b"GSUB", b"GPOS", b"GDEF", b"kern")})
        return bytes(hb.subset(hb.Face(self.file), wanted).blob.data)

    def _tag(self) -> str:
        """Six capitals that tell one subset from another (ISO 32000-2, 9.9.2)."""
        digest = hashlib.sha256(repr(sorted(self.used)).encode()).digest()
        return "".join(chr(65 + byte % 26) for byte in digest[:6])

    def _to_unicode(self) -> bytes:
        rows = [
            f"<{glyph:04X}> <{SPOKEN.get(chr(code), chr(code)).encode('utf-16-be').hex().upper()}>"
            for glyph, code in sorted(self.used.items())
        ]
        blocks = []
        for i in range(0, len(rows), 100):
            block = rows[i : i + 100]
            blocks.append(f"{len(block)} beginbfchar\n" + "\n".join(block) + "\nendbfchar")
        return (
            "/CIDInit /ProcSet findresource begin\n12 dict begin\nbegincmap\n"
            "/CIDSystemInfo << /Registry (Adobe) /Ordering (UCS) /Supplement 0 >> def\n"
            "/CMapName /Adobe-Identity-UCS def\n/CMapType 2 def\n"
            "1 begincodespacerange\n<0000> <FFFF>\nendcodespacerange\n"
            + "\n".join(blocks)
            + "\nendcmap\nCMapName currentdict /CMap defineresource pop\nend\nend\n"
        ).encode()

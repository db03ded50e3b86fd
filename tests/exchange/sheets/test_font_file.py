"""Fonts of one's own: taken in, refused, and set and embedded like ours."""

from __future__ import annotations

import io

import pikepdf
import pypdfium2
import pytest
from fontTools.fontBuilder import FontBuilder
from fontTools.pens.t2CharStringPen import T2CharStringPen
from fontTools.ttLib import TTFont

from orvik.core.errors import SheetRefused
from orvik.core.ink.primitives import INK, Text
from orvik.core.lettering import CAPITALS, FONTS, ITALIC, ROMAN, font_bytes, lend, run
from orvik.exchange.sheets.font_file import font_of
from orvik.press.pdf import page_pdf
from orvik.press.svg_file import document

COMPANION = (FONTS / "Companion-Italic.ttf").read_bytes()


def of_postscript_curves() -> bytes:
    """A font whose A is a disc of 700 across, drawn with curves of the third degree."""
    builder = FontBuilder(1000, isTTF=False)
    builder.setupGlyphOrder([".notdef", "A"])
    builder.setupCharacterMap({65: "A"})
    pen, k = T2CharStringPen(800, None), 350 * 0.5522847498
    pen.moveTo((750, 350))
    pen.curveTo((750, 350 + k), (400 + k, 700), (400, 700))
    pen.curveTo((400 - k, 700), (50, 350 + k), (50, 350))
    pen.curveTo((50, 350 - k), (400 - k, 0), (400, 0))
    pen.curveTo((400 + k, 0), (750, 350 - k), (750, 350))
    pen.closePath()
    empty = T2CharStringPen(500, None)
    builder.setupCFF("Disc", {}, {".notdef": empty.getCharString(), "A": pen.getCharString()}, {})
    builder.setupHorizontalMetrics({".notdef": (500, 0), "A": (800, 50)})
    builder.setupHorizontalHeader(ascent=800, descent=-200)
    builder.setupNameTable({"familyName": "Disc", "styleName": "Regular", "psName": "Disc-Regular"})
    builder.setupOS2()
    builder.setupPost()
    out = io.BytesIO()
    builder.save(out)
    return out.getvalue()


def printed(font: str, text: str, size: float = 20.0) -> bytes:
    return page_pdf([Text(run(text, font, size), (10.0, 30.0), INK)], 60, 40, "a")


@pytest.mark.parametrize("flavour", [None, "woff"])
def test_a_font_is_set_and_embedded_like_ours(flavour: str | None) -> None:
    source = TTFont(io.BytesIO(COMPANION))
    source.flavor = flavour
    given = io.BytesIO()
    source.save(given)
    kept = font_of("House.ttf", given.getvalue())
    assert kept.kind == "font"
    assert kept.checksum == font_of("Other.ttf", given.getvalue()).checksum
    name = lend(kept.checksum, kept.data)
    # As wide as in the face that it was made of, letter for letter.
    assert run("Quennet, ΔΩ", name, 5.0).x == run("Quennet, ΔΩ", "Companion-Italic", 5.0).x
    data = printed(name, "Quennet", 8.0)
    assert pypdfium2.PdfDocument(data)[0].get_textpage().get_text_bounded().strip() == "Quennet"
    with pikepdf.open(io.BytesIO(data)) as pdf:
        (font,) = pdf.pages[0].Resources.Font.values()
        descriptor = font.DescendantFonts[0].FontDescriptor
        assert "/FontFile2" in descriptor
        assert str(descriptor.FontName)[7:] == "+" + str(source["name"].getDebugName(6))
    drawn = document([Text(run("Quennet", name, 5.0), (10.0, 20.0), INK)], 60, 40, "a")
    assert f'font-family="{name}"' in drawn
    assert "data:font/ttf;base64," in drawn


def test_curves_of_the_third_degree_become_those_of_truetype() -> None:
    """A disc of 700 of 1000, 20 mm large: 14 mm across, within a hundredth of a millimetre of a dot."""
    kept = font_of("Disc.otf", of_postscript_curves())
    font = TTFont(io.BytesIO(kept.data))
    assert "glyf" in font
    assert "CFF " not in font
    box = font["glyf"]["A"]
    assert (box.xMin, box.yMin, box.xMax, box.yMax) == (50, 0, 750, 700)
    name = lend(kept.checksum, kept.data)
    assert run("A", name, 20.0).width == pytest.approx(16.0)
    page = pypdfium2.PdfDocument(printed(name, "A"))[0].render(scale=20 * 25.4 / 72).to_pil().convert("L")
    left, top, right, bottom = page.point(lambda v: 255 - v).getbbox()
    assert [v / 20 for v in (left, top, right, bottom)] == pytest.approx([11.0, 16.0, 25.0, 30.0], abs=0.06)
    # A letter that it lacks is set in the companion.
    assert run("AB", name, 20.0).fonts == (name, "Companion-Regular")


def test_what_is_no_font_or_may_not_be_embedded_is_refused() -> None:
    source = TTFont(io.BytesIO(COMPANION))
    source["OS/2"].fsType = 0x0002
    closed = io.BytesIO()
    source.save(closed)
    for data, why in (
        (closed.getvalue(), "may not be embedded"),
        (b"", "cannot be read"),
        (b"wOF2" + bytes(60), "WOFF2"),
        (COMPANION[:2000], "cannot be read"),
        (b"\x00\x01\x00\x00" + bytes(200), "cannot be read"),
        (b"<svg/>", "cannot be read"),
    ):
        with pytest.raises(SheetRefused, match=why):
            font_of("a.ttf", data)


def test_small_capitals_are_letters_of_their_own() -> None:
    """Not capitals made smaller: as heavy as the lower case beside them, and lower than capitals."""
    font, plain = TTFont(io.BytesIO(font_bytes(CAPITALS))), TTFont(io.BytesIO(font_bytes(ROMAN)))
    cmap, glyphs = font.getBestCmap(), font["glyf"]
    for letter in "abcdefghijklmnoprstuvwxyz":
        small, large = glyphs[cmap[ord(letter)]], glyphs[cmap[ord(letter.upper())]]
        assert 0.8 * large.yMax < small.yMax < 0.9 * large.yMax, letter
        assert small.yMin > large.yMin - 30, letter
    own = font["hmtx"][cmap[ord("h")]][0] / font["hmtx"][cmap[ord("H")]][0]
    assert own != pytest.approx(glyphs[cmap[ord("h")]].yMax / glyphs[cmap[ord("H")]].yMax, rel=0.01)
    assert set(font.getBestCmap()) >= {c for c in plain.getBestCmap() if 0x20 < c < 0x17F}
    assert run("Qt", CAPITALS, 3.0).width != run("Qt", ITALIC, 3.0).width

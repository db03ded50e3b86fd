"""Draws the age letters that fonts lack into the faces of the sheet, out of their own letters.

Run with brotli at hand (pip install brotli): it writes the TrueType files and the ones for the page. What is there
already is drawn anew.
"""

from __future__ import annotations

from pathlib import Path

from fontTools.pens.boundsPen import BoundsPen
from fontTools.pens.transformPen import TransformPen
from fontTools.pens.ttGlyphPen import TTGlyphPen
from fontTools.ttLib import TTFont

from orvik.core.features.age_letters import CAMBRIAN, PALEOGENE, PENNSYLVANIAN, TRIASSIC

FONTS = Path(__file__).parent.parent / "src/orvik/fonts"
FACES = ("Spectral-Regular", "Spectral-Italic", "Spectral-SemiBold")
# A letter of the face, how large it is, and how far to the right and up, in thousandths.
Placed = tuple[str, float, float, float]


def main() -> None:
    """Draw them into all faces."""
    for name in FACES:
        font = TTFont(FONTS / f"{name}.ttf")
        draw(font)
        font.save(FONTS / f"{name}.ttf")
        font.flavor = "woff2"
        font.save(FONTS / f"{name}.woff2")


def draw(font: TTFont) -> None:
    """Add the four letters to a face."""
    width = {letter: font["hmtx"][letter][0] for letter in "CTRPEI"}
    stem = bar_height(font)
    add(font, TRIASSIC, "Triassic", [("T", 1.0, 0, 0), ("R", 0.74, width["T"] * 0.58, 0)])
    add(font, PENNSYLVANIAN, "Pennsylvanian", [("I", 1.0, 0, 0), ("P", 1.0, width["I"] * 0.46, 0)])
    add(font, PALEOGENE, "Paleogene", [("P", 1.0, 0, 0), ("E", 0.52, width["P"] * 0.5, 0)])
    box = bounds(font, "C")
    middle = (box[1] + box[3]) / 2
    bar = (box[0] - 35, middle - stem / 2, box[0] + 0.62 * (box[2] - box[0]), middle + stem / 2)
    add(font, CAMBRIAN, "Cambrian", [("C", 1.0, 0, 0)], bar)


def bar_height(font: TTFont) -> float:
    """The thickness of the face's thin strokes: that of its hyphen."""
    _, low, _, high = bounds(font, "hyphen")
    return min(high - low, 60)


def bounds(font: TTFont, glyph: str) -> tuple[float, float, float, float]:
    """Left, foot, right and top of a letter."""
    pen = BoundsPen(font.getGlyphSet())
    font.getGlyphSet()[glyph].draw(pen)
    return pen.bounds


def add(
    font: TTFont, char: str, name: str, letters: list[Placed], bar: tuple[float, float, float, float] | None = None
) -> None:
    """One letter out of others that overlap, and a bar."""
    glyphs = font.getGlyphSet()
    pen = TTGlyphPen(glyphs)
    right = 0.0
    for letter, k, x, y in letters:
        glyphs[letter].draw(TransformPen(pen, (k, 0, 0, k, x, y)))
        right = max(right, x + font["hmtx"][letter][0] * k)
    if bar is not None:
        left, foot, end, top = bar
        pen.moveTo((left, foot))
        for corner in ((left, top), (end, top), (end, foot)):
            pen.lineTo(corner)
        pen.closePath()
    order = font.getGlyphOrder()
    if name not in order:
        font.setGlyphOrder([*order, name])
    font["glyf"][name] = pen.glyph()
    font["hmtx"][name] = (round(right), font["glyf"][name].xMin if hasattr(font["glyf"][name], "xMin") else 0)
    font["glyf"][name].recalcBounds(font["glyf"])
    font["hmtx"][name] = (round(right), font["glyf"][name].xMin)
    for table in font["cmap"].tables:
        if table.isUnicode():
            table.cmap[ord(char)] = name


if __name__ == "__main__":
    main()

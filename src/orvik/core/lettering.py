"""Setting text: characters to places, once, so that every painter agrees."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

import uharfbuzz as hb

from .ink import Run

FONTS = Path(__file__).parent.parent / "fonts"
ROMAN = "Spectral-Regular"
ITALIC = "Spectral-Italic"
BOLD = "Spectral-SemiBold"


@lru_cache(maxsize=16)
def _font(name: str) -> hb.Font:
    return hb.Font(hb.Face(hb.Blob.from_file_path(str(FONTS / f"{name}.ttf"))))


def font_file(name: str) -> Path:
    """Where the TrueType file of a font lies."""
    return FONTS / f"{name}.ttf"


@lru_cache(maxsize=16384)
def run(text: str, font: str, size: float, align: str = "left", spacing: float = 0.0) -> Run:
    """A line of text set in a font.

    Parameters
    ----------
    text
        One line.
    font
        A font of the ``fonts`` folder, by file name without ending.
    size
        Body size in millimetres.
    align
        ``left``, ``centre`` or ``right`` of the alignment point.
    spacing
        Extra space between characters in millimetres.
    """
    face = _font(font)
    buffer = hb.Buffer()
    buffer.add_str(text)
    buffer.guess_segment_properties()
    hb.shape(face, buffer, {"liga": False, "clig": False, "ccmp": False, "kern": True})
    scale = size / face.face.upem
    places, x = [], 0.0
    for position in buffer.glyph_positions:
        places.append(x)
        x += position.x_advance * scale + spacing
    width = x - spacing if text else 0.0
    start = {"left": 0.0, "centre": -width / 2, "right": -width}[align]
    return Run(font, size, text, tuple(round(start + p, 4) for p in places), width)


def wrapped(text: str, font: str, size: float, width: float) -> list[str]:
    """Lines that fit a width in millimetres, broken at spaces; line breaks in the text stay."""
    lines = []
    for paragraph in text.split("\n"):
        line = ""
        for word in paragraph.split(" "):
            longer = f"{line} {word}" if line else word
            if line and run(longer, font, size).width > width:
                lines.append(line)
                line = word
            else:
                line = longer
        lines.append(line)
    return lines


def cap_height(size: float) -> float:
    """Height of capitals and lining figures of Spectral for a body size, in millimetres."""
    return 0.66 * size

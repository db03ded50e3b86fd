"""Setting text: characters to places, once, so that every painter agrees."""

from __future__ import annotations

import unicodedata
from functools import lru_cache
from itertools import groupby
from pathlib import Path
from typing import Any

import uharfbuzz as hb

from orvik.core.ink.primitives import Run

FONTS = Path(__file__).parent.parent / "fonts"
ROMAN = "Spectral-Regular"
ITALIC = "Spectral-Italic"
BOLD = "Spectral-SemiBold"
# What sets the letters that a face of the sheet lacks: Greek, Cyrillic, phonetic letters, subscripts.
CAPITALS = "SpectralSC-Regular"
COMPANIONS = {
    CAPITALS: "Companion-Regular",
    ROMAN: "Companion-Regular",
    ITALIC: "Companion-Italic",
    BOLD: "Companion-SemiBold",
}
# How the fonts are called, with their weight and slant, in the stylesheet and in files.
FAMILIES = {
    "Spectral-Regular": ("Spectral", 400, "normal"),
    "Spectral-Italic": ("Spectral", 400, "italic"),
    "Spectral-SemiBold": ("Spectral", 600, "normal"),
    "SpectralSC-Regular": ("Spectral SC", 400, "normal"),
    "Companion-Regular": ("Orvik Companion", 400, "normal"),
    "Companion-Italic": ("Orvik Companion", 400, "italic"),
    "Companion-SemiBold": ("Orvik Companion", 600, "normal"),
}
_FEATURES = {"liga": False, "clig": False, "ccmp": False, "kern": True}


# What the names of fonts begin with that come with a project: the checksum of what they hold follows.
OWN = "own-"
_lent: dict[str, bytes] = {}


def font_face(font: str) -> tuple[str, int, str]:
    """What a font is called, with its weight and slant; one of one's own by its own name."""
    return FAMILIES.get(font, (font, 400, "normal"))


def lend(checksum: str, data: bytes) -> str:
    """Make a TrueType font of a project known here by what it holds; gives its name."""
    name = f"{OWN}{checksum}"
    _lent.setdefault(name, data)
    return name


def is_known(font: str) -> bool:
    """Whether a font can be set: it is one of ours, or has been lent."""
    return font in _lent or not font.startswith(OWN)


def font_bytes(name: str) -> bytes:
    """The TrueType file of a font."""
    return _lent[name] if name in _lent else (FONTS / f"{name}.ttf").read_bytes()


@lru_cache(maxsize=32)
def _font(name: str) -> hb.Font:
    return hb.Font(hb.Face(hb.Blob(font_bytes(name))))


@lru_cache(maxsize=32)
def _letters(name: str) -> frozenset[int]:
    """The characters that a font has."""
    return frozenset(_font(name).face.unicodes)


@lru_cache(maxsize=16384)
def run(text: str, font: str, size: float, align: str = "left", spacing: float = 0.0) -> Run:
    """A line of text set in a font; letters that it lacks are set in its companion.

    Parameters
    ----------
    text
        One line; composed or decomposed letters come out the same.
    font
        A font of the ``fonts`` folder, by file name without ending, or the name that ``lend`` gave one.
    size
        Body size in millimetres.
    align
        ``left``, ``centre`` or ``right`` of the alignment point.
    spacing
        Extra space between characters in millimetres.
    """
    chars, fonts = _faced(text, font)
    places: list[float] = []
    x = 0.0
    start = 0
    for name, group in groupby(fonts):
        stop = start + sum(1 for _ in group)
        for at, advance in _shaped(chars[start:stop], name, size):
            places.append(x + at)
            x += advance + spacing
        start = stop
    width = x - spacing if chars else 0.0
    begin = {"left": 0.0, "centre": -width / 2, "right": -width}[align]
    mixed = fonts if any(name != font for name in fonts) else ()
    return Run(font, size, chars, tuple(round(begin + p, 4) for p in places), width, mixed)


def missing_letters(text: str, font: str = ROMAN) -> str:
    """The letters of a text that neither a font nor its companion has, each once.

    >>> missing_letters("Tertiary, 東")
    '東'
    """
    chars, fonts = _faced(text, font)
    lacking = (c for c, name in zip(chars, fonts, strict=True) if ord(c) not in _letters(name))
    return "".join(dict.fromkeys(lacking))


def _faced(text: str, font: str) -> tuple[str, tuple[str, ...]]:
    """The characters as they are set, and the font of each; a mark goes with the letter that it stands on."""
    composed = unicodedata.normalize("NFC", text)
    plain = "".join(" " if unicodedata.category(c) in ("Cc", "Zl", "Zp") else c for c in composed)
    companion = COMPANIONS.get(font, COMPANIONS[ROMAN] if font.startswith(OWN) else font)
    chars: list[str] = []
    fonts: list[str] = []
    for letter in _with_marks(plain):
        for name in (font, companion):
            apart = unicodedata.normalize("NFD", letter)
            held = next((form for form in (letter, apart) if all(ord(c) in _letters(name) for c in form)), None)
            if held is not None:
                break
        else:
            held, name = letter, companion
        chars.append(held)
        fonts += [name] * len(held)
    return "".join(chars), tuple(fonts)


def _with_marks(text: str) -> list[str]:
    """Letters, each with the marks that follow it."""
    out: list[str] = []
    for c in text:
        if out and unicodedata.combining(c):
            out[-1] += c
        else:
            out.append(c)
    return out


def _shaped(chars: str, font: str, size: float) -> list[tuple[float, float]]:
    """Place from the pen and advance of each character in millimetres; one glyph stands for each."""
    face = _font(font)
    buffer = hb.Buffer()
    buffer.add_str(chars)
    buffer.guess_segment_properties()
    buffer.direction = "ltr"
    buffer.cluster_level = hb.BufferClusterLevel.MONOTONE_CHARACTERS
    hb.shape(face, buffer, _FEATURES)
    scale = size / face.face.upem
    out = [(0.0, 0.0)] * len(chars)
    for info, position in zip(buffer.glyph_infos or (), buffer.glyph_positions or (), strict=True):
        at, advance = out[info.cluster]
        out[info.cluster] = (at or position.x_offset * scale, advance + position.x_advance * scale)
    return out


def wrapped(text: str, font: str, size: float, width: float) -> list[str]:
    """Lines that fit a width in millimetres, broken at spaces; line breaks in the text stay.

    >>> wrapped("Pellan Mudstone, grey and thin-bedded", ROMAN, 3.0, 30.0)
    ['Pellan Mudstone, grey', 'and thin-bedded']
    """
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


def draw_letter(font: str, char: str, pen: Any) -> int:
    """Draw the outline of a letter with a pen of fontTools, in units of the font with y upwards; gives its em."""
    face = _font(font)
    face.draw_glyph_with_pen(face.get_nominal_glyph(ord(char)) or 0, pen)
    return int(face.face.upem)


@lru_cache(maxsize=16384)
def heights(run: Run) -> tuple[float, float]:
    """How far the letters of a run reach above and below their baseline, in millimetres.

    >>> above, below = heights(run("35", ROMAN, 2.0))
    >>> 1.2 < above < 1.5 and below < 0.1
    True
    """
    above, below = 0.0, 0.0
    for font, chars, _ in run.pieces():
        face = _font(font)
        scale = run.size / face.face.upem
        for char in chars:
            extents = face.get_glyph_extents(face.get_nominal_glyph(ord(char)) or 0)
            if extents is not None:
                above = max(above, extents.y_bearing * scale)
                below = max(below, -(extents.y_bearing + extents.height) * scale)
    return above, below

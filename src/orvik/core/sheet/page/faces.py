"""The faces that a text may be set in, and the styles that the texts of a sheet can share."""

from __future__ import annotations

from collections.abc import Mapping

from orvik.core.lettering import BOLD, CAPITALS, ITALIC, ROMAN

# What a text is set in where it has letters of its own.
AS_SET = "own"
# By what is kept: what is shown, and the face; ``own`` is the font file of the sheet.
FACES: Mapping[str, tuple[str, str]] = {
    "roman": ("roman", ROMAN),
    "italic": ("italic", ITALIC),
    "bold": ("semi-bold", BOLD),
    "capitals": ("small capitals", CAPITALS),
    "own": ("font file of the sheet", ""),
}
FACE_WORDS: Mapping[str, str] = {name: words for name, (words, _) in FACES.items()}
STYLES: Mapping[str, str] = {
    AS_SET: "as set here",
    "title": "titles",
    "heading": "headings",
    "text": "body text",
    "note": "notes",
}

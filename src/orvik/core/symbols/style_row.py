"""Line styles and captions as rows of a file, and back."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from orvik.core.colour.hex import is_colour
from orvik.core.errors import SymbolRefused
from orvik.core.ink.primitives import INK, LineStyle
from orvik.core.symbols.piece import THINNEST, WIDEST, check_dash
from orvik.core.symbols.symbol import Caption

# No stroke stands further beside its line than this, in millimetres.
FARTHEST_BESIDE = 20.0
ENDS = ("butt", "round", "square")


def style_of(row: Mapping[str, Any]) -> LineStyle:
    """A line style from a row; raises SymbolRefused for what is none."""
    try:
        width, offset = float(row["width"]), float(row.get("offset", 0.0))
        dash = tuple(float(length) for length in row.get("dash", ()))
    except (TypeError, ValueError) as error:
        raise SymbolRefused(f"A measure of a line is not a number: {error}.") from error
    colour, cap = row.get("colour", INK), row.get("cap", "butt")
    if not (THINNEST <= width <= WIDEST) and width != 0:
        raise SymbolRefused(f"A line is {THINNEST:g} to {WIDEST:g} mm wide on the sheet, not {width:g}.")
    if not is_colour(colour):
        raise SymbolRefused(f"“{str(colour)[:20]}” is not a colour; type six digits such as {INK}.")
    check_dash(dash)
    if not abs(offset) <= FARTHEST_BESIDE:
        raise SymbolRefused(f"A stroke stands at most {FARTHEST_BESIDE:g} mm beside its line, not {offset:g}.")
    if cap not in ENDS:
        raise SymbolRefused(f"“{str(cap)[:20]}” is not an end of a line; it is butt, round or square.")
    return LineStyle(width, colour, dash, cap, "round", offset)


def style_row(style: LineStyle) -> dict[str, Any]:
    """A line style as ``style_of`` reads it."""
    return {
        "width": style.width,
        "colour": style.colour,
        "dash": list(style.dash),
        "cap": style.cap,
        "offset": style.offset,
    }


def caption_of(row: Mapping[str, Any]) -> Caption:
    """A caption from a row."""
    x, y = row.get("at", (0.0, 0.0))
    if row.get("colour") and not is_colour(str(row["colour"])):
        raise SymbolRefused(f"“{str(row['colour'])[:20]}” is not a colour; type six digits such as {INK}.")
    return Caption(
        row["of"],
        (float(x), float(y)),
        float(row.get("size", 2.0)),
        row.get("colour", INK),
        row.get("begins", False),
        row.get("italic", False),
        row.get("place", "beside"),
        row.get("printed", False),
    )


def caption_row(caption: Caption) -> dict[str, Any]:
    """A caption as ``caption_of`` reads it."""
    return {
        "of": caption.of,
        "at": list(caption.at),
        "size": caption.size,
        "colour": caption.colour or INK,
        "begins": caption.begins,
        "italic": caption.italic,
        "place": caption.place,
        "printed": caption.printed,
    }

"""The symbols and pens of the kinds that a project has made for itself."""

from __future__ import annotations

from dataclasses import replace

from orvik.core.features.custom_kind import DASHES, CustomKind
from orvik.core.ink.primitives import INK, LineStyle
from orvik.core.symbols.pen import Pen
from orvik.core.symbols.piece import Piece
from orvik.core.symbols.symbol import Symbol, stamp_of
from orvik.core.symbols.symbol_book import SymbolBook

FAMILY = "Custom kinds"
ADVICE = "A kind of this project."
# The keys that take the pens of custom kinds, as far as areas leave them.
OWN_KEYS = tuple(f"Alt+{figure}" for figure in range(2, 10))


def with_custom(book: SymbolBook, kinds: list[CustomKind]) -> SymbolBook:
    """A symbol book with the kinds of a project beside its own."""
    names = {kind.name for kind in kinds}
    symbols = [symbol for kind in kinds for symbol in custom_symbols(kind)]
    taken = {pen.key for pen in book.pens}
    free = [*(key for key in OWN_KEYS if key not in taken), *[""] * len(kinds)]
    pens = [
        Pen(key, FAMILY, kind.table, kind.name, "certain", kind.label, ADVICE)
        for kind, key in zip(kinds, free, strict=False)
    ]
    return replace(
        book,
        # A kind of the project's own comes before one that another program has made of the same name.
        symbols=(*(symbol for symbol in book.symbols if symbol.kind not in names), *symbols),
        pens=(*book.pens, *pens),
        families=(*book.families, FAMILY) if kinds else book.families,
        custom_kinds={kind.name: kind for kind in kinds},
    )


def custom_symbols(kind: CustomKind) -> list[Symbol]:
    """One for each value of the list that the symbol depends on."""
    out = []
    for variant, label, colour in kind.variants():
        plain = Symbol(f"own-{kind.name}-{variant}", kind.table, kind.name, label, "", FAMILY, variant, advice=ADVICE)
        if kind.table == "lines":
            plain = replace(plain, strokes=(LineStyle(kind.width, colour, DASHES[kind.dash]),))
        elif kind.table == "points":
            plain = replace(plain, stamp=stamp_of(label, _shape(kind.shape, colour)))
        else:
            plain = replace(plain, tint=colour)
        out.append(plain)
    return out


def _shape(shape: str, colour: str) -> tuple[Piece, ...]:
    """A point's symbol, 2 mm across, with a dark edge so that it stands out on every tint."""
    if shape == "cross":
        return tuple(Piece("line", ((-0.9, y), (0.9, -y)), width=0.4, outline=colour, cap="butt") for y in (-0.9, 0.9))
    if shape == "circle":
        return (Piece("circle", reach=1.0, width=0.15, outline=INK, fill=colour),)
    corners = {
        "square": ((-0.9, -0.9), (0.9, -0.9), (0.9, 0.9), (-0.9, 0.9)),
        "triangle": ((0.0, -1.1), (1.05, 0.8), (-1.05, 0.8)),
        "diamond": ((0.0, -1.2), (1.0, 0.0), (0.0, 1.2), (-1.0, 0.0)),
    }[shape]
    return (Piece("line", corners, closed=True, width=0.15, outline=INK, fill=colour),)

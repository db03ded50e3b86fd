"""The signs and pens of the kinds that a project has made for itself."""

from __future__ import annotations

from dataclasses import replace

from orvik.core.features.own_kind import DASHES, OwnKind
from orvik.core.ink.primitives import INK, LineStyle
from orvik.core.symbols.pen import Pen
from orvik.core.symbols.piece import Piece
from orvik.core.symbols.symbol import Sign, stamp_of
from orvik.core.symbols.symbol_book import SignBook

FAMILY = "Own kinds"
MEANING = "A kind of this project."
# The keys that take the pens of own kinds, as far as areas leave them.
OWN_KEYS = tuple(f"Alt+{figure}" for figure in range(2, 10))


def with_own(book: SignBook, kinds: list[OwnKind]) -> SignBook:
    """A sign book with the kinds of a project beside its own."""
    names = {kind.name for kind in kinds}
    signs = [sign for kind in kinds for sign in own_signs(kind)]
    taken = {pen.key for pen in book.pens}
    free = [*(key for key in OWN_KEYS if key not in taken), *[""] * len(kinds)]
    pens = [
        Pen(key, FAMILY, kind.table, kind.name, "certain", kind.label, MEANING)
        for kind, key in zip(kinds, free, strict=False)
    ]
    return replace(
        book,
        # A kind of the project's own comes before one that another program has made of the same name.
        signs=(*(sign for sign in book.signs if sign.kind not in names), *signs),
        pens=(*book.pens, *pens),
        families=(*book.families, FAMILY) if kinds else book.families,
        own_kinds={kind.name: kind for kind in kinds},
    )


def own_signs(kind: OwnKind) -> list[Sign]:
    """One for each value of the list that the sign depends on."""
    out = []
    for variant, label, colour in kind.variants():
        plain = Sign(f"own-{kind.name}-{variant}", kind.table, kind.name, label, MEANING, FAMILY, variant)
        if kind.table == "lines":
            plain = replace(plain, strokes=(LineStyle(kind.width, colour, DASHES[kind.dash]),))
        elif kind.table == "points":
            plain = replace(plain, stamp=stamp_of(label, _shape(kind.shape, colour)))
        else:
            plain = replace(plain, tint=colour)
        out.append(plain)
    return out


def _shape(shape: str, colour: str) -> tuple[Piece, ...]:
    """A point's sign, 2 mm across, with a dark edge so that it stands out on every tint."""
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

"""The millimetre grid on which a symbol is drawn, as SVG: pieces one by one, so that each can be taken hold of."""

from __future__ import annotations

import json
import math
from dataclasses import dataclass
from typing import Any

from orvik.core.lettering import cap_height
from orvik.core.symbols.drawn_symbol import DrawnSymbol, piece_row
from orvik.core.symbols.piece import Piece
from orvik.core.symbols.symbol_trial import marked_line
from orvik.press.svg import fragment

# Half the width of the grid in millimetres, the smallest first.
SPANS = (4.0, 6.5, 10.0, 16.0, 26.0, 40.0, 64.0)
# Its height for a width of 1.
SHAPE = 0.62


@dataclass(frozen=True)
class Grid:
    """What the grid shows.

    Attributes
    ----------
    left, top, width, height
        Of the view, in millimetres of the symbol.
    fine, coarse
        Where its lines are, every half millimetre and every one, as SVG path data.
    pieces
        The SVG of each piece.
    below
        What lies below the pieces: the line that an ornament stands on, or the neighbours of a pattern's tile.
    data
        The selected piece and the places that it is held by, as JSON for the page.
    """

    left: float
    top: float
    width: float
    height: float
    fine: str
    coarse: str
    marks: tuple[tuple[float, str], ...]
    pieces: tuple[str, ...]
    below: str
    tile: tuple[float, float] | None
    data: str


def grid_of(symbol: DrawnSymbol, ornament: int | None, chosen: int | None) -> Grid:
    """The grid of a symbol, with one of its pieces selected."""
    pieces = symbol.drawing(ornament)
    pattern = symbol.family == "patterns"
    middle = (symbol.tile[0] / 2, symbol.tile[1] / 2) if pattern else (0.0, 0.0)
    reach = max([*(_reach(piece, middle) for piece in pieces), max(symbol.tile) * 0.9 if pattern else 0.0, 2.0])
    span = next((s for s in SPANS if reach * 1.25 <= s * SHAPE), SPANS[-1])
    left, top = middle[0] - span, middle[1] - span * SHAPE
    width, height = 2 * span, 2 * span * SHAPE
    step = 1.0 if span <= 26 else 5.0
    return Grid(
        left,
        top,
        width,
        height,
        _lines(left, top, width, height, step / 2),
        _lines(left, top, width, height, step),
        tuple((float(x), f"{x:g}") for x in _steps(left, width, step if span <= 10 else step * 5)),
        tuple(fragment(piece.ink(), f"piece-{i}") for i, piece in enumerate(pieces)),
        _below(symbol, ornament, span),
        symbol.tile if pattern else None,
        json.dumps(_data(symbol, pieces, chosen)),
    )


def _reach(piece: Piece, middle: tuple[float, float]) -> float:
    return max(math.hypot(x - middle[0], y - middle[1]) for x, y in piece.path)


def _steps(begin: float, length: float, step: float) -> list[float]:
    first = math.ceil(begin / step)
    return [round(i * step, 3) for i in range(first, math.floor((begin + length) / step) + 1)]


def _lines(left: float, top: float, width: float, height: float, step: float) -> str:
    upright = [f"M{x:g} {top:g}v{height:g}" for x in _steps(left, width, step)]
    level = [f"M{left:g} {y:g}h{width:g}" for y in _steps(top, height, step)]
    return "".join(upright + level)


def _below(symbol: DrawnSymbol, ornament: int | None, span: float) -> str:
    if symbol.family == "lines":
        return fragment(marked_line(symbol.as_symbol(), span), "line-below")
    if symbol.family == "patterns" and ornament is None:
        own = fragment([item for piece in symbol.pieces for item in piece.ink()], "tile-below")
        w, h = symbol.tile
        return "".join(
            f'<g transform="translate({i * w:g} {j * h:g})">{own}</g>'
            for i in (-1, 0, 1)
            for j in (-1, 0, 1)
            if (i, j) != (0, 0)
        )
    return ""


def _data(symbol: DrawnSymbol, pieces: tuple[Piece, ...], chosen: int | None) -> dict[str, Any]:
    """For the page: the selected piece with all its measures, where others can be snapped to, where the figure is."""
    piece = pieces[chosen] if chosen is not None and chosen < len(pieces) else None
    others = [p for i, p in enumerate(pieces) if i != chosen]
    corners = [list(place) for p in others for place in ([p.at] if p.shape != "line" else []) + p.path[:60]]
    caption = symbol.caption
    return {
        "piece": None if piece is None else _measures(piece),
        "snaps": [[0.0, 0.0], *corners],
        "caption": None if caption is None else [caption.at[0], caption.at[1], cap_height(caption.size)],
        "pattern": symbol.family == "patterns",
    }


def _measures(piece: Piece) -> dict[str, Any]:
    usual = {"at": list(piece.at), "reach": piece.reach, "inner": piece.inner, "turned": piece.turned}
    return {
        **usual,
        "sweep": piece.sweep,
        "sides": piece.sides,
        "closed": piece.closed,
        **piece_row(piece),
    }

"""Small pictures of symbols for trays, slips and plates, drawn by the same painter as the page."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from orvik.core.features.feature import Feature
from orvik.core.features.kind import UNIT_AREA
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.table import Table
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Item, LineStyle, Stroke
from orvik.core.symbols.pen import Pen
from orvik.core.symbols.portrayal.ornaments import reach_across
from orvik.core.symbols.specimen import ornaments_along, specimen, unit_specimen
from orvik.core.symbols.symbol import Symbol
from orvik.core.symbols.symbol_book import SymbolBook
from orvik.press.svg import fragment, swatch

SOFT = "#5B6B78"
# How many times larger than printed the foot of the tray shows a line.
MAGNIFIED = 4.0
# Of a swatch, in millimetres.
WIDTH = 12.4
FIGURED = 9.0
HEIGHTS: Mapping[Table, float] = {"lines": 3.0, "points": 5.4, "areas": 5.0}


def dash_picture(book: SymbolBook, pen: Pen) -> str:
    """The printed line at four times its size, with the lengths of its dash and gap and its weight."""
    if pen.table != "lines":
        return ""
    symbol = book.symbol(pen.table, pen.kind, pen.certainty)
    if not symbol.strokes:
        return ""
    style = symbol.strokes[-1]
    big = symbol.scaled(MAGNIFIED)
    width, y = 48.0, 7.0
    path = Paths.of([(0.5, y), (width, y)])
    items: list[Item] = [*(Stroke(one, path) for one in big.strokes), *ornaments_along(big, path, None)]
    height = max(9.0, y + 1 + reach_across(big.ornaments))
    figures = [(width, "end", f"{style.width:.2f} mm")]
    at = 0.5
    for length in style.dash[:2]:
        if length:
            end = at + length * MAGNIFIED
            rule = LineStyle(0.2, SOFT)
            items.append(
                Stroke(rule, Paths.of([(at, 4.6), (end, 4.6)], [(at, 4.0), (at, 5.2)], [(end, 4.0), (end, 5.2)]))
            )
            figures.append(((at + end) / 2, "middle", f"{length:.1f}"))
            at = end
    letters = "".join(f'<text x="{x:.2f}" y="3.2" text-anchor="{anchor}">{text}</text>' for x, anchor, text in figures)
    return (
        f'<svg class="dash-picture" width="{width:g}mm" height="{height:g}mm" '
        f'viewBox="0 0 {width:g} {height:g}" role="img" '
        f'aria-label="The printed line, magnified {MAGNIFIED:g} times">{fragment(items, "dash")}{letters}</svg>'
    )


def pen_swatch(book: SymbolBook, pen: Pen, prefix: str = "pen") -> str:
    """The symbol of a pen as a small picture at true size."""
    # A pen for attitudes shows what it mostly logs.
    symbol = book.symbol(pen.table, pen.kind, pen.certainty, 45.0)
    return area_swatch(None, book, prefix) if pen.kind == UNIT_AREA else symbol_swatch(symbol, f"{prefix}-{pen.name}")


def feature_swatch(book: SymbolBook, feature: Feature, units: Mapping[str, MapUnit]) -> str:
    """The symbol of a feature as a small picture at true size."""
    if feature.kind == UNIT_AREA:
        return area_swatch(units.get(feature.map_unit or ""), book, "selected")
    return symbol_swatch(book.symbol_of(feature), "selected")


def area_swatch(unit: MapUnit | None, book: SymbolBook, prefix: str) -> str:
    """A tint with its code; without a unit, ground whose unit is not yet known."""
    edge = LineStyle(0.2, INK, join="miter")
    items = unit_specimen(unit, book, (0.1, 0.2, WIDTH - 0.3, 4.6), 2.6, edge)
    return swatch(items, WIDTH, 5.0, unit.name if unit else "Unit area", prefix)


def symbol_swatch(symbol: Symbol, prefix: str, width: float = WIDTH, figures: bool = False) -> str:
    """A specimen of a symbol, as high as its ornaments need; with the figure that it writes where that has room."""
    height = HEIGHTS[symbol.table]
    if figures and symbol.captions:
        height = FIGURED
    elif not symbol.aid:
        symbol = replace(symbol, captions=())
    if symbol.ornaments:
        height = max(height, 2 * reach_across(symbol.ornaments) + 0.4)
    return swatch(specimen(symbol, 0.2, height / 2, width - 0.4), width, height, symbol.title, prefix)

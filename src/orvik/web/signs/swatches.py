"""Small pictures of signs for trays, slips and plates, drawn by the same painter as the page."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from orvik.core.features.feature import Feature, Table
from orvik.core.features.kind import UNIT_AREA
from orvik.core.features.map_unit import MapUnit
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Item, LineStyle, Stroke
from orvik.core.symbols.pen import Pen
from orvik.core.symbols.portrayal.ornaments import reach_across
from orvik.core.symbols.specimen import ornaments_along, specimen, unit_specimen
from orvik.core.symbols.symbol import Sign
from orvik.core.symbols.symbol_book import SignBook
from orvik.press.svg import fragment, swatch

SOFT = "#5B6B78"
# How many times larger than printed the foot of the tray shows a line.
MAGNIFIED = 4.0
# Of a swatch, in millimetres.
WIDTH = 12.4
FIGURED = 9.0
HEIGHTS: Mapping[Table, float] = {"lines": 3.0, "points": 5.4, "areas": 5.0}


def dash_picture(book: SignBook, pen: Pen) -> str:
    """The printed line at four times its size, with the lengths of its dash and gap and its weight."""
    if pen.table != "lines":
        return ""
    sign = book.sign(pen.table, pen.kind, pen.certainty)
    if not sign.strokes:
        return ""
    style = sign.strokes[-1]
    big = sign.scaled(MAGNIFIED)
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


def pen_swatch(book: SignBook, pen: Pen, prefix: str = "pen") -> str:
    """The sign of a pen as a small picture at true size."""
    # A pen for attitudes shows what it mostly logs.
    sign = book.sign(pen.table, pen.kind, pen.certainty, 45.0)
    return area_swatch(None, book, prefix) if pen.kind == UNIT_AREA else sign_swatch(sign, f"{prefix}-{pen.name}")


def feature_swatch(book: SignBook, feature: Feature, units: Mapping[str, MapUnit]) -> str:
    """The sign of a feature as a small picture at true size."""
    if feature.kind == UNIT_AREA:
        return area_swatch(units.get(feature.map_unit or ""), book, "in-hand")
    return sign_swatch(book.sign_of(feature), "in-hand")


def area_swatch(unit: MapUnit | None, book: SignBook, prefix: str) -> str:
    """A tint with its code; without a unit, ground whose unit is not yet known."""
    edge = LineStyle(0.2, INK, join="miter")
    items = unit_specimen(unit, book, (0.1, 0.2, WIDTH - 0.3, 4.6), 2.6, edge)
    return swatch(items, WIDTH, 5.0, unit.name if unit else "Unit area", prefix)


def sign_swatch(sign: Sign, prefix: str, width: float = WIDTH, figures: bool = False) -> str:
    """A specimen of a sign, as high as its ornaments need; with the figure that it writes only where that has room."""
    height = HEIGHTS[sign.table]
    if figures and sign.captions:
        height = FIGURED
    elif not sign.aid:
        sign = replace(sign, captions=())
    if sign.ornaments:
        height = max(height, 2 * reach_across(sign.ornaments) + 0.4)
    return swatch(specimen(sign, 0.2, height / 2, width - 0.4), width, height, sign.title, prefix)

"""Small pictures of signs for trays, slips and plates, drawn by the same painter as the page."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from orvik.core.colour import readable_on
from orvik.core.features.feature import Feature
from orvik.core.features.map_unit import MapUnit
from orvik.core.ink import Fill, Item, LineStyle, Marks, Stroke, Text
from orvik.core.lettering import ROMAN, cap_height, run
from orvik.core.paths import Paths
from orvik.core.signs.catalogue import INK, AreaSign, LineSign, Pen, PointSign, SignBook
from orvik.core.signs.portray import NO_UNIT
from orvik.press.svg import fragment, swatch

SOFT = "#5B6B78"
# How many times larger than printed the foot of the tray shows a line.
MAGNIFIED = 4.0


def dash_picture(book: SignBook, pen: Pen) -> str:
    """The printed line at four times its size, with the lengths of its dash and gap and its weight."""
    if pen.table != "lines":
        return ""
    style = book.line(pen.kind, pen.certainty).style
    big = replace(style, width=style.width * MAGNIFIED, dash=tuple(d * MAGNIFIED for d in style.dash))
    width, y = 48.0, 7.0
    items: list[Item] = [Stroke(big, Paths.of([(0.5, y), (width, y)]))]
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
        f'<svg class="dash-picture" width="{width:g}mm" height="9mm" viewBox="0 0 {width:g} 9" role="img" '
        f'aria-label="The printed line, magnified {MAGNIFIED:g} times">{fragment(items, "dash")}{letters}</svg>'
    )


def pen_swatch(book: SignBook, pen: Pen, prefix: str = "pen") -> str:
    """The sign of a pen as a small picture at true size."""
    if pen.table == "lines":
        return line_swatch(book.line(pen.kind, pen.certainty))
    if pen.table == "points":
        return point_swatch(book.point(pen.kind, 45.0), f"{prefix}-{pen.name}")
    return (
        area_swatch(None, prefix)
        if pen.kind not in book.own_kinds
        else own_area_swatch(book.area(pen.kind, ""), prefix)
    )


def feature_swatch(book: SignBook, feature: Feature, units: Mapping[str, MapUnit]) -> str:
    """The sign of a feature as a small picture at true size."""
    if feature.table == "lines":
        return line_swatch(book.line(feature.kind, book.variant(feature.kind, feature.certainty, feature.fields)))
    if feature.table == "points":
        variant = book.variant(feature.kind, "", feature.fields)
        return point_swatch(book.point(feature.kind, feature.inclination, variant), "in-hand")
    if feature.kind in book.own_kinds:
        return own_area_swatch(book.area(feature.kind, book.variant(feature.kind, "", feature.fields)), "in-hand")
    return area_swatch(units.get(feature.map_unit or ""), "in-hand")


def own_area_swatch(sign: AreaSign, prefix: str) -> str:
    """The tint of an own kind of area."""
    box = Paths.of([(0.1, 0.2), (12.2, 0.2), (12.2, 4.8), (0.1, 4.8), (0.1, 0.2)])
    items: list[Item] = [Fill(sign.colour, box, np.array([0, 1])), Stroke(LineStyle(0.2, INK, join="miter"), box)]
    return swatch(items, 12.4, 5.0, sign.label, prefix)


def area_swatch(unit: MapUnit | None, prefix: str) -> str:
    """A tint with its code; without a unit, ground whose unit is not yet known."""
    code = run(unit.code if unit else "?", ROMAN, 2.6, "centre")
    box = Paths.of([(0.1, 0.2), (12.2, 0.2), (12.2, 4.8), (0.1, 4.8), (0.1, 0.2)])
    colour = unit.colour if unit else NO_UNIT
    items: list[Item] = [
        Fill(colour, box, np.array([0, 1])),
        Stroke(LineStyle(0.2, INK, join="miter"), box),
        Text(code, (6.15, 2.5 + cap_height(2.6) / 2), readable_on(colour, dark=INK)),
    ]
    return swatch(items, 12.4, 5.0, unit.name if unit else "Unit area", prefix)


def line_swatch(sign: LineSign, width: float = 12.4) -> str:
    """A stretch of a line sign."""
    path = Paths.of([(0.2, 1.5), (width - 0.2, 1.5)])
    if sign.fill:
        # A band: its tint between two margins.
        top, foot = [(0.2, 0.7), (width - 0.2, 0.7)], [(0.2, 2.3), (width - 0.2, 2.3)]
        ring = Paths.of([*top, *foot[::-1], top[0]])
        margins = LineStyle(0.15, INK, sign.style.dash, sign.style.cap)
        tint: list[Item] = [] if sign.certainty == "concealed" else [Fill(sign.fill, ring, np.array([0, 1]))]
        items: list[Item] = [*tint, Stroke(margins, Paths.of(top, foot))]
        return swatch(items, width, 3.0, sign.label, f"l-{sign.kind}-{sign.certainty}")
    return swatch([Stroke(sign.style, path)], width, 3.0, sign.label, f"l-{sign.kind}-{sign.certainty}")


def point_swatch(sign: PointSign, prefix: str, angle: float = 60.0) -> str:
    """A point sign, striking to the north-east."""
    turned = angle if sign.turns else 0.0
    marks = Marks(sign.symbol, np.array([[6.2, 2.7]]), np.array([turned]))
    return swatch([marks], 12.4, 5.4, sign.label, prefix)

"""The explanation: what the panel really shows, in stratigraphic order."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np

from orvik.core.colour import readable_on
from orvik.core.features.feature import Features, Table
from orvik.core.features.map_unit import MapUnit, stratigraphic_order
from orvik.core.ink import Fill, Item, LineStyle, Marks, Stroke, Text, scaled
from orvik.core.lettering import ITALIC, ROMAN, cap_height, run
from orvik.core.paths import Paths
from orvik.core.sheet.page import Part
from orvik.core.signs.catalogue import INK, AreaSign, LineSign, PointSign, SignBook
from orvik.core.signs.portray import turned_place

BOX = (13.0, 7.0)
ROW = 9.4
SIGN_ROW = 6.2
# How far clockwise from north a specimen of an attitude strikes, in degrees.
SPECIMEN_TURN = 60.0
HEAD = 10.0
# No smaller than this can it be read; wider columns than this read better than narrow ones.
SMALLEST = 0.5
NARROWEST = 56.0
GAP = 6.0
MOST_COLUMNS = 8


@dataclass(frozen=True)
class Entries:
    """What an explanation lists."""

    units: tuple[MapUnit, ...]
    lines: tuple[LineSign, ...]
    points: tuple[PointSign, ...]
    areas: tuple[AreaSign, ...] = ()


def entries(shown: Mapping[Table, Features], book: SignBook, units: Mapping[str, MapUnit]) -> Entries:
    """The units and signs that features on the shown ground have, each once."""
    codes = set(shown["areas"].columns["map_unit"]) if "areas" in shown else set()
    lines: set[tuple[str, str]] = set()
    if "lines" in shown:
        columns = shown["lines"].columns
        rows = zip(columns["kind"], columns["certainty"], columns["fields"], columns["stretches"], strict=True)
        signs = (
            book.line(k, value)
            for k, c, f, stretches in rows
            for value in (book.variant(k, c, f), *(s.certainty for s in stretches if s.side == "line"))
        )
        lines = {(sign.kind, sign.certainty) for sign in signs}
    points: set[str] = set()
    if "points" in shown:
        columns = shown["points"].columns
        points = {
            book.point(k, d, book.variant(k, "", f)).label
            for k, d, f in zip(columns["kind"], columns["inclination"], columns["fields"], strict=True)
        }
    areas: set[str] = set()
    if "areas" in shown:
        columns = shown["areas"].columns
        areas = {
            book.area(k, book.variant(k, "", f)).label
            for k, f in zip(columns["kind"], columns["fields"], strict=True)
            if k in book.own_kinds
        }
    return Entries(
        tuple(stratigraphic_order([units[code] for code in codes if code in units])),
        tuple(s for s in book.lines if s.explained and (s.kind, s.certainty) in lines),
        tuple(s for s in book.points if s.explained and s.label in points),
        tuple(s for s in book.areas if s.label in areas),
    )


def ink(part: Part, listed: Entries) -> list[Item]:
    """The explanation in its frame: as large as it may be, in as many columns as that takes.

    What would be too small to be read is left out, and the last line says how much that is.
    """
    rows = _rows(listed)
    layout = _fitted(rows, part.width, part.height)
    k = layout.k
    items: list[Item] = [Text(run("Explanation", ROMAN, 4.6 * k), (part.x, part.y + 4.2 * k), INK)]
    column = (part.width - GAP * k * (layout.columns - 1)) / layout.columns
    x, y = part.x, part.y + HEAD * k
    for row in rows[: layout.shown]:
        if y + row.height * k > part.y + part.height + 1e-6:
            x, y = x + column + GAP * k, part.y + HEAD * k
        items += row.paint(x, y, column, k)
        y += row.height * k
    left_out = len(rows) - layout.shown
    if left_out:
        words = f"and {left_out} more, for which this frame is too small"
        size = min(2.6 * k, 2.6 * k * part.width / run(words, ITALIC, 2.6 * k).width)
        items.append(Text(run(words, ITALIC, size), (part.x, part.y + part.height - 0.3), INK))
    return items


@dataclass(frozen=True)
class _Row:
    """One entry: its height in millimetres at full size, and its ink from a corner, in a width, at a size."""

    height: float
    paint: Callable[[float, float, float, float], list[Item]]


@dataclass(frozen=True)
class _Layout:
    k: float
    columns: int
    shown: int


def _rows(listed: Entries) -> list[_Row]:
    rows = [_Row(ROW, partial(_unit, unit)) for unit in listed.units]
    signs: list[Callable[[float, float, float, float], list[Item]]] = [
        *(partial(_line, line) for line in listed.lines),
        *(partial(_area, area) for area in listed.areas),
        *(partial(_point, point) for point in listed.points),
    ]
    if rows and signs:
        rows.append(_Row(4.0, _rule))
    return rows + [_Row(SIGN_ROW, paint) for paint in signs]


def _fitted(rows: Sequence[_Row], width: float, height: float) -> _Layout:
    """The largest size at which all rows stand in the frame; else the smallest, with as many as it holds."""
    best = _Layout(SMALLEST, 1, 0)
    for columns in range(1, MOST_COLUMNS + 1):
        for k in np.linspace(1.0, SMALLEST, 31).tolist():
            column = (width - GAP * k * (columns - 1)) / columns
            if column < NARROWEST * k and columns > 1:
                continue
            shown = _held(rows, height / k - HEAD, columns)
            better = (shown, k) > (best.shown, best.k)
            if better:
                best = _Layout(k, columns, shown)
    if best.shown < len(rows):
        # Room for the line that says so.
        return _Layout(best.k, best.columns, _held(rows, height / best.k - HEAD - 4.0, best.columns))
    return best


def _held(rows: Sequence[_Row], room: float, columns: int) -> int:
    """How many rows stand in columns of a height, one after the other."""
    used, column = 0.0, 1
    for i, row in enumerate(rows):
        if used + row.height > room + 1e-6:
            used, column = 0.0, column + 1
            if column > columns or row.height > room:
                return i
        used += row.height
    return len(rows)


def _rule(x: float, y: float, width: float, k: float) -> list[Item]:
    return [Stroke(LineStyle(0.1, INK), Paths.of([(x, y + 1.0 * k), (x + width, y + 1.0 * k)]))]


def _label(text: str, x: float, y: float, room: float, size: float, font: str = ROMAN) -> Text:
    """A line of text that stays within its room: set smaller where it is too long."""
    wide = run(text, font, size).width
    return Text(run(text, font, size * min(1.0, max(room, 1.0) / max(wide, 1e-9))), (x, y), INK)


def _unit(unit: MapUnit, x: float, y: float, column: float, k: float) -> list[Item]:
    width, height = BOX[0] * k, BOX[1] * k
    box = [(x, y), (x + width, y), (x + width, y + height), (x, y + height), (x, y)]
    size = min(3.0 * k, 3.0 * k * (width - 1.5 * k) / max(run(unit.code, ROMAN, 3.0 * k).width, 0.1))
    code = run(unit.code, ROMAN, size, "centre")
    text, room = x + width + 3.0 * k, column - width - 3.0 * k
    items: list[Item] = [
        Fill(unit.colour, Paths.of(box), np.array([0, 1])),
        Stroke(LineStyle(0.15, INK, join="miter"), Paths.of(box)),
        Text(code, (x + width / 2, y + (height + cap_height(size)) / 2), readable_on(unit.colour, dark=INK)),
        _label(unit.name, text, y + 3.0 * k, room, 3.1 * k),
    ]
    if unit.age:
        items.append(_label(unit.age, text, y + 6.4 * k, room, 2.6 * k, ITALIC))
    return items


def _sign_label(text: str, x: float, y: float, column: float, k: float) -> Text:
    start = (BOX[0] + 3.0) * k
    return _label(text, x + start, y + cap_height(2.5 * k) / 2, column - start, 2.5 * k)


def _area(sign: AreaSign, x: float, top: float, column: float, k: float) -> list[Item]:
    """An area of a kind of one's own: a small box in its colour."""
    y = top + SIGN_ROW / 2 * k
    west, east, head, foot = x, x + BOX[0] * k, y - 1.4 * k, y + 1.4 * k
    box = Paths.of([(west, head), (east, head), (east, foot), (west, foot), (west, head)])
    label = _sign_label(sign.label, x, y, column, k)
    return [Fill(sign.colour, box, np.array([0, 1])), Stroke(LineStyle(0.15, INK, join="miter"), box), label]


def _line(sign: LineSign, x: float, top: float, column: float, k: float) -> list[Item]:
    y = top + SIGN_ROW / 2 * k
    path = Paths.of([(x, y), (x + BOX[0] * k, y)])
    label = _sign_label(sign.label, x, y, column, k)
    if not sign.fill:
        return [Stroke(sign.style, path), label]
    # A band: its tint between two margins.
    head, foot = [(x, y - 0.8 * k), (x + BOX[0] * k, y - 0.8 * k)], [(x, y + 0.8 * k), (x + BOX[0] * k, y + 0.8 * k)]
    margins = LineStyle(0.15, INK, sign.style.dash, sign.style.cap)
    tint = Fill(sign.fill, Paths.of([*head, *foot[::-1], head[0]]), np.array([0, 1]))
    tinted: list[Item] = [] if sign.certainty == "concealed" else [tint]
    return [*tinted, Stroke(margins, Paths.of(head, foot)), label]


def _point(sign: PointSign, x: float, top: float, column: float, k: float) -> list[Item]:
    """A point sign, striking to the north-east; it shrinks with all else, so that rows stay apart."""
    y = top + SIGN_ROW / 2 * k
    middle = x + BOX[0] / 2 * k
    items: list[Item] = [
        Marks(scaled(sign.symbol, k), np.array([[middle, y]]), np.array([SPECIMEN_TURN if sign.turns else 0.0]))
    ]
    if sign.number is not None:
        dx, dy = turned_place(sign.number, SPECIMEN_TURN)
        place = (middle + k * dx, y + k * dy + cap_height(2.0 * k) / 2)
        items.append(Text(run("35", ROMAN, 2.0 * k, "centre"), place, INK))
    return [*items, _sign_label(sign.label, x, y, column, k)]

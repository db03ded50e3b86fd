"""The explanation: what the panel really shows, in stratigraphic order."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import partial
from typing import ClassVar, Self

import numpy as np

from orvik.core.features.feature import Features, Table
from orvik.core.features.kind import UNIT_AREA
from orvik.core.features.map_unit import MapUnit, stratigraphic_order
from orvik.core.ink import INK, Item, LineStyle, Stroke, Text
from orvik.core.lettering import ITALIC, ROMAN, cap_height, run
from orvik.core.paths import Paths
from orvik.core.sheet.page_context import PageContext
from orvik.core.sheet.part import NewPartContext, PanelPartSettings, Part
from orvik.core.signs.book_file import standard
from orvik.core.signs.line_ink import stretch_signs
from orvik.core.signs.sign import Sign
from orvik.core.signs.sign_book import SignBook
from orvik.core.signs.specimen import specimen, unit_specimen

BOX = (13.0, 7.0)
ROW = 9.4
SIGN_ROW = 6.2
# Signs follow the units in this order.
TABLE_ORDER: tuple[Table, ...] = ("lines", "areas", "points")
HEAD = 10.0
# No smaller than this can it be read; wider columns than this read better than narrow ones.
SMALLEST = 0.5
NARROWEST = 56.0
GAP = 6.0
MOST_COLUMNS = 8


@dataclass(frozen=True, kw_only=True)
class Explanation(PanelPartSettings):
    """Units, signs and patterns of a panel."""

    kind: ClassVar[str] = "explanation"
    label: ClassVar[str] = "Explanation"
    icon: ClassVar[str] = "M2 1h6v4H2zM2 6h6v4H2zM2 11h6v4H2zM11 3h10M11 8h10M11 13h7"
    essential: ClassVar[tuple[str, ...]] = ("Explanation",)

    @classmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        return cls(panel=context.panel), 90.0, 120.0

    def ink(self, part: Part, page: PageContext) -> list[Item]:
        number = self.panel or 0
        context = page.shown(number)
        listed = entries(context.features, context.book, context.units)
        printed = page.panels[number].underlays
        reference = [u.sign for u in page.map.underlays if u.sign is not None and printed.get(str(u.id), 0.0) > 0]
        return explanation_ink(part, replace(listed, signs=(*listed.signs, *reference)))


@dataclass(frozen=True)
class Entries:
    """What an explanation lists."""

    units: tuple[MapUnit, ...]
    signs: tuple[Sign, ...] = ()
    book: SignBook = field(default_factory=standard)


def entries(shown: Mapping[Table, Features], book: SignBook, units: Mapping[str, MapUnit]) -> Entries:
    """The units and signs that features on the shown ground have, each once, in the order of the book."""
    codes = set(shown["areas"].columns["map_unit"]) if "areas" in shown else set()
    taken: set[str] = set()
    for features in shown.values():
        taken |= {sign.id for sign in book.signs_of(features)}
    if "lines" in shown:
        taken |= {sign.id for sign in stretch_signs(shown["lines"], book)}
    listed = [sign for sign in book.listed if sign.id in taken and _is_explained(sign)]
    return Entries(
        tuple(stratigraphic_order([units[code] for code in codes if code in units])),
        tuple(sign for table in TABLE_ORDER for sign in listed if sign.table == table),
        book,
    )


def _is_explained(sign: Sign) -> bool:
    """Whether a sign has a row: what is not printed has none, and unit areas have their boxes."""
    return sign.explained and not sign.aid and sign.kind != UNIT_AREA


def explanation_ink(part: Part, listed: Entries) -> list[Item]:
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
    rows = [_Row(ROW, partial(_unit, unit, listed.book)) for unit in listed.units]
    if rows and listed.signs:
        rows.append(_Row(4.0, _rule))
    return rows + [_Row(SIGN_ROW, partial(_sign, sign)) for sign in listed.signs]


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


def _unit(unit: MapUnit, book: SignBook, x: float, y: float, column: float, k: float) -> list[Item]:
    width, height = BOX[0] * k, BOX[1] * k
    text, room = x + width + 3.0 * k, column - width - 3.0 * k
    items: list[Item] = [
        *unit_specimen(unit, book, (x, y, width, height), 3.0 * k, k=k),
        _label(unit.name, text, y + 3.0 * k, room, 3.1 * k),
    ]
    if unit.printed_age:
        items.append(_label(unit.printed_age, text, y + 6.4 * k, room, 2.6 * k, ITALIC))
    return items


def _sign(sign: Sign, x: float, top: float, column: float, k: float) -> list[Item]:
    """A sign as on the map, and its title; it shrinks with all else, so that rows stay apart."""
    y, start = top + SIGN_ROW / 2 * k, (BOX[0] + 3.0) * k
    label = _label(sign.title, x + start, y + cap_height(2.5 * k) / 2, column - start, 2.5 * k)
    return [*specimen(sign, x, y, BOX[0] * k, k), label]

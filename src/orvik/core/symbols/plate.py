"""The plate: every symbol and pattern of a symbol book as printed specimens, page by page."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import groupby

import numpy as np

from orvik.core.features.feature import CERTAINTIES
from orvik.core.features.kind import UNIT_AREA
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Item, LineStyle, Stroke, Text, moved
from orvik.core.lettering import ITALIC, ROMAN, cap_height, run, wrapped
from orvik.core.symbols.portrayal.ornaments import reach_across
from orvik.core.symbols.specimen import area_specimen, line_specimen, ornaments_along, pattern_specimen, point_specimen
from orvik.core.symbols.symbol import PatternSymbol, Symbol, shared_title
from orvik.core.symbols.symbol_book import SymbolBook

SOFT = "#5B6B78"
HAIR = LineStyle(0.1, "#CFC8BA")
RULE = LineStyle(0.2, INK)
TEXT, SMALL = 2.5, 2.0
# An A4 page, upright, in millimetres.
WIDTH, HEIGHT = 210.0, 297.0
LEFT, RIGHT, TOP, FOOT = 16.0, 194.0, 36.0, 281.0
# Where the specimens of a line symbol begin, how wide each is, and how far apart.
FIRST, SPECIMEN, STEP = 66.0, 22.0, 25.0
SHAPES = FIRST + 4 * STEP
CHECK = 50.0
LEAD = "Drawn at true size. Where a measure is marked S it follows FGDC-STD-013-2006, from memory; all others are ours."


@dataclass(frozen=True)
class PlatePage:
    """One page of the plate, in millimetres from its upper left corner."""

    items: tuple[Item, ...]
    width: float = WIDTH
    height: float = HEIGHT


@dataclass(frozen=True)
class _Row:
    """What stands side by side on the plate: its height, and its ink from the top."""

    height: float
    items: list[Item]
    heads: bool = False


def plate(book: SymbolBook) -> list[PlatePage]:
    """The pages of a symbol book: its families in their order, its patterns last."""
    rows: list[_Row] = []
    for family in book.families:
        symbols = [symbol for symbol in book.symbols if symbol.family == family and symbol.kind != UNIT_AREA]
        if symbols:
            rows.append(_head(family, symbols))
            rows += _family(symbols)
    if book.patterns:
        rows.append(_head("Patterns", []))
        rows += _patterns(list(book.patterns.values()))
    return _paged(book, rows)


def _family(symbols: Sequence[Symbol]) -> Iterator[_Row]:
    # A kind of one's own has the values of its list in the place of certainties.
    lines = [symbol for symbol in symbols if symbol.table == "lines" and symbol.certainty in CERTAINTIES]
    for _, group in groupby(lines, key=lambda symbol: symbol.kind):
        yield _line_row(list(group))
    yield from _in_columns([symbol for symbol in symbols if not any(symbol is line for line in lines)])


def _head(title: str, symbols: Sequence[Symbol]) -> _Row:
    items: list[Item] = [
        Text(run(title, ROMAN, 4.6), (LEFT, 7.0), INK),
        Stroke(RULE, Paths.of([(LEFT, 9.0), (RIGHT, 9.0)])),
    ]
    if any(symbol.table == "lines" for symbol in symbols):
        for i, certainty in enumerate(CERTAINTIES):
            items.append(Text(run(certainty, ITALIC, SMALL), (FIRST + i * STEP, 7.6), SOFT))
        items.append(Text(run("corners, closed, short", ITALIC, SMALL), (SHAPES, 7.6), SOFT))
    return _Row(11.5, items, True)


def _line_row(symbols: Sequence[Symbol]) -> _Row:
    """A kind of line: what it is, a specimen of each certainty, and how its ornaments go round corners."""
    first = symbols[0]
    reach = max(reach_across(first.ornaments), 0.8 if first.tint else 0.0)
    told = _told(shared_title(symbols), first, LEFT, FIRST - LEFT - 4.0)
    height = max(told.height, 2 * reach + 3.4, 8.4)
    y = height / 2
    items = list(told.items)
    for symbol in symbols:
        x = FIRST + CERTAINTIES.index(symbol.certainty) * STEP
        items += line_specimen(symbol, [(x, y), (x + SPECIMEN, y)])
    if first.ornaments:
        items += _shapes(first, y)
    items.append(Stroke(HAIR, Paths.of([(LEFT, height), (RIGHT, height)])))
    return _Row(height, items)


def _shapes(symbol: Symbol, y: float) -> list[Item]:
    """A corner, a closed line and one that is shorter than the spacing."""
    x = SHAPES
    turns = np.linspace(0, 2 * np.pi, 49)
    ring = [(x + 15.0 + 2.6 * float(np.sin(t)), y - 2.6 * float(np.cos(t))) for t in turns]
    paths = Paths.of(
        [(x, y + 2.6), (x + 4.0, y - 2.2), (x + 10.0, y + 1.4)], ring, [(x + 21.5, y + 1.0), (x + 24.0, y - 1.0)]
    )
    out: list[Item] = [Stroke(style, paths) for style in symbol.strokes]
    return [*out, *ornaments_along(symbol, paths, None)]


def _told(title: str, symbol: Symbol, x: float, width: float) -> _Row:
    """Title, number and meaning in lines of a width."""
    items: list[Item] = []
    y = 3.6
    mark = " S" if symbol.basis == "standard" else ""
    for line in wrapped(title, ROMAN, TEXT, width):
        items.append(Text(run(line, ROMAN, TEXT), (x, y), INK))
        y += TEXT * 1.2
    note = " ".join(
        part for part in (symbol.number + mark if symbol.number or mark else "", symbol.words) if part
    ).strip()
    for line in wrapped(note, ITALIC, SMALL, width):
        items.append(Text(run(line, ITALIC, SMALL), (x, y), SOFT))
        y += SMALL * 1.2
    return _Row(y, items)


def _in_columns(symbols: Sequence[Symbol]) -> Iterator[_Row]:
    """Symbols without certainties, three side by side."""
    column = (RIGHT - LEFT) / 3
    for start in range(0, len(symbols), 3):
        items: list[Item] = []
        height = 9.0
        for i, symbol in enumerate(symbols[start : start + 3]):
            x = LEFT + i * column
            told = _told(symbol.title, symbol, x + 17.0, column - 19.0)
            height = max(height, told.height)
            items += told.items
            if symbol.table == "lines":
                items += line_specimen(symbol, [(x, 4.6), (x + 14.0, 4.6)])
            elif symbol.table == "points":
                items += point_specimen(symbol, x + 7.0, 4.6, 60.0)
            else:
                items += area_specimen(symbol, x, 1.0, 14.0, 6.8)
        items.append(Stroke(HAIR, Paths.of([(LEFT, height), (RIGHT, height)])))
        yield _Row(height, items)


def _patterns(patterns: Sequence[PatternSymbol]) -> Iterator[_Row]:
    """Five side by side, on paper."""
    column = (RIGHT - LEFT) / 5
    for start in range(0, len(patterns), 5):
        items: list[Item] = []
        for i, pattern in enumerate(patterns[start : start + 5]):
            x = LEFT + i * column
            items += pattern_specimen(pattern, INK, "", x, 1.5, column - 4.0, 15.5)
            number = f"  {pattern.number} S" if pattern.number else ""
            items.append(Text(run(pattern.title, ROMAN, TEXT), (x, 20.1), INK))
            if number:
                wide = run(pattern.title, ROMAN, TEXT).width
                items.append(Text(run(number, ITALIC, SMALL), (x + wide, 20.1), SOFT))
        yield _Row(23.0, items)


def _paged(book: SymbolBook, rows: Sequence[_Row]) -> list[PlatePage]:
    """Rows one below the other; no heading stands alone at the foot of a page."""
    pages: list[list[Item]] = [[]]
    y = TOP
    for i, row in enumerate(rows):
        below = rows[i + 1].height if row.heads and i + 1 < len(rows) else 0.0
        if y + row.height + below > FOOT and pages[-1]:
            pages.append([])
            y = TOP
        pages[-1] += [_down(item, y) for item in row.items]
        y += row.height + (0.0 if row.heads else 0.6)
    return [PlatePage((*_frame(book, number, len(pages)), *items)) for number, items in enumerate(pages, start=1)]


def _down(item: Item, y: float) -> Item:
    """An item further down the page."""
    return moved([item], (1.0, 0.0, 0.0, 0.0, 1.0, y))[0]


def _frame(book: SymbolBook, number: int, count: int) -> list[Item]:
    """What every page has: title, how to read it, a line to check its scale by, and its number."""
    size = 7.0
    check = f"{CHECK:g} mm"
    y = FOOT + 6.0
    items: list[Item] = [
        Text(run(book.name, ROMAN, size), (LEFT, 22.0), INK),
        Text(run(LEAD, ITALIC, TEXT), (LEFT, 28.0), SOFT),
        Stroke(RULE, Paths.of([(LEFT, y), (LEFT + CHECK, y)], [(LEFT, y - 1.2), (LEFT, y + 1.2)])),
        Stroke(RULE, Paths.of([(LEFT + CHECK, y - 1.2), (LEFT + CHECK, y + 1.2)])),
        Text(run(check, ROMAN, SMALL), (LEFT + CHECK + 2.0, y + cap_height(SMALL) / 2), INK),
    ]
    page = run(f"{number} of {count}", ROMAN, SMALL, "right")
    return [*items, Text(page, (RIGHT, y + cap_height(SMALL) / 2), INK)]

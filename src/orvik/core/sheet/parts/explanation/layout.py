"""Laying out an explanation: rows in columns that balance, as large as they may be, and what no longer fits."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Item, LineStyle, Stroke, Text
from orvik.core.lettering import ITALIC, ROMAN, cap_height, run, wrapped
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts.explanation.rows import ExplanationRow
from orvik.core.symbols.specimen import specimen, unit_specimen
from orvik.core.symbols.symbol_book import SymbolBook

# Millimetres at full size.
BOX = (13.0, 7.0)
SIDE = 3.0
UNIT_ROW, SYMBOL_ROW, HEADING_ROW, RULE_ROW = 9.4, 6.2, 6.4, 4.0
NAME, AGE, TEXT, SYMBOL_NAME, HEADING, TITLE = 3.1, 2.6, 2.2, 2.5, 2.1, 4.6
LEADING = 1.28
TITLE_ROOM = 10.0
GAP = 6.0
# Wider columns than this read better than narrow ones; at most so many of them.
NARROWEST = 56.0
MOST_COLUMNS = 8
# No smaller than this share of full size can it be read: names of symbols are set in 5 points then.
SMALLEST = 0.72
# Nor can letters of fewer than 5 points, and symbols whose figures would have fewer.
LEAST_LETTER = 5.02 * 25.4 / 72
LEAST_SYMBOL = 0.89


@dataclass(frozen=True)
class Block:
    """Something that stands in a column: a row, a heading or a rule; ``tight`` keeps it with the next one."""

    row: ExplanationRow | None
    heading: str = ""
    tight: bool = False


@dataclass(frozen=True)
class Placed:
    """A block where it stands, in millimetres on the page."""

    block: Block
    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True)
class Layout:
    """An explanation that is laid out.

    Attributes
    ----------
    k
        Its size as a share of full size.
    left_out
        How many rows find no room.
    missing
        How much higher the frame would have to be for them, in millimetres.
    full
        How many times larger than in the symbol book the symbols on the map are.
    """

    k: float
    columns: int
    placed: tuple[Placed, ...]
    left_out: int = 0
    missing: float = 0.0
    full: float = 1.0

    @property
    def words(self) -> str:
        """What is said where it does not fit, and what would help; else empty."""
        if not self.left_out:
            return ""
        return (
            f"and {self.left_out} more, for which this frame is too small: make it {max(1, round(self.missing))} mm "
            "higher, or leave rows out"
        )


def blocks_of(rows: Sequence[ExplanationRow]) -> list[Block]:
    """Rows with their headings, and a rule between units and symbols."""
    blocks: list[Block] = []
    heading = ""
    unit_before = False
    for row in rows:
        if unit_before and not row.is_unit and row.shows is not None and not row.heading:
            blocks.append(Block(None))
        if row.heading and row.heading != heading:
            blocks.append(Block(None, row.heading, tight=True))
        heading = row.heading
        unit_before = row.is_unit
        blocks.append(Block(row))
    return blocks


def laid_out(
    rows: Sequence[ExplanationRow],
    part: Part,
    title: bool,
    columns: int | None = None,
    k: float | None = None,
    texts: bool = True,
    full: float = 1.0,
) -> Layout:
    """Rows in a frame.

    Parameters
    ----------
    title
        Whether room is kept for a title.
    columns, k
        How many, and of what size; None for what lets them be largest.
    texts
        Whether the descriptions of units stand below their names.
    full
        How many times larger than in the symbol book the symbols on the map are: the rows are no larger than they.
    """
    blocks = blocks_of(rows)
    head = TITLE_ROOM if title else 0.0
    best: tuple[int, float, int] | None = None
    for count in (columns,) if columns else range(1, MOST_COLUMNS + 1):
        for size in (k,) if k else (full * np.linspace(1.0, SMALLEST, 31)).tolist():
            width = (part.width / size - GAP * (count - 1)) / count
            if width < NARROWEST and count > 1 and not columns:
                continue
            if width < BOX[0] + SIDE + 4:
                continue
            room = part.height / size - head
            held = _broken(blocks, [_height(b, width, texts, size) for b in blocks], room, count)[1]
            if best is None or (held, size) > best[:2]:
                best = (held, size, count)
            if held == len(blocks):
                break
    if best is None:
        best = (0, k or SMALLEST * full, columns or 1)
    held, size, count = best
    return _filled(blocks, part, size, count, head, texts, held == len(blocks), full)


def ink_of(layout: Layout, part: Part, book: SymbolBook, title: str, texts: bool) -> list[Item]:
    """An explanation as ink."""
    k = layout.k
    items: list[Item] = []
    if title:
        items.append(Text(run(title, ROMAN, TITLE * k), (part.x, part.y + 4.2 * k), INK))
    for placed in layout.placed:
        items += _block_ink(placed, book, k, layout.full, texts)
    return items


def _filled(
    blocks: Sequence[Block], part: Part, k: float, count: int, head: float, texts: bool, whole: bool, full: float
) -> Layout:
    width = (part.width / k - GAP * (count - 1)) / count
    heights = [_height(b, width, texts, k) for b in blocks]
    room = part.height / k - head
    if whole:
        # The least height that still holds all: so the columns balance.
        low, high = max(heights, default=0.0), room
        for _ in range(24):
            middle = (low + high) / 2
            if _broken(blocks, heights, middle, count)[1] == len(blocks):
                high = middle
            else:
                low = middle
        room = high
    columns, held = _broken(blocks, heights, room, count)
    placed = []
    for number, column in enumerate(columns):
        x, y = part.x + number * (width + GAP) * k, part.y + head * k
        for i in column:
            placed.append(Placed(blocks[i], x, y, width * k, heights[i] * k))
            y += heights[i] * k
    left = sum(1 for b in blocks[held:] if b.row is not None)
    missing = 0.0
    if left:
        needed = part.height / k
        while needed < 4000 and _broken(blocks, heights, needed - head, count)[1] < len(blocks):
            needed += 2.0
        missing = needed * k - part.height
    return Layout(k, count, tuple(placed), left, missing, full)


def _broken(blocks: Sequence[Block], heights: Sequence[float], room: float, count: int) -> tuple[list[list[int]], int]:
    """Blocks in columns of a height, and how many of them find room; a heading is never left at a column's foot."""
    columns: list[list[int]] = [[]]
    used = 0.0
    i = 0
    while i < len(blocks):
        last = i
        while blocks[last].tight and last + 1 < len(blocks):
            last += 1
        needed = sum(heights[i : last + 1])
        if used + needed > room + 1e-6:
            if len(columns) == count or needed > room + 1e-6:
                return columns, i
            columns.append([])
            used = 0.0
        if blocks[i].row is None and not blocks[i].heading and not columns[-1]:
            # A rule at the head of a column parts nothing.
            i += 1
            continue
        columns[-1] += range(i, last + 1)
        used += needed
        i = last + 1
    return columns, i


def _text_size(k: float) -> float:
    """Height of the letters of texts at a size, in millimetres."""
    return max(TEXT * k, LEAST_LETTER)


def _height(block: Block, column: float, texts: bool, k: float) -> float:
    """Of a block as if at full size, in a column of a width that is drawn at a size."""
    row = block.row
    if row is None:
        return HEADING_ROW if block.heading else RULE_ROW
    lines = len(_text_of(row, column * k, texts, k)) * _text_size(k) / k * LEADING
    if row.shows is None:
        return (SYMBOL_ROW if row.name else 0.0) + lines + 1.0
    if not row.is_unit:
        return SYMBOL_ROW + lines
    above = NAME * LEADING + (AGE * LEADING if row.age else 0.0)
    return max(UNIT_ROW, above + lines + 2.0) if lines else UNIT_ROW


def _text_of(row: ExplanationRow, column: float, texts: bool, k: float) -> list[str]:
    """The lines of a row's text in a column of millimetres at a size."""
    if not row.text or (row.is_unit and not texts):
        return []
    room = column - (BOX[0] + SIDE) * k if row.shows is not None else column
    return wrapped(row.text, ROMAN, _text_size(k), room)


def _block_ink(placed: Placed, book: SymbolBook, k: float, full: float, texts: bool) -> list[Item]:
    block, x, y, width = placed.block, placed.x, placed.y, placed.width
    row = block.row
    if row is None:
        if not block.heading:
            rule = Paths.of([(x, y + 1.0 * k), (x + width, y + 1.0 * k)])
            return [Stroke(LineStyle(0.1, INK), rule)]
        size = max(HEADING * k, LEAST_LETTER)
        letters = run(block.heading.upper(), ROMAN, size, spacing=0.12 * size)
        shrink = min(1.0, width / max(letters.width, 1e-9))
        heading = run(block.heading.upper(), ROMAN, size * shrink, spacing=0.12 * size * shrink)
        return [Text(heading, (x, y + 3.6 * k), INK)]
    side = (BOX[0] + SIDE) * k if row.shows is not None else 0.0
    items: list[Item] = []
    if row.shows is None:
        foot = y + (0.0 if not row.name else SYMBOL_ROW / 2 * k + cap_height(SYMBOL_NAME * k) / 2)
        if row.name:
            items.append(_label(row.name, x, foot, width, SYMBOL_NAME * k))
    elif row.is_unit:
        box = (x, y, BOX[0] * k, BOX[1] * k)
        items += unit_specimen(row.shows, book, box, 3.0 * k, k=max(k, LEAST_SYMBOL * full))  # type: ignore[arg-type]
        foot = y + NAME * k
        items.append(_label(row.name, x + side, foot, width - side, NAME * k))
        if row.age:
            foot += (AGE + 0.7) * k
            items.append(_label(row.age, x + side, foot, width - side, AGE * k, ITALIC))
    else:
        middle = y + SYMBOL_ROW / 2 * k
        size = max(k, LEAST_SYMBOL * full)
        items += specimen(row.shows, x, middle, BOX[0] * k, size, row.form, book)  # type: ignore[arg-type]
        foot = middle + cap_height(SYMBOL_NAME * k) / 2
        items.append(_label(row.name, x + side, foot, width - side, SYMBOL_NAME * k))
    for line in _text_of(row, width, texts, k):
        foot += _text_size(k) * LEADING
        items.append(Text(run(line, ROMAN, _text_size(k)), (x + side, foot), INK))
    return items


def _label(text: str, x: float, y: float, room: float, size: float, font: str = ROMAN) -> Text:
    """A line of text that stays within its room: set smaller where it is too long."""
    wide = run(text, font, size).width
    return Text(run(text, font, size * min(1.0, max(room, 1.0) / max(wide, 1e-9))), (x, y), INK)

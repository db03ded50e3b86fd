"""Laying out an explanation: rows in columns that balance, as large as they may be, and what no longer fits."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Item, LineStyle, Stroke, Text
from orvik.core.lettering import ROMAN, run
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts.explanation.row_ink import BOX, SIDE, RowLook, Where, heading_ink, row_height, row_ink
from orvik.core.sheet.parts.explanation.rows import ExplanationRow

# Millimetres at full size.
HEADING_ROW, RULE_ROW = 6.4, 4.0
TITLE = 4.6
TITLE_ROOM = 10.0
GAP = 6.0
# Wider columns than this read better than narrow ones; at most so many of them.
NARROWEST = 56.0
MOST_COLUMNS = 8
# No smaller than this share of full size can it be read: names of symbols are set in 5 points then.
SMALLEST = 0.72
# What a heading says above rows that go on in another frame.
CONTINUED = "—Continued"


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
    """

    k: float
    columns: int
    placed: tuple[Placed, ...]
    left_out: int = 0
    missing: float = 0.0

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


@dataclass(frozen=True)
class Frame:
    """A frame that rows flow through, its place without the padding; ``columns`` None for what lets rows be largest."""

    part: Part
    title: bool = False
    columns: int | None = None

    @property
    def head(self) -> float:
        """Millimetres at full size that are kept for the title."""
        return TITLE_ROOM if self.title else 0.0


def flowed_out(
    rows: Sequence[ExplanationRow], frames: Sequence[Frame], look: RowLook, k: float | None = None
) -> list[Layout]:
    """Rows in frames that follow one another, all of one size; they are no larger than the symbols on the map.

    Parameters
    ----------
    k
        Of what size; None for the largest at which all rows find room, else the smallest that can be read.
    """
    blocks = blocks_of(rows)
    sizes = (k,) if k else (look.full * np.linspace(1.0, SMALLEST, 31)).tolist()
    tried: dict[float, list[_Filled]] = {}

    def at(size: float) -> list[_Filled]:
        if size not in tried:
            tried[size] = _through(blocks, frames, size, look)
        return tried[size]

    def holds_all(size: float) -> bool:
        return not at(size)[-1].rest

    # Whatever fits in a size fits in a smaller one.
    found = bisect_left(sizes, True, key=holds_all)
    size = sizes[min(found, len(sizes) - 1)]
    filled = at(size)
    return [
        _placed_in(frame, held, size, look, last=held is filled[-1]) for frame, held in zip(frames, filled, strict=True)
    ]


@dataclass(frozen=True)
class _Filled:
    """What a frame is given, in how many columns, and what it leaves."""

    blocks: Sequence[Block]
    columns: int
    rest: Sequence[Block]


def _through(blocks: Sequence[Block], frames: Sequence[Frame], size: float, look: RowLook) -> list[_Filled]:
    """Which blocks each frame takes at a size, in the fewest columns that take most."""
    rest = list(blocks)
    out = []
    for frame in frames:
        best: tuple[int, int] | None = None
        for count in (frame.columns,) if frame.columns else range(1, MOST_COLUMNS + 1):
            width = (frame.part.width / size - GAP * (count - 1)) / count
            if width < BOX[0] + SIDE + 4 or (width < NARROWEST and count > 1 and not frame.columns):
                continue
            heights = [_height(b, width, size, look) for b in rest]
            taken = _broken(rest, heights, frame.part.height / size - frame.head, count)[1]
            if best is None or taken > best[0]:
                best = (taken, count)
        taken, count = best or (0, frame.columns or 1)
        given, rest = rest, _continued(rest, taken)
        out.append(_Filled(given, count, rest))
    return out


def _continued(blocks: Sequence[Block], taken: int) -> list[Block]:
    """What is left for the next frame; in the midst of a heading's rows, that stands above them once more."""
    rest = list(blocks[taken:])
    if rest and rest[0].row is not None and rest[0].row.heading and taken:
        rest.insert(0, Block(None, f"{rest[0].row.heading}{CONTINUED}", tight=True))
    return rest


def ink_of(layout: Layout, part: Part, title: str, look: RowLook) -> list[Item]:
    """An explanation as ink."""
    k = layout.k
    items: list[Item] = []
    if title:
        items.append(Text(run(title, ROMAN, TITLE * k), (part.x, part.y + 4.2 * k), INK))
    for placed in layout.placed:
        row = placed.block.row
        where = Where(placed.x, placed.y, placed.width)
        if row is not None:
            items += row_ink(row, where, k, look)
        elif placed.block.heading:
            items += heading_ink(placed.block.heading, where, k)
        else:
            rule = Paths.of([(placed.x, placed.y + 1.0 * k), (placed.x + placed.width, placed.y + 1.0 * k)])
            items.append(Stroke(LineStyle(0.1, INK), rule))
    return items


def _placed_in(frame: Frame, filled: _Filled, k: float, look: RowLook, *, last: bool) -> Layout:
    part, blocks, count, head = frame.part, filled.blocks, filled.columns, frame.head
    width = (part.width / k - GAP * (count - 1)) / count
    heights = [_height(b, width, k, look) for b in blocks]
    room = part.height / k - head
    if not filled.rest:
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
    left = sum(1 for b in blocks[held:] if b.row is not None) if last else 0
    missing = 0.0
    if left:
        needed = part.height / k
        while needed < 4000 and _broken(blocks, heights, needed - head, count)[1] < len(blocks):
            needed += 2.0
        missing = needed * k - part.height
    return Layout(k, count, tuple(placed), left, missing)


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


def _height(block: Block, column: float, k: float, look: RowLook) -> float:
    """Of a block as if at full size, in a column of a width that is drawn at a size."""
    if block.row is None:
        return HEADING_ROW if block.heading else RULE_ROW
    return row_height(block.row, column * k, k, look) / k

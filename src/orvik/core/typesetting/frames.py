"""Blocks of lines through frames that follow one another: no line or heading alone at a head or a foot."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

_EPSILON = 1e-6
# So many lines of a block stay together where a frame has room for as many as the second figure.
TOGETHER, ROOM_FOR = 2, 3


@dataclass(frozen=True)
class Block:
    """Lines that flow.

    Attributes
    ----------
    lines
        How many.
    leading
        From one baseline to the next, in millimetres.
    least
        How high its beginning is at least, as of a box that stands beside its first lines.
    before
        What parts it from the block above; nothing at the head of a frame.
    tight
        Whether it stays with the beginning of the next.
    """

    lines: int
    leading: float
    least: float = 0.0
    before: float = 0.0
    tight: bool = False

    def height(self, first: int, last: int) -> float:
        """Of its lines from one to another, which is not among them."""
        inked = (last - first) * self.leading
        return max(inked, self.least) if first == 0 else inked


@dataclass(frozen=True)
class Placed:
    """Lines of a block in a frame: how far below its head they begin, in millimetres, and which they are."""

    block: int
    frame: int
    y: float
    first: int
    last: int


@dataclass(frozen=True)
class Flow:
    """What stands where, and which block is the first that found no room or only for a part; None where all did."""

    placed: tuple[Placed, ...]
    cut: int | None = None


def flowed(blocks: Sequence[Block], frames: Sequence[float]) -> Flow:
    """Blocks in frames of heights in millimetres."""
    placed: list[Placed] = []
    frame, y = 0, 0.0
    number, first = 0, 0
    while number < len(blocks):
        if frame == len(frames):
            return Flow(tuple(placed), number)
        gap = blocks[number].before if y > 0 and first == 0 else 0.0
        last = _fitting(blocks, number, first, frames[frame] - y - gap, frames[frame])
        if last is None:
            frame, y = frame + 1, 0.0
            continue
        block = blocks[number]
        placed.append(Placed(number, frame, y + gap, first, last))
        y += gap + block.height(first, last)
        if last < block.lines:
            frame, y, first = frame + 1, 0.0, last
        else:
            number, first = number + 1, 0
    return Flow(tuple(placed))


def balanced(blocks: Sequence[Block], frames: Sequence[float], columns: int) -> Flow:
    """The same with the last so many frames, which stand beside one another, no higher than they have to be."""
    whole = flowed(blocks, frames)
    if whole.cut is not None or columns < 2:
        return whole
    before = list(frames[: len(frames) - columns])
    low, high = 0.0, frames[-1]
    for _ in range(24):
        middle = (low + high) / 2
        if flowed(blocks, [*before, *[middle] * columns]).cut is None:
            high = middle
        else:
            low = middle
    return flowed(blocks, [*before, *[high] * columns])


def _fitting(blocks: Sequence[Block], number: int, first: int, room: float, whole: float) -> int | None:
    """Up to which line a block stands in the room that is left of a frame; None where it begins in the next one."""
    block = blocks[number]
    if block.tight and number + 1 < len(blocks):
        after = blocks[number + 1]
        left = room - block.height(0, block.lines) - after.before
        return block.lines if _fitting(blocks, number + 1, 0, left, whole) is not None else None
    if block.height(first, block.lines) <= room + _EPSILON:
        return block.lines
    together = TOGETHER if whole >= ROOM_FOR * block.leading - _EPSILON else 1
    last = first + int((room + _EPSILON) / block.leading)
    last = min(last, block.lines - together)
    if last - first < together or block.height(first, last) > room + _EPSILON:
        return None
    return last

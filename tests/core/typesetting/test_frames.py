"""Blocks in frames: all of them, in order, within their frames, and no line alone where three have room."""

from __future__ import annotations

import numpy as np
import pytest

from orvik.core.typesetting.frames import Block, Flow, balanced, flowed
from tests.examples import SEED


def some(rng: np.random.Generator) -> list[Block]:
    out = []
    for _ in range(int(rng.integers(1, 30))):
        if rng.random() < 0.15:
            out.append(Block(1, 4.0, 0.0, 3.5, tight=True))
        least = float(rng.choice([0.0, 7.0]))
        out.append(Block(int(rng.integers(1, 14)), float(rng.choice([3.0, 3.5])), least, 2.0))
    return out


def checked(blocks: list[Block], frames: list[float], flow: Flow) -> None:
    """Every line once and in order, within its frame, and parted as it may be."""
    told = [(p.block, line) for p in flow.placed for line in range(p.first, p.last)]
    whole = [(number, line) for number, block in enumerate(blocks) for line in range(block.lines)]
    assert told == whole[: len(told)]
    assert (len(told) == len(whole)) == (flow.cut is None)
    for one, after in zip(flow.placed, flow.placed[1:], strict=False):
        assert (one.frame, one.y) < (after.frame, after.y)
    for one in flow.placed:
        block = blocks[one.block]
        assert one.y >= 0
        assert one.y + block.height(one.first, one.last) <= frames[one.frame] + 1e-3
        parts = [p for p in flow.placed if p.block == one.block]
        if len(parts) > 1 and all(frames[p.frame] >= 3 * block.leading for p in parts):
            # Neither the first line alone at a foot, nor the last one alone at a head.
            assert all(p.last - p.first >= 2 for p in parts)
        if block.tight and one.block + 1 < len(blocks):
            after = [p for p in flow.placed if p.block == one.block + 1]
            assert not after or after[0].frame == one.frame


@pytest.mark.parametrize("number", range(200))
def test_any_blocks_in_any_frames(number: int) -> None:
    rng = np.random.default_rng((SEED, number))
    blocks = some(rng)
    frames = [float(v) for v in rng.uniform(2.0, 90.0, int(rng.integers(1, 7)))]
    checked(blocks, frames, flowed(blocks, frames))


@pytest.mark.parametrize("number", range(60))
def test_columns_beside_one_another_are_no_higher_than_they_have_to_be(number: int) -> None:
    rng = np.random.default_rng((SEED, number, 2))
    blocks = some(rng)
    columns = int(rng.integers(2, 5))
    frames = [400.0, *[400.0] * columns]
    flow = balanced(blocks, frames, columns)
    if flow.cut is not None:
        return
    ends = [
        max((p.y + blocks[p.block].height(p.first, p.last) for p in flow.placed if p.frame == f), default=0.0)
        for f in range(1, columns + 1)
    ]
    checked(blocks, [400.0, *[max(ends)] * columns], flow)
    # Not one millimetre less would do.
    lower = [400.0, *[max(ends) - 1.0] * columns]
    assert max(ends) < 1.0 or flowed(blocks, lower).cut is not None


def test_a_block_goes_on_in_the_next_frame_and_what_has_no_room_is_named() -> None:
    blocks = [Block(3, 3.0), Block(6, 3.0, before=2.0), Block(2, 3.0, before=2.0)]
    flow = flowed(blocks, [20.0, 30.0])
    assert [(p.block, p.frame, p.first, p.last) for p in flow.placed] == [
        (0, 0, 0, 3), (1, 0, 0, 3), (1, 1, 3, 6), (2, 1, 0, 2)
    ]  # fmt: skip
    assert flow.placed[1].y == pytest.approx(11.0)
    assert flow.placed[2].y == 0.0
    assert flowed(blocks, [20.0]).cut == 1
    assert flowed(blocks, []).cut == 0
    # Three lines are not parted, nor is a heading left behind.
    assert flowed([Block(2, 3.0), Block(3, 3.0)], [12.0, 12.0]).placed[1].frame == 1
    headed = flowed([Block(3, 3.0), Block(1, 3.0, tight=True), Block(5, 3.0)], [14.0, 30.0])
    assert [p.frame for p in headed.placed] == [0, 1, 1]

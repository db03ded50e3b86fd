"""Designs of scale bars: each drawn from the places of its divisions along a line."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Mapping, Sequence

import numpy as np

from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import Fill, Item, LineStyle, Stroke

FINE, HEAVY = 0.15, 0.25


def _rule(edges: Sequence[float], zero: int, top: float, height: float, colour: str) -> list[Item]:
    """A line with a tick at each figure, and lower ones left of nought."""
    foot = top + height
    paths: list[list[tuple[float, float]]] = [[(edges[0], foot), (edges[-1], foot)]]
    for i, x in enumerate(edges):
        high = top if i in (0, zero) or i > zero else top + height * 0.5
        paths.append([(x, foot), (x, high)])
    return [Stroke(LineStyle(HEAVY, colour, cap="square", join="miter"), Paths.of(*paths))]


def _ticks(edges: Sequence[float], zero: int, top: float, height: float, colour: str) -> list[Item]:
    """A line that is divided all along, with ticks across it."""
    middle = top + height / 2
    step = edges[zero] - edges[zero - 1] if zero else (edges[1] - edges[0]) / 5
    fine = np.arange(edges[0], edges[-1] + step / 2, step)
    small = [[(float(x), middle - height * 0.2), (float(x), middle + height * 0.2)] for x in fine]
    main: list[list[tuple[float, float]]] = [[(edges[0], middle), (edges[-1], middle)]]
    main += [[(x, top), (x, top + height)] for i, x in enumerate(edges) if i in (0, zero) or i > zero]
    return [
        Stroke(LineStyle(FINE, colour), Paths.of(*small)),
        Stroke(LineStyle(HEAVY, colour, cap="square"), Paths.of(*main)),
    ]


def _chequered(edges: Sequence[float], zero: int, top: float, height: float, colour: str) -> list[Item]:
    """Blocks that are filled by turns, in a frame."""
    blocks = [_box(a, b, top, height) for i, (a, b) in enumerate(itertools.pairwise(edges)) if _filled(i, zero)]
    return [_fill(blocks, colour), _frame(edges, top, height, colour)]


def _staircase(edges: Sequence[float], zero: int, top: float, height: float, colour: str) -> list[Item]:
    """Blocks that stand above and below a middle line by turns."""
    half = height / 2
    blocks = [
        _box(a, b, top if _filled(i, zero) else top + half, half) for i, (a, b) in enumerate(itertools.pairwise(edges))
    ]
    line = Paths.of([(edges[0], top + half), (edges[-1], top + half)])
    return [_fill(blocks, colour), Stroke(LineStyle(FINE, colour), line)]


def _twin(edges: Sequence[float], zero: int, top: float, height: float, colour: str) -> list[Item]:
    """Two rows of blocks in a frame, filled against each other."""
    half = height / 2
    blocks = []
    for i, (a, b) in enumerate(itertools.pairwise(edges)):
        blocks.append(_box(a, b, top if _filled(i, zero) else top + half, half))
    line = Paths.of([(edges[0], top + half), (edges[-1], top + half)])
    return [_fill(blocks, colour), _frame(edges, top, height, colour), Stroke(LineStyle(FINE, colour), line)]


Draw = Callable[[Sequence[float], int, float, float, str], list[Item]]
# By name: what it is called, its height in millimetres, and its drawing.
DESIGNS: Mapping[str, tuple[str, float, Draw]] = {
    "rule": ("plain rule", 1.4, _rule),
    "ticks": ("ticked rule", 1.8, _ticks),
    "chequered": ("chequered", 1.2, _chequered),
    "staircase": ("staircase", 1.8, _staircase),
    "twin": ("twin rows", 1.8, _twin),
}


def bar_ink(design: str, edges: Sequence[float], zero: int, top: float, colour: str) -> list[Item]:
    """A bar.

    Parameters
    ----------
    edges
        Where its divisions begin and end, in millimetres from left to right.
    zero
        Which of them is nought.
    top
        Of the bar, in millimetres.
    """
    _, height, draw = DESIGNS[design]
    return draw(edges, zero, top, height, colour)


def _filled(i: int, zero: int) -> bool:
    """By turns from nought outwards, so that the first block to the right of it is filled."""
    return (i - zero) % 2 == 0


def _box(left: float, right: float, top: float, height: float) -> list[tuple[float, float]]:
    return [(left, top), (right, top), (right, top + height), (left, top + height)]


def _fill(blocks: list[list[tuple[float, float]]], colour: str) -> Fill:
    return Fill(colour, Paths.of(*blocks), np.arange(len(blocks) + 1))


def _frame(edges: Sequence[float], top: float, height: float, colour: str) -> Stroke:
    outline = _box(edges[0], edges[-1], top, height)
    return Stroke(LineStyle(FINE, colour, join="miter"), Paths.of([*outline, outline[0]]))

"""Designs of north arrows: each a drawing about its middle, a unit high, that points upwards."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Fill, Item, LineStyle, Stroke

Places = list[tuple[float, float]]


@dataclass(frozen=True)
class Arrow:
    """Lines and filled shapes of an arrow, y downwards; ``letter`` says whether an N stands beyond its tip."""

    lines: tuple[Places, ...] = ()
    fills: tuple[Places, ...] = ()
    letter: bool = True
    weight: float = 0.2


def _needle() -> Arrow:
    head: Places = [(0, -0.5), (0.055, -0.29), (0, -0.33)]
    return Arrow(([(0, 0.5), (0, -0.4)], [*head, (-0.055, -0.29), (0, -0.5)]), (head,), letter=False)


def _plain() -> Arrow:
    return Arrow(([(0, 0.5), (0, -0.5)], [(-0.06, -0.34), (0, -0.5), (0.06, -0.34)]))


def _kite() -> Arrow:
    right: Places = [(0, -0.5), (0.13, 0.42), (0, 0.3)]
    left: Places = [(0, -0.5), (-0.13, 0.42), (0, 0.3), (0, -0.5)]
    return Arrow((left, [*right, (0, -0.5)]), (right,))


def _station() -> Arrow:
    turn = np.linspace(0, 2 * np.pi, 49)
    ring: Places = [(0.07 * float(np.sin(t)), 0.43 - 0.07 * float(np.cos(t))) for t in turn]
    dot: Places = [(0.4 * x, 0.43 + 0.4 * (y - 0.43)) for x, y in ring]
    return Arrow((ring, [(0, 0.36), (0, -0.5)], [(-0.07, -0.36), (0, -0.5)]), (dot,))


def _ring() -> Arrow:
    turn = np.linspace(0, 2 * np.pi, 97)
    ring: Places = [(0.3 * float(np.sin(t)), 0.08 - 0.3 * float(np.cos(t))) for t in turn]
    right: Places = [(0, -0.5), (0.08, 0.08), (0, 0.08)]
    left: Places = [(0, -0.5), (-0.08, 0.08), (0, 0.08), (0, -0.5)]
    tail: Places = [(0.08, 0.08), (0, 0.5), (-0.08, 0.08)]
    return Arrow((ring, left, tail), (right,))


def _star() -> Arrow:
    lines: list[Places] = []
    fills: list[Places] = []
    for turn, reach in ((0, 0.5), (90, 0.26), (180, 0.5), (270, 0.26)):
        for side in (-1, 1):
            arm = [_turned(p, turn) for p in ((0.0, -reach), (side * 0.055, -0.055), (0.0, 0.0))]
            lines.append([*arm, arm[0]])
            if side == 1:
                fills.append(arm)
    return Arrow(tuple(lines), tuple(fills))


def _staff() -> Arrow:
    """A levelling staff: steps that are filled by turns, with a head."""
    steps = np.linspace(0.5, -0.3, 9).tolist()
    fills: list[Places] = []
    for i, (low, high) in enumerate(itertools.pairwise(steps)):
        x = 0.0 if i % 2 else -0.05
        fills.append([(x, low), (x + 0.05, low), (x + 0.05, high), (x, high)])
    frame: Places = [(-0.05, 0.5), (0.05, 0.5), (0.05, -0.3), (-0.05, -0.3), (-0.05, 0.5)]
    return Arrow((frame, [(-0.05, -0.3), (0, -0.5), (0.05, -0.3)]), tuple(fills), weight=0.15)


DESIGNS: Mapping[str, tuple[str, Callable[[], Arrow]]] = {
    "needle": ("needle", _needle),
    "plain": ("plain line", _plain),
    "station": ("station and line", _station),
    "kite": ("kite", _kite),
    "staff": ("staff", _staff),
    "ring": ("needle in a ring", _ring),
    "star": ("star", _star),
}


def arrow_ink(design: str, middle: tuple[float, float], height: float, angle: float, colour: str = INK) -> list[Item]:
    """An arrow about a middle, so high in millimetres, turned by degrees clockwise."""
    arrow = DESIGNS[design][1]()

    def placed(places: Places) -> Places:
        turned = (_turned(place, angle) for place in places)
        return [(middle[0] + height * x, middle[1] + height * y) for x, y in turned]

    fills = [placed(places) for places in arrow.fills]
    items: list[Item] = []
    if fills:
        items.append(Fill(colour, Paths.of(*fills), np.arange(len(fills) + 1)))
    style = LineStyle(arrow.weight, colour, join="miter")
    return [*items, Stroke(style, Paths.of(*(placed(places) for places in arrow.lines)))]


def has_letter(design: str) -> bool:
    """Whether an N stands beyond its tip."""
    return DESIGNS[design][1]().letter


def _turned(place: tuple[float, float], angle: float) -> tuple[float, float]:
    """A place turned clockwise about the origin, y downwards."""
    radians = np.radians(angle)
    cos, sin = float(np.cos(radians)), float(np.sin(radians))
    return place[0] * cos - place[1] * sin, place[0] * sin + place[1] * cos

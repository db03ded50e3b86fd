"""The scale bar: round lengths, with one division to the left of nought split finer."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np

from orvik.core.errors import SheetRefused
from orvik.core.ink import INK, Fill, Item, LineStyle, Stroke, Text
from orvik.core.lettering import ROMAN, cap_height, run
from orvik.core.paths import Paths
from orvik.core.sheet.page import Part

HEIGHT = 1.6
SIZE = 2.4


@dataclass(frozen=True)
class Bar:
    """Divisions of ``step`` metres: one to the left of nought in ``splits`` pieces, ``count`` to the right."""

    step: float
    count: int
    splits: int

    @property
    def metres(self) -> float:
        """Whole length on the ground."""
        return self.step * (self.count + 1)


def fitted(width: float, scale: int) -> Bar:
    """The longest bar of round divisions within a width.

    Parameters
    ----------
    width
        Room for the bar in millimetres.
    scale
        Scale denominator.

    Raises
    ------
    SheetRefused
        Less room than the shortest bar needs.
    """
    room = width * scale / 1000.0
    best: Bar | None = None
    if room > 0:
        for power in range(int(np.floor(np.log10(room))) - 1, int(np.floor(np.log10(room))) + 1):
            for digit, splits in ((1, 5), (2, 4), (5, 5)):
                step = digit * 10.0**power
                for count in (2, 3, 4):
                    bar = Bar(step, count, splits)
                    longer = best is None or (bar.metres, bar.step) > (best.metres, best.step)
                    if bar.metres <= room and longer:
                        best = bar
    if best is None or width < 15:
        raise SheetRefused(f"A scale bar needs at least 15 mm; {width:.1f} mm is too narrow.")
    return best


def ink(part: Part, scale: int) -> list[Item]:
    """The bar in its frame on the page."""
    bar = fitted(part.width - 14.0, scale)
    k = 1000.0 / scale
    kilometres = bar.step >= 1000
    unit, per = ("kilometres", 1000.0) if kilometres else ("metres", 1.0)
    zero = part.x + 3.0 + bar.step * k
    top = part.y + cap_height(SIZE) + 1.2
    edges = [-bar.step + bar.step / bar.splits * i for i in range(bar.splits)]
    edges += [bar.step * i for i in range(bar.count + 1)]
    outline = [(zero - bar.step * k, top), (zero + bar.step * bar.count * k, top)]
    outline += [(x, top + HEIGHT) for x, _ in reversed(outline)]
    outline.append(outline[0])
    blocks = []
    for i, (a, b) in enumerate(itertools.pairwise(edges)):
        if i % 2 == 0:
            blocks.append(
                [(zero + a * k, top), (zero + b * k, top), (zero + b * k, top + HEIGHT), (zero + a * k, top + HEIGHT)]
            )
    items: list[Item] = [
        Fill(INK, Paths.of(*blocks), np.arange(len(blocks) + 1)),
        Stroke(LineStyle(0.15, INK, join="miter"), Paths.of(outline)),
    ]
    for value in [-bar.step] + [bar.step * i for i in range(bar.count + 1)]:
        last = value == bar.step * bar.count
        figure = f"{abs(value) / per:g}"
        items.append(Text(run(figure, ROMAN, SIZE, "centre"), (zero + value * k, top - 0.9), INK))
        if last:
            at = (zero + value * k + 1.4 + run(figure, ROMAN, SIZE).width / 2, top - 0.9)
            items.append(Text(run(unit, ROMAN, SIZE), at, INK))
    return items

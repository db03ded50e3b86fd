"""What is to be written beside, in or along a feature, before it is known where."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal, NamedTuple

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.features.table import Table
from orvik.core.ink.primitives import INK, Run, Stamp
from orvik.core.lettering import heights

# inside: an area. around: a symbol. over: a place, whose name may move a little. along: on a line, which it
# interrupts. above: beside a line, following its bends. leading: beyond the end of a line.
Placing = Literal["inside", "around", "over", "along", "above"]
# Who chooses first: what has one place only, then what can move.
FIGURE, NAME, CODE, AGAIN = range(4)


class LabelKey(NamedTuple):
    """A label by its feature, and its number where the feature has several."""

    table: Table
    id: int
    number: int = 0


@dataclass(frozen=True)
class LabelRequest:
    """A label that wants a place.

    Attributes
    ----------
    geometry
        What it speaks of, in ground coordinates.
    run
        Its letters, set about their middle.
    at
        Where its middle stands best, in millimetres right and down from its place; for ``around`` and ``over``.
    stamp, turned
        The symbol that it keeps clear of, and by how many degrees clockwise that is turned.
    priority
        Less comes first.
    repeats
        Whether a long area has it again and again.
    """

    key: LabelKey
    geometry: shapely.Geometry
    run: Run
    placing: Placing
    priority: int
    at: tuple[float, float] = (0.0, 0.0)
    stamp: Stamp | None = None
    turned: float = 0.0
    colour: str = INK
    repeats: bool = False

    @cached_property
    def half(self) -> tuple[float, float]:
        """Half its width and half its height in millimetres."""
        above, below = heights(self.run)
        return self.run.width / 2, (above + below) / 2

    @property
    def drop(self) -> float:
        """How far its baseline lies below its middle, in millimetres."""
        above, below = heights(self.run)
        return (above - below) / 2

    def again(self, number: int) -> LabelRequest:
        """The same label once more."""
        return replace(self, key=self.key._replace(number=number), priority=AGAIN)


def halves_of(requests: Sequence[LabelRequest]) -> Floats:
    """Half the width and half the height of each, (n, 2), in millimetres."""
    return np.array([request.half for request in requests]).reshape(-1, 2)

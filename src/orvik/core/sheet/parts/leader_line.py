"""A leader line: from one corner of its frame to the opposite one, with a mark at its end."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

import numpy as np

from orvik.core.arrays import Floats
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Fill, Item, LineStyle, Stroke
from orvik.core.sheet.page.entries import Choice, Colour, Figure, entry
from orvik.core.sheet.page.part import NewPartContext, Part, PartSettings
from orvik.core.sheet.panels.page_context import PageContext

# From which corner to which, as shares of width and height.
RUNS = {
    "down": ("upper left to lower right", (0.0, 0.0), (1.0, 1.0)),
    "up": ("lower left to upper right", (0.0, 1.0), (1.0, 0.0)),
    "across": ("left to right", (0.0, 0.5), (1.0, 0.5)),
    "upright": ("top to bottom", (0.5, 0.0), (0.5, 1.0)),
}
ENDS = {"none": "none", "arrow": "an arrow", "dot": "a dot", "ring": "a ring"}
HEAD, DOT = 2.4, 0.7


@dataclass(frozen=True, kw_only=True)
class PointerLine(PartSettings):
    """A straight line.

    Attributes
    ----------
    runs
        A name of ``RUNS``.
    end, begins
        Names of ``ENDS``.
    width
        In millimetres.
    """

    kind: ClassVar[str] = "pointer_line"
    label: ClassVar[str] = "Leader line"
    icon: ClassVar[str] = "M4 13h7l8-9M19 4m-1.5 0a1.5 1.5 0 1 0 3 0a1.5 1.5 0 1 0-3 0"
    can_be_hidden: ClassVar[bool] = False

    runs: str = entry(Choice("Runs", {name: words for name, (words, *_) in RUNS.items()}), "up")
    end: str = entry(Choice("Ends in", ENDS), "arrow")
    begins: str = entry(Choice("Begins with", ENDS), "none")
    width: float = entry(Figure("Line width", 0.05, 5, "mm"), 0.25)
    colour: str | None = entry(Colour("Colour"), INK)

    @classmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        return cls(), 30.0, 15.0

    def ink(self, part: Part, page: PageContext) -> list[Item]:
        _, first, last = RUNS[self.runs]
        start, stop = (np.array([part.x + part.width * u, part.y + part.height * v]) for u, v in (first, last))
        way = stop - start
        length = float(np.hypot(*way))
        if length < 1e-6:
            return []
        way = way / length
        heads = [self._head(self.begins, start, -way), self._head(self.end, stop, way)]
        line = Paths.of([tuple((start + way * heads[0][1]).tolist()), tuple((stop - way * heads[1][1]).tolist())])
        stroke = Stroke(LineStyle(self.width, self.colour or INK), line)
        return [stroke, *(item for items, _ in heads for item in items)]

    def _head(self, end: str, tip: Floats, way: Floats) -> tuple[list[Item], float]:
        """The mark at an end, and by how much the line ends before it."""
        colour, part = self.colour or INK, np.array([0, 1])
        if end == "arrow":
            size = HEAD + 2 * self.width
            across = np.array([-way[1], way[0]]) * size * 0.3
            foot = tip - way * size
            return [Fill(colour, Paths.of(np.array([tip, foot + across, foot - across])), part)], size * 0.8
        if end in ("dot", "ring"):
            radius = DOT + self.width
            turn = np.linspace(0, 2 * np.pi, 33)
            ring = Paths.of(tip + radius * np.column_stack([np.cos(turn), np.sin(turn)]))
            if end == "dot":
                return [Fill(colour, ring, part)], 0.0
            return [Stroke(LineStyle(self.width, colour), ring)], radius
        return [], 0.0

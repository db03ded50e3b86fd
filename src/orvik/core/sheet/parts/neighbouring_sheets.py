"""A diagram of the neighbouring sheets by name and number, this one in the middle."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

import numpy as np

from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, PAPER, Fill, Item, LineStyle, Stroke, Text
from orvik.core.lettering import ITALIC, ROMAN, cap_height, run, wrapped
from orvik.core.sheet.page.entries import Choice, Figure, Words, entry
from orvik.core.sheet.page.part import NewPartContext, Part, PartSettings
from orvik.core.sheet.panels.page_context import PageContext

SHOWN = {"both": "number and name", "number": "number", "name": "name"}
# Where the cells stand: the middle one is this sheet.
CELLS = (("nw", "n", "ne"), ("w", "", "e"), ("sw", "s", "se"))
LEADING = 1.18


@dataclass(frozen=True, kw_only=True)
class NeighbouringSheets(PartSettings):
    """Cells of nine sheets; where nothing is known of a neighbour its cell is empty."""

    kind: ClassVar[str] = "neighbouring_sheets"
    label: ClassVar[str] = "Neighbouring sheets"
    icon: ClassVar[str] = "M4 1h16v14H4zM9.3 1v14M14.7 1v14M4 5.7h16M4 10.3h16"

    shows: str = entry(Choice("Shows", SHOWN), "both")
    caption: str = entry(Words("Caption", longest=100), "Adjoining sheets")
    size: float = entry(Figure("Letter size", 1, 20, "mm"), 2.2)

    @classmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        return cls(), 42.0, 34.0

    def ink(self, part: Part, page: PageContext) -> list[Item]:
        foot = self.size * 1.7 if self.caption else 0.0
        width, height = part.width / 3, max(1.0, part.height - foot) / 3
        words: dict[str, list[tuple[str, str]]] = {}
        for neighbour in page.map.neighbours:
            words.setdefault(neighbour.place, []).append((neighbour.sheet_number, neighbour.name))
        here = page.map.imprint
        items: list[Item] = []
        lines = [[(part.x + i * width, part.y), (part.x + i * width, part.y + 3 * height)] for i in range(4)]
        lines += [[(part.x, part.y + i * height), (part.x + 3 * width, part.y + i * height)] for i in range(4)]
        for row, places in enumerate(CELLS):
            for column, place in enumerate(places):
                x, y = part.x + column * width, part.y + row * height
                if not place:
                    box = Paths.of([(x, y), (x + width, y), (x + width, y + height), (x, y + height), (x, y)])
                    items.append(Fill(INK, box, np.array([0, 1])))
                    said = [(here.number, "" if here.number else here.title or page.map.project)]
                    items += self._words(said, x, y, width, height, PAPER)
                else:
                    items += self._words(words.get(place, []), x, y, width, height, INK)
        items.append(Stroke(LineStyle(0.18, INK, cap="square", join="miter"), Paths.of(*lines)))
        if self.caption:
            baseline = part.y + 3 * height + 0.5 * self.size + cap_height(self.size)
            items.append(Text(run(self.caption, ITALIC, self.size, "centre"), (part.middle[0], baseline), INK))
        return items

    def _said(self, number: str, name: str) -> tuple[str, ...]:
        return {"both": (number, name), "number": (number or name,), "name": (name or number,)}[self.shows]

    def _words(
        self, said: list[tuple[str, str]], x: float, y: float, width: float, height: float, colour: str
    ) -> list[Item]:
        """What stands in a cell, in its middle, smaller where it would not fit."""
        shown = [word for number, name in said for word in self._said(number, name) if word]
        if not shown:
            return []
        size = self.size
        for _ in range(12):
            lines = [line for word in shown for line in wrapped(word, ROMAN, size, width - 1.2)]
            widest = max(run(line, ROMAN, size).width for line in lines)
            high = (len(lines) - 1) * size * LEADING + cap_height(size)
            if widest <= width - 1.0 and high <= height - 1.0:
                break
            size *= 0.9
        top = y + (height - high) / 2 + cap_height(size)
        return [
            Text(run(line, ROMAN, size, "centre"), (x + width / 2, top + i * size * LEADING), colour)
            for i, line in enumerate(lines)
        ]

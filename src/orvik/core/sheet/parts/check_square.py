"""A square of 50 mm by which anybody can check on paper that a sheet was printed at its true size."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Item, LineStyle, Stroke, Text
from orvik.core.lettering import ITALIC, cap_height, run
from orvik.core.sheet.page.entries import Figure, entry
from orvik.core.sheet.page.part import NewPartContext, Part, PartSettings
from orvik.core.sheet.panels.page_context import PageContext

SIDE = 50.0
WORDS = ("This square is 50 mm wide and high", "when the sheet is printed at 100 %.")


@dataclass(frozen=True, kw_only=True)
class CheckSquare(PartSettings):
    """It is 50 mm whatever the frame that it stands in the middle of; lines are 0.2 mm, measured to their middle."""

    kind: ClassVar[str] = "check_square"
    label: ClassVar[str] = "Check square"
    icon: ClassVar[str] = "M5 1h14v14H5zM5 4h2M5 8h3M5 12h2"

    size: float = entry(Figure("Letter size", 1, 10, "mm"), 2.4)

    @classmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        return cls(), SIDE, SIDE

    def ink(self, part: Part, page: PageContext) -> list[Item]:
        x, y = part.middle[0] - SIDE / 2, part.middle[1] - SIDE / 2
        corners = [(x, y), (x + SIDE, y), (x + SIDE, y + SIDE), (x, y + SIDE), (x, y)]
        items: list[Item] = [Stroke(LineStyle(0.2, INK, join="miter"), Paths.of(corners))]
        leading = self.size * 1.3
        first = part.middle[1] - leading * (len(WORDS) - 1) / 2 + cap_height(self.size) / 2
        for i, words in enumerate(WORDS):
            fits = min(1.0, (SIDE - 4) / run(words, ITALIC, self.size).width)
            items.append(
                Text(run(words, ITALIC, self.size * fits, "centre"), (part.middle[0], first + i * leading), INK)
            )
        return items

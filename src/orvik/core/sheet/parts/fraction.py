"""The representative fraction of a panel."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

from orvik.core.ground.scale import spaced
from orvik.core.ink import INK, Item, Text
from orvik.core.lettering import ROMAN, cap_height, run
from orvik.core.sheet.entries import Figure, entry
from orvik.core.sheet.page_context import PageContext
from orvik.core.sheet.part import NewPartContext, PanelPartSettings, Part


@dataclass(frozen=True, kw_only=True)
class Fraction(PanelPartSettings):
    """The scale of a panel as ``1:25 000``."""

    kind: ClassVar[str] = "fraction"
    label: ClassVar[str] = "Representative fraction"
    icon: ClassVar[str] = "M5 3v10M5 3L3 5M11 6h1M11 11h1M16 4q5-2 5 2t-5 7h6"
    essential: ClassVar[tuple[str, ...]] = ("Representative fraction",)

    size: float = entry(Figure("Letter size", 1, 40, "mm"), 4.0)

    @classmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        return cls(panel=context.panel), 30.0, 5.0

    def ink(self, part: Part, page: PageContext) -> list[Item]:
        panel = page.panels[self.panel or 0]
        letters = run(f"1:{spaced(panel.scale)}", ROMAN, self.size, "centre")
        return [Text(letters, (part.middle[0], part.middle[1] + cap_height(self.size) / 2), INK)]

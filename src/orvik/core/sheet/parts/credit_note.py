"""The credit note: the coordinate system in words, and what else is to be said."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

from orvik.core.ground.scale import spaced
from orvik.core.ink import Item
from orvik.core.sheet.entries import LONGEST_TEXT, Figure, Words, entry
from orvik.core.sheet.map_context import MapContext
from orvik.core.sheet.page_context import PageContext
from orvik.core.sheet.part import NewPartContext, PanelPartSettings, Part
from orvik.core.sheet.text_ink import text_ink


@dataclass(frozen=True, kw_only=True)
class CreditNote(PanelPartSettings):
    """What the note says after the coordinate system; ``size`` is the height of its letters in millimetres."""

    kind: ClassVar[str] = "credit_note"
    label: ClassVar[str] = "Credit note"
    icon: ClassVar[str] = "M2 9h20M2 12h13"
    essential: ClassVar[tuple[str, ...]] = ("Credit note",)

    text: str = entry(Words("Text after the coordinate system", lines=True, longest=LONGEST_TEXT), "")
    size: float = entry(Figure("Letter size", 1, 40, "mm"), 2.4)

    @classmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        return cls(panel=context.panel), 80.0, 20.0

    @property
    def summary(self) -> str:
        return self.text

    def ink(self, part: Part, page: PageContext) -> list[Item]:
        lines = credit_lines(page.shown(self.panel or 0))
        return text_ink("\n".join([*lines, *([self.text] if self.text else [])]), part, size=self.size)


def credit_lines(context: MapContext) -> list[str]:
    """What a credit note says by itself: the coordinate system and how the map was drawn."""
    crs = context.crs
    known = crs.text.startswith("EPSG:")
    return [
        f"{crs.name}, {crs.text}" if known else crs.name,
        f"{crs.method}, {crs.datum}",
        *([] if known else [crs.parameters]),
        f"Digitized at 1:{spaced(context.scales.digitizing)} or larger",
    ]

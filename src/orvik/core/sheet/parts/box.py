"""A box: a frame or a coloured ground behind other parts."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

from orvik.core.ink.primitives import Item
from orvik.core.sheet.page.entries import Figure, entry
from orvik.core.sheet.page.part import NewPartContext, Part, PartSettings
from orvik.core.sheet.panels.page_context import PageContext


@dataclass(frozen=True, kw_only=True)
class Box(PartSettings):
    """It shows nothing but its frame and its ground, which every part may have."""

    kind: ClassVar[str] = "box"
    label: ClassVar[str] = "Box"
    icon: ClassVar[str] = "M3 2h18v12H3z"
    can_be_hidden: ClassVar[bool] = False

    frame: float = entry(Figure("Frame", 0, 5, "mm"), 0.35)

    @classmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        return cls(), 60.0, 40.0

    def ink(self, part: Part, page: PageContext) -> list[Item]:
        return []

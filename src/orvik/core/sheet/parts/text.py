"""A text: body text in a frame."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

from orvik.core.ink.primitives import INK, Item
from orvik.core.sheet.page.entries import LONGEST_TEXT, Choice, Colour, Figure, Switch, Words, entry
from orvik.core.sheet.page.faces import AS_SET, FACE_WORDS, STYLES
from orvik.core.sheet.page.letters import letters_of
from orvik.core.sheet.page.part import NewPartContext, Part, PartSettings
from orvik.core.sheet.page.text_ink import ALIGNED, text_ink
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.parts.fields import filled


@dataclass(frozen=True, kw_only=True)
class RunningText(PartSettings):
    """Lines end as in the text; longer ones are wrapped.

    ``set_as`` is a name of ``STYLES``: with ``AS_SET``, ``face``, ``size`` in millimetres and ``colour`` are its own.
    ``marked`` says whether marks in the text set styles. ``face`` and ``align`` are names of ``FACES`` and ``ALIGNED``.
    """

    kind: ClassVar[str] = "text"
    label: ClassVar[str] = "Text"
    icon: ClassVar[str] = "M2 3h20M2 6h20M2 9h20M2 12h13"
    sets_text: ClassVar[bool] = True
    has_own_text: ClassVar[bool] = True

    text: str = entry(Words("Text", lines=True, longest=LONGEST_TEXT), "")
    marked: bool = entry(Switch("Marks as in *italic*, **bold**, 10^6^"), False)
    set_as: str = entry(Choice("Text style", STYLES), AS_SET)
    face: str = entry(Choice("Letters", FACE_WORDS), "roman")
    align: str = entry(Choice("Aligned", ALIGNED), "left")
    colour: str | None = entry(Colour("Letter colour"), INK)
    size: float = entry(Figure("Letter size", 1, 100, "mm"), 3.0)

    @classmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        return cls(text="Text", set_as="text", marked=True), 60.0, 12.0

    @property
    def summary(self) -> str:
        return self.text

    def ink(self, part: Part, page: PageContext) -> list[Item]:
        letters = letters_of(self.set_as, self.face, self.size, self.colour, page.sheet.layout)
        text = filled(self.text, page, self.marked)
        return text_ink(text, part, letters.font, letters.size, letters.colour, self.align, self.marked)

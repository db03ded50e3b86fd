"""A title: what the sheet is called, in large letters."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

from orvik.core.ink.primitives import INK, Item
from orvik.core.sheet.page.entries import LONGEST_TEXT, Choice, Colour, Figure, Words, entry
from orvik.core.sheet.page.faces import AS_SET, FACE_WORDS, STYLES
from orvik.core.sheet.page.letters import letters_of
from orvik.core.sheet.page.part import NewPartContext, Part, PartSettings
from orvik.core.sheet.page.text_ink import ALIGNED, text_ink
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.parts.fields import filled


@dataclass(frozen=True, kw_only=True)
class Title(PartSettings):
    """Lines end as in the text; longer ones are wrapped.

    ``set_as`` is a name of ``STYLES``: with ``AS_SET``, ``face``, ``size`` in millimetres and ``colour`` are its own.
    ``face`` and ``align`` are names of ``FACES`` and ``ALIGNED``.
    """

    kind: ClassVar[str] = "title"
    label: ClassVar[str] = "Title"
    icon: ClassVar[str] = "M4 2h10M9 2v12M14 8h6M17 8v6"
    sets_text: ClassVar[bool] = True
    has_own_text: ClassVar[bool] = True
    essential: ClassVar[tuple[str, ...]] = ("Title",)

    text: str = entry(Words("Text", lines=True, longest=LONGEST_TEXT), "")
    set_as: str = entry(Choice("Text style", STYLES), AS_SET)
    face: str = entry(Choice("Letters", FACE_WORDS), "roman")
    align: str = entry(Choice("Aligned", ALIGNED), "left")
    colour: str | None = entry(Colour("Letter colour"), INK)
    size: float = entry(Figure("Letter size", 1, 100, "mm"), 6.4)

    @classmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        return cls(text=f"Geologic map of {context.sheet.name}", set_as="title"), 160.0, 10.0

    @property
    def summary(self) -> str:
        return self.text

    @property
    def supplied(self) -> tuple[str, ...]:
        return self.essential if self.text.strip() else ()

    def ink(self, part: Part, page: PageContext) -> list[Item]:
        letters = letters_of(self.set_as, self.face, self.size, self.colour, page.sheet.layout)
        return text_ink(filled(self.text, page), part, letters.font, letters.size, letters.colour, self.align)

"""The credits: the coordinate system in words, what the map was made of, and by whom."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

from orvik.core.errors import OrvikError
from orvik.core.ground.scale import spaced
from orvik.core.ink.primitives import Item
from orvik.core.sheet.page.day import day_words, parse_day
from orvik.core.sheet.page.entries import LONGEST_TEXT, Choice, Day, Figure, Switch, Words, entry
from orvik.core.sheet.page.faces import AS_SET, STYLES
from orvik.core.sheet.page.letters import letters_of
from orvik.core.sheet.page.part import NewPartContext, PanelPartSettings, Part
from orvik.core.sheet.page.text_ink import text_ink
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.parts.fields import filled
from orvik.core.sheet.parts.scale_bar.scale_bar import ScaleBar
from orvik.core.sheet.parts.system_lines import credit_lines


@dataclass(frozen=True, kw_only=True)
class CreditNote(PanelPartSettings):
    """What is said of the map; empty fields are left out.

    Attributes
    ----------
    system
        Whether the coordinate system is said.
    vertical_datum
        What heights count from; empty for what is stated of those that the panel shows.
    author, reviewers
        Who made the map, and who looked at it.
    day
        Of the map.
    sources
        What it was compiled from, with scales.
    number
        Of the sheet.
    text
        What else is to be said.
    """

    kind: ClassVar[str] = "credit_note"
    label: ClassVar[str] = "Credits"
    icon: ClassVar[str] = "M2 9h20M2 12h13"
    sets_text: ClassVar[bool] = True
    essential: ClassVar[tuple[str, ...]] = ("Coordinate system and datum", "Author", "Date", "Sources")

    author: str = entry(Words("Author", longest=300), "")
    reviewers: str = entry(Words("Reviewed by", longest=300), "")
    day: str = entry(Day("Date"), "")
    sources: str = entry(Words("Compiled from", lines=True, longest=4000), "")
    vertical_datum: str = entry(Words("Heights from", longest=120), "")
    number: str = entry(Words("Sheet number", longest=60), "")
    system: bool = entry(Switch("Coordinate system"), True)
    text: str = entry(Words("Text at the end", lines=True, longest=LONGEST_TEXT), "")
    set_as: str = entry(Choice("Text style", STYLES), AS_SET)
    size: float = entry(Figure("Letter size", 1, 40, "mm"), 2.75)

    @classmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        return cls(panel=context.panel), 80.0, 20.0

    @property
    def summary(self) -> str:
        return self.text or self.author

    @property
    def supplied(self) -> tuple[str, ...]:
        said = (self.system, self.author.strip(), self.day, self.sources.strip())
        return tuple(name for name, there in zip(self.essential, said, strict=True) if there)

    def ink(self, part: Part, page: PageContext) -> list[Item]:
        lines = self._made_by(page)
        if self.system:
            lines += credit_lines(page.shown(self.panel or 0))
        lines += [f"Heights from {datum}" for datum in self._datums(page)]
        lines += _bar_lines(page, self.panel or 0)
        lines += [line for line in (self.sources and f"Compiled from {self.sources}", self.text) if line]
        letters = letters_of(self.set_as, "roman", self.size, None, page.sheet.layout)
        return text_ink(filled("\n".join(lines), page), part, letters.font, letters.size, letters.colour)

    def _datums(self, page: PageContext) -> list[str]:
        """What is typed; else what is stated of the heights that the panel shows."""
        if self.vertical_datum:
            return [self.vertical_datum]
        shown = page.panels[self.panel or 0].underlays
        stated = (u.datum for u in page.map.underlays if shown.get(str(u.id), 0.0) > 0)
        return list(dict.fromkeys(datum for datum in stated if datum))

    def _made_by(self, page: PageContext) -> list[str]:
        day = parse_day(self.day)
        made = ", ".join(word for word in (self.author, day_words(day) if day is not None else "") if word)
        number = f"{page.map.project}, sheet {self.number}" if self.number else ""
        reviewed = f"Reviewed by {self.reviewers}" if self.reviewers else ""
        return [line for line in (number, made, reviewed) if line]


def _bar_lines(page: PageContext, panel: int) -> list[str]:
    """Where the scale bar of a panel is true, if that is not where its fraction says."""
    said = []
    for part in page.parts:
        made = part.settings
        if not isinstance(made, ScaleBar) or made.panel != panel or made.true_for == "nominal":
            continue
        try:
            scale = made.scale_on(page.panels[panel])
        except OrvikError:
            continue
        said.append(f"The scale bar is true {made.where(page.panels[panel])}: 1:{spaced(scale)}")
    return said

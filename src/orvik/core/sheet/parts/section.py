"""A cross-section below its map: true to the panel's scale, heights exaggerated as it is asked of the section."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar, Self

from orvik.core.errors import OrvikError
from orvik.core.ink.primitives import INK, Item, Text
from orvik.core.lettering import ITALIC, cap_height, run
from orvik.core.sheet.page.entries import Figure, Switch, Words, entry
from orvik.core.sheet.page.part import NewPartContext, PanelPartSettings, Part
from orvik.core.sheet.page.text_ink import words_instead
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.structure.section.section import SectionOfMap
from orvik.core.structure.section.section_frame import SectionFrame
from orvik.core.structure.section.section_ink import framed, room, scale_words, section_ink

# Room for what is said below a section, in heights of letters.
BELOW = 2.2


@dataclass(frozen=True, kw_only=True)
class CrossSection(PanelPartSettings):
    """The section of one letter, at the scale of a panel.

    Attributes
    ----------
    letter
        At the first end of its line on the map.
    says_scale
        Whether it says below how heights are drawn.
    says_crossings
        Whether it says above the ground which lines of the map cross it.
    shows_dips
        Whether it shows how the readings dip that are carried onto it.
    """

    kind: ClassVar[str] = "section"
    is_slow: ClassVar[bool] = True
    label: ClassVar[str] = "Cross-section"
    icon: ClassVar[str] = "M1 15V5M23 15V5M1 15H23M1 8Q6 2 11 7T23 6"

    letter: str = entry(Words("Letter", longest=20), "A")
    says_scale: bool = entry(Switch("Exaggeration in words"), True)
    says_crossings: bool = entry(Switch("Crossings in words"), False)
    shows_dips: bool = entry(Switch("Apparent dips"), True)
    size: float = entry(Figure("Letter size", 1, 10, "mm"), 2.2)

    @property
    def counts_on(self) -> tuple[str, ...]:
        return ("units", "linework")

    @classmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        return cls(panel=context.panel), 240.0, 50.0

    def frame_of(self, part: Part, page: PageContext, found: SectionOfMap) -> SectionFrame:
        """Where the section stands on the page: in the middle of its part, at the top."""
        mm_per_metre = 1000.0 / page.panels[self.panel or 0].scale
        wide, _ = room(found, mm_per_metre, self.size)
        return framed(found, part.x + (part.width - wide) / 2, part.y, mm_per_metre, self.size)

    def ink(self, part: Part, page: PageContext) -> list[Item]:
        if page.map.section is None:
            return words_instead("There is no section here.", part)
        try:
            found = page.map.section(self.letter.strip())
        except OrvikError as refusal:
            return words_instead(refusal.sentence, part)
        mm_per_metre = 1000.0 / page.panels[self.panel or 0].scale
        wide, high = room(found, mm_per_metre, self.size)
        below = BELOW * self.size if self.says_scale else 0.0
        if wide > part.width + 0.01 or high + below > part.height + 0.01:
            asked = (
                f"Section {found.title} takes {wide:.0f} by {high + below:.0f} mm at this scale; make the part larger."
            )
            return words_instead(asked, part)
        frame = self.frame_of(part, page, found)
        items = section_ink(
            found,
            page.map.book.at(round(1000.0 / mm_per_metre)),
            page.map.units,
            frame,
            self.size,
            crossings=self.says_crossings,
            dips=self.shows_dips,
        )
        if self.says_scale:
            at = (part.middle[0], part.y + high + 0.8 * self.size + cap_height(self.size))
            words = f"Section {found.title}, {scale_words(found.section.exaggeration)}"
            items.append(Text(run(words, ITALIC, self.size, "centre"), at, INK))
        return items


def part_height(found: SectionOfMap, mm_per_metre: float, size: float) -> float:
    """How high a part is at least that shows a section, in millimetres; what is said below it is in it."""
    return math.ceil(room(found, mm_per_metre, size)[1] + BELOW * size)

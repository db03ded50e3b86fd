"""The scale of a panel in figures or words."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

from orvik.core.ground.scale import figures, spaced
from orvik.core.ink.primitives import INK, Item, Text
from orvik.core.lettering import ROMAN, cap_height, run
from orvik.core.sheet.page.entries import Choice, Figure, entry
from orvik.core.sheet.page.part import NewPartContext, PanelPartSettings, Part
from orvik.core.sheet.panels.page_context import PageContext

SAYS = {
    "fraction": "1:25 000",
    "metric": "1 centimetre to 250 metres",
    "inches": "1 inch to a mile",
    "both": "1:25 000, in words below",
}


@dataclass(frozen=True, kw_only=True)
class Fraction(PanelPartSettings):
    """The scale of a panel; ``says`` is a name of ``SAYS``."""

    kind: ClassVar[str] = "fraction"
    label: ClassVar[str] = "Representative fraction"
    stands_by: ClassVar[bool] = True
    icon: ClassVar[str] = "M5 3v10M5 3L3 5M11 6h1M11 11h1M16 4q5-2 5 2t-5 7h6"
    measures: ClassVar[bool] = True
    essential: ClassVar[tuple[str, ...]] = ("Representative fraction",)

    says: str = entry(Choice("Says", SAYS), "fraction")
    size: float = entry(Figure("Letter size", 1, 40, "mm"), 4.0)

    @classmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        return cls(panel=context.panel), 30.0, 5.0

    @property
    def supplied(self) -> tuple[str, ...]:
        return self.essential if self.says in ("fraction", "both") else ()

    def ink(self, part: Part, page: PageContext) -> list[Item]:
        scale = page.panels[self.panel or 0].scale
        fraction = f"1:{spaced(scale)}"
        if self.says == "both":
            small = self.size * 0.6
            middle = part.middle[1]
            return [
                *_centred(fraction, part, middle - 0.2 * self.size, self.size),
                *_centred(metric_words(scale), part, middle + cap_height(small) + 0.25 * self.size, small),
            ]
        words = {"metric": metric_words(scale), "inches": inch_words(scale)}.get(self.says, fraction)
        return _centred(words, part, part.middle[1] + cap_height(self.size) / 2, self.size)


def metric_words(scale: float) -> str:
    """What a centimetre is on the ground.

    >>> metric_words(25_000), metric_words(150_000)
    ('1 centimetre to 250 metres', '1 centimetre to 1.5 kilometres')
    """
    metres = scale / 100
    if metres >= 1000:
        kilometres = figures(metres / 1000, 4)
        return f"1 centimetre to {kilometres} kilometre{'' if kilometres == '1' else 's'}"
    return f"1 centimetre to {figures(metres, 4)} metre{'' if metres == 1 else 's'}"


def inch_words(scale: float) -> str:
    """What an inch is on the ground: miles where they are round, else feet.

    >>> inch_words(63_360), inch_words(24_000), inch_words(126_720)
    ('1 inch to 1 mile', '1 inch to 2\u2009000 feet', '1 inch to 2 miles')
    """
    miles = scale / 63_360
    if abs(miles - round(miles)) < 1e-6:
        return f"1 inch to {round(miles)} mile{'s' if round(miles) > 1 else ''}"
    if miles > 2:
        return f"1 inch to {figures(miles, 3)} miles"
    return f"1 inch to {figures(scale / 12, 4)} feet"


def _centred(words: str, part: Part, baseline: float, size: float) -> list[Item]:
    """A line in the middle of its frame, set smaller where it is too long."""
    shrink = min(1.0, part.width / max(run(words, ROMAN, size).width, 1e-9))
    return [Text(run(words, ROMAN, size * shrink, "centre"), (part.middle[0], baseline), INK)]

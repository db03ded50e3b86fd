"""Map units and their stratigraphic order."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache

from orvik.core.colour import is_colour
from orvik.core.errors import FeatureRefused


@dataclass(frozen=True)
class MapUnit:
    """One map unit. ``position`` counts from the youngest, which is 1."""

    code: str
    name: str
    age: str
    colour: str
    description: str = ""
    position: int = 1

    def __post_init__(self) -> None:
        if not self.code:
            raise FeatureRefused("A unit needs a code of 1 to 12 letters without spaces, such as Qal.")
        if not re.fullmatch(r"[^\s\x00-\x1f<>&\"']{1,12}", self.code):
            raise FeatureRefused(
                f"“{self.code[:40]}” cannot be the code of a unit; a code has 1 to 12 letters, figures or signs, "
                "no spaces, quotes or brackets."
            )
        for what, text, most in (
            ("name", self.name, 200),
            ("age", self.age, 200),
            ("description", self.description, 8000),
        ):
            if len(text) > most:
                raise FeatureRefused(f"The {what} of unit {self.code} is longer than {most} letters; shorten it.")
        if not self.name.strip():
            raise FeatureRefused(f"Unit {self.code} needs a name, such as Alluvium.")
        if not is_colour(self.colour):
            raise FeatureRefused(f"“{self.colour[:20]}” is not a colour; give six figures such as #F4E6A8.")


def stratigraphic_order(units: list[MapUnit]) -> list[MapUnit]:
    """Youngest first, as an explanation is read from the top."""
    return sorted(units, key=lambda unit: (unit.position, unit.code))


def luminance(colour: str) -> float:
    """Relative luminance of ``#RRGGBB``, 0 to 1 (WCAG 2.2, definition of relative luminance)."""
    channels = []
    for i in (1, 3, 5):
        c = int(colour[i : i + 2], 16) / 255
        channels.append(c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4)
    return 0.2126 * channels[0] + 0.7152 * channels[1] + 0.0722 * channels[2]


def contrast(one: str, other: str) -> float:
    """Contrast ratio of two colours, 1 to 21 (WCAG 2.2, definition of contrast ratio)."""
    a, b = sorted((luminance(one), luminance(other)), reverse=True)
    return (a + 0.05) / (b + 0.05)


@lru_cache(maxsize=1024)
def readable_on(colour: str, dark: str = "#22303C", light: str = "#FFFFFF") -> str:
    """Whichever of two text colours stands out more on a ground."""
    return dark if contrast(dark, colour) >= contrast(light, colour) else light

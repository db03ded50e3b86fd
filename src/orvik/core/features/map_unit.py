"""Map units and their stratigraphic order."""

from __future__ import annotations

import re
from dataclasses import dataclass

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

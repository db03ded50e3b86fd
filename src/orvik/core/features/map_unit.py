"""Map units and their stratigraphic order."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass

from orvik.core.colour import farthest, is_colour
from orvik.core.errors import FeatureRefused

# Tints for units whose colour is not chosen yet: quiet, and told apart. They are ours.
TINTS = (
    "#F4E6A8",
    "#D8C9B0",
    "#BFD8B8",
    "#A9CFC9",
    "#F2C3A4",
    "#E3B07A",
    "#D9A08F",
    "#C9BBD8",
    "#B8CBE3",
    "#E6B9C6",
    "#CFCB86",
    "#8FBF9F",
    "#B79A7E",
    "#9C9FC4",
)


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


def new_colour(units: Iterable[MapUnit]) -> str:
    """A colour for a unit that is new: the tint that is told best from those of the units there are."""
    return farthest(TINTS, (unit.colour for unit in units))


def stratigraphic_order(units: list[MapUnit]) -> list[MapUnit]:
    """Youngest first, as an explanation is read from the top."""
    return sorted(units, key=lambda unit: (unit.position, unit.code))

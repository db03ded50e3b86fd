"""Pages and what lies on them: sheets and parts, all in millimetres from the upper left corner."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Any

from orvik.core.errors import SheetRefused
from orvik.core.sheet.settings import NO_SETTINGS, TYPES, NoSettings, PanelSettings, Settings, TextSettings, settings_of

SMALLEST_MM, LARGEST_MM = 50.0, 3000.0


PART_KINDS = {
    "map_panel": "Map panel",
    "title": "Title",
    "explanation": "Explanation",
    "scale_bar": "Scale bar",
    "north_arrow": "North arrow",
    "fraction": "Representative fraction",
    "credit_note": "Credit note",
    "text": "Text",
}


@dataclass(frozen=True)
class Sheet:
    """A page of a project."""

    name: str
    paper: str
    width: float
    height: float
    id: int | None = None

    def __post_init__(self) -> None:
        if not self.name.strip():
            raise SheetRefused("A sheet needs a name, such as Harrack Head.")
        for side in (self.width, self.height):
            if not (math.isfinite(side) and SMALLEST_MM <= side <= LARGEST_MM):
                raise SheetRefused(f"A page side of {side:g} mm cannot be; give {SMALLEST_MM:g} to {LARGEST_MM:g} mm.")

    @property
    def size_label(self) -> str:
        """Paper and orientation: ``A3 landscape``."""
        return f"{self.paper} {'landscape' if self.width > self.height else 'portrait'}"


@dataclass(frozen=True)
class Part:
    """Anything placed on a sheet; ``position`` counts from the lowest."""

    kind: str
    x: float
    y: float
    width: float
    height: float
    id: int | None = None
    sheet_id: int | None = None
    position: int = 1
    locked: bool = False
    settings: Settings = NO_SETTINGS

    def __post_init__(self) -> None:
        if self.kind not in PART_KINDS:
            raise SheetRefused(f"“{self.kind}” is not a part of a sheet; choose {', '.join(PART_KINDS)}.")
        if not all(math.isfinite(v) for v in (self.x, self.y, self.width, self.height)):
            raise SheetRefused("A place or size is not a number; type millimetres such as 12.5.")
        if not (1 <= self.width <= LARGEST_MM and 1 <= self.height <= LARGEST_MM):
            raise SheetRefused(f"A part is 1 to {LARGEST_MM:g} mm wide and high; type another size.")
        if not (-LARGEST_MM <= self.x <= LARGEST_MM and -LARGEST_MM <= self.y <= LARGEST_MM):
            raise SheetRefused("That place lies far off the page; type millimetres from its upper left corner.")
        if self.settings == NO_SETTINGS:
            object.__setattr__(self, "settings", settings_of(self.kind, {}))
        if not isinstance(self.settings, TYPES.get(self.kind, NoSettings)):
            raise SheetRefused(f"A {self.label.lower()} has no such settings.")

    @property
    def label(self) -> str:
        return PART_KINDS[self.kind]

    @property
    def text(self) -> str:
        """The text that is typed in; empty for parts that have none."""
        return self.settings.text if isinstance(self.settings, TextSettings) else ""

    @property
    def panel(self) -> PanelSettings:
        """What a map panel shows; only for these."""
        if not isinstance(self.settings, PanelSettings):
            raise SheetRefused(f"A {self.label.lower()} shows no ground; choose a map panel.")
        return self.settings

    def changed(self, **values: Any) -> Part:
        """The same part with other values."""
        return replace(self, **values)

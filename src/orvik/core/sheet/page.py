"""Pages: the sheets of a project, in millimetres from the upper left corner."""

from __future__ import annotations

import math
from dataclasses import dataclass

from orvik.core.errors import SheetRefused

SMALLEST_MM, LARGEST_MM = 50.0, 3000.0


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

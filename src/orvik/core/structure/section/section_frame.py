"""Where a section stands on a page, and how heights are exaggerated there."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from orvik.core.arrays import Floats


@dataclass(frozen=True)
class SectionFrame:
    """Where a section stands on a page.

    Attributes
    ----------
    x, y
        The place of its first end at sea level, in millimetres, y downwards.
    mm_per_metre
        Its scale along; heights are exaggerated beside that.
    exaggeration
        Heights are so many times as large.
    """

    x: float
    y: float
    mm_per_metre: float
    exaggeration: float = 1.0

    def at_place(self, place: tuple[float, float]) -> tuple[float, float]:
        """One place along and up on the page."""
        x, y = self.at(np.array([place]))[0].tolist()
        return x, y

    def at(self, places: Floats) -> Floats:
        """Places along and up (n, 2) in metres on the page."""
        up = self.mm_per_metre * self.exaggeration
        return np.asarray(places * [self.mm_per_metre, -up] + [self.x, self.y])

"""Saved views: places and scales by name, to come back to."""

from __future__ import annotations

from dataclasses import dataclass

from orvik.core.errors import CoordinateRefused, CrsRefused
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.crs_change import converted


@dataclass(frozen=True)
class SavedView:
    """A place of the map and the denominator of the scale that it is seen at.

    ``crs`` is the system that the place is in; empty for the project's.
    """

    name: str
    x: float
    y: float
    denominator: int
    position: int
    id: int | None = None
    crs: str = ""

    def place_in(self, crs: ProjectCrs, project: ProjectCrs) -> tuple[float, float] | None:
        """The place in a system; None where that cannot show it. ``project`` is the project's system."""
        own = self.crs or project.text
        if own == crs.text:
            return self.x, self.y
        try:
            return converted(self.x, self.y, own, crs.text)
        except (CoordinateRefused, CrsRefused):
            return None

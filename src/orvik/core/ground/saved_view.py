"""Saved views: places and scales by name, to come back to."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from orvik.core.errors import CrsRefused
from orvik.core.ground.crs import ProjectCrs, project_crs
from orvik.core.ground.crs_change import way_between


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
        place = (self.x, self.y)
        try:
            x, y = way_between(project_crs(own), crs, place).places(np.array([place]))[0]
        except CrsRefused:
            return None
        return (float(x), float(y)) if np.isfinite([x, y]).all() else None

"""The plane of a section as what lines are drawn in: metres along and up, with nothing of the earth's curve."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from orvik.core.arrays import Floats
from orvik.core.errors import CoordinateRefused
from orvik.core.ground.crs import Numbers, ProjectCrs
from orvik.core.structure.section.section import DEEPEST

# No section is longer than the earth is round.
LONGEST = 40_000_000.0


@dataclass(frozen=True)
class SectionPlane(ProjectCrs):
    """A section's own coordinates, in the place of a system of the ground. It has neither north nor degrees."""

    text: str = "section"
    name: str = "Section"
    unit: str = "metre"
    metres_per_unit: float = 1.0
    method: str = ""
    datum: str = ""
    area: None = None

    def to_geographic(self, x: Numbers, y: Numbers) -> tuple[Floats, Floats]:
        """No place of it has degrees: NaN."""
        nowhere = np.full(np.broadcast(x, y).shape, np.nan)
        return nowhere, nowhere

    def convergence(self, x: Numbers, y: Numbers) -> Floats:
        """Up is up everywhere."""
        return np.zeros(np.broadcast(x, y).shape)

    def check_place(self, x: float, y: float) -> None:
        """Refuse a place that no section has; see ``check_places``."""
        self.check_places(np.array([[x, y]], dtype=float))

    def check_places(self, xy: Floats) -> None:
        """Refuse places (n, 2) that no section has; raises CoordinateRefused."""
        if not np.isfinite(xy).all():
            raise CoordinateRefused("A coordinate is not a number; type it again as plain digits.")
        if (np.abs(xy[:, 1]) > DEEPEST).any() or (np.abs(xy[:, 0]) > LONGEST).any():
            raise CoordinateRefused("This lies below the crust or beyond the section; draw within what it shows.")

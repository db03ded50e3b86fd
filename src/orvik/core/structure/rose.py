"""A rose of directions: how many there are in each sector, as petals whose area, not radius, is the count."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from orvik.core.arrays import Floats
from orvik.core.errors import StructureRefused


@dataclass(frozen=True)
class Rose:
    """Sectors from north by east.

    Attributes
    ----------
    sector
        Width of a sector in degrees.
    counts
        Of the directions in each sector; of an axial rose each direction counts at both its ends.
    axial
        Whether a direction and its opposite are one, as of strikes.
    """

    sector: float
    counts: tuple[int, ...]
    axial: bool

    @property
    def radii(self) -> Floats:
        """How far the petals reach, the longest to 1: their areas are as their counts."""
        most = max(self.counts, default=0)
        return np.sqrt(np.array(self.counts, dtype=float) / most) if most else np.zeros(len(self.counts))

    def petals(self, steps: int = 6) -> list[Floats]:
        """The outlines (n, 2) of petals that are not empty, north up, the longest of radius 1."""
        out = []
        for i, radius in enumerate(self.radii.tolist()):
            if radius:
                turn = np.radians(np.linspace(i * self.sector, (i + 1) * self.sector, steps + 1))
                arc = radius * np.column_stack([np.sin(turn), np.cos(turn)])
                out.append(np.vstack([[(0.0, 0.0)], arc, [(0.0, 0.0)]]))
        return out


def rose(azimuths: Floats, sector: float = 10.0, axial: bool = True) -> Rose:
    """The rose of directions in degrees; raises StructureRefused for a sector that does not divide the half circle."""
    count = 360 / sector if sector > 0 else 0
    if count < 4 or abs(count - round(count)) > 1e-9 or round(count) % 2:
        raise StructureRefused("The sectors of a rose divide 180 degrees evenly; type 5, 10, 15, 20, 30 or 45.")
    turned = np.asarray(azimuths, dtype=float) % 360
    both = np.concatenate([turned, (turned + 180) % 360]) if axial else turned
    counts = np.bincount(np.floor(both / sector).astype(int) % round(count), minlength=round(count))
    return Rose(sector, tuple(counts.tolist()), axial)

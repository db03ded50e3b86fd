"""Which publication scales a ground allows on a paper, and how much of it they fill."""

from __future__ import annotations

from dataclasses import dataclass

import shapely

from ..crs import ProjectCrs
from ..scale import spaced
from .page import paper_size
from .panel import aimed
from .template import fits, room

# Denominators that maps are published at (common practice): 1, 1.25, 2, 2.5 and 5 times powers of ten, and
# the scales of maps in inches.
DENOMINATORS = tuple(
    sorted({round(d * 10**n) for n in range(2, 7) for d in (1, 1.25, 2, 2.5, 5)} | {24_000, 62_500, 63_360, 125_000})
)


@dataclass(frozen=True)
class ScaleFit:
    """One scale on a paper: the part of the map's room that it fills, or None where it does not fit."""

    denominator: int
    paper: str
    filled: float | None

    @property
    def words(self) -> str:
        """``1:25 000 fills an A3 landscape to 81 %``."""
        if self.filled is None:
            return f"1:{spaced(self.denominator)} does not fit"
        return f"1:{spaced(self.denominator)} fills {self.paper} to {self.filled * 100:.0f} %"


def scale_fits(border: shapely.LineString, crs: ProjectCrs, paper: str) -> list[ScaleFit]:
    """The largest scale that fits a paper in its better orientation, with the next larger and two smaller ones.

    Parameters
    ----------
    border
        The sheet border in project coordinates.
    paper
        A paper by name, such as ``A3``.

    Raises
    ------
    SheetRefused
        No such paper.
    """
    pages = [paper_size(paper, landscape) for landscape in (True, False)]
    found: list[ScaleFit] = []
    for denominator in DENOMINATORS:
        _, width, height = aimed(border, denominator, crs)
        best: ScaleFit | None = None
        for (name, across, down), orientation in zip(pages, ("landscape", "portrait"), strict=True):
            if fits((across, down), width, height) is None:
                continue
            filled = max(width / w * height / h for w, h in room((across, down)) if width <= w and height <= h)
            if best is None or filled > (best.filled or 0):
                best = ScaleFit(denominator, f"{name} {orientation}", filled)
        found.append(best or ScaleFit(denominator, paper, None))
    first = next((i for i, fit in enumerate(found) if fit.filled is not None), len(found))
    return found[max(0, first - 1) : first + 3]

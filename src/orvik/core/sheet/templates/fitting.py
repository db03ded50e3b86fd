"""Which publication scales a ground allows on a paper, how much of it they fill, and whether any page holds it."""

from __future__ import annotations

from dataclasses import dataclass

import shapely

from orvik.core.errors import CoordinateRefused
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.scale import on_sheet, spaced
from orvik.core.sheet.page.page import LARGEST_MM
from orvik.core.sheet.page.paper import paper_size
from orvik.core.sheet.panels.aim import ROUND_SCALES
from orvik.core.sheet.panels.panel import aimed
from orvik.core.sheet.templates.quadrangle import place_on, room


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
    for denominator in ROUND_SCALES:
        _, width, height = aimed(border, denominator, crs)
        best: ScaleFit | None = None
        for (name, across, down), orientation in zip(pages, ("landscape", "portrait"), strict=True):
            if place_on((across, down), width, height) is None:
                continue
            filled = max(width / w * height / h for w, h in room((across, down)) if width <= w and height <= h)
            if best is None or filled > (best.filled or 0):
                best = ScaleFit(denominator, f"{name} {orientation}", filled)
        found.append(best or ScaleFit(denominator, paper, None))
    first = next((i for i, fit in enumerate(found) if fit.filled is not None), len(found))
    return found[max(0, first - 1) : first + 3]


def check_size(border: shapely.LineString, crs: ProjectCrs, publication: int) -> None:
    """Refuse a border that no page can hold at the publication scale.

    Raises
    ------
    CoordinateRefused
        A side is longer than the longest page; most often one figure is in degrees or lacks a digit.
    """
    west, south, east, north = border.bounds
    width, height = (on_sheet(side * crs.metres_per_unit, publication) for side in (east - west, north - south))
    if max(width, height) > LARGEST_MM:
        raise CoordinateRefused(
            f"At 1:{spaced(publication)} this border is {spaced(width)} × {spaced(height)} mm on the sheet, "
            f"and no page is longer than {spaced(LARGEST_MM)} mm; check the four numbers."
        )

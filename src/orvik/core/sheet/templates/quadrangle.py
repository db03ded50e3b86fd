"""A quadrangle: the border at the publication scale with all that a sheet carries, or what paper would hold it."""

from __future__ import annotations

from orvik.core.errors import SheetRefused
from orvik.core.ground.scale import spaced
from orvik.core.sheet.page.paper import smallest_paper
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts.credits import CreditNote
from orvik.core.sheet.parts.explanation.explanation import Explanation
from orvik.core.sheet.parts.fraction import Fraction
from orvik.core.sheet.parts.graticule.graticule import Graticule
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.core.sheet.parts.north_arrow.north_arrow import NorthArrow
from orvik.core.sheet.parts.scale_bar.scale_bar import ScaleBar
from orvik.core.sheet.parts.title import Title
from orvik.core.sheet.templates.brief import MAIN, Brief

MARGIN = 14.0
HEAD = 24.0
FOOT = 34.0
COLUMN = 62.0
GAP = 10.0


def needed(width: float, height: float) -> tuple[tuple[float, float], tuple[float, float]]:
    """Page sizes in millimetres for a panel, with the explanation beside it and below it."""
    beside = (width + 2 * MARGIN + GAP + COLUMN, height + HEAD + FOOT + MARGIN)
    below = (max(width, 150.0) + 2 * MARGIN, height + HEAD + FOOT + MARGIN + 80.0)
    return beside, below


def room(page: tuple[float, float]) -> tuple[tuple[float, float], tuple[float, float]]:
    """The largest panels in millimetres that a page holds, with the explanation beside it and below it."""
    width, height = page
    beside = (width - 2 * MARGIN - GAP - COLUMN, height - HEAD - FOOT - MARGIN)
    below = (width - 2 * MARGIN, height - HEAD - FOOT - MARGIN - 80.0)
    return beside, below


def place_on(paper: tuple[float, float], width: float, height: float) -> str | None:
    """``beside`` or ``below`` if a page holds a panel and its explanation, else None."""
    for name, (w, h) in zip(("beside", "below"), needed(width, height), strict=True):
        if paper[0] + 1e-6 >= w and paper[1] + 1e-6 >= h:
            return name
    return None


def paper_for(width: float, height: float, family: str) -> str | None:
    """The smallest paper of a family (``ISO A``, say) that holds a panel, with its orientation."""
    return smallest_paper(family, lambda across, down: place_on((across, down), width, height) is not None)


def parts_of(brief: Brief) -> list[Part]:
    """The map at its publication scale with all that a published sheet carries; its panel shows exactly the ground.

    Raises
    ------
    SheetRefused
        The page is too small; says which paper would hold it.
    """
    centre, (width, height) = brief.centre, brief.size_at(brief.scale)
    page = brief.page
    place = place_on(page, width, height)
    if place is None:
        better = paper_for(width, height, brief.family)
        advice = (
            f"{better} would hold it." if better else "no standard paper would; use a smaller scale or custom size."
        )
        raise SheetRefused(
            f"At 1:{spaced(brief.scale)} the map is {width:.1f} × {height:.1f} mm and does not fit "
            f"{page[0]:g} × {page[1]:g} mm with its explanation; {advice}"
        )
    left, top = MARGIN, HEAD
    bottom = top + height
    strip = bottom + 9.0
    note = min(80.0, width / 2 - 45.0) if width > 190 else 45.0
    panel = MapPanel(name="Main map", scale=brief.scale, centre=centre, neatline=brief.neatline)
    parts = [
        Part(panel, left, top, width, height, id=MAIN),
        Part(Graticule(panel=MAIN), left, top, width, height),
        Part(Title(text=brief.title), left, 9.0, page[0] - 2 * MARGIN, 10.0),
        Part(Fraction(panel=MAIN), left + width / 2 - 15, strip - 1, 30.0, 5.0),
        Part(ScaleBar(panel=MAIN), left + width / 2 - 42.5, strip + 4, 85.0, 8.0),
        Part(CreditNote(panel=MAIN), left, strip - 1, note, 24.0),
        Part(NorthArrow(panel=MAIN, day=brief.today.isoformat()), left + width - 44.0, strip - 2, 44.0, 26.0),
    ]
    if place == "beside":
        x = left + width + GAP
        parts.append(Part(Explanation(panel=MAIN), x, top, page[0] - MARGIN - x, height))
    else:
        y = strip + 28.0
        parts.append(Part(Explanation(panel=MAIN), left, y, page[0] - 2 * MARGIN, page[1] - MARGIN - y))
    return parts

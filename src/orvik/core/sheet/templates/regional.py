"""A regional map: the ground as large as the page allows, with the land around it and a detail in insets."""

from __future__ import annotations

from orvik.core.ground.land import LARGEST_SCALE
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts.credits import CreditNote
from orvik.core.sheet.parts.explanation.explanation import Explanation
from orvik.core.sheet.parts.fraction import Fraction
from orvik.core.sheet.parts.graticule.graticule import Graticule
from orvik.core.sheet.parts.map_panel import LAYER_WORDS, MapPanel
from orvik.core.sheet.parts.north_arrow.north_arrow import NorthArrow
from orvik.core.sheet.parts.scale_bar.scale_bar import ScaleBar
from orvik.core.sheet.parts.text import RunningText
from orvik.core.sheet.parts.title import Title
from orvik.core.sheet.templates.brief import DETAIL, LOCATOR, MAIN, Brief

MARGIN, HEAD, GAP = 14.0, 26.0, 8.0
# The column with the insets and what is said takes this share of the page's width, and no less than so many mm.
COLUMN, NARROWEST = 0.27, 62.0
LABELS = 8.0
# How high what stands below a map is.
STRIP = 32.0
# Below the land around.
SEA = "#DCE8EE"


def parts_of(brief: Brief) -> list[Part]:
    """A main map, and beside it a locator, a detail, the explanation and what is said; raises SheetRefused."""
    width, height = brief.page
    column = max(NARROWEST, COLUMN * width)
    room = width - 2 * MARGIN - GAP - column - LABELS, height - HEAD - MARGIN - 2 * LABELS
    scale = brief.scale_for(*room)
    wide, high = brief.panel_size(scale, *room)
    left, top = MARGIN + LABELS, HEAD + LABELS
    x = width - MARGIN - column
    inset = min(column * 0.72, (height - HEAD - MARGIN) * 0.24)
    half = (column - GAP / 2) / 2
    foot = height - MARGIN - 30.0
    detail = brief.scale_for(inset * 4, inset * 4) if scale > 4000 else scale
    below = top + high + LABELS + 2.0
    # What says scale and north stands below the map where that leaves room, else at the foot of the column.
    if height - MARGIN - below >= STRIP:
        foot = height - MARGIN + GAP
        said = _below(brief, left, wide, below)
    else:
        said = _in_column(brief, x, column, foot)
        foot -= 22.0
    main = MapPanel(name="Main map", scale=scale, centre=brief.centre, neatline=brief.neatline, footprints=(LOCATOR,))
    rows = HEAD + LABELS + inset + GAP
    lines = Graticule(panel=MAIN, lines_of="geographic", style="lines", corners=True, colour="#7B8A96")
    return [
        Part(main, left, top, wide, high, id=MAIN),
        Part(lines, left, top, wide, high),
        Part(Title(text=f"{brief.name}, {brief.project}", size=8.0), MARGIN, 10.0, width - 2 * MARGIN, 12.0),
        Part(
            MapPanel(
                name="Where it lies",
                scale=max(LARGEST_SCALE, brief.scale_for(half * 0.4, inset * 0.4)),
                centre=brief.centre,
                neatline="rectangle",
                # The map itself is a dot on it: its footprint says where.
                layers=dict.fromkeys(LAYER_WORDS, 0.0),
                land=True,
                ground_colour=SEA,
            ),
            x,
            HEAD + LABELS,
            half,
            inset,
            id=LOCATOR,
        ),
        Part(
            MapPanel(
                name="Panel A",
                letter="A",
                scale=max(1000, detail),
                centre=brief.centre,
                neatline="rectangle",
                footprints=(MAIN,),
            ),
            x + column - half,
            HEAD + LABELS,
            half,
            inset,
            id=DETAIL,
        ),
        *_titles(x, column, half),
        Part(Explanation(panel=MAIN), x, rows, column, foot - GAP - rows),
        *said,
    ]


def _titles(x: float, column: float, half: float) -> list[Part]:
    """What stands above the insets: what they show, and at what scale the detail is."""
    y, right = HEAD + LABELS - 5.6, x + column - half
    return [
        Part(RunningText(name="Title of the locator", text="Where it lies"), x, y, half, 4.8),
        Part(RunningText(name="Title of the detail", text="Panel A"), right, y, half * 0.6, 4.8),
        Part(Fraction(name="Scale of the detail", panel=DETAIL, size=2.75), right + half * 0.6, y, half * 0.4, 4.8),
    ]


def _below(brief: Brief, left: float, wide: float, top: float) -> list[Part]:
    """Credits, scale and north side by side below the map."""
    bar = min(90.0, wide * 0.36)
    return [
        Part(CreditNote(panel=MAIN, size=2.2), left, top, wide / 2 - bar / 2 - GAP, STRIP),
        Part(Fraction(panel=MAIN), left + wide / 2 - 15.0, top, 30.0, 6.0),
        Part(ScaleBar(panel=MAIN, design="twin"), left + (wide - bar) / 2, top + 8.0, bar, 9.0),
        Part(_arrow(brief), left + wide - 44.0, top - 1.0, 44.0, STRIP),
    ]


def _in_column(brief: Brief, x: float, column: float, foot: float) -> list[Part]:
    """The same below the explanation."""
    return [
        Part(Fraction(panel=MAIN), x, foot - 22.0, column * 0.6, 6.0),
        Part(ScaleBar(panel=MAIN, design="twin"), x, foot - 14.0, column * 0.66, 9.0),
        Part(_arrow(brief), x + column * 0.68, foot - 26.0, column * 0.32, 30.0),
        Part(CreditNote(panel=MAIN, size=2.2), x, foot + 4.0, column, 26.0),
    ]


def _arrow(brief: Brief) -> NorthArrow:
    return NorthArrow(panel=MAIN, design="plain", day=brief.today.isoformat())

"""A poster: a large title, the map across the page, and below it the explanation in columns."""

from __future__ import annotations

from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts.credits import CreditNote
from orvik.core.sheet.parts.explanation.explanation import Explanation
from orvik.core.sheet.parts.fraction import Fraction
from orvik.core.sheet.parts.graticule.graticule import Graticule
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.core.sheet.parts.north_arrow.north_arrow import DIAGRAM, NorthArrow
from orvik.core.sheet.parts.scale_bar.scale_bar import ScaleBar
from orvik.core.sheet.parts.text import RunningText
from orvik.core.sheet.parts.title import Title
from orvik.core.sheet.templates.brief import MAIN, Brief

# All measures are shares of the page's shorter side.
MARGIN, TITLE, SUBTITLE = 0.035, 0.034, 0.014


def parts_of(brief: Brief) -> list[Part]:
    """Symbols and letters grow with the page, so that it is read from a few steps away; raises SheetRefused."""
    width, height = brief.page
    short = min(width, height)
    margin, title, subtitle = MARGIN * short, TITLE * short, SUBTITLE * short
    k = min(5.0, max(0.5, short / 297.0 * 0.8))
    labels = 5.0 * k
    top = margin + 1.5 * title + 2.2 * subtitle + labels
    foot = 0.24 * height
    left, wide = margin + labels, width - 2 * (margin + labels)
    high = height - top - foot - margin
    scale = brief.scale_for(wide, high)
    across, down = brief.panel_size(scale, wide, high)
    panel = MapPanel(name="Main map", scale=scale, centre=brief.centre, neatline=brief.neatline, symbol_scale=k)
    place = left + (wide - across) / 2, top + (high - down) / 2, across, down
    below = top + high + labels + 3.0 * k
    column = 0.24 * wide
    letters = 2.4 * k
    lines = Graticule(panel=MAIN, lines_of="geographic", style="ticks", corners=True, size=1.9 * k)
    return [
        Part(panel, *place, id=MAIN),
        Part(lines, *place),
        Part(Title(text=brief.name, size=title), margin, margin, width - 2 * margin, 1.4 * title),
        Part(
            RunningText(text=f"Geologic map, {brief.project}", size=subtitle),
            margin,
            margin + 1.45 * title,
            width - 2 * margin,
            1.6 * subtitle,
        ),
        Part(Explanation(panel=MAIN), left, below, wide - column - 8.0 * k, height - margin - below),
        Part(Fraction(panel=MAIN, says="both", size=4.0 * k), left + wide - column, below, column, 9.0 * k),
        Part(
            ScaleBar(panel=MAIN, design="twin", size=letters),
            left + wide - column,
            below + 10.0 * k,
            column,
            9.0 * k,
        ),
        Part(
            NorthArrow(panel=MAIN, design=DIAGRAM, day=brief.today.isoformat(), size=1.9 * k),
            left + wide - column,
            below + 21.0 * k,
            column,
            32.0 * k,
        ),
        Part(
            CreditNote(panel=MAIN, size=1.9 * k),
            left + wide - column,
            below + 55.0 * k,
            column,
            max(6.0, height - margin - below - 55.0 * k),
        ),
    ]

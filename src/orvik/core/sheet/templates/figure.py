"""A figure for a page of text: the border across the page, with a bar and an arrow in it, and what it shows below."""

from __future__ import annotations

from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts.explanation.explanation import Explanation
from orvik.core.sheet.parts.graticule.graticule import Graticule
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.core.sheet.parts.north_arrow.north_arrow import NorthArrow
from orvik.core.sheet.parts.scale_bar.scale_bar import ScaleBar
from orvik.core.sheet.parts.text import RunningText
from orvik.core.sheet.templates.brief import MAIN, Brief

MARGIN, LABELS = 12.0, 6.0


def parts_of(brief: Brief) -> list[Part]:
    """One panel as wide as the page, quiet furniture, and an explanation in columns; raises SheetRefused."""
    width, height = brief.page
    wide = width - 2 * MARGIN - LABELS
    scale = brief.scale_for(wide, height - 2 * MARGIN - 60.0)
    across, high = brief.panel_size(scale, wide, height - 2 * MARGIN - 60.0)
    left, top = MARGIN + LABELS, MARGIN + LABELS
    x, right = left + (wide - across) / 2, left + (wide + across) / 2
    below = top + high + LABELS
    panel = MapPanel(name="Main map", scale=scale, centre=brief.centre, neatline=brief.neatline, frame=0.25)
    bar = ScaleBar(panel=MAIN, design="rule", divided=False, size=2.0, ground_colour="#FFFFFF", padding=1.2)
    arrow = NorthArrow(panel=MAIN, design="plain", words=False, day=brief.today.isoformat())
    return [
        Part(panel, x, top, across, high, id=MAIN),
        Part(Graticule(panel=MAIN, lines_of="geographic", style="ticks", size=1.8), x, top, across, high),
        Part(bar, x + 2.0, top + high - 10.5, 50.0, 8.5),
        Part(arrow, right - 14.0, top + 2.0, 12.0, 20.0),
        Part(
            Explanation(panel=MAIN, title="", headings="none"), left, below + 2.0, wide, height - MARGIN - 14.0 - below
        ),
        Part(
            RunningText(text=f"{brief.title}.", size=2.8),
            left,
            height - MARGIN - 9.0,
            wide,
            9.0,
        ),
    ]

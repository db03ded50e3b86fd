"""Enlarge into free space: the most room that the other parts of a page leave to a panel."""

from __future__ import annotations

from collections.abc import Sequence

from orvik.core.errors import SheetRefused
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts.graticule.graticule import Graticule

# What a panel keeps clear of other parts and of its own figures, in millimetres.
CLEAR, FIGURES = 3.0, 8.0
Box = tuple[float, float, float, float]


def most_room(sheet: Sheet, panel: Part, parts: Sequence[Part]) -> Box:
    """The largest frame of a panel that meets no other part and stays within the margins.

    Parts that lie whole on the panel are no hindrance, nor is what lies on it.

    Returns
    -------
    Left, top, width and height in millimetres.

    Raises
    ------
    SheetRefused
        The other parts leave it less than it has.
    """
    outside = any(
        isinstance(p.settings, Graticule) and p.settings.panel == panel.id and p.settings.figures == "outside"
        for p in parts
    )
    clear = FIGURES if outside else CLEAR
    layout = sheet.layout
    edge = FIGURES if outside else 0.0
    right_end, bottom_end = sheet.width - layout.right - edge, sheet.height - layout.bottom - edge
    page = (layout.left + edge, layout.top + edge, right_end, bottom_end)
    hindrances = [
        (p.x - clear, p.y - clear, p.x + p.width + clear, p.y + p.height + clear)
        for p in parts
        if p.id != panel.id and not p.settings.lies_on_panel and not _upon(p, panel)
    ]
    xs = sorted({page[0], page[2], *(v for b in hindrances for v in (b[0], b[2]) if page[0] < v < page[2])})
    ys = sorted({page[1], page[3], *(v for b in hindrances for v in (b[1], b[3]) if page[1] < v < page[3])})
    best: Box | None = None
    for i, left in enumerate(xs):
        for right in xs[i + 1 :]:
            for j, top in enumerate(ys):
                for bottom in ys[j + 1 :]:
                    area = (right - left) * (bottom - top)
                    if best is not None and area <= best[2] * best[3]:
                        continue
                    if not any(b[0] < right and left < b[2] and b[1] < bottom and top < b[3] for b in hindrances):
                        best = (left, top, right - left, bottom - top)
    if best is None or best[2] * best[3] <= panel.width * panel.height * 1.001:
        raise SheetRefused(f"The other parts leave “{panel.label}” no more room than it has; move one of them aside.")
    return best


def _upon(part: Part, panel: Part) -> bool:
    """Whether a part lies whole on a panel, such as a bar in its corner."""
    return (
        part.x >= panel.x
        and part.y >= panel.y
        and part.x + part.width <= panel.x + panel.width
        and part.y + part.height <= panel.y + panel.height
    )

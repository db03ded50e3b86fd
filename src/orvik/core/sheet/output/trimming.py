"""A page with its bleed and the marks where it is to be cut."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import Group, Item, LineStyle, Stroke, moved

# Marks stand clear of the page, or of its bleed, and are so long and so wide, in millimetres (common practice).
CLEAR, LONG, WIDE = 3.0, 5.0, 0.1
MARKS = "Trim marks"


@dataclass(frozen=True)
class Trimmed:
    """Ink on the paper that it is printed on.

    Attributes
    ----------
    width, height
        Of that paper, in millimetres.
    edge
        How far within it the trimmed page lies, on all sides.
    bleed
        How far beyond the trimmed page there is ink.
    """

    items: Sequence[Item]
    width: float
    height: float
    edge: float = 0.0
    bleed: float = 0.0


def trimmed(items: Sequence[Item], width: float, height: float, bleed: float, marks: bool) -> Trimmed:
    """A page of ink with bleed and trim marks; as it is where it has neither."""
    if not bleed and not marks:
        return Trimmed(items, width, height)
    edge = max(bleed, CLEAR) + LONG + 1.0 if marks else bleed
    reach = edge - bleed
    corners = [
        (reach, reach),
        (width + 2 * edge - reach, reach),
        (width + 2 * edge - reach, height + 2 * edge - reach),
        (reach, height + 2 * edge - reach),
    ]
    shifted = moved(items, (1.0, 0.0, edge, 0.0, 1.0, edge))
    # What lies beyond the bleed would lie in the way of the marks.
    page: list[Item] = [Group("page", shifted, clip=Paths.of([*corners, corners[0]]))]
    if marks:
        page.append(Group("trim-marks", tuple(_marks(width, height, edge, max(bleed, CLEAR))), title=MARKS))
    return Trimmed(page, width + 2 * edge, height + 2 * edge, edge, bleed)


def _marks(width: float, height: float, edge: float, clear: float) -> list[Item]:
    """Two lines at each corner, along the edges of the trimmed page and off it."""
    lines = []
    for x in (edge, edge + width):
        for near, far in ((edge - clear, edge - clear - LONG), (edge + height + clear, edge + height + clear + LONG)):
            lines.append(Stroke(LineStyle(WIDE, "#000000"), Paths.of([(x, near), (x, far)])))
    for y in (edge, edge + height):
        for near, far in ((edge - clear, edge - clear - LONG), (edge + width + clear, edge + width + clear + LONG)):
            lines.append(Stroke(LineStyle(WIDE, "#000000"), Paths.of([(near, y), (far, y)])))
    return list(lines)

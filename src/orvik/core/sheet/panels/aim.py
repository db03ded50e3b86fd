"""Aiming a panel: round scales, and the scale and centre at which something fills its frame."""

from __future__ import annotations

import numpy as np
import shapely

from orvik.core.errors import SheetRefused
from orvik.core.ground.scale import LARGEST_DENOMINATOR
from orvik.core.ink.affine import apply
from orvik.core.sheet.panels.panel import Panel

# Denominators that maps are published at (common practice): 1, 1.25, 2, 2.5 and 5 times powers of ten, and
# the scales of maps in inches.
ROUND_SCALES = tuple(
    sorted({round(d * 10**n) for n in range(2, 8) for d in (1, 1.25, 2, 2.5, 5)} | {24_000, 62_500, 63_360, 125_000})
)
# Those that a page may be filled with: finer steps, still round.
FITTING_SCALES = tuple(
    sorted({round(d * 10**n) for n in range(2, 8) for d in (1, 1.25, 1.5, 2, 2.5, 3, 4, 5, 6, 7.5, 8)})
)
# Room in millimetres that is left around a feature.
ROOM = 6.0


def fitted(panel: Panel, shown: shapely.Geometry, room: float = ROOM) -> tuple[int, tuple[float, float]]:
    """The largest round scale at which something lies whole in a panel's frame, and the centre for that.

    Parameters
    ----------
    shown
        In the panel's system.
    room
        Millimetres that are left free along each side.

    Raises
    ------
    SheetRefused
        There is nothing to show, or no round scale is small enough.
    """
    if shapely.is_empty(shown):
        raise SheetRefused("There is nothing there that the panel could be aimed at.")
    page = shapely.get_coordinates(shapely.transform(shown, lambda xy: apply(panel.to_page, xy)))
    (left, top), (right, bottom) = page.min(axis=0), page.max(axis=0)
    across = max(panel.part.width - 2 * room, panel.part.width / 2)
    down = max(panel.part.height - 2 * room, panel.part.height / 2)
    # A point fills no frame; it is shown at the scale that stands.
    shrink = max((right - left) / across, (bottom - top) / down)
    needed = panel.scale * shrink if shrink > 0 else panel.scale
    scale = next((d for d in ROUND_SCALES if d >= needed * (1 - 1e-9)), None)
    if scale is None or scale > LARGEST_DENOMINATOR:
        raise SheetRefused("This is too much ground for the panel's frame; make the frame larger.")
    x, y = apply(panel.to_ground, np.array([[(left + right) / 2, (top + bottom) / 2]]))[0]
    return scale, (float(x), float(y))

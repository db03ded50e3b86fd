"""Where on a page a new part lies over nothing: on free paper, as near to the middle as there is any."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from orvik.core.sheet.page import Sheet
from orvik.core.sheet.part import Part

# Kept clear around a part and along the edges of the page, and the steps in which places are tried, in millimetres.
CLEAR, EDGE, STEP = 2.0, 5.0, 2.5


def free_place(sheet: Sheet, parts: Sequence[Part], width: float, height: float) -> tuple[float, float]:
    """The left upper corner of a part of a size, in millimetres.

    Where the page has no free place for it, the one that hides least of the others; of two such the one nearer to the
    middle of the page.
    """
    xs = _places(sheet.width, width)
    ys = _places(sheet.height, height)
    x, y = (v.ravel() for v in np.meshgrid(xs, ys))
    boxes = shapely.box(x - CLEAR, y - CLEAR, x + width + CLEAR, y + height + CLEAR)
    hidden = np.zeros(len(x))
    for part in parts:
        if not part.settings.lies_on_panel:
            frame = shapely.box(part.x, part.y, part.x + part.width, part.y + part.height)
            hidden += shapely.area(shapely.intersection(boxes, frame))
    away = np.hypot(x + width / 2 - sheet.width / 2, y + height / 2 - sheet.height / 2)
    best = int(np.lexsort((away, np.round(hidden, 3)))[0])
    return float(x[best]), float(y[best])


def _places(page: float, size: float) -> np.ndarray[tuple[int], np.dtype[np.float64]]:
    """Where a part may begin along one side of a page; in the middle, where it is too large."""
    spare = page - size - 2 * EDGE
    if spare <= 0:
        return np.array([(page - size) / 2])
    return np.unique([*np.arange(EDGE, EDGE + spare, STEP), EDGE + spare, (page - size) / 2])

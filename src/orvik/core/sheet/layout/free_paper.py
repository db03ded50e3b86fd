"""Where on a page a new part lies over nothing: on free paper, as near to the middle as there is any."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from orvik.core.arrays import Floats
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.part import Part

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
    hidden = np.zeros(len(x))
    for part in parts:
        if not part.settings.lies_on_panel:
            wide = _common(xs, width, part.x, part.width)
            high = _common(ys, height, part.y, part.height)
            hidden += np.outer(high, wide).ravel()
    away = np.hypot(x + width / 2 - sheet.width / 2, y + height / 2 - sheet.height / 2)
    best = int(np.lexsort((away, np.round(hidden, 3)))[0])
    return float(x[best]), float(y[best])


def _common(starts: Floats, size: float, of: float, length: float) -> Floats:
    """How long the stretches of a size from some starts, with what is kept clear around them, lie on another one."""
    ends = np.minimum(starts + size + CLEAR, of + length)
    common: Floats = np.maximum(ends - np.maximum(starts - CLEAR, of), 0.0)
    return common


def _places(page: float, size: float) -> Floats:
    """Where a part may begin along one side of a page; in the middle, where it is too large."""
    spare = page - size - 2 * EDGE
    if spare <= 0:
        return np.array([(page - size) / 2])
    return np.unique([*np.arange(EDGE, EDGE + spare, STEP), EDGE + spare, (page - size) / 2])

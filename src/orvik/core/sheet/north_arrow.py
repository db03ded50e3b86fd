"""The north arrow: grid north upright, true north where it differs enough to be drawn, both in words."""

from __future__ import annotations

import numpy as np

from orvik.core.ink import INK, Fill, Item, LineStyle, Stroke, Text
from orvik.core.lettering import ITALIC, ROMAN, run
from orvik.core.paths import Paths
from orvik.core.sheet.page import Part

SIZE = 2.2
# Less than this cannot be told apart on paper; the words still say it.
DRAWN_DEGREES = 0.5


def ink(part: Part, convergence: float) -> list[Item]:
    """The arrow in its frame.

    Parameters
    ----------
    convergence
        Grid convergence in degrees at the middle of the panel: true north stands this much to the left.
    """
    x = part.x + part.width / 2
    foot = part.y + part.height - 2 * SIZE - 2.0
    tip = part.y + 2.6
    items: list[Item] = [
        Stroke(LineStyle(0.2, INK), Paths.of([(x, foot), (x, tip + 1)])),
        Fill(INK, Paths.of([(x, tip), (x + 1.1, tip + 4.2), (x, tip + 3.4)]), np.array([0, 1])),
        Stroke(
            LineStyle(0.15, INK, join="miter"),
            Paths.of([(x, tip), (x - 1.1, tip + 4.2), (x, tip + 3.4), (x, tip)]),
        ),
        Text(run("Grid north", ROMAN, SIZE, "centre"), (x, foot + SIZE + 0.4), INK),
    ]
    if abs(convergence) >= DRAWN_DEGREES:
        angle = np.radians(-convergence)
        length = (foot - tip) * 0.92
        end = (x + length * np.sin(angle), foot - length * np.cos(angle))
        items.append(Stroke(LineStyle(0.2, INK), Paths.of([(x, foot), end])))
        side = "right" if convergence > 0 else "left"
        at = (end[0] - 0.6 if convergence > 0 else end[0] + 0.6, end[1] + 1.5)
        items.append(Text(run("True", ITALIC, SIZE * 0.9, side), at, INK))
    items.append(Text(run(words(convergence), ITALIC, SIZE * 0.9, "centre"), (x, foot + 2 * SIZE + 0.9), INK))
    return items


def words(convergence: float) -> str:
    """``True north 0°13′ west of grid north``."""
    minutes = round(abs(convergence) * 60)
    if minutes == 0:
        return "True north is grid north here"
    side = "west" if convergence > 0 else "east"
    return f"True north {minutes // 60}°{minutes % 60:02d}′ {side} of it"

"""Lines of ink with fewer vertices, or as smooth curves, within a tolerance on the page."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import Group, Item, Stroke

# Places on each piece of a curve at which it is compared with the line that it stands for.
PLACES = 8


def thinned(items: Iterable[Item], tolerance: float) -> tuple[Item, ...]:
    """The same ink whose lines have no more vertices than it takes to stay within a tolerance, in millimetres.

    Lines of features are thinned (Douglas and Peucker 1973); areas keep every vertex, so that they go on meeting.
    """
    if tolerance <= 0:
        return tuple(items)
    out: list[Item] = []
    for item in items:
        if isinstance(item, Group):
            out.append(replace(item, items=thinned(item.items, tolerance)))
        elif isinstance(item, Stroke) and len(item.paths):
            lines = np.array([shapely.LineString(item.paths[i]) for i in range(len(item.paths))], dtype=object)
            out.append(replace(item, paths=Paths.of_lines(shapely.simplify(lines, tolerance))))
        else:
            out.append(item)
    return tuple(out)


def curve_of(xy: Floats, tolerance: float) -> list[Floats]:
    """A line as pieces of curves, each (4, 2): begin, two handles, end (cubic Bézier), or (2, 2) where it is straight.

    The curve runs through the vertices of the thinned line, with tangents of Catmull and Rom (1974); a piece that
    would leave the line by more than the tolerance stays straight.

    Parameters
    ----------
    tolerance
        In millimetres.
    """
    line = shapely.LineString(xy)
    points = shapely.get_coordinates(shapely.simplify(line, tolerance / 2))
    closed = len(points) > 3 and bool((points[0] == points[-1]).all())
    if len(points) < 3:
        return [points]
    before = np.vstack([points[-2:-1] if closed else points[:1], points[:-1]])
    after = np.vstack([points[1:], points[1:2] if closed else points[-1:]])
    tangents = (after - before) / 6
    out = []
    t = np.linspace(0, 1, PLACES + 2)[1:-1, None]
    for i in range(len(points) - 1):
        a, d = points[i], points[i + 1]
        b, c = a + tangents[i], d - tangents[i + 1]
        places = (1 - t) ** 3 * a + 3 * (1 - t) ** 2 * t * b + 3 * (1 - t) * t**2 * c + t**3 * d
        off = shapely.distance(shapely.points(places), line).max()
        out.append(np.array([a, b, c, d]) if off <= tolerance else np.array([a, d]))
    return out

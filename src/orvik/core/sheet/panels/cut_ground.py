"""What of a map lies on the ground of a panel, where the panel's system cannot show the whole of it."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely

from orvik.core.arrays import Flags, Floats
from orvik.core.features.by_certainty import pieces_by_certainty
from orvik.core.features.feature import Feature
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.crs_change import CrsChange

# A panel's ground is taken with so much around it, so that nothing is seen of where things are cut.
MARGIN = 0.02
# Into so many cells a side the ground is cut, and cells of which only a part can be shown so often into four.
CELLS, HALVINGS = 16, 9
# A place that comes back within this share of a cell has been there.
SAME = 1e-3
# Places a side at which a panel's ground is asked for.
SAMPLES = 49
TYPES = {"lines": "LineString", "areas": "Polygon", "points": "Point"}


def window_in_source(window: shapely.Polygon, way: CrsChange) -> shapely.Geometry:
    """The ground of a panel in the system that the map is in.

    Parameters
    ----------
    window
        In the target of ``way``. It is cut into cells, of which those are taken whose corners come from somewhere:
        beyond the edge of its world a system shows nothing.
    """
    west, south, east, north = window.bounds
    pad = MARGIN * max(east - west, north - south)
    xs, ys = np.linspace(west - pad, east + pad, CELLS + 1), np.linspace(south - pad, north + pad, CELLS + 1)
    left, low = (v.ravel() for v in np.meshgrid(xs[:-1], ys[:-1]))
    cells = np.column_stack([left, low, left + (xs[1] - xs[0]), low + (ys[1] - ys[0])])
    taken: list[shapely.Polygon] = []
    for _ in range(HALVINGS + 1):
        there, known = _corners(cells, way)
        all_known, some_known = known.all(axis=1), known.any(axis=1)
        taken += [shapely.Polygon(ring) for ring in there[all_known]]
        cells = _quartered(cells[some_known & ~all_known])
        if not len(cells):
            break
    return shapely.unary_union(shapely.make_valid(taken))


def share_without_ground(window: shapely.Polygon, crs: ProjectCrs) -> float:
    """How much of a panel's ground, 0 to 1, is not a place on the earth in the panel's system."""
    west, south, east, north = window.bounds
    xs, ys = np.linspace(west, east, SAMPLES), np.linspace(south, north, SAMPLES)
    x, y = (v.ravel() for v in np.meshgrid(xs, ys))
    inside = np.asarray(shapely.contains_xy(window, x, y))
    if not inside.any():
        return 0.0
    x, y = x[inside], y[inside]
    again = crs.from_geographic(*crs.to_geographic(x, y))
    with np.errstate(invalid="ignore"):
        same = np.hypot(again[0] - x, again[1] - y) <= SAME * max(east - west, north - south)
    return float(1 - same.mean())


def cut_to(feature: Feature, window: shapely.Geometry) -> Iterator[Feature]:
    """What of a feature lies within a window: pieces of one certainty each, without smooth vertices."""
    for _, piece in pieces_by_certainty(feature):
        shared = shapely.intersection(window, piece.geometry)
        for part in shapely.get_parts(shared):
            if part.geom_type == TYPES[feature.table] and not part.is_empty:
                yield piece.changed(geometry=part, stretches=(), knots=())


def _corners(cells: Floats, way: CrsChange) -> tuple[Floats, Flags]:
    """The corners of cells in the source, (n, 4, 2), and which of them are places."""
    west, south, east, north = cells.T
    xy = np.stack(
        [np.column_stack(pair) for pair in ((west, south), (east, south), (east, north), (west, north))], axis=1
    ).reshape(-1, 2)
    there = way.back(xy)
    with np.errstate(invalid="ignore"):
        again = way.places(there)
        same = np.hypot(*(again - xy).T) <= SAME * np.repeat(east - west, 4)
    known = np.isfinite(there).all(axis=1) & same
    return there.reshape(-1, 4, 2), known.reshape(-1, 4)


def _quartered(cells: Floats) -> Floats:
    west, south, east, north = cells.T
    x, y = (west + east) / 2, (south + north) / 2
    quarters = ((west, south, x, y), (x, south, east, y), (west, y, x, north), (x, y, east, north))
    return np.concatenate([np.column_stack(q) for q in quarters]) if len(cells) else cells

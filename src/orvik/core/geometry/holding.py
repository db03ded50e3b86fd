"""Which polygons hold which points."""

from __future__ import annotations

import shapely

from orvik.core.arrays import Ints, Objects

# A polygon that asks for its points is quicker than many points that ask for theirs.
ASKS_LESS = 4


def holders(points: Objects, polygons: shapely.STRtree) -> tuple[Ints, Ints]:
    """Pairs of a point and a polygon that holds it, its edge included; in no order.

    Returns
    -------
    Rows of the points and of the tree's polygons.
    """
    if len(points) * ASKS_LESS > len(polygons):
        polygon, point = shapely.STRtree(points).query(polygons.geometries, predicate="intersects")
    else:
        point, polygon = polygons.query(points, predicate="intersects")
    return point, polygon

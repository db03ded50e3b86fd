"""Vertices that lie on the edge of another feature, which has none there: straight edges bend when a map is moved."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

import numpy as np
import shapely

from orvik.core.arrays import Objects
from orvik.core.coordinates import GroundXY
from orvik.core.features.feature import Feature
from orvik.core.geometry.vertices import with_vertex

# What is so near on the sheet, in millimetres, is the rounding of coordinates that came from another system.
ROUNDING_MM = 1e-5


def with_nodes_on_edges(features: Sequence[Feature], reach: float) -> list[Feature]:
    """Lines and areas with a vertex exactly where a vertex of another one lies on their edge.

    So they go on touching when each vertex is moved by itself. What needs none is the very same feature.

    Parameters
    ----------
    features
        Points stay as they are.
    reach
        How far from an edge a vertex may lie and be on it, in units of the features.
    """
    out = list(features)
    rows = [i for i, feature in enumerate(features) if feature.table != "points"]
    if len(rows) < 2:
        return out
    edges = np.empty(len(rows), dtype=object)
    edges[:] = [_edge(features[i]) for i in rows]
    paths, of = shapely.get_parts(edges, return_index=True)
    xy, path = shapely.get_coordinates(paths, return_index=True)
    same = path[1:] == path[:-1]
    begins, stops, owners = xy[:-1][same], xy[1:][same], of[path[1:][same]]
    places = np.unique(xy, axis=0)
    segments: Objects = np.asarray(shapely.linestrings(np.stack([begins, stops], axis=1)))
    place, segment = shapely.STRtree(segments).query(shapely.points(places), predicate="dwithin", distance=reach)
    # Not at the ends of a segment, nor so near to one that it would be a vertex twice.
    clear = [np.hypot(*(places[place] - ends[segment]).T) > 2 * reach for ends in (begins, stops)]
    wanted: dict[int, list[GroundXY]] = defaultdict(list)
    for which in np.flatnonzero(clear[0] & clear[1]).tolist():
        x, y = places[place[which]].tolist()
        wanted[rows[int(owners[segment[which]])]].append((x, y))
    for i, more in wanted.items():
        for one in more:
            out[i] = with_vertex(out[i], one)
    return out


def _edge(feature: Feature) -> shapely.Geometry:
    return feature.geometry if feature.table == "lines" else shapely.boundary(feature.geometry)

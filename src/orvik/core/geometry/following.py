"""Follow edge: the shortest way along existing linework between two places on it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.coordinates import GroundXY
from orvik.core.errors import FeatureRefused
from orvik.core.features.feature import Feature
from orvik.core.geometry.vertices import paths_of, with_vertex

# More vertices than this in sight are more than anyone follows with two clicks.
MOST_VERTICES = 200_000
NO_WAY = "No edges lead from the first of these places to the second; go on with single clicks."
OFF_EDGE = "Both clicks must be on an edge; the ring says when it holds one."


def followed(features: Iterable[Feature], start: GroundXY, end: GroundXY) -> list[GroundXY]:
    """Vertices from one place to another along edges of features, both ends included.

    >>> import shapely
    >>> shore = Feature("lines", shapely.LineString([(0, 0), (50, 20), (100, 0)]), "shoreline", id=1)
    >>> followed([shore], (0.0, 0.0), (100.0, 0.0))
    [(0.0, 0.0), (50.0, 20.0), (100.0, 0.0)]

    Parameters
    ----------
    features
        Lines and areas whose edges may be followed. Both places lie on an edge or a vertex of one of them.

    Raises
    ------
    FeatureRefused
        The edges do not lead from one place to the other.
    """
    paths = []
    for feature in features:
        for place in (start, end):
            if feature.edge.distance(shapely.Point(place)) < 1e-6:
                feature = with_vertex(feature, place)
        paths += paths_of(feature)
        if sum(len(path) for path in paths) > MOST_VERTICES:
            raise FeatureRefused("There is too much linework between these two places; click nearer to the first.")
    if not paths:
        raise FeatureRefused(OFF_EDGE)
    return _shortest(paths, start, end)


def _shortest(paths: Sequence[Floats], start: GroundXY, end: GroundXY) -> list[GroundXY]:
    """The shortest way through the vertices."""
    # Here, and not for every process that starts: loading them takes a tenth of a second.
    from scipy.sparse import csr_array
    from scipy.sparse.csgraph import dijkstra

    places, number = np.unique(np.concatenate(paths), axis=0, return_inverse=True)
    ends = np.cumsum([len(path) for path in paths])
    inner = np.ones(len(number) - 1, dtype=bool)
    inner[ends[:-1] - 1] = False
    spans = np.sort(np.column_stack([number[:-1], number[1:]])[inner], axis=1)
    # Edges that two features share are there once.
    spans = np.unique(spans[spans[:, 0] != spans[:, 1]], axis=0)
    lengths = np.linalg.norm(places[spans[:, 0]] - places[spans[:, 1]], axis=1)
    ways = csr_array((lengths, (spans[:, 0], spans[:, 1])), shape=(len(places), len(places)))
    first, last = (np.flatnonzero((places == place).all(axis=1)) for place in (start, end))
    if not (len(first) and len(last)):
        raise FeatureRefused(OFF_EDGE)
    _, came = dijkstra(ways, directed=False, indices=first[0], return_predecessors=True)
    back = [int(last[0])]
    while back[-1] != first[0]:
        if came[back[-1]] < 0:
            raise FeatureRefused(
                "No edges lead from the first of these places to the second; go on with single clicks."
            )
        back.append(int(came[back[-1]]))
    return [(float(x), float(y)) for x, y in places[back[::-1]]]

"""Follow edge: the shortest way along existing linework between two places on it."""

from __future__ import annotations

import heapq
from collections.abc import Iterable

import numpy as np
import shapely

from orvik.core.errors import FeatureRefused
from orvik.core.features.feature import Feature
from orvik.core.geometry.vertices import paths_of, with_vertex

Place = tuple[float, float]
# More vertices than this in sight are more than anyone follows with two clicks.
MOST_VERTICES = 200_000


def followed(features: Iterable[Feature], start: Place, end: Place) -> list[Place]:
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
    ways: dict[Place, list[tuple[float, Place]]] = {}
    count = 0
    for feature in features:
        for place in (start, end):
            if feature.edge.distance(shapely.Point(place)) < 1e-6:
                feature = with_vertex(feature, place)
        for path in paths_of(feature):
            count += len(path)
            if count > MOST_VERTICES:
                raise FeatureRefused("There is too much linework between these two places; click nearer to the first.")
            lengths = np.hypot(*np.diff(path, axis=0).T).tolist()
            places = [(x, y) for x, y in path.tolist()]
            for a, b, length in zip(places[:-1], places[1:], lengths, strict=True):
                ways.setdefault(a, []).append((length, b))
                ways.setdefault(b, []).append((length, a))
    if start not in ways or end not in ways:
        raise FeatureRefused("Both clicks must be on an edge; the ring says when it holds one.")
    return _shortest(ways, start, end)


def _shortest(ways: dict[Place, list[tuple[float, Place]]], start: Place, end: Place) -> list[Place]:
    """Dijkstra's way through the vertices."""
    best: dict[Place, float] = {start: 0.0}
    came: dict[Place, Place] = {}
    queue: list[tuple[float, Place]] = [(0.0, start)]
    while queue:
        far, here = heapq.heappop(queue)
        if here == end:
            back = [here]
            while back[-1] != start:
                back.append(came[back[-1]])
            return back[::-1]
        if far > best[here]:
            continue
        for length, there in ways[here]:
            if far + length < best.get(there, np.inf):
                best[there] = far + length
                came[there] = here
                heapq.heappush(queue, (far + length, there))
    raise FeatureRefused("No edges lead from the first of these places to the second; go on with single clicks.")

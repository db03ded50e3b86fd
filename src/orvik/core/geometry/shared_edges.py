"""What features share: edges and vertices that belong to more than one, and go together when one changes."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np

from orvik.core.arrays import Floats
from orvik.core.coordinates import GroundXY
from orvik.core.features.feature import Feature
from orvik.core.geometry.vertices import carried, paths_of, segment_at, vertex_at, with_vertex

# On an edge is what lies so near to it, in project units.
ON_EDGE = 1e-6


def with_shared_vertices(places: Iterable[GroundXY], others: Iterable[Feature]) -> list[Feature]:
    """Features that get a vertex exactly at some places on their edges; those that need none are left out."""
    wanted = list(places)
    out = []
    for feature in others:
        changed = feature
        for place in wanted:
            if feature.table == "points":
                continue
            held = vertex_at(changed, place)
            if held is None:
                _, _, foot = segment_at(changed, place)
                if np.hypot(foot[0] - place[0], foot[1] - place[1]) > ON_EDGE:
                    continue
            changed = with_vertex(changed, place)
        if changed is not feature:
            out.append(changed)
    return out


def junctions(feature: Feature, others: Iterable[Feature], path: int = 0) -> list[int]:
    """Vertices of a path that must stay where they are for others: where lines meet it, and where a shared edge
    begins or ends; the first and the last one always."""
    xy = paths_of(feature)[path]
    fixed = {0, len(xy) - 1}
    for other in others:
        held = {(x, y) for p in paths_of(other) for x, y in p.tolist()}
        shared = [tuple(p) in held for p in xy.tolist()]
        for i, here in enumerate(shared):
            alone = not (0 < i < len(xy) - 1 and shared[i - 1] and shared[i + 1])
            if here and (other.table != "areas" or alone):
                fixed.add(i)
    return sorted(fixed)


def taken_along(runs: Sequence[tuple[Floats, Sequence[GroundXY]]], others: Iterable[Feature]) -> list[Feature]:
    """Features that hold runs of vertices which have become others, with these; the rest is left out.

    Parameters
    ----------
    runs
        Pairs of a run as it was, (n, 2), and what it has become.
    """
    out = []
    for feature in others:
        changed = feature
        for old, new in runs:
            changed = carried(changed, old, new) or changed
        if changed is not feature:
            out.append(changed)
    return out

"""A new course for a part of an edge, with all that runs along it."""

from __future__ import annotations

from collections.abc import Sequence

import shapely

from orvik.core.coordinates import GroundXY
from orvik.core.drawing.area_operations import check_together
from orvik.core.drawing.line_changes import reshaped
from orvik.core.errors import FeatureRefused
from orvik.core.features.feature import Feature
from orvik.core.geometry.shared_edges import taken_along, with_shared_vertices
from orvik.core.geometry.snapping import SnapIndex
from orvik.store.changeable import Changeable
from orvik.usecases.compile.features import FeatureEdit, touching


def reshaping(
    project: Changeable,
    index: SnapIndex,
    feature: Feature,
    places: Sequence[GroundXY],
    scale: int,
    nodes: Sequence[GroundXY],
) -> FeatureEdit:
    """The edit that gives a line or the edge of an area another course.

    Parameters
    ----------
    places
        The new course; its first and last place are on the edge.
    scale
        The denominator that it was drawn at, the coarsest of its vertices.
    nodes
        Vertices of it that lie on other edges.

    Raises
    ------
    FeatureRefused
        The edge would cross itself, or areas along it would come apart.
    """
    stack = project.stack()
    changed, (old, new) = reshaped(feature, places)
    sharing = touching(project, index, stack, [(float(old[0, 0]), float(old[0, 1]))], [feature])
    # Neighbours need the ends of the new course as vertices before they can follow it.
    ends = [places[0], places[-1]]
    beside = touching(project, index, stack, ends, [feature])
    marked = {(f.table, f.id): f for f in with_shared_vertices(ends, beside)}
    pool = {(f.table, f.id): f for f in (*sharing, *beside)} | marked
    others = {(f.table, f.id): f for f in taken_along([(old, new)], pool.values())}
    changed = changed.changed(capture_scale=max(feature.capture_scale or 0, scale))
    kept = [changed, *(marked | others).values()]
    if not changed.geometry.is_simple or not all(f.geometry.is_valid for f in kept):
        raise FeatureRefused("With this course an edge would cross itself; draw it a little otherwise.")
    made = {(f.table, f.id): f for f in kept}
    west, south, east, north = shapely.total_bounds([shapely.LineString(old), shapely.LineString(places)])
    around = {key: project.feature(*key) for key in index.within((west, south, east, north), frozenset({"areas"}))}
    around |= {f.key: project.feature(*f.key) for f in kept if f.table == "areas"}
    check_together(list(around.values()), [made.get(key, f) for key, f in around.items()])
    return FeatureEdit(f"reshape {feature.name}", kept, nodes=nodes)

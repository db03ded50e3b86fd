"""Lines and single vertices changed by hand, as edits: what is shared goes along, unless it is told to part."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from itertools import pairwise

import numpy as np

from orvik.core.arrays import Floats
from orvik.core.coordinates import GroundXY
from orvik.core.drawing import line_changes
from orvik.core.drawing.drawing import Vertex
from orvik.core.errors import CoordinateRefused, FeatureRefused, NotFound
from orvik.core.features.feature import Feature
from orvik.core.features.stretch import Stretch, with_stretch
from orvik.core.features.table import FeatureKey, Table
from orvik.core.geometry.curve import FLAT_MM, redrawn
from orvik.core.geometry.shared_edges import junctions, taken_along
from orvik.core.geometry.snapping import SnapIndex
from orvik.core.geometry.vertices import (
    cut,
    inserted,
    is_ring,
    joined,
    opened,
    paths_of,
    removed,
    reversed_line,
    spliced,
    vertex_at,
    with_vertex,
)
from orvik.core.ground.coordinates import parse_quantity
from orvik.core.ground.scale import on_ground
from orvik.store.changeable import Changeable
from orvik.store.reader import Reader
from orvik.usecases.compile.features import FeatureEdit, touching
from orvik.usecases.compile.layers import may_touch, refuse_locked

Run = tuple[Floats, list[GroundXY]]
# How far a line is led on to another, in millimetres on the sheet.
LEAD_MM = 40.0
_DRAWN: frozenset[Table] = frozenset({"lines", "areas"})


def sheet_units(project: Reader, millimetres: float) -> float:
    """Project units of a length on the sheet."""
    return on_ground(millimetres, project.scales.publication) / project.crs.metres_per_unit


def vertex_moved(
    project: Changeable,
    index: SnapIndex,
    feature: Feature,
    path: int,
    vertex: int,
    target: Vertex,
    *,
    insert: bool,
    apart: bool,
) -> FeatureEdit:
    """A vertex put elsewhere, or one made on the edge behind it and put there.

    Parameters
    ----------
    path, vertex
        Which vertex of which path of the feature.
    apart
        Whether others that share it stay.

    Raises
    ------
    NotFound
        There is no such vertex.
    """
    refuse_locked(project.stack(), feature.table)
    xy = _path_of(feature, path, vertex + 1 if insert else vertex)
    changed = feature
    if insert:
        run = xy[vertex : vertex + 2]
        (a, b), (c, d) = run.tolist()
        places = [(a, b), target.place, (c, d)]
        changed = inserted(feature, vertex, target.place, path)
    else:
        run, places = xy[vertex : vertex + 1], [target.place]
        changed = spliced(feature, vertex, vertex, places, path, knots=(0,))
    scale = max(feature.capture_scale or 0, target.capture_scale)
    changed, spans = _curve_again(project, changed.changed(capture_scale=scale))
    others = [] if apart else taken_along([(run, places), *spans], _sharing(project, index, feature, run, spans))
    nodes = [target.place] if target.target is not None and target.target.id else []
    return FeatureEdit(f"move a vertex of {feature.name}", [changed, *others], nodes=nodes)


def vertex_removed(project: Changeable, index: SnapIndex, feature: Feature, path: int, vertex: int) -> FeatureEdit:
    """A vertex taken out; where others have it between the same neighbours, from them, too. Raises NotFound."""
    xy = _path_of(feature, path, vertex)
    changed, spans = _curve_again(project, removed(feature, vertex, path))
    others: list[Feature] = []
    last = len(xy) - 1
    if 0 < vertex < last or is_ring(xy):
        run = xy[vertex - 1 : vertex + 2] if 0 < vertex < last else xy[[last - 1, 0, 1]]
        ends = [(float(run[0, 0]), float(run[0, 1])), (float(run[2, 0]), float(run[2, 1]))]
        others = taken_along([(run, ends), *spans], _sharing(project, index, feature, run[1:2], spans))
    return FeatureEdit(f"remove a vertex of {feature.name}", [changed, *others])


def _path_of(feature: Feature, path: int, vertex: int) -> Floats:
    """A path of a feature that has a vertex; raises NotFound where it has none such."""
    paths = paths_of(feature)
    if not (0 <= path < len(paths) and 0 <= vertex < len(paths[path])):
        raise NotFound("That vertex is no longer there; select the feature again.")
    return paths[path]


def _curve_again(project: Reader, changed: Feature) -> tuple[Feature, list[Run]]:
    """A smooth line drawn anew, and what the inner vertices of each of its spans have become."""
    if not changed.knots:
        return changed, []
    new = redrawn(changed, sheet_units(project, FLAT_MM))
    was, now = paths_of(changed)[0], paths_of(new)[0]
    knots = sorted({0, len(was) - 1, *changed.knots})
    runs: list[Run] = []
    for (a, b), (c, d) in zip(pairwise(knots), pairwise(new.knots), strict=True):
        inner = now[c + 1 : d]
        if b - a > 1 and not np.array_equal(was[a + 1 : b], inner):
            runs.append((was[a + 1 : b], [(float(x), float(y)) for x, y in inner]))
    return new, runs


def _sharing(
    project: Changeable, index: SnapIndex, feature: Feature, run: Floats, spans: Sequence[Run]
) -> list[Feature]:
    """Features that hold a run of vertices, or the spans of a curve."""
    stack = project.stack()
    places = [(float(x), float(y)) for x, y in run]
    found = {
        (f.table, f.id): f
        for f in touching(project, index, stack, places, [feature])
        if all(vertex_at(f, place) is not None for place in places)
    }
    inner = [(float(old[0, 0]), float(old[0, 1])) for old, _ in spans]
    found |= {(f.table, f.id): f for f in touching(project, index, stack, inner, [feature])}
    return list(found.values())


def _along(project: Changeable, index: SnapIndex, feature: Feature) -> list[Feature]:
    """Everything that touches a feature, in layers that may be touched."""
    stack = project.stack()
    keys = [
        (table, number)
        for table, number in index.beside(feature.geometry, _DRAWN)
        if (table, number) != (feature.table, feature.id) and may_touch(stack, table)
    ]
    return _features(project, keys)


def _features(project: Reader, keys: Iterable[FeatureKey]) -> list[Feature]:
    """Features by their keys, a table at a time."""
    found: list[Feature] = []
    listed = list(keys)
    for table in dict.fromkeys(table for table, _ in listed):
        found += project.whole(table, [number for of, number in listed if of == table]).values()
    return found


def lines_reversed(features: Sequence[Feature]) -> FeatureEdit:
    """Lines turned round: symbols have sides. Raises FeatureRefused for what is not a line."""
    for feature in features:
        if feature.table != "lines":
            raise FeatureRefused(f"{feature.name.capitalize()} is not a line.")
    name = features[0].name if len(features) == 1 else f"{len(features)} lines"
    return FeatureEdit(f"reverse {name}", [reversed_line(feature) for feature in features])


def simplified(project: Changeable, index: SnapIndex, feature: Feature) -> FeatureEdit:
    """Without vertices that change nothing on the sheet."""
    sharing = _along(project, index, feature)
    reach = sheet_units(project, line_changes.THIN_MM)
    changed, runs = line_changes.thinned(feature, junctions(feature, sharing), reach)
    return FeatureEdit(f"simplify {feature.name}", [changed.changed(knots=()), *taken_along(runs, sharing)])


def smoothed(project: Changeable, index: SnapIndex, feature: Feature) -> FeatureEdit:
    """A line as a smooth curve through a few of its vertices."""
    sharing = _along(project, index, feature)
    changed, runs = line_changes.made_smooth(
        feature,
        junctions(feature, sharing),
        sheet_units(project, line_changes.SMOOTH_MM),
        sheet_units(project, FLAT_MM),
    )
    return FeatureEdit(f"smooth {feature.name}", [changed, *taken_along(runs, sharing)])


def led_on(project: Reader, index: SnapIndex, feature: Feature, pointer: GroundXY, *, extending: bool) -> FeatureEdit:
    """The end of a line that is nearest to the pointer led on to the nearest line, or trimmed at it.

    Raises
    ------
    FeatureRefused
        There is no such line within reach.
    """
    xy = paths_of(feature)[0]
    end = 0 if math.hypot(*(xy[0] - pointer)) <= math.hypot(*(xy[-1] - pointer)) else -1
    reach = sheet_units(project, LEAD_MM)
    near = index.beside(feature.geometry, frozenset({"lines"}), reach)
    others = _features(project, (key for key in near if key[1] != feature.id))
    if extending:
        changed, other, place = line_changes.led_on(feature, end, others, reach)
    else:
        changed, other, place = line_changes.trimmed(feature, end, others)
    return FeatureEdit(f"{'extend' if extending else 'trim'} {feature.name} to {other.name}", [changed], nodes=[place])


def line_cut(feature: Feature, place: GroundXY) -> FeatureEdit:
    """A line in two at a place on it; a closed one is opened there."""
    marked = with_vertex(feature, place)
    found = vertex_at(marked, place)
    assert found is not None
    path = paths_of(marked)[0]
    if bool((path[0] == path[-1]).all()):
        return FeatureEdit(f"open {feature.name}", [opened(marked, found[1])], nodes=[place])
    return FeatureEdit(f"cut {feature.name}", cut(marked, found[1]), nodes=[place])


def lines_joined(one: Feature, two: Feature) -> FeatureEdit:
    """Two lines as one; raises FeatureRefused where they cannot be."""
    return FeatureEdit(f"join {one.name} and {two.name}", [joined(one, two)], [two.key])


def attributes_copied(features: Sequence[Feature], source: Feature) -> FeatureEdit:
    """Features with the symbol and the attributes of another."""
    return FeatureEdit(f"copy attributes from {source.name}", [line_changes.like(f, source) for f in features])


def moved(features: Sequence[Feature], start: GroundXY, end: GroundXY) -> FeatureEdit:
    """Features moved by what lies between two places; raises FeatureRefused where that is nothing."""
    dx, dy = end[0] - start[0], end[1] - start[1]
    if dx == dy == 0:
        raise FeatureRefused("These are the same place; nothing is moved.")
    name = features[0].name if len(features) == 1 else f"{len(features)} features"
    return FeatureEdit(f"move {name}", [line_changes.moved(f, dx, dy) for f in features])


def parallel_drawn(project: Reader, feature: Feature, typed: str) -> FeatureEdit:
    """A parallel at a typed distance, to the right; to the left where it is negative. Raises FeatureRefused."""
    text = typed.strip()
    try:
        metres = parse_quantity(text.removesuffix("mm").removesuffix("m"), "distance")
    except CoordinateRefused as error:
        raise FeatureRefused("Type the distance of the parallel as 40 (metres to the right), −40 or 2 mm.") from error
    if text.endswith("mm"):
        metres *= project.scales.publication / 1000
    made = line_changes.parallel(feature, metres / project.crs.metres_per_unit)
    return FeatureEdit(f"draw a parallel of {feature.name}", [made])


def stretch_changed(feature: Feature, start: GroundXY, end: GroundXY, certainty: str, side: str) -> FeatureEdit:
    """The part of a line between two places on it with a certainty of its own.

    Parameters
    ----------
    side
        ``line``, or the margin of a band: ``left`` or ``right``.
    """
    marked = with_vertex(with_vertex(feature, start), end)
    ends = sorted(v[1] for v in (vertex_at(marked, start), vertex_at(marked, end)) if v)
    segments = len(paths_of(marked)[0]) - 1
    base = margin_certainty(marked, side)
    stretches = with_stretch(base, marked.stretches, segments, Stretch(ends[0], ends[-1], certainty, side))
    return FeatureEdit(f"change a stretch of {feature.name}", [marked.changed(stretches=stretches)], nodes=[start, end])


def margin_certainty(feature: Feature, side: str) -> str:
    """The certainty of a line or of one margin of its band where no stretch says otherwise."""
    band = feature.band
    margin = {"left": band.left, "right": band.right}.get(side, "") if band else ""
    return margin or feature.certainty

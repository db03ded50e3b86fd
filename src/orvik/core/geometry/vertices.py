"""Vertices of a feature, changed: one splice carries stretches and knots along."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.coordinates import GroundXY
from orvik.core.errors import FeatureRefused
from orvik.core.features.feature import Feature
from orvik.core.features.kind import a_kind
from orvik.core.features.stretch import Stretch, certainties, normalized, shifted


def paths_of(feature: Feature) -> list[Floats]:
    """The vertices of a feature: one path of a line or a point, the rings of an area, the outer one first."""
    if feature.table == "areas":
        return [shapely.get_coordinates(ring) for ring in shapely.get_rings(feature.geometry)]
    return [shapely.get_coordinates(feature.geometry)]


def with_paths(feature: Feature, paths: Sequence[Floats]) -> Feature:
    """The feature with other vertices, its attributes as they were.

    Raises
    ------
    FeatureRefused
        Too few vertices are left.
    """
    least = {"points": 1, "lines": 2, "areas": 4}[feature.table]
    if any(len(path) < least for path in paths):
        fewest = "three corners" if feature.table == "areas" else "two vertices"
        raise FeatureRefused(f"This {feature.name} needs at least {fewest}; delete it instead.")
    if feature.table == "points":
        return feature.changed(geometry=shapely.Point(paths[0][0]))
    if feature.table == "lines":
        return feature.changed(geometry=shapely.LineString(paths[0]))
    return feature.changed(geometry=shapely.Polygon(paths[0], list(paths[1:])))


def is_ring(path: Floats) -> bool:
    """Whether a path closes on its first vertex."""
    return len(path) > 3 and bool((path[0] == path[-1]).all())


def spliced(
    feature: Feature, first: int, last: int, places: Sequence[GroundXY], path: int = 0, knots: Iterable[int] = ()
) -> Feature:
    """The feature with the vertices from ``first`` to ``last`` replaced.

    Stretches and knots outside keep their vertices; those within keep their share of the way.

    Parameters
    ----------
    first, last
        Numbers of the first and the last vertex that go; ``last`` may be ``first - 1``, for an insertion
        before ``first``. In a ring they do not pass over its first vertex.
    places
        What comes in their place.
    path
        The ring of an area.
    knots
        Which of ``places`` are knots, counted from 0.
    """
    paths = paths_of(feature)
    xy = paths[path]
    new = np.asarray(places, dtype=float).reshape(-1, 2)
    closed = is_ring(xy)
    out = np.concatenate([xy[:first], new, xy[last + 1 :]])
    if closed and len(out):
        if first == 0 and last < len(xy) - 1:
            out[-1] = out[0]
        elif last == len(xy) - 1 and first > 0:
            out[0] = out[-1]
    grown = len(new) - (last - first + 1)

    def where(i: int) -> int:
        if i < first:
            return i
        if i > last:
            return i + grown
        span = last - first
        return first + (round((i - first) / span * (len(new) - 1)) if span else 0) if len(new) else first

    paths[path] = out
    changed = with_paths(feature, paths)
    if feature.table != "lines":
        return changed
    kept = {where(k) for k in feature.knots if not first <= k <= last}
    kept |= {first + k for k in knots} if feature.knots else set()
    return changed.changed(
        stretches=shifted(feature.stretches, where, len(out)), knots=tuple(sorted(kept & set(range(len(out)))))
    )


def without_repeats(feature: Feature) -> Feature:
    """The feature with one vertex where several follow one another on one place; as it is where that leaves too few."""
    changed = feature
    least = 2 if feature.table == "lines" else 4
    for path, xy in enumerate(paths_of(feature)):
        again = np.flatnonzero((xy[1:] == xy[:-1]).all(axis=1))
        if len(xy) - len(again) < least:
            continue
        for i in again[::-1].tolist():
            knots = (0,) if {i, i + 1} & set(changed.knots) else ()
            changed = spliced(changed, i, i + 1, [(float(xy[i, 0]), float(xy[i, 1]))], path, knots)
    return changed


def inserted(feature: Feature, segment: int, place: GroundXY, path: int = 0) -> Feature:
    """The feature with a vertex on the segment that begins at vertex ``segment``; a knot in a smooth line."""
    return spliced(feature, segment + 1, segment, [place], path, knots=(0,))


def removed(feature: Feature, vertex: int, path: int = 0) -> Feature:
    """The feature without a vertex; raises FeatureRefused where too few would be left."""
    xy = paths_of(feature)[path]
    if is_ring(xy) and vertex in (0, len(xy) - 1):
        inner = xy[1:-1]
        paths = paths_of(feature)
        paths[path] = np.concatenate([inner, inner[:1]])
        changed = with_paths(feature, paths)
        if feature.table == "areas":
            return changed
        where = _minus_one(len(xy))
        return changed.changed(stretches=shifted(feature.stretches, where, len(xy) - 1), knots=())
    if feature.table == "lines" and len(xy) <= 2:
        raise FeatureRefused(f"This {feature.name} has no vertex to spare; delete it instead.")
    return spliced(feature, vertex, vertex, [], path)


def _minus_one(vertices: int) -> Callable[[int], int]:
    return lambda i: max(0, min(i - 1, vertices - 2))


def reversed_line(feature: Feature) -> Feature:
    """A line the other way round; what is on its left stays where it is on the ground only if it is a margin.

    >>> from shapely import LineString
    >>> reversed_line(Feature("lines", LineString([(0, 0), (50, 10)]), "fault")).geometry.wkt
    'LINESTRING (50 10, 0 0)'
    """
    xy = paths_of(feature)[0][::-1]
    n = len(xy) - 1
    sides = {"left": "right", "right": "left"}
    stretches = tuple(
        Stretch(n - s.last, n - s.first, s.certainty, sides.get(s.side, s.side)) for s in feature.stretches
    )
    return feature.changed(
        geometry=shapely.LineString(xy), stretches=stretches, knots=tuple(sorted(n - k for k in feature.knots))
    )


def cut(feature: Feature, vertex: int) -> tuple[Feature, Feature]:
    """A line in two at a vertex; both keep its attributes, and the first one its number.

    >>> from shapely import LineString
    >>> one, two = cut(Feature("lines", LineString([(0, 0), (50, 10), (90, 0)]), "contact", id=1), 1)
    >>> one.geometry.wkt, two.geometry.wkt
    ('LINESTRING (0 0, 50 10)', 'LINESTRING (50 10, 90 0)')

    Raises
    ------
    FeatureRefused
        The vertex is an end.
    """
    xy = paths_of(feature)[0]
    n = len(xy)
    if not 0 < vertex < n - 1:
        raise FeatureRefused("A line cannot be cut at its end; click further along it.")
    head = tuple(
        Stretch(s.first, min(s.last, vertex), s.certainty, s.side) for s in feature.stretches if s.first < vertex
    )
    tail = tuple(
        Stretch(max(s.first, vertex) - vertex, s.last - vertex, s.certainty, s.side)
        for s in feature.stretches
        if s.last > vertex
    )
    knots = feature.knots
    both = {vertex} if knots else set()
    one = feature.changed(
        geometry=shapely.LineString(xy[: vertex + 1]),
        stretches=head,
        knots=tuple(sorted({k for k in knots if k <= vertex} | both)),
    )
    two = feature.changed(
        geometry=shapely.LineString(xy[vertex:]),
        stretches=tail,
        id=None,
        knots=tuple(sorted(k - vertex for k in {k for k in knots if k >= vertex} | both)),
    )
    return one, two


def opened(feature: Feature, vertex: int) -> Feature:
    """A closed line that begins and ends at one of its vertices."""
    xy = paths_of(feature)[0]
    if not is_ring(xy):
        raise FeatureRefused("Only a closed line can be opened; cut this one instead.")
    n = len(xy) - 1
    turned = np.roll(xy[:-1], -vertex, axis=0)
    values = certainties(feature.certainty, feature.stretches, n)
    values = values[vertex:] + values[:vertex]
    segments_now = [Stretch(i, i + 1, value) for i, value in enumerate(values)]
    knots = {(k - vertex) % n for k in feature.knots} | ({0, n} if feature.knots else set())
    return feature.changed(
        geometry=shapely.LineString(np.vstack([turned, turned[:1]])),
        stretches=tuple(normalized(feature.certainty, segments_now, n)),
        knots=tuple(sorted(knots)),
    )


def joined(one: Feature, two: Feature) -> Feature:
    """Two lines as one, joined at their nearest ends; the first one's attributes, each part its certainty.

    >>> from shapely import LineString
    >>> first = Feature("lines", LineString([(0, 0), (50, 10)]), "contact", id=1)
    >>> second = Feature("lines", LineString([(90, 0), (50, 10)]), "contact", id=2)
    >>> joined(first, second).geometry.wkt
    'LINESTRING (0 0, 50 10, 90 0)'

    Raises
    ------
    FeatureRefused
        They are of different kinds, or it is one and the same line.
    """
    if one.table != "lines" or two.table != "lines":
        raise FeatureRefused("Only lines can be joined; click two lines.")
    if one.kind != two.kind:
        raise FeatureRefused(
            f"{a_kind(one.kind).capitalize()} and {a_kind(two.kind)} cannot be one line; give them the same kind first."
        )
    if one.id is not None and one.id == two.id:
        raise FeatureRefused("A line cannot be joined to itself; click another line.")
    a, b = paths_of(one)[0], paths_of(two)[0]
    gaps = {(x, y): float(np.hypot(*(a[x] - b[y]))) for x in (-1, 0) for y in (0, -1)}
    end, start = min(gaps, key=lambda pair: (gaps[pair], -pair[0], pair[1]))
    if end == 0:
        one = reversed_line(one)
    if start == -1:
        two = reversed_line(two)
    a, b = paths_of(one)[0], paths_of(two)[0]
    shared = bool((a[-1] == b[0]).all())
    offset = len(a) - 1 if shared else len(a)
    xy = np.concatenate([a, b[1:] if shared else b])
    stretches = list(one.stretches)
    for side in ("line", "left", "right"):
        for i, value in enumerate(certainties(two.certainty, two.stretches, len(b) - 1, side)):
            if value != one.certainty and (side == "line" or any(s.side == side for s in two.stretches)):
                stretches.append(Stretch(offset + i, offset + i + 1, value, side))
    kept = [s for side in ("line", "left", "right") for s in normalized(one.certainty, stretches, len(xy) - 1, side)]
    knots: set[int] = set()
    if one.knots or two.knots:
        knots = set(one.knots or range(len(a))) | {offset + k for k in (two.knots or range(len(b)))}
    scales = [f.capture_scale for f in (one, two) if f.capture_scale]
    return one.changed(
        geometry=shapely.LineString(xy),
        stretches=tuple(kept),
        knots=tuple(sorted(knots)),
        capture_scale=max(scales) if scales else None,
        note="\n".join(dict.fromkeys(n for n in (one.note, two.note) if n)),
    )


def found_run(xy: Floats, wanted: Floats) -> tuple[int, bool] | None:
    """Where some vertices follow one another in a path, in their order or against it.

    Returns the number of the first of them in the path, and whether they run against it. A ring is searched
    as it stands; ``turned_to`` brings a run that passes over its first vertex together.
    """
    n, m = len(xy), len(wanted)
    if m == 0 or m > n:
        return None
    for against in (False, True):
        sought = wanted[::-1] if against else wanted
        for i in np.flatnonzero((xy[: n - m + 1] == sought[0]).all(axis=1)):
            if (xy[i : i + m] == sought).all():
                return int(i), against
    return None


def turned_to(ring: Floats, wanted: Floats) -> Floats:
    """A ring that begins where a run of vertices does not pass over its first one."""
    inside = {tuple(p) for p in wanted.tolist()}
    body = ring[:-1]
    for i, place in enumerate(body.tolist()):
        if tuple(place) not in inside:
            turned = np.roll(body, -i, axis=0)
            return np.vstack([turned, turned[:1]])
    return ring


def carried(feature: Feature, old: Floats, new: Sequence[GroundXY]) -> Feature | None:
    """A feature that shares a run of vertices with another, taken along when that one changes.

    Parameters
    ----------
    old
        The run as it was, (n, 2).
    new
        What it has become.

    Returns
    -------
    Feature or None
        None where the feature does not hold the run.
    """
    for number, xy in enumerate(paths_of(feature)):
        if feature.table == "areas" and len(old) > 1 and found_run(xy, old) is None:
            paths = paths_of(feature)
            paths[number] = turned_to(xy, old)
            feature_turned = with_paths(feature, paths)
            found = found_run(paths[number], old)
            if found is None:
                continue
            feature, xy = feature_turned, paths[number]
        else:
            found = found_run(xy, old)
            if found is None:
                continue
        first, against = found
        places = list(new)[::-1] if against else list(new)
        return spliced(feature, first, first + len(old) - 1, places, number, knots=range(len(places)))
    return None


def segment_at(feature: Feature, place: GroundXY) -> tuple[int, int, GroundXY]:
    """The path, the segment and the nearest place on it to somewhere."""
    best: tuple[float, int, int, GroundXY] | None = None
    x, y = place
    for number, xy in enumerate(paths_of(feature)):
        if len(xy) < 2:
            continue
        d = np.diff(xy, axis=0)
        length = (d * d).sum(axis=1)
        t = np.clip(((np.array([x, y]) - xy[:-1]) * d).sum(axis=1) / np.where(length > 0, length, 1), 0, 1)
        feet = xy[:-1] + t[:, None] * d
        squared = ((feet - np.array([x, y])) ** 2).sum(axis=1)
        i = int(np.argmin(squared))
        foot = (float(feet[i, 0]), float(feet[i, 1]))
        if t[i] == 1.0:
            foot = (float(xy[i + 1, 0]), float(xy[i + 1, 1]))
        if best is None or squared[i] < best[0]:
            best = (float(squared[i]), number, i, foot)
    if best is None:
        raise FeatureRefused("A point has no edge.")
    return best[1], best[2], best[3]


def vertex_at(feature: Feature, place: GroundXY) -> tuple[int, int] | None:
    """The path and number of the vertex that is exactly somewhere; of a ring's first one, 0."""
    for number, xy in enumerate(paths_of(feature)):
        hits = np.flatnonzero((xy == np.array(place)).all(axis=1))
        if len(hits):
            return number, int(hits[0])
    return None


def with_vertex(feature: Feature, place: GroundXY) -> Feature:
    """The feature with a vertex exactly at a place on its edge; as it is where there is one already."""
    if feature.table == "points" or vertex_at(feature, place) is not None:
        return as_knot(feature, place)
    path, segment, _ = segment_at(feature, place)
    return inserted(feature, segment, place, path)


def as_knot(feature: Feature, place: GroundXY) -> Feature:
    """A smooth line whose vertex at a place will stay where it is when the curve is drawn anew."""
    found = vertex_at(feature, place)
    if not feature.knots or found is None or found[1] in feature.knots:
        return feature
    return feature.changed(knots=tuple(sorted({*feature.knots, found[1]})))

"""Changing lines: lead on, trim, smooth, thin and reshape, with what others share of them left in place."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from itertools import pairwise

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.coordinates import GroundXY
from orvik.core.errors import FeatureRefused
from orvik.core.features.feature import Feature
from orvik.core.features.kind import UNIT_TAG, a_kind
from orvik.core.features.stretch import shifted
from orvik.core.geometry.curve import redrawn
from orvik.core.geometry.vertices import is_ring, paths_of, spliced, vertex_at, with_paths, with_vertex

Run = tuple[Floats, list[GroundXY]]
# Thinning leaves out what is nearer to the line than this on the sheet; smoothing keeps fewer vertices as knots.
THIN_MM = 0.1
SMOOTH_MM = 0.4


def led_on(line: Feature, end: int, others: Iterable[Feature], reach: float) -> tuple[Feature, Feature, GroundXY]:
    """A line led straight on from one of its ends to the nearest other line.

    Parameters
    ----------
    end
        0 for the first vertex, -1 for the last.
    others
        Lines that it may be led to.
    reach
        How far, in project units.

    Returns
    -------
    line, other, place
        The line, the one that it meets, and where; the other one has no vertex there yet.
    """
    xy = paths_of(line)[0]
    here, before = (xy[0], xy[1]) if end == 0 else (xy[-1], xy[-2])
    course = (here - before) / max(float(np.hypot(*(here - before))), 1e-12)
    ray = shapely.LineString([here, here + course * reach])
    best: tuple[float, Feature, GroundXY] | None = None
    for other in others:
        for place in shapely.get_coordinates(shapely.intersection(ray, other.edge)).tolist():
            far = float(np.hypot(place[0] - here[0], place[1] - here[1]))
            if far > 1e-6 and (best is None or far < best[0]):
                best = (far, other, (place[0], place[1]))
    if best is None:
        raise FeatureRefused(f"Straight on from this end of {line.name} there is no line within reach; draw it on.")
    _, other, place = best
    at = 0 if end == 0 else len(xy)
    return spliced(line, at, at - 1, [place], knots=(0,)), other, place


def trimmed(line: Feature, end: int, others: Iterable[Feature]) -> tuple[Feature, Feature, GroundXY]:
    """A line cut back from one of its ends to the nearest other line that it crosses."""
    path = paths_of(line)[0]
    whole = shapely.LineString(path if end == 0 else path[::-1])
    best: tuple[float, Feature, GroundXY] | None = None
    for other in others:
        for place in shapely.get_coordinates(shapely.intersection(whole, other.edge)).tolist():
            along = float(shapely.line_locate_point(whole, shapely.Point(place)))
            if 1e-6 < along < whole.length - 1e-6 and (best is None or along < best[0]):
                best = (along, other, (place[0], place[1]))
    if best is None:
        raise FeatureRefused(f"{line.name.capitalize()} crosses no other line; there is nothing to trim it to.")
    _, other, place = best
    return cut_back(line, end, place), other, place


def cut_back(line: Feature, end: int, place: GroundXY) -> Feature:
    """A line without what lies beyond a place on it, as seen from the rest of it."""
    marked = with_vertex(line, place)
    found = vertex_at(marked, place)
    if found is None:
        raise FeatureRefused(f"This place is not on {line.name}; click again.")
    last = len(paths_of(marked)[0]) - 1
    return spliced(marked, 0, found[1] - 1, []) if end == 0 else spliced(marked, found[1] + 1, last, [])


def thinned(line: Feature, fixed: Sequence[int], tolerance: float) -> tuple[Feature, list[Run]]:
    """A line or the edge of an area without vertices that change nothing on the sheet.

    Parameters
    ----------
    fixed
        Vertices of the first path that stay, its ends among them.
    tolerance
        In project units.

    Returns
    -------
    line, runs
        The line, and what each run between fixed vertices has become.
    """
    xy = paths_of(line)[0]
    runs: list[Run] = []
    changed = line
    for first, last in reversed(list(pairwise(fixed))):
        old = xy[first : last + 1]
        if len(old) < 3:
            continue
        closed = bool((old[0] == old[-1]).all())
        new = shapely.get_coordinates(shapely.simplify(shapely.LineString(old), tolerance, preserve_topology=True))
        if closed and len(new) < 4:
            continue
        if len(new) < len(old):
            places = [(float(x), float(y)) for x, y in new]
            changed = spliced(changed, first, last, places)
            runs.append((old, places))
    if not runs:
        raise FeatureRefused(f"{line.name.capitalize()} has no vertex to spare; it stays as it is.")
    return changed, runs


def made_smooth(line: Feature, fixed: Sequence[int], knots: float, flat: float) -> tuple[Feature, list[Run]]:
    """A line as a smooth curve through a few of its vertices, which stay to be moved as its knots.

    Parameters
    ----------
    fixed
        Vertices that stay, the ends among them.
    knots, flat
        How far a vertex must stand out to become a knot, and how far a chord may leave the curve, in project
        units.
    """
    xy = paths_of(line)[0]
    kept: set[int] = set(fixed)
    for first, last in pairwise(fixed):
        old = shapely.LineString(xy[first : last + 1])
        few = {tuple(p) for p in shapely.get_coordinates(shapely.simplify(old, knots)).tolist()}
        kept |= {i for i in range(first, last + 1) if tuple(xy[i].tolist()) in few}
    chosen = sorted(kept)
    if len(chosen) < 3:
        raise FeatureRefused(f"{line.name.capitalize()} is straight already; it stays as it is.")
    # A vertex between every two knots, so that each span is drawn as a curve.
    places: list[GroundXY] = []
    marks = []
    where: dict[int, int] = {}
    for a, b in pairwise(chosen):
        marks.append(len(places))
        where[a] = len(places)
        middle = (xy[a] + xy[b]) / 2
        places += [(float(xy[a, 0]), float(xy[a, 1])), (float(middle[0]), float(middle[1]))]
    marks.append(len(places))
    where[chosen[-1]] = len(places)
    places.append((float(xy[-1, 0]), float(xy[-1, 1])))
    base = line.changed(knots=())
    sparse = _with_stretches_kept(base, chosen, where, places)
    smooth = redrawn(sparse.changed(knots=tuple(marks)), flat)
    new = paths_of(smooth)[0]
    at = dict(zip(chosen, smooth.knots, strict=True))
    runs: list[Run] = []
    for first, last in pairwise(fixed):
        piece = new[at[first] : at[last] + 1]
        runs.append((xy[first : last + 1], [(float(x), float(y)) for x, y in piece]))
    return smooth, runs


def _with_stretches_kept(line: Feature, chosen: list[int], where: dict[int, int], places: list[GroundXY]) -> Feature:
    """A line of other vertices, whose stretches begin and end at the nearest vertex that is left."""
    nearest = np.array(chosen)

    def moved(i: int) -> int:
        return where[int(nearest[int(np.argmin(np.abs(nearest - i)))])]

    return line.changed(geometry=shapely.LineString(places), stretches=shifted(line.stretches, moved, len(places)))


def reshaped(feature: Feature, drawn: Sequence[GroundXY]) -> tuple[Feature, Run]:
    """A line or an area's edge that takes another course between two of its places.

    Parameters
    ----------
    drawn
        The new course; its first and last place are on the edge.

    Returns
    -------
    feature, run
        The feature, and the run of vertices that was replaced with what it has become.
    """
    if len(drawn) < 2 or drawn[0] == drawn[-1]:
        raise FeatureRefused("Begin and end the new course at two different places on the edge.")
    marked = with_vertex(with_vertex(feature, drawn[0]), drawn[-1])
    one, two = vertex_at(marked, drawn[0]), vertex_at(marked, drawn[-1])
    if one is None or two is None or one[0] != two[0]:
        raise FeatureRefused("Begin and end the new course on one edge of the selected feature.")
    path = one[0]
    xy = paths_of(marked)[path]
    places = list(drawn)
    first, last = one[1], two[1]
    if is_ring(xy):
        return _ring_reshaped(marked, path, xy, first, last, places)
    if first > last:
        first, last, places = last, first, places[::-1]
    old = xy[first : last + 1]
    return spliced(marked, first, last, places, path, knots=range(len(places))), (old, places)


def _ring_reshaped(
    feature: Feature, path: int, xy: Floats, first: int, last: int, places: list[GroundXY]
) -> tuple[Feature, Run]:
    """Of the two ways round a ring, the one that is nearer to the new course gives way."""
    body = xy[:-1]
    n = len(body)
    first, last = first % n, last % n
    turned = np.roll(body, -first, axis=0)
    turned = np.vstack([turned, turned[:1]])
    split = (last - first) % n
    ahead, behind = turned[: split + 1], turned[split:]
    new = np.array(places)

    def between(old: Floats, course: Floats) -> float:
        ring = np.vstack([old, course[::-1]])
        x, y = ring[:, 0] - ring[0, 0], ring[:, 1] - ring[0, 1]
        return abs(float(np.dot(x, np.roll(y, 1)) - np.dot(y, np.roll(x, 1)))) / 2

    if between(ahead, new) <= between(behind[::-1], new):
        old, ring, run = ahead, np.vstack([new, behind[1:]]), places
    else:
        old, ring, run = behind, np.vstack([ahead, new[::-1][1:]]), places[::-1]
    paths = paths_of(feature)
    paths[path] = ring
    if feature.table == "lines":
        return feature.changed(geometry=shapely.LineString(ring), knots=(), stretches=()), (old, run)
    return with_paths(feature, paths), (old, run)


def moved(feature: Feature, dx: float, dy: float) -> Feature:
    """The whole feature somewhere else."""
    return feature.changed(geometry=shapely.transform(feature.geometry, lambda xy: xy + np.array([dx, dy])))


def parallel(line: Feature, distance: float) -> Feature:
    """A new line beside another, to the right of its direction; negative distances to the left."""
    offset = shapely.offset_curve(line.geometry, -distance, join_style="round", quad_segs=8)
    if offset.is_empty or offset.geom_type != "LineString":
        raise FeatureRefused(f"So far from {line.name} a parallel falls apart at its bends; choose a smaller distance.")
    return line.changed(geometry=offset, id=None, stretches=(), knots=(), band=None)


def like(feature: Feature, source: Feature) -> Feature:
    """A feature with the symbol and the attributes of another; its place and note stay its own."""
    if feature.table != source.table:
        raise FeatureRefused(f"{a_kind(source.kind).capitalize()} cannot lend its symbol to {a_kind(feature.kind)}.")
    taken = {
        "kind": source.kind,
        "certainty": source.certainty,
        "questionable": source.questionable,
        "fields": source.fields,
    }
    if feature.table == "areas" or source.kind == UNIT_TAG:
        taken["map_unit"] = source.map_unit
    if feature.table == "points" and feature.azimuth is None:
        taken |= {"azimuth": source.azimuth, "inclination": source.inclination}
    if feature.table == "lines":
        taken["band"] = source.band
    return feature.changed(**taken)

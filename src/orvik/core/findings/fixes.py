"""Fixes: what one click on a finding does to the features that it names."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.coordinates import GroundXY
from orvik.core.drawing.area_operations import trim_overlaps
from orvik.core.drawing.line_changes import cut_back
from orvik.core.errors import FeatureRefused
from orvik.core.features.feature import Feature
from orvik.core.features.kind import UNIT_TAG
from orvik.core.features.table import FeatureKey, Table
from orvik.core.findings.areas.unsound import sound_pieces
from orvik.core.findings.finding import Finding
from orvik.core.geometry.nodes import NODE
from orvik.core.geometry.shared_edges import with_shared_vertices
from orvik.core.geometry.vertices import cut, is_ring, opened, paths_of, spliced, vertex_at, with_vertex

Get = Callable[[Table, int], Feature]


@dataclass(frozen=True)
class Fixed:
    """Features added or changed, and those that go."""

    label: str
    kept: tuple[Feature, ...]
    deleted: tuple[FeatureKey, ...] = ()


def fixed(finding: Finding, get: Get, unit: str | None = None, capture_scale: int | None = None) -> Fixed:
    """What the fix of a finding does.

    Parameters
    ----------
    finding
        As it is told now.
    get
        Gives a feature by table and number.
    unit
        The unit of a tag that the fix adds.

    Raises
    ------
    FeatureRefused
        The finding has no fix, or the fix does not know the unit.
    """
    fix = finding.fix
    if fix is None:
        raise FeatureRefused("There is no fix at one click for this; select the feature and change it.")
    features = [get(table, number) for table, number in finding.features]
    label = f"{fix.label[:1].lower()}{fix.label[1:]}"
    if fix.kind == "delete":
        return Fixed(label, (), finding.features[:1])
    if fix.kind == "recode":
        return Fixed(label, (features[0].changed(map_unit=fix.unit),))
    if fix.kind == "read_as":
        read = {name: float(value) for name, value in fix.values.items()}
        return Fixed(label, (features[0].changed(**read),))
    if fix.kind == "make_sound":
        first, *more = sound_pieces(features[0].geometry)
        rest = tuple(features[0].changed(id=None, geometry=piece) for piece in more)
        return Fixed(label, (features[0].changed(geometry=first), *rest))
    if fix.kind == "give_way":
        newer, *others = features
        outcome = trim_overlaps(newer, others, below=True)
        return Fixed(label, outcome.kept, tuple(("areas", number) for number in outcome.deleted))
    if fix.kind == "cut_away":
        assert fix.along is not None
        line, twin = features
        return _cut_away(label, line, twin, fix.along)
    place = fix.place
    assert place is not None
    if fix.kind == "tag":
        unit = fix.unit or unit
        if not unit:
            raise FeatureRefused("Choose the map unit for this face first.")
        tag = Feature("points", shapely.Point(place), UNIT_TAG, map_unit=unit, capture_scale=capture_scale)
        return Fixed(f"tag a face {unit}", (tag,))
    if fix.kind == "cut":
        pieces = [piece for feature in features for piece in _cut(feature, place)]
        return Fixed(label, tuple(pieces))
    if fix.kind == "meet":
        assert finding.at is not None
        return Fixed(label, tuple(_moved(feature, finding.at, place) for feature in features))
    line, *others = features
    if fix.kind == "trim":
        changed = cut_back(line, fix.end or 0, place)
    else:
        last = len(paths_of(line)[0]) - 1
        if fix.kind == "join" and last > 1:
            at = 0 if fix.end == 0 else last
            changed = spliced(line, at, at, [place], knots=(0,))
        else:
            at = 0 if fix.end == 0 else last + 1
            changed = spliced(line, at, at - 1, [place], knots=(0,))
    return Fixed(label, (changed, *with_shared_vertices([place], others)))


def _moved(feature: Feature, at: GroundXY, place: GroundXY) -> Feature:
    """A feature whose vertex at a place stands elsewhere."""
    for number, xy in enumerate(paths_of(feature)):
        off = np.hypot(*(xy - np.array(at)).T)
        vertex = int(off.argmin())
        if off[vertex] <= NODE:
            return spliced(feature, vertex, vertex, [place], number)
    return feature


def _cut_away(label: str, line: Feature, twin: Feature, along: tuple[float, float]) -> Fixed:
    """A line without the part that another draws, too; its new ends stand on the other."""
    closed = is_ring(paths_of(line)[0])
    ends = [line.geometry.interpolate(d % line.geometry.length if closed else d).coords[0] for d in along]
    marked = line
    for x, y in ends:
        marked = with_vertex(marked, (float(x), float(y)))
    first, second = (found[1] if (found := vertex_at(marked, (float(x), float(y)))) else 0 for x, y in ends)
    left: list[tuple[Feature, tuple[int, ...]]] = []
    if closed:
        # Begun where the part ends, what stays is the beginning of the line, up to where the part begins.
        count = len(paths_of(marked)[0]) - 1
        left.append((cut(opened(marked, second % count), (first - second) % count)[0], (0, -1)))
    else:
        last = len(paths_of(marked)[0]) - 1
        if second < last:
            marked, tail = cut(marked, second)
            left.append((tail, (0,)))
        if first > 0:
            left.append((cut(marked, first)[0], (-1,)))
    places, pieces = [], []
    for piece, new_ends in left:
        for end in new_ends:
            at = 0 if end == 0 else len(paths_of(piece)[0]) - 1
            foot = _foot(twin, paths_of(piece)[0][at])
            places.append(foot)
            piece = spliced(piece, at, at, [foot])
        pieces.append(piece)
    # One piece keeps the number of the line.
    kept = [p.changed(id=line.id if i == len(pieces) - 1 else None) for i, p in enumerate(pieces)]
    return Fixed(label, (*kept, *with_shared_vertices(places, [twin])))


def _foot(line: Feature, place: Floats) -> tuple[float, float]:
    """The place on a line that is nearest to a place."""
    x, y = line.geometry.interpolate(line.geometry.project(shapely.Point(place))).coords[0]
    return float(x), float(y)


def _cut(feature: Feature, place: tuple[float, float]) -> tuple[Feature, ...]:
    marked = with_vertex(feature, place)
    found = vertex_at(marked, place)
    vertices = len(paths_of(marked)[0])
    if found is None or found[1] in (0, vertices - 1):
        return (marked,)
    return cut(marked, found[1])

"""Features kept, changed and deleted: by the hand on the map, from slips, from files."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import shapely

from orvik.core.drawing.validity import checked
from orvik.core.errors import FeatureRefused
from orvik.core.features.feature import Feature
from orvik.core.features.kind import SHEET_BORDER
from orvik.core.features.table import SECTION_TABLES, TABLES, FeatureKey
from orvik.core.geometry.shared_edges import ON_EDGE, with_shared_vertices
from orvik.core.geometry.snapping import SnapIndex
from orvik.store import rows
from orvik.store.changeable import Changeable
from orvik.store.journal import Change, Entry, Made
from orvik.store.reader import Reader
from orvik.store.tables.symbol_book import symbol_book_of
from orvik.usecases.compile.layers import Stack, may_touch, refuse_locked
from orvik.usecases.compile.section_changes import followed_line


@dataclass(frozen=True)
class FeatureEdit:
    """What one edit by hand does to features.

    Attributes
    ----------
    kept
        Features added or changed, as they will be.
    deleted
        Features that go.
    nodes
        Places on the edges of other features, which get a vertex there in the same entry.
    also
        Changes of other tables in the same entry; ``Made(k)`` in them is the id of ``kept[k]``.
    """

    label: str
    kept: Sequence[Feature]
    deleted: Sequence[FeatureKey] = ()
    nodes: Sequence[tuple[float, float]] = ()
    also: Sequence[Change] = ()


def keep_features(project: Changeable, index: SnapIndex, edit: FeatureEdit, seen: int) -> Entry:
    """Keep an edit as one entry.

    Raises
    ------
    FeatureRefused
        A feature cannot be kept, or its layer is locked.
    Stale
        A row has changed since ``seen``.
    """
    stack = project.stack()
    for table in {feature.table for feature in edit.kept} | {table for table, _ in edit.deleted}:
        refuse_locked(stack, table)
    kept = [*edit.kept]
    nodes = [*edit.nodes, *_new_nodes(project, edit.kept)]
    if nodes:
        others = touching(project, index, stack, nodes, but=edit.kept)
        kept = [_with_nodes_of(feature, others) for feature in kept]
        kept += with_shared_vertices(nodes, others)
    book, codes = symbol_book_of(project), set(project.units_by_code())
    before = {
        (table, number): feature
        for table in TABLES
        for number, feature in project.whole(table, [f.id for f in kept if f.table == table and f.id]).items()
    }
    sound = [checked(f, project.crs, book, codes, before.get(f.key) if f.id else None) for f in kept]
    changes = feature_changes(project, project.srs_id, sound, edit.deleted, edit.also)
    for feature in sound:
        changes += followed_line(project, before.get(feature.key) if feature.id else None, feature)
    return project.apply(edit.label, changes, seen)


def carry_out_edit(
    project: Changeable, index: SnapIndex, make: Callable[[Changeable, SnapIndex], FeatureEdit], seen: int
) -> Entry:
    """Make an edit and keep it as one entry; raises as making it and ``keep_features`` do."""
    return keep_features(project, index, make(project, index), seen)


def _new_nodes(project: Reader, kept: Sequence[Feature]) -> list[tuple[float, float]]:
    """Vertices that areas get by an edit: whatever else runs there has them, too, so that it goes along for ever."""
    before = project.whole("areas", [f.id for f in kept if f.table == "areas" and f.id is not None])
    nodes: set[tuple[float, float]] = set()
    for feature in kept:
        if feature.table == "areas":
            old = before.get(feature.id) if feature.id else None
            was = set() if old is None else {(x, y) for x, y in shapely.get_coordinates(old.geometry).tolist()}
            nodes |= {(x, y) for x, y in shapely.get_coordinates(feature.geometry).tolist()} - was
    return sorted(nodes)


def _with_nodes_of(feature: Feature, others: Sequence[Feature]) -> Feature:
    """An area with the vertices that others have on its edge; a line is left as it was drawn."""
    if feature.table != "areas" or not others:
        return feature
    xy = np.unique(shapely.get_coordinates([other.geometry for other in others]), axis=0)
    points: Any = shapely.points(xy)
    shapely.prepare(edge := feature.geometry.boundary)
    on_edge = xy[shapely.dwithin(edge, points, ON_EDGE)]
    changed = with_shared_vertices([(float(x), float(y)) for x, y in on_edge], [feature])
    return changed[0] if changed else feature


def touching(
    project: Reader,
    index: SnapIndex,
    stack: Stack,
    places: Iterable[tuple[float, float]],
    but: Iterable[Feature],
) -> list[Feature]:
    """Lines and areas with an edge or a vertex at one of some places, in layers that may be touched.

    Parameters
    ----------
    but
        Features that are left out.
    """
    names = {(feature.table, feature.id) for feature in but}
    keys = {key for x, y in places for key in index.touching(x, y)}
    return [
        project.feature(table, number)
        for table, number in sorted(keys)
        if (table, number) not in names and table != "points" and may_touch(stack, table)
    ]


def change_feature(project: Changeable, new: Feature, seen: int) -> Entry | None:
    """Keep other attributes of one feature; None where nothing changes."""
    old = project.feature(*new.key)
    refuse_locked(project.stack(), old.table)
    new = checked(new, project.crs, symbol_book_of(project), set(project.units_by_code()), old)
    if new == old:
        return None
    return project.apply(f"change {old.name}", [rows.feature_change(new, project.srs_id)], seen)


def feature_changes(
    project: Reader,
    srs_id: int,
    kept: Sequence[Feature],
    deleted: Iterable[FeatureKey] = (),
    also: Sequence[Change] = (),
) -> list[Change]:
    """Changes that keep features and delete others, as one entry.

    A project has one sheet border: a new one takes the place of the one that was there.

    Parameters
    ----------
    kept
        Features that have passed ``validity.checked``.
    also
        Changes of other tables; ``Made(k)`` in them is the id of the feature ``kept[k]``.

    Raises
    ------
    FeatureRefused
        More than one new border.
    """
    changes = [Change(table, number, None) for table, number in deleted]
    # With the line of a section goes what is drawn on it.
    going = [change.id for change in changes if change.table == "lines" and isinstance(change.id, int)]
    changes += [
        Change(SECTION_TABLES[table], drawn, None)
        for line in going
        for table in TABLES
        for drawn in project.drawn_ids(table, line)
    ]
    borders = [f for f in kept if f.table == "lines" and f.kind == SHEET_BORDER]
    if len(borders) > 1:
        raise FeatureRefused(f"A project has one sheet border, and here are {len(borders)}; leave all but one out.")
    if borders:
        stay = {*going, borders[0].id}
        changes += [Change("lines", old, None) for old in project.border_ids() if old not in stay]
    before = len(changes)
    changes += rows.feature_changes(kept, srs_id)
    return [*changes, *(_shifted(change, before) for change in also)]


def _shifted(change: Change, by: int) -> Change:
    values = {n: Made(v.change + by) if isinstance(v, Made) else v for n, v in (change.values or {}).items()}
    return replace(change, values=values if change.values is not None else None)

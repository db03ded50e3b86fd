"""Mends: what one click on a finding does to the features that it names."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import shapely

from .areas import trim_overlaps
from .change import cut_back
from .errors import FeatureRefused
from .feature import Feature, Table
from .findings.finding import Finding
from .shared import with_shared_vertices
from .vertices import cut, paths_of, spliced, vertex_at, with_vertex

Get = Callable[[Table, int], Feature]


@dataclass(frozen=True)
class Mended:
    """Features added or changed, and those that go."""

    label: str
    put: tuple[Feature, ...]
    gone: tuple[tuple[Table, int], ...] = ()


def mended(finding: Finding, get: Get, unit: str | None = None, capture_scale: int | None = None) -> Mended:
    """What the mend of a finding does.

    Parameters
    ----------
    finding
        As it is told now.
    get
        Gives a feature by table and number.
    unit
        The unit of a tag that the mend adds.

    Raises
    ------
    FeatureRefused
        The finding has no mend, or the mend does not know the unit.
    """
    mend = finding.mend
    if mend is None:
        raise FeatureRefused("There is no mend at one click for this; take the feature in hand and change it.")
    features = [get(table, number) for table, number in finding.features]
    label = f"{mend.label[:1].lower()}{mend.label[1:]}"
    if mend.kind == "delete":
        return Mended(label, (), finding.features[:1])
    if mend.kind == "give_way":
        newer, *others = features
        outcome = trim_overlaps(newer, others, below=True)
        return Mended(label, outcome.put, tuple(("areas", number) for number in outcome.gone))
    place = mend.place
    assert place is not None
    if mend.kind == "tag":
        unit = mend.unit or unit
        if not unit:
            raise FeatureRefused("Choose the map unit for this face first.")
        tag = Feature("points", shapely.Point(place), "unit_tag", map_unit=unit, capture_scale=capture_scale)
        return Mended(f"tag a face {unit}", (tag,))
    if mend.kind == "cut":
        pieces = [piece for feature in features for piece in _cut(feature, place)]
        return Mended(label, tuple(pieces))
    line, *others = features
    if mend.kind == "trim":
        changed = cut_back(line, mend.end or 0, place)
    else:
        last = len(paths_of(line)[0]) - 1
        if mend.kind == "join" and last > 1:
            at = 0 if mend.end == 0 else last
            changed = spliced(line, at, at, [place], knots=(0,))
        else:
            at = 0 if mend.end == 0 else last + 1
            changed = spliced(line, at, at - 1, [place], knots=(0,))
    return Mended(label, (changed, *with_shared_vertices([place], others)))


def _cut(feature: Feature, place: tuple[float, float]) -> tuple[Feature, ...]:
    marked = with_vertex(feature, place)
    found = vertex_at(marked, place)
    vertices = len(paths_of(marked)[0])
    if found is None or found[1] in (0, vertices - 1):
        return (marked,)
    return cut(marked, found[1])

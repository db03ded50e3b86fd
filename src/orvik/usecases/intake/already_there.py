"""Features that come in a second time, and readings that say another thing than one at the same place."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence

import numpy as np
import shapely

from orvik.core.arrays import Objects, object_array
from orvik.core.features.attitude import apart
from orvik.core.features.feature import Feature
from orvik.core.features.kind import kind_of
from orvik.core.features.table import TABLES
from orvik.core.ground.scale import on_ground
from orvik.store.reader import Reader

# Features are the same that lie so near to each other on the sheet, vertex by vertex: formats write fewer digits.
SAME_MM = 0.02
# Readings at one place are at odds from this on, in degrees: the care that a compass is read with (common practice).
ODDS_DEGREES = 10.0
# One place is one to so many digits, in project units.
PLACE_DIGITS = 3
# Degrees and figures that formats write shorter are the same.
SAME_DEGREES = 0.01


def already_there(project: Reader, features: Sequence[Feature]) -> dict[int, str]:
    """Which features of a list the project has, by their place in the list, and what these are called.

    The same is what has the same kind, unit and reading, and lies vertex by vertex where the other does.
    """
    reach = on_ground(SAME_MM, project.scales.publication) / project.crs.metres_per_unit
    found: dict[int, str] = {}
    for table in TABLES:
        rows = [i for i, feature in enumerate(features) if feature.table == table]
        held = project.features(table) if rows else None
        if held is None or not len(held):
            continue
        coming = np.array([features[i].geometry for i in rows], dtype=object)
        tree = shapely.STRtree(_starts(held.geometries))
        pairs = tree.query(_starts(coming), predicate="dwithin", distance=reach)
        alike = shapely.equals_exact(coming[pairs[0]], held.geometries[pairs[1]], tolerance=reach)
        for new, old in pairs[:, alike].T.tolist():
            there = held.feature(old)
            if rows[new] not in found and _same(features[rows[new]], there):
                found[rows[new]] = there.name
    return found


def _starts(geometries: Objects) -> Objects:
    """The first vertex of each geometry, as points."""
    xy, owner = shapely.get_coordinates(geometries, return_index=True)
    _, first = np.unique(owner, return_index=True)
    return np.asarray(shapely.points(xy[first]), dtype=object)


def _same(one: Feature, other: Feature) -> bool:
    return (
        one.kind == other.kind
        and (one.map_unit or "") == (other.map_unit or "")
        and (one.azimuth is None) == (other.azimuth is None)
        and (one.inclination is None) == (other.inclination is None)
        and apart(one.azimuth or 0.0, other.azimuth or 0.0) <= SAME_DEGREES
        and abs((one.inclination or 0.0) - (other.inclination or 0.0)) <= SAME_DEGREES
    )


def at_odds(features: Sequence[Feature]) -> list[tuple[int, int]]:
    """Readings of one kind at one place that differ by more than a compass does, as pairs of places in the list."""
    by_place: dict[tuple[str, float, float], list[int]] = defaultdict(list)
    corners = shapely.bounds(object_array([feature.geometry for feature in features]))[:, :2]
    places = np.round(corners, PLACE_DIGITS).tolist()
    for i, feature in enumerate(features):
        if feature.table == "points" and feature.azimuth is not None:
            by_place[(feature.kind, *places[i])].append(i)
    return [(one, two) for found in by_place.values() for one, two in _pairs(features, found)]


def _pairs(features: Sequence[Feature], found: Sequence[int]) -> Iterable[tuple[int, int]]:
    first = features[found[0]]
    # Joints stand in sets, and one place has several of them.
    if not kind_of(first.kind).upright:
        return
    for i in found[1:]:
        other = features[i]
        assert first.azimuth is not None
        assert other.azimuth is not None
        turned = apart(first.azimuth, other.azimuth)
        steeper = abs((first.inclination or 0.0) - (other.inclination or 0.0))
        if turned > ODDS_DEGREES or steeper > ODDS_DEGREES:
            yield found[0], i

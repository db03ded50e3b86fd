"""Features as formats hold them that know no stretches: lines cut where their certainty changes."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import shapely

from orvik.core.features.feature import Feature
from orvik.core.features.stretch import certainties, runs


def pieces_by_certainty(feature: Feature) -> Iterator[tuple[int, Feature]]:
    """A feature in pieces of one certainty each, numbered from 1; one piece where it has no stretches of its own.

    What is said of the margins of a band stays with the pieces that it is said of.
    """
    of_line = [stretch for stretch in feature.stretches if stretch.side == "line"]
    if feature.table != "lines" or not of_line:
        yield 1, feature
        return
    xy = shapely.get_coordinates(feature.geometry)
    margins = tuple(stretch for stretch in feature.stretches if stretch.side != "line")
    parts = runs(certainties(feature.certainty, of_line, len(xy) - 1))
    for number, (first, last, certainty) in enumerate(parts, 1):
        piece = shapely.LineString(xy[first : last + 1])
        mine = tuple(
            replace(stretch, first=max(stretch.first, first) - first, last=min(stretch.last, last) - first)
            for stretch in margins
            if stretch.first < last and stretch.last > first
        )
        yield number, replace(feature, geometry=piece, certainty=certainty, stretches=mine, knots=())

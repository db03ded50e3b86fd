"""What may be drawn on a section, and the ground and the frame that it lies between."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.errors import FeatureRefused
from orvik.core.features.feature import Feature
from orvik.core.features.kind import UNIT_AREA, UNIT_TAG, kind_of, kind_words
from orvik.core.features.table import Table
from orvik.core.structure.section.crossings import is_crossed
from orvik.core.structure.section.section import SectionOfMap

# What the ring calls the edges of a section; they are no kinds of feature.
GROUND, FOOT, SIDE = "ground", "foot", "end of the section"


def refuse_kind(table: Table, kind: str) -> None:
    """Raise FeatureRefused for a kind that has no place below the ground."""
    meaning = kind_of(kind)
    if table == "areas" and kind != UNIT_AREA:
        raise FeatureRefused("Areas of a section are its units; draw their edges, tag them, and form them.")
    if meaning.reading:
        raise FeatureRefused(
            "Readings stand on the map; those beside a section are carried onto it from there. Choose a pen for lines."
        )
    if table == "points" and kind != UNIT_TAG:
        raise FeatureRefused("On a section stand unit tags alone; choose that pen, or one for lines.")
    if table == "lines" and not (is_crossed(kind) or meaning.plunges):
        words = kind_words(kind)
        raise FeatureRefused(
            f"There is no {words} below the ground; choose a contact, a fault or another line of rock."
        )


@dataclass(frozen=True, eq=False)
class Below:
    """The ground of a section as one line, and its frame, in metres along and up.

    Where heights are missing the ground goes straight on, or level at an end; whoever shows it says so.
    """

    found: SectionOfMap

    @cached_property
    def ground(self) -> Floats:
        """The ground from end to end (n, 2)."""
        profile = self.found.profile
        known = np.isfinite(profile.height)
        if not known.any():
            return np.array([[0.0, 0.0], [self.found.line.length, 0.0]])
        up = np.interp(profile.along, profile.along[known], profile.height[known])
        return np.column_stack([profile.along, up])

    @cached_property
    def whole(self) -> shapely.Polygon:
        """All that lies below the ground, down to the foot."""
        base = min(self.found.base, float(self.ground[:, 1].min()) - 1e-3)
        corners = [(self.found.line.length, base), (0.0, base)]
        return shapely.Polygon(np.vstack([self.ground, corners]))

    @cached_property
    def edges(self) -> list[Feature]:
        """The ground, the foot and both ends: what lines meet and a pen follows, and no features of the section."""
        ring = shapely.get_coordinates(self.whole.exterior)
        last = len(self.ground)
        right, left, first = ring[last], ring[last + 1], ring[0]
        names = (GROUND, SIDE, FOOT, SIDE)
        lines = (self.ground, np.array([ring[last - 1], right]), np.array([right, left]), np.array([left, first]))
        named = enumerate(zip(names, lines, strict=True), 1)
        return [Feature("lines", shapely.LineString(xy), name, id=i) for i, (name, xy) in named]

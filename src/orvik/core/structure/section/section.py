"""A section as it is kept, and what it is of: the ground, what it crosses, and the readings carried onto it."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

import shapely

from orvik.core.errors import StructureRefused
from orvik.core.features.feature import Features, no_features
from orvik.core.features.table import Table
from orvik.core.structure.section.carried import CarriedReading, FoldAxis
from orvik.core.structure.section.crossings import Crossing, Stretch
from orvik.core.structure.section.profile import Profile
from orvik.core.structure.section.section_line import SectionLine

# What a vertical exaggeration may be, and a corridor and a base in metres.
LEAST_EXAGGERATION, MOST_EXAGGERATION = 0.1, 100.0
WIDEST, DEEPEST = 50_000.0, 100_000.0
# Below the lowest ground a base is by itself so deep as the ground is high, and a round figure.
ROUND = 100.0
# What is drawn above the ground is shown up to this share of what lies between the foot and the highest ground.
ABOVE_GROUND = 0.25


@dataclass(frozen=True)
class Section:
    """What is asked of a section line.

    Attributes
    ----------
    line_id
        The line of the map that it runs along.
    exaggeration
        Heights are drawn so many times as large as lengths; whatever is reckoned is reckoned at true scale.
    base
        The height of its foot in metres; None for one that suits the ground.
    corridor
        Readings within so many metres on each side are carried onto it.
    axis
        They are carried along this fold axis; each along its own strike without it.
    """

    line_id: int
    exaggeration: float = 1.0
    base: float | None = None
    corridor: float = 250.0
    axis: FoldAxis | None = None
    id: int | None = None

    def checked(self) -> Section:
        """Itself; raises StructureRefused for figures that no section can have."""
        if not LEAST_EXAGGERATION <= self.exaggeration <= MOST_EXAGGERATION:
            raise StructureRefused("A vertical exaggeration is between 0.1 and 100; 1 is true to scale.")
        if self.base is not None and not abs(self.base) <= DEEPEST:
            raise StructureRefused("The base lies deeper than the crust; give its height in metres, such as -400.")
        if not 0 <= self.corridor <= WIDEST:
            raise StructureRefused("Readings are carried over 0 to 50 000 m; give the width on each side in metres.")
        if self.axis is not None and not (0 <= self.axis.trend < 360 and 0 <= self.axis.plunge < 90):
            raise StructureRefused("A fold axis has a trend of 0 to 360 and a plunge below 90 degrees.")
        return self


@dataclass(frozen=True, eq=False)
class SectionOfMap:
    """A section and what it is of.

    Attributes
    ----------
    name
        The letter at its first end; its other end has it with a prime.
    line, profile
        Its way over the map, and the ground along it.
    crossings, stretches, readings
        What it crosses, and what is carried onto it.
    doubts
        What has to be said of it.
    drawn
        What is drawn on it, in metres along and up.
    ends_put
        By their numbers lines that are drawn, with what of the map their ends were put to.
    """

    section: Section
    name: str
    line: SectionLine
    profile: Profile
    crossings: tuple[Crossing, ...]
    stretches: tuple[Stretch, ...]
    readings: tuple[CarriedReading, ...]
    doubts: tuple[str, ...]
    drawn: Mapping[Table, Features] = field(default_factory=no_features)
    ends_put: Mapping[int, tuple[shapely.LineString, tuple[int | None, int | None]]] = field(default_factory=dict)

    @property
    def is_drawn(self) -> bool:
        """Whether anything is drawn on it."""
        return any(len(features) for features in self.drawn.values())

    @property
    def ends(self) -> tuple[str, str]:
        """The letters at its ends: ``B`` and ``B′``."""
        return self.name, f"{self.name}′"

    @property
    def title(self) -> str:
        """``B–B′``."""
        return "–".join(self.ends)

    @property
    def base(self) -> float:
        """The height of its foot, in metres."""
        if self.section.base is not None:
            return self.section.base
        low, high = self.profile.reach or (0.0, 0.0)
        return math.floor((min(low, 0.0) - max(high - low, ROUND)) / ROUND) * ROUND

    @property
    def top(self) -> float:
        """The height of its highest ground, or of what is carried or drawn above that, in metres."""
        _, high = self.profile.reach or (0.0, 0.0)
        ground = max([high, *(reading.up for reading in self.readings)])
        lines = self.drawn["lines"].geometries
        lost = float(shapely.bounds(lines)[:, 3].max()) if len(lines) else ground
        return max(ground, min(lost, ground + ABOVE_GROUND * (ground - self.base)))

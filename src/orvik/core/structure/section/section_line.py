"""The line of a section as a measure: how far along it places lie, where it bends, and which way it runs there.

Places are easting and northing on the project's grid in metres; distances along are metres from its first end.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely

from orvik.core.arrays import Floats, Ints, Objects
from orvik.core.errors import StructureRefused

# A line that turns by less than this, in degrees, is straight.
STRAIGHT = 0.1


@dataclass(frozen=True, eq=False)
class SectionLine:
    """A line with bends.

    Attributes
    ----------
    xy
        Its vertices (n, 2), no two in a row alike.
    """

    xy: Floats

    @staticmethod
    def of(line: shapely.LineString, metres_per_unit: float) -> SectionLine:
        """From a line of the map; raises StructureRefused for one without length."""
        xy = shapely.get_coordinates(line) * metres_per_unit
        keep = np.concatenate([[True], np.hypot(*np.diff(xy, axis=0).T) > 1e-6])
        if keep.sum() < 2:
            raise StructureRefused("This section line has no length; draw it from one end to the other.")
        return SectionLine(xy[keep])

    @cached_property
    def steps(self) -> Floats:
        """The length of each leg (n - 1,)."""
        return np.asarray(np.hypot(*np.diff(self.xy, axis=0).T))

    @cached_property
    def stations(self) -> Floats:
        """How far along each vertex lies (n,)."""
        return np.concatenate([[0.0], np.cumsum(self.steps)])

    @property
    def length(self) -> float:
        """From end to end."""
        return float(self.stations[-1])

    @property
    def bends(self) -> Floats:
        """How far along it bends; a vertex on a straight stretch, such as where another line meets it, is no bend."""
        course = self.directions(np.arange(len(self.xy) - 1))
        turn = np.abs((np.diff(course) + 180) % 360 - 180)
        return np.asarray(self.stations[1:-1][turn > STRAIGHT])

    @cached_property
    def legs(self) -> Objects:
        """Its straight parts as lines."""
        return np.asarray(shapely.linestrings(np.stack([self.xy[:-1], self.xy[1:]], axis=1)), dtype=object)

    @property
    def whole(self) -> shapely.LineString:
        """All of it as one line."""
        return shapely.LineString(self.xy)

    def directions(self, legs: Ints) -> Floats:
        """Which way some legs run, on the grid in degrees."""
        step = np.diff(self.xy, axis=0)[legs]
        return np.asarray(np.degrees(np.arctan2(step[..., 0], step[..., 1])) % 360)

    def leg_at(self, along: Floats) -> Ints:
        """The leg at distances along; at a bend the one that begins there."""
        last = len(self.xy) - 2
        return np.asarray(np.clip(np.searchsorted(self.stations, along, side="right") - 1, 0, last), dtype=np.int64)

    def at(self, along: Floats) -> Floats:
        """Places at distances along (n, 2)."""
        leg = self.leg_at(along)
        share = (along - self.stations[leg]) / self.steps[leg]
        return np.asarray(self.xy[leg] + share[..., None] * (self.xy[leg + 1] - self.xy[leg]))

    def along(self, xy: Floats, leg: Ints) -> Floats:
        """How far along places on given legs lie, by their foot on it."""
        way = np.diff(self.xy, axis=0)[leg] / self.steps[leg][..., None]
        return np.asarray(self.stations[leg] + ((xy - self.xy[leg]) * way).sum(axis=-1))

    @property
    def crosses_itself(self) -> bool:
        """Whether a place of it has two distances along."""
        return not self.whole.is_simple

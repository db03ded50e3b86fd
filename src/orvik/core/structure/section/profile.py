"""The ground along a section: its heights, where none are known, and what can be said of its highest and lowest."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from orvik.core.arrays import Floats
from orvik.core.structure.height_grid import HeightGrid
from orvik.core.structure.section.section_line import SectionLine


@dataclass(frozen=True, eq=False)
class Profile:
    """The ground's height along a section.

    Attributes
    ----------
    along, height
        Distances and heights in metres (n,), from end to end; NaN where no height is known.
    """

    along: Floats
    height: Floats

    def at(self, along: Floats) -> Floats:
        """Heights at distances along: straight between those that are known, NaN beside those that are not."""
        return np.asarray(np.interp(along, self.along, self.height, left=np.nan, right=np.nan))

    @property
    def parts(self) -> list[Floats]:
        """Its stretches with heights (n, 2): along and up."""
        known = np.concatenate([[False], np.isfinite(self.height), [False]])
        edges = np.flatnonzero(np.diff(known.astype(np.int8)))
        both = np.column_stack([self.along, self.height])
        return [both[a:b] for a, b in edges.reshape(-1, 2).tolist() if b - a > 1]

    @property
    def known_share(self) -> float:
        """Which share of its length has heights, 0 to 1."""
        covered = sum(float(part[-1, 0] - part[0, 0]) for part in self.parts)
        return covered / float(self.along[-1] - self.along[0])

    @property
    def reach(self) -> tuple[float, float] | None:
        """The lowest and the highest ground; None where none is known."""
        if not np.isfinite(self.height).any():
            return None
        return float(np.nanmin(self.height)), float(np.nanmax(self.height))


def profile_of(line: SectionLine, ground: HeightGrid, step: float | None = None, also: Sequence[float] = ()) -> Profile:
    """The ground along a line: at its ends and bends, and between them at no more than so far apart.

    Parameters
    ----------
    step
        In metres; half the smaller side of a cell without it.
    also
        Distances along at which the ground is asked, too: where lines cross, so that these stand on it whatever else is
        asked beside them.
    """
    apart = step or min(ground.cell) / 2
    pieces = []
    for begin, long in zip(line.stations[:-1], line.steps, strict=True):
        pieces.append(begin + np.linspace(0, long, int(np.ceil(long / apart)) + 1)[:-1])
    # What crosses at an end is at that end.
    crossed = np.clip(np.array(also, dtype=float), 0.0, line.length)
    along = np.unique(np.concatenate([*pieces, [line.length], crossed]))
    return Profile(along, ground.at(line.at(along)))

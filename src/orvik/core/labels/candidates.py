"""Places that labels could take, with what each costs; all in millimetres on the page, y downwards."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
import shapely

from orvik.core.arrays import Floats, Ints, Objects

# Letters keep this much clear of all that they must not touch, in millimetres.
CLEAR = 0.25


@dataclass(frozen=True)
class Candidates:
    """Places, one row for each.

    Attributes
    ----------
    owners
        Which request each is for.
    middles
        (n, 2), of the letters.
    angles
        By how much the letters are turned, in degrees clockwise.
    costs
        Less is better.
    ends
        (n, 2), where a leader ends; NaN for no leader.
    letters
        For names that follow a line: the place and angle of each letter, (k, 3), by row.
    """

    owners: Ints
    middles: Floats
    angles: Floats
    costs: Floats
    ends: Floats
    letters: Mapping[int, Floats] = field(default_factory=dict)

    def __len__(self) -> int:
        return len(self.owners)

    @staticmethod
    def of(
        owners: Ints, middles: Floats, costs: Floats, angles: Floats | None = None, ends: Floats | None = None
    ) -> Candidates:
        """Places that are upright and have no leader where nothing else is said."""
        count = len(owners)
        return Candidates(
            np.asarray(owners, dtype=np.int64),
            np.asarray(middles, dtype=float).reshape(count, 2),
            np.zeros(count) if angles is None else angles,
            np.asarray(costs, dtype=float),
            np.full((count, 2), np.nan) if ends is None else ends,
        )

    @staticmethod
    def together(many: Sequence[Candidates]) -> Candidates:
        """Several one after the other."""
        letters: dict[int, Floats] = {}
        begin = 0
        for one in many:
            letters |= {begin + row: places for row, places in one.letters.items()}
            begin += len(one)
        return Candidates(
            np.concatenate([c.owners for c in many]) if many else np.zeros(0, dtype=np.int64),
            np.vstack([c.middles for c in many]) if many else np.zeros((0, 2)),
            np.concatenate([c.angles for c in many]) if many else np.zeros(0),
            np.concatenate([c.costs for c in many]) if many else np.zeros(0),
            np.vstack([c.ends for c in many]) if many else np.zeros((0, 2)),
            letters,
        )

    def only(self, kept: Ints) -> Candidates:
        """Some rows, in growing order."""
        held = np.array(sorted(self.letters), dtype=np.int64)
        at = np.searchsorted(kept, held)
        there = at < len(kept)
        there[there] = kept[at[there]] == held[there]
        return Candidates(
            self.owners[kept],
            self.middles[kept],
            self.angles[kept],
            self.costs[kept],
            self.ends[kept],
            {number: self.letters[row] for row, number in zip(held[there].tolist(), at[there].tolist(), strict=True)},
        )

    @property
    def led(self) -> Ints:
        """Rows that have a leader."""
        return np.flatnonzero(np.isfinite(self.ends[:, 0]))


def boxes(middles: Floats, halves: Floats, angles: Floats, clear: float = 0.0) -> Objects:
    """Rectangles about places.

    Parameters
    ----------
    halves
        (n, 2), half of each width and height.
    angles
        Degrees clockwise, in a frame with y downwards.
    clear
        How much larger they are on all sides.
    """
    grown = halves + clear
    if not angles.any():
        (west, north), (east, south) = (middles - grown).T, (middles + grown).T
        return np.asarray(shapely.box(west, north, east, south))
    corners = np.array([(-1.0, -1.0), (1.0, -1.0), (1.0, 1.0), (-1.0, 1.0), (-1.0, -1.0)])
    local = grown[:, None, :] * corners[None, :, :]
    radians = np.radians(angles)
    cos, sin = np.cos(radians)[:, None], np.sin(radians)[:, None]
    x = local[:, :, 0] * cos - local[:, :, 1] * sin
    y = local[:, :, 0] * sin + local[:, :, 1] * cos
    return np.asarray(shapely.polygons(np.stack([x, y], axis=-1) + middles[:, None, :]))


def leader_starts(middles: Floats, halves: Floats, ends: Floats) -> Floats:
    """Where leaders leave their letters, a little off the box: on the straight line to where they end."""
    way = ends - middles
    grown = halves + CLEAR
    with np.errstate(divide="ignore"):
        share = np.minimum.reduce(grown / np.maximum(np.abs(way), 1e-9), axis=1)
    out: Floats = middles + way * np.minimum(share, 1.0)[:, None]
    return out

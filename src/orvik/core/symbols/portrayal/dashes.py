"""Where the marks of dashed lines lie, so that each ornament stands on one and none in a gap."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from orvik.core.arrays import Floats
from orvik.core.ink.primitives import LineStyle
from orvik.core.symbols.symbol import Symbol


@dataclass(frozen=True)
class Dashes:
    """How the segments of lines are dashed, one row for each vertex and the segment that begins there.

    Attributes
    ----------
    period
        From one mark to the next in millimetres; 0 for a line without gaps.
    middle
        How far into its period the longest mark has its middle, in millimetres.
    into
        How far into the row of dashes the segment begins, in millimetres.
    """

    period: Floats
    middle: Floats
    into: Floats

    @staticmethod
    def of(parts: Sequence[tuple[Floats, Symbol]], mm_per_unit: float) -> Dashes:
        """Of a line whose parts follow one another, each with the dashes of its symbol, which begin anew there."""
        period, middle, into = [], [], []
        for xy, symbol in parts:
            one, half, begin = _pattern(symbol)
            along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(xy, axis=0).T) * mm_per_unit)])[:-1]
            period.append(np.full(len(along), one))
            middle.append(np.full(len(along), half))
            into.append(begin + along)
        return Dashes(*(np.concatenate([*rows, [0.0]]) for rows in (period, middle, into)))

    @staticmethod
    def together(many: Sequence[Dashes]) -> Dashes:
        """Those of several lines, one after the other."""
        return Dashes(*(np.concatenate([getattr(d, name) for d in many]) for name in ("period", "middle", "into")))

    def turned(self, first: int, last: int, begin: int) -> Dashes:
        """The same where a closed line, whose vertices these are, begins at another of them."""

        def turn(values: Floats) -> Floats:
            ring = values[first:last]
            out = values.copy()
            out[first:last] = np.concatenate([ring[begin:], ring[:begin]])
            return out

        return Dashes(turn(self.period), turn(self.middle), turn(self.into))

    def onto_mark(self, at: float, along: Floats, low: float, high: float) -> float:
        """The nearest place with a mark's middle, between two others; as it is where the line has no gaps there.

        Parameters
        ----------
        at, low, high
            Millimetres along the lines.
        along
            Where each vertex lies.
        """
        segment = self._segment(at, along)
        period = self.period[segment]
        if not period:
            return at
        gone = self.into[segment] + at - along[segment]
        nearest = np.round((gone - self.middle[segment]) / period)
        # One further to either side serves as well, if the nearest lies beyond a corner or where the dashes end.
        for mark in (nearest, nearest - 1, nearest + 1):
            there = float(at + mark * period + self.middle[segment] - gone)
            if low - SLACK <= there <= high + SLACK:
                other = self._segment(there, along)
                off = self.into[other] + there - along[other] - mark * period - self.middle[segment]
                if self.period[other] == period and abs(off) < OFF:
                    return there
        return at

    def marks_between(self, begin: int, stop: int, count: int, long: float, along: Floats) -> Floats | None:
        """The marks between two vertices on which so many ornaments stand, as evenly as may be.

        Parameters
        ----------
        count, long
            How many they are at the most, and how long each is along the line, in millimetres.
        along
            Where each vertex lies.

        Returns
        -------
        How far along they lie; None where not all between the vertices is of one row of dashes.
        """
        period = float(self.period[begin])
        begun = self.into[begin:stop]
        if not period or (self.period[begin:stop] != period).any() or (np.diff(begun) < 0).any():
            return None
        first = along[begin] + self.middle[begin] - begun[0]
        low, high = along[begin] + long / 2 - SLACK, along[stop] - long / 2 + SLACK
        numbers = np.arange(np.ceil((low - first) / period), np.floor((high - first) / period) + 1)
        if not len(numbers):
            return numbers
        every = max(round((along[stop] - along[begin]) / count / period), int(np.ceil(long / period - SLACK)), 1)
        count = min(count, (len(numbers) - 1) // every + 1)
        # As much is left at either end.
        spare = len(numbers) - 1 - (count - 1) * every
        out: Floats = first + numbers[spare // 2 :: every][:count] * period
        return out

    def _segment(self, at: float, along: Floats) -> int:
        return int(np.clip(np.searchsorted(along, at, side="right") - 1, 0, len(along) - 1))


# Lengths in millimetres that are the same but for rounding, and marks that are the same one.
SLACK, OFF = 1e-6, 1e-3


def _pattern(symbol: Symbol) -> tuple[float, float, float]:
    """Period, middle of the longest mark and beginning of the dashes of a symbol's heaviest stroke."""
    style = max(symbol.strokes, key=lambda s: s.width, default=LineStyle(0.0, ""))
    if not style.dash or style.offset:
        return 0.0, 0.0, 0.0
    # An odd number of lengths is gone through twice: marks become gaps (ISO 32000-2, 8.4.3.6).
    dash = style.dash * (1 + len(style.dash) % 2)
    begins = np.concatenate([[0.0], np.cumsum(dash)])
    longest = 2 * int(np.argmax(dash[::2]))
    return float(begins[-1]), float(begins[longest] + dash[longest] / 2), style.phase

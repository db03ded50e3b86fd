"""Lengths of scale bars: units, and round divisions that fit a room."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from orvik.core.errors import SheetRefused


@dataclass(frozen=True)
class BarUnit:
    """A unit of a scale bar: its length in metres, and what stands after the last figure."""

    name: str
    metres: float
    word: str


METRES, KILOMETRES = BarUnit("metres", 1.0, "metres"), BarUnit("kilometres", 1000.0, "kilometres")
FEET, MILES = BarUnit("feet", 0.3048, "feet"), BarUnit("miles", 1609.344, "miles")
NAUTICAL = BarUnit("nautical", 1852.0, "nautical miles")
# What may be asked for; of several units the largest that the bar is worth counting in is taken.
UNITS: Mapping[str, tuple[BarUnit, ...]] = {
    "metric": (KILOMETRES, METRES),
    "miles": (MILES, FEET),
    "feet": (FEET,),
    "nautical": (NAUTICAL,),
}
# Divisions to the right of nought: a digit of the step, how many, and in how many pieces the one to the left is cut.
# Their ends are round: 1, 2, 3, 4, 5, 10, 15 and 20 times a power of ten.
_DIVISIONS = ((1, 2, 5), (1, 3, 5), (1, 4, 5), (1, 5, 5), (2, 2, 4), (2, 5, 4), (5, 2, 5), (5, 3, 5), (5, 4, 5))
SHORTEST_MM = 15.0


@dataclass(frozen=True)
class BarLength:
    """Divisions of ``step`` units: ``count`` to the right of nought, and one to the left of it in ``splits`` pieces.

    ``splits`` is 0 where nothing stands to the left of nought.
    """

    unit: BarUnit
    step: float
    count: int
    splits: int

    @property
    def end(self) -> float:
        """What the last figure says."""
        return self.step * self.count

    @property
    def left(self) -> float:
        """How far the bar reaches to the left of nought, in units."""
        return self.step if self.splits else 0.0

    @property
    def metres(self) -> float:
        """Its whole length on the ground."""
        return (self.end + self.left) * self.unit.metres


def found_for(room: float, scale: float, units: str, divided: bool = True) -> BarLength:
    """The longest bar of round divisions within a room.

    Parameters
    ----------
    room
        In millimetres.
    scale
        The true denominator where the bar is to hold.
    units
        A name of ``UNITS``.
    divided
        Whether a division stands to the left of nought.

    Raises
    ------
    SheetRefused
        Less room than the shortest bar needs.
    """
    if room < SHORTEST_MM:
        raise SheetRefused(f"A scale bar needs at least {SHORTEST_MM:g} mm; {max(room, 0):.1f} mm is too narrow.")
    metres = room * scale / 1000
    unit = _unit_for(metres / 2, units)
    best: BarLength | None = None
    power = int(np.floor(np.log10(metres / unit.metres)))
    for exponent in range(power - 2, power + 1):
        for digit, count, splits in _DIVISIONS:
            made = BarLength(unit, digit * 10.0**exponent, count, splits if divided else 0)
            longer = best is None or (made.metres, made.step) > (best.metres, best.step)
            if made.metres <= metres * (1 + 1e-9) and longer:
                best = made
    if best is None:
        raise SheetRefused("No round length fits this scale bar; make it wider.")
    return best


def of_length(length: float, units: str, count: int | None, divided: bool = True) -> BarLength:
    """A bar that ends at a length.

    Parameters
    ----------
    length
        In the first unit of ``units``.
    count
        Into how many divisions; None for as many as are round.

    Raises
    ------
    SheetRefused
        It cannot be cut into round divisions.
    """
    unit = UNITS[units][0]
    if length < 1 and len(UNITS[units]) > 1:
        # A piece of a kilometre or a mile reads better in the smaller unit.
        smaller = UNITS[units][1]
        length, unit = round(length * unit.metres / smaller.metres, 6), smaller
    for parts in (count,) if count else (4, 5, 2, 3, 6, 7, 8, 1):
        step = length / parts
        digits = step / 10.0 ** np.floor(np.log10(step))
        if count or min(abs(digits - d) for d in (1, 2, 2.5, 5, 10)) < 1e-9:
            splits = 4 if abs(digits - 2) < 1e-9 else 5
            return BarLength(unit, step, parts, splits if divided else 0)
    raise SheetRefused(f"{length:g} {unit.word} cannot be cut into round divisions; type another length.")


def _unit_for(metres: float, units: str) -> BarUnit:
    """The largest unit of which a length holds one at least; else the smallest."""
    offered = UNITS[units]
    return next((unit for unit in offered if metres >= unit.metres), offered[-1])

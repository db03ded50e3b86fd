"""The systems whose lines a graticule draws: grids in units of length, and latitude and longitude."""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass

import numpy as np

from orvik.core.arrays import Floats
from orvik.core.errors import SheetRefused
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.crs_change import CrsChange, way_between
from orvik.core.ground.scale import round_step, spaced

# Steps of latitude and longitude in seconds of arc that read well (common practice).
ANGLE_STEPS = (1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600, 7200, 18_000, 36_000, 54_000, 108_000)
# No figure of a map is read more finely.
MOST_DECIMALS = 6


class GridSystem(ABC):
    """Coordinates u (to the east) and v (to the north) over the ground of a panel."""

    @abstractmethod
    def of_ground(self, xy: Floats) -> Floats:
        """Coordinates (n, 2) of places in the panel's system."""

    @abstractmethod
    def to_ground(self, uv: Floats) -> Floats:
        """Places in the panel's system of coordinates (n, 2); not finite where there is none."""

    @abstractmethod
    def step_of(self, least: float) -> float:
        """The smallest round step that is not less than so much."""

    @abstractmethod
    def label(self, value: float, axis: int, step: float) -> str:
        """A coordinate in words, as exact as its step needs; ``axis`` is 0 for u and 1 for v."""

    @abstractmethod
    def full(self, u: float, v: float, exact: tuple[float, float]) -> tuple[str, str]:
        """Both coordinates of a corner, in full, with the decimals that they need to be ``exact`` to so much."""


@dataclass(frozen=True)
class LengthGrid(GridSystem):
    """The grid of a projected system, which may be another than the panel's; ``centre`` is that of the panel."""

    panel: ProjectCrs
    system: ProjectCrs
    centre: tuple[float, float]

    def of_ground(self, xy: Floats) -> Floats:
        return xy if self._same else self._way.places(xy)

    def to_ground(self, uv: Floats) -> Floats:
        return uv if self._same else self._way.back(uv)

    @property
    def _way(self) -> CrsChange:
        return way_between(self.panel, self.system, self.centre)

    @property
    def _same(self) -> bool:
        return self.panel.text == self.system.text

    def step_of(self, least: float) -> float:
        return round_step(least)

    def label(self, value: float, axis: int, step: float) -> str:
        return f"{spaced(value, decimals_of(step))} {'EN'[axis]}"

    def full(self, u: float, v: float, exact: tuple[float, float]) -> tuple[str, str]:
        east, north = (spaced(value, decimals_of(value, off)) for value, off in zip((u, v), exact, strict=True))
        return f"{east} {self._unit}E", f"{north} {self._unit}N"

    @property
    def _unit(self) -> str:
        return "m" if self.system.metres_per_unit == 1 else "ft" if "foot" in self.system.unit else ""


@dataclass(frozen=True)
class Geographic(GridSystem):
    """Longitude and latitude on the datum of the panel's system, unbroken about ``middle``."""

    panel: ProjectCrs
    middle: float

    def of_ground(self, xy: Floats) -> Floats:
        longitude, latitude = self.panel.to_geographic(xy[:, 0], xy[:, 1])
        return np.column_stack([(longitude - self.middle + 180) % 360 - 180 + self.middle, latitude])

    def to_ground(self, uv: Floats) -> Floats:
        x, y = self.panel.from_geographic(uv[:, 0], np.clip(uv[:, 1], -90, 90))
        return np.column_stack([x, y])

    def step_of(self, least: float) -> float:
        seconds = next((s for s in ANGLE_STEPS if s >= least * 3600 * (1 - 1e-9)), ANGLE_STEPS[-1])
        return seconds / 3600

    def label(self, value: float, axis: int, step: float) -> str:
        seconds = step * 3600
        decimals = decimals_of(seconds)
        whole = round(seconds)
        parts = 2 if decimals or whole % 60 else 1 if whole % 3600 else 0
        return angle_words(value, axis, parts, decimals)

    def full(self, u: float, v: float, exact: tuple[float, float]) -> tuple[str, str]:
        east, north = (
            angle_words(value, axis, 2, decimals_of(value * 3600, off * 3600))
            for axis, (value, off) in enumerate(zip((u, v), exact, strict=True))
        )
        return east, north


def decimals_of(value: float, off: float = 0.0) -> int:
    """How many decimals a value needs so that what is printed is the value, or off by no more than so much.

    >>> [decimals_of(step) for step in (500.0, 12.5, 0.25, 1e-3)], decimals_of(512.3456, 0.05)
    ([0, 1, 2, 3], 1)
    """
    off = max(off, abs(value) * 1e-12, 1e-9)
    return next((n for n in range(MOST_DECIMALS) if abs(round(value, n) - value) <= off), MOST_DECIMALS)


def angle_words(value: float, axis: int, parts: int, decimals: int = 0) -> str:
    """Degrees of longitude (axis 0) or latitude as ``14°46′W``; ``parts`` is 0 for degrees, 2 for seconds.

    ``decimals`` are those of the seconds.

    >>> angle_words(-14.7666667, 0, 1), angle_words(61.5001389, 1, 2, 1)
    ('14°46′W', '61°30′00.5″N')
    """
    if axis == 0:
        value = (value + 180) % 360 - 180
    unit = 10**decimals
    whole = round(abs(value) * 60**parts * unit)
    side = "" if whole == 0 or (axis == 0 and whole == 180 * 60**parts * unit) else "EWNS"[2 * axis + (value < 0)]
    if parts == 0:
        return f"{whole}°{side}"
    if parts == 1:
        return f"{whole // 60}°{whole % 60:02d}′{side}"
    seconds = f"{whole // unit % 60:02d}" + (f".{whole % unit:0{decimals}d}" if decimals else "")
    return f"{whole // (3600 * unit)}°{whole // (60 * unit) % 60:02d}′{seconds}″{side}"


def geographic(panel: ProjectCrs, centre: tuple[float, float]) -> Geographic:
    """Latitude and longitude over a panel; raises SheetRefused where its centre is nowhere."""
    longitude, latitude = (float(v) for v in panel.to_geographic(*centre))
    if not (np.isfinite(longitude) and np.isfinite(latitude)):
        raise SheetRefused("The middle of this panel is not a place that its system can show; aim it at ground.")
    return Geographic(panel, longitude)

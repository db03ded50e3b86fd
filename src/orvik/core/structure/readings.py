"""Readings of the map as axes of a net: which of them, in what unit each lies, and what they are together."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Mapping
from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Flags, Floats, Ints
from orvik.core.coordinates import GroundBox
from orvik.core.features.feature import Features
from orvik.core.features.kind import UNIT_AREA, kind_of
from orvik.core.features.map_unit import MapUnit
from orvik.core.structure.net import downwards, lines, poles

# The colour of readings that lie in no unit.
NO_UNIT = "#8C979F"


@dataclass(frozen=True)
class ReadingChoice:
    """Which readings are wanted; empty for all.

    Attributes
    ----------
    kinds
        Names of kinds.
    unit
        The code of the map unit that they lie in.
    ids
        Their numbers, as of those that are selected.
    window
        West, south, east and north of the ground that they lie on.
    """

    kinds: frozenset[str] = frozenset()
    unit: str = ""
    ids: frozenset[int] | None = None
    window: GroundBox | None = None


@dataclass(frozen=True, eq=False)
class NetReadings:
    """Readings with an azimuth, as columns.

    Attributes
    ----------
    ids, places
        Their numbers, and (n, 2) where they were taken.
    azimuth, inclination
        Strike and dip, or trend and plunge, in degrees from true north; an inclination of NaN was not read.
    planar
        Whether each is of a plane.
    units
        The code of the unit that each lies in; empty for none.
    """

    ids: Ints
    places: Floats
    azimuth: Floats
    inclination: Floats
    planar: Flags
    units: tuple[str, ...]

    def __len__(self) -> int:
        return len(self.ids)

    @property
    def on_net(self) -> Flags:
        """Which of them have a place on a net: those with a dip or a plunge."""
        return np.asarray(np.isfinite(self.inclination))

    @property
    def axes(self) -> Floats:
        """(n, 3) poles of planes and directions of lines, pointing down; NaN where only the azimuth was read."""
        both = np.where(
            self.planar[:, None], poles(self.azimuth, self.inclination), lines(self.azimuth, self.inclination)
        )
        return downwards(both)

    @property
    def mixed(self) -> bool:
        """Whether planes and lines are among those on the net: their axes say nothing together."""
        planar = self.planar[self.on_net]
        return bool(planar.any() and not planar.all())

    def colours(self, units: Mapping[str, MapUnit]) -> list[str]:
        """The colour of the unit that each lies in."""
        return [units[code].colour if code in units else NO_UNIT for code in self.units]


def chosen_readings(points: Features, areas: Features, choice: ReadingChoice) -> NetReadings:
    """The readings among points that a choice wants; a unit is the point's own, else that of the area it lies in."""
    kinds = points.columns["kind"]
    reads = {kind: _reads(kind, choice.kinds) for kind in set(kinds)}
    wanted = np.array([reads[kind] for kind in kinds], dtype=bool)
    azimuth = _figures(points.columns["azimuth"])
    wanted &= np.isfinite(azimuth)
    if choice.ids is not None:
        wanted &= np.isin(points.ids, np.array(sorted(choice.ids), dtype=np.int64))
    places = shapely.get_coordinates(points.geometries)
    if choice.window is not None:
        west, south, east, north = choice.window
        x, y = places.T
        wanted &= (west <= x) & (x <= east) & (south <= y) & (y <= north)
    rows = np.flatnonzero(wanted)
    units = _units_of(points, areas, rows)
    if choice.unit:
        kept = np.array([code == choice.unit for code in units], dtype=bool)
        rows, units = rows[kept], [code for code in units if code == choice.unit]
    planes = {kind: not kind_of(kind).linear for kind in reads}
    return NetReadings(
        points.ids[rows],
        places[rows],
        azimuth[rows],
        _figures(points.columns["inclination"])[rows],
        np.array([planes[kinds[i]] for i in rows.tolist()], dtype=bool),
        tuple(units),
    )


def reading_kinds(points: Features) -> list[str]:
    """The kinds with readings that points have, the most frequent first."""
    both = zip(points.columns["kind"], points.columns["azimuth"], strict=True)
    counts = Counter(kind for kind, azimuth in both if azimuth is not None)
    return sorted((kind for kind in counts if kind_of(kind).reading), key=lambda kind: (-counts[kind], kind))


def _reads(kind: str, wanted: Collection[str]) -> bool:
    return kind in wanted if wanted else bool(kind_of(kind).reading)


def _figures(values: list[float | None]) -> Floats:
    # None becomes NaN.
    return np.array(values, dtype=float)


def _units_of(points: Features, areas: Features, rows: Ints) -> list[str]:
    own = points.columns["map_unit"]
    units = [own[i] or "" for i in rows.tolist()]
    is_unit = np.array([kind == UNIT_AREA for kind in areas.columns["kind"]], dtype=bool)
    grounds = areas.geometries[is_unit]
    if not len(grounds) or not len(rows):
        return units
    codes = [code or "" for code, unit in zip(areas.columns["map_unit"], is_unit.tolist(), strict=True) if unit]
    # Of areas that lie over one another, the smallest is meant.
    order = np.argsort(-shapely.area(grounds), kind="stable")
    point, ground = shapely.STRtree(grounds[order]).query(points.geometries[rows], predicate="intersects")
    for i, j in sorted(zip(point.tolist(), ground.tolist(), strict=True)):
        if not own[int(rows[i])]:
            units[i] = codes[int(order[j])]
    return units

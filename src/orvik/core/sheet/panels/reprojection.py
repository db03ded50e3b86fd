"""Carrying features into another system, so that what was straight stays where it is on the ground."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import shapely

from orvik.core.arrays import Flags, Floats, Ints, Objects
from orvik.core.coordinates import GroundXY, PageXY
from orvik.core.errors import CoordinateRefused, OrvikError
from orvik.core.features.feature import Feature, Features
from orvik.core.features.stretch import shifted
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.crs_change import way_between
from orvik.core.ink.affine import apply
from orvik.core.sheet.panels.cut_ground import cut_to, window_in_source
from orvik.core.sheet.panels.panel import Panel

# How far a straight line may stand from where it lies on the ground before it gets vertices more.
OFF_MM = 0.02
MOST_PIECES = 256
# No map stretches what it shows so many times: a longer step is a jump from one edge of the world to the other.
JUMP = 20.0


@dataclass(frozen=True)
class Carried:
    """What has come into another system: ``lost`` counts the features of which something cannot be shown there."""

    features: Features
    lost: int = 0


class Carrier:
    """Carries what lies in one system into another for a panel there.

    Parameters
    ----------
    off
        How far a line may be off, in units of the target.
    place
        Where the panel is, in the source.
    window
        The ground of the panel, in the target: what the target cannot show as a whole is cut to it.
    """

    def __init__(
        self,
        source: ProjectCrs,
        target: ProjectCrs,
        off: float,
        place: tuple[float, float] | None = None,
        window: shapely.Polygon | None = None,
    ) -> None:
        self.way = way_between(source, target, place)
        self.off = off
        self.ratio = source.metres_per_unit / target.metres_per_unit
        self.window = window

    def features(self, features: Features) -> Carried:
        """Features in the target; stretches keep their ends.

        One that the target tears, as across 180 degrees, or that reaches where it shows nothing, is cut to the panel,
        and each of its pieces is a row; what even so cannot be shown is counted if it lies on the panel.
        """
        if not len(features):
            return Carried(features)
        moved = self.geometries(features.geometries)
        shown = ~shapely.is_empty(moved) & ~shapely.is_missing(moved)
        out = self._with_stretches(features, moved, shown)
        if shown.all():
            return Carried(out)
        pieces, lost = self._pieces(features.select(~shown))
        return Carried(_together(out, pieces) if pieces else out, lost)

    def _with_stretches(self, features: Features, moved: Objects, shown: Flags) -> Features:
        out = replace(features, geometries=moved).select(shown)
        if "stretches" not in out.columns or not any(out.columns["stretches"]):
            return out
        before = features.geometries[shown]
        stretches = list(out.columns["stretches"])
        for i, kept in enumerate(stretches):
            old, new = shapely.get_num_coordinates(before[i]), shapely.get_num_coordinates(out.geometries[i])
            if kept and old != new:
                # Vertices that were there stand where they are carried to.
                at = self.way.places(shapely.get_coordinates(before[i]))
                stands = _ordinals(shapely.get_coordinates(out.geometries[i]), at)
                stretches[i] = shifted(kept, stands.__getitem__, int(new))
        return replace(out, columns={**out.columns, "stretches": stretches})

    @cached_property
    def _ground(self) -> shapely.Geometry:
        """The panel's ground in the source."""
        assert self.window is not None
        return window_in_source(self.window, self.way)

    def _pieces(self, features: Features) -> tuple[list[Feature], int]:
        """What of features that the target cannot show whole lies on the panel, and how many are not all there."""
        if self.window is None:
            return [], len(features)
        pieces: list[Feature] = []
        lost = 0
        for row in range(len(features)):
            cut = [
                (piece, self.geometries(np.array([piece.geometry], dtype=object))[0])
                for piece in cut_to(features.feature(row), self._ground)
            ]
            lost += any(there.is_empty for _, there in cut)
            pieces += [piece.changed(geometry=there) for piece, there in cut if not there.is_empty]
        return pieces, lost

    def geometries(self, geometries: Objects) -> Objects:
        """Geometries in the target; an empty one for what that cannot show."""
        moved = shapely.transform(geometries, self.way.places)
        xy, owner = shapely.get_coordinates(geometries, return_index=True)
        there = shapely.get_coordinates(moved)
        broken = np.unique(owner[~np.isfinite(there).all(axis=1)])
        bent, torn = self._bent(xy, there, owner)
        for i in np.setdiff1d(bent, np.union1d(broken, torn)):
            moved[i] = self._densified(geometries[i])
        for i in np.union1d(broken, torn):
            moved[i] = shapely.from_wkt("POINT EMPTY")
        out: Objects = moved
        return out

    def _bent(self, xy: Floats, there: Floats, owner: Ints) -> tuple[Ints, Ints]:
        """Which geometries have a side that is no longer straight, and which are torn apart."""
        same = np.flatnonzero(owner[1:] == owner[:-1])
        if not len(same):
            return np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64)
        middle = self.way.places((xy[same] + xy[same + 1]) / 2)
        with np.errstate(invalid="ignore"):
            away = np.hypot(*(middle - (there[same] + there[same + 1]) / 2).T)
            length = np.hypot(*(there[same + 1] - there[same]).T)
            jumps = length > JUMP * self.ratio * np.hypot(*(xy[same + 1] - xy[same]).T) + self.off
        return np.unique(owner[same[away > self.off]]), np.unique(owner[same[jumps]])

    def _densified(self, geometry: shapely.Geometry) -> shapely.Geometry:
        """A geometry with vertices enough along each side that bends; those it had stay."""

        def ring(xy: Floats) -> Floats:
            there = self.way.places(xy)
            middle = self.way.places((xy[:-1] + xy[1:]) / 2)
            away = np.hypot(*(middle - (there[:-1] + there[1:]) / 2).T)
            # Half as long a side bends a quarter as much.
            pieces = np.clip(np.ceil(np.sqrt(np.nan_to_num(away) / self.off)), 1, MOST_PIECES).astype(int)
            sides = [xy[i] + (xy[i + 1] - xy[i]) * np.arange(n)[:, None] / n for i, n in enumerate(pieces.tolist())]
            return self.way.places(np.vstack([*sides, xy[-1:]]))

        if isinstance(geometry, shapely.Polygon):
            rings = [ring(shapely.get_coordinates(r)) for r in (geometry.exterior, *geometry.interiors)]
            return shapely.Polygon(rings[0], rings[1:])
        return shapely.LineString(ring(shapely.get_coordinates(geometry)))


def _together(features: Features, pieces: list[Feature]) -> Features:
    """Features with pieces of others among them, by their numbers."""
    more = Features.of(features.table, pieces)
    ids = np.concatenate([features.ids, more.ids])
    order = np.argsort(ids, kind="stable")
    columns = {
        name: [held[i] for i in order.tolist()]
        for name, held in ((name, [*values, *more.columns[name]]) for name, values in features.columns.items())
    }
    return Features(features.table, ids[order], np.concatenate([features.geometries, more.geometries])[order], columns)


def _ordinals(new: Floats, old: Floats) -> list[int]:
    """Which vertices of a densified line the vertices it had are, in order."""
    out, start = [], 0
    for place in old:
        start += int(np.argmin(np.hypot(*(new[start:] - place).T)))
        out.append(start)
    return out


def on_page(panels: Iterable[Panel], crs: ProjectCrs, at: GroundXY) -> PageXY | None:
    """Where a place of the map stands on the page, in millimetres: in the largest panel that shows it, or nowhere.

    Parameters
    ----------
    crs
        The project's system, which the place is in.
    """
    for panel in sorted(panels, key=lambda panel: -panel.part.width * panel.part.height):
        try:
            there = carried_place(crs, panel.crs, at)
        except OrvikError:
            continue
        x, y = apply(panel.to_page, np.array([there]))[0]
        if np.isfinite([x, y]).all() and panel.page_area.buffer(0.5).intersects(shapely.Point(x, y)):
            return float(x), float(y)
    return None


def carried_place(source: ProjectCrs, target: ProjectCrs, place: tuple[float, float]) -> tuple[float, float]:
    """A place in another system; raises CoordinateRefused where that cannot show it."""
    x, y = way_between(source, target, place).places(np.array([place]))[0]
    if not (np.isfinite(x) and np.isfinite(y)):
        raise CoordinateRefused(f"{target.label} cannot show the ground of this panel; choose a system made for it.")
    return float(x), float(y)

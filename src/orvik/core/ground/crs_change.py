"""From one coordinate system to another: which datum shift is used, how exact it is, and moving geometries."""

from __future__ import annotations

import warnings
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import pyproj
import shapely
from pyproj.aoi import AreaOfInterest
from pyproj.exceptions import CRSError, ProjError
from pyproj.transformer import TransformerGroup

from orvik.core.arrays import Floats, Objects
from orvik.core.coordinates import GroundXY
from orvik.core.errors import CrsRefused
from orvik.core.ground.crs import ProjectCrs, project_crs
from orvik.core.ground.distortion import Geographic

# Pieces that each side of a border is cut into before it is moved, so that it goes on covering the same ground.
BORDER_PIECES = 64


@dataclass(frozen=True)
class Shift:
    """How coordinates get from one system to another.

    Attributes
    ----------
    description
        The operation in the words of the EPSG dataset.
    shifts_datum
        Whether the two systems stand on different datums.
    accuracy
        Stated accuracy in metres; None where the dataset does not state one.
    ballpark
        The datums differ and no shift between them is known: they are taken to be the same.
    better
        A more exact operation that cannot be used, because its grid is not there.
    grids
        The file names of that grid.
    """

    description: str
    shifts_datum: bool
    accuracy: float | None
    ballpark: bool
    better: str | None = None
    better_accuracy: float | None = None
    grids: tuple[str, ...] = ()

    @property
    def words(self) -> str:
        """What is said of it before a map is moved."""
        if not self.shifts_datum:
            return "Both systems stand on the same datum: no datum shift."
        if self.ballpark:
            return "No datum shift between the two is known, so none is made: the map may be off by 100 m and more."
        exact = f"to {self.accuracy:g} m" if self.accuracy is not None else "with no stated accuracy"
        return f"Datum shift {self.description}, {exact}."

    @property
    def missing(self) -> str:
        """A sentence about the better operation, if there is one."""
        if not self.better:
            return ""
        exact = f" (to {self.better_accuracy:g} m)" if self.better_accuracy is not None else ""
        return f"A better one, {self.better}{exact}, needs the grid {', '.join(self.grids)}, which is not here."

    @property
    def said(self) -> str:
        """Both sentences, for what is read from a file; empty where nothing is shifted."""
        return f"{self.words} {self.missing}".strip() if self.shifts_datum else ""


@dataclass(frozen=True)
class StatedSystem:
    """A system that coordinates are given in, projected or geographic, which need not be fit to draw in."""

    text: str
    label: str
    datum: str
    metres_per_unit: float


class CrsChange:
    """The way from one system to another over a ground."""

    def __init__(self, source: ProjectCrs | StatedSystem, target: ProjectCrs, ground: Geographic | None) -> None:
        """Choose the operation; raises CrsRefused where PROJ knows no way."""
        area = AreaOfInterest(*ground) if ground is not None else None
        try:
            with warnings.catch_warnings():
                # A missing grid is said in our own words.
                warnings.simplefilter("ignore", UserWarning)
                group = TransformerGroup(source.text, target.text, always_xy=True, area_of_interest=area)  # type: ignore[arg-type]
        except ProjError as error:
            raise CrsRefused(f"There is no way from {source.label} to {target.label} ({error}).") from error
        if not group.transformers:
            raise CrsRefused(f"There is no way from {source.label} to {target.label} for this ground.")
        self._forward = group.transformers[0]
        self.source, self.target = source, target
        self.shift = _shift(source, target, group)

    def moved(self, geometries: Objects) -> Objects:
        """Geometries in the new system, vertex by vertex.

        Raises
        ------
        CrsRefused
            The new projection cannot show a vertex.
        """
        moved = shapely.transform(geometries, self.places)
        if not np.isfinite(shapely.get_coordinates(moved)).all():
            raise CrsRefused(f"{self.target.label} cannot show all of this map; choose a system made for its ground.")
        out: Objects = moved
        return out

    def places(self, xy: Floats) -> Floats:
        """Places in the new system; ``xy`` is (n, 2)."""
        return np.column_stack(self._forward.transform(xy[:, 0], xy[:, 1]))

    def place(self, x: float, y: float) -> GroundXY:
        """One place in the new system."""
        there_x, there_y = self._forward.transform(x, y)
        return float(there_x), float(there_y)

    def back(self, xy: Floats) -> Floats:
        """Places of the new system in the old one; ``xy`` is (n, 2)."""
        inverse = pyproj.enums.TransformDirection.INVERSE
        return np.column_stack(self._forward.transform(xy[:, 0], xy[:, 1], direction=inverse))

    def round_trip(self, geometries: Objects) -> float:
        """The largest distance in metres between a vertex and itself, moved there and back."""
        xy = shapely.get_coordinates(geometries)
        if not len(xy):
            return 0.0
        there = self.places(xy)
        away = np.hypot(*(self.back(there) - xy).T) * self.source.metres_per_unit
        return float(np.max(away))


def way_between(source: ProjectCrs, target: ProjectCrs, place: GroundXY | None = None) -> CrsChange:
    """The way from one system to another that is best about a place of the source: datum shifts hold for regions."""
    return _way(source.text, target.text, _about(source, place) if place is not None else None)


def way_in(stated: str, target: ProjectCrs, home: GroundXY | None, given: Floats | None = None) -> CrsChange:
    """The one way by which coordinates that are given in some system come into a project, and go out again.

    Parameters
    ----------
    stated
        A code, WKT or PROJ string; it may be geographic.
    home
        The middle of the project, in its own system, so that all that comes in is shifted alike; None where nothing
        is there yet.
    given
        The coordinates, (n, 2), about whose middle the way is chosen without a home; without them, too, the best for
        the area of use is taken.

    Raises
    ------
    CrsRefused
        The system is unknown, or there is no way from it.
    """
    if home is None and given is not None and len(given):
        home = _middle_there(stated, target, given)
    ground = _about(target, home) if home is not None else None
    if ground is None and target.area is not None:
        ground = (target.area.west, target.area.south, target.area.east, target.area.north)
    return _way(stated, target.text, ground)


def _middle_there(stated: str, target: ProjectCrs, given: Floats) -> GroundXY | None:
    known = given[np.isfinite(given).all(axis=1)]
    if not len(known):
        return None
    try:
        source = pyproj.CRS.from_user_input(stated_system(stated).text)
        if source.is_geographic and np.ptp(known[:, 0]) > 180:
            # What lies on both sides of 180° has its middle there, and not on the other side of the globe.
            known = np.column_stack([known[:, 0] % 360, known[:, 1]])
        way = pyproj.Transformer.from_crs(source, target.text, always_xy=True)
        x, y = way.transform(*((known.min(axis=0) + known.max(axis=0)) / 2))
    except ProjError:
        return None
    return (float(x), float(y)) if np.isfinite([x, y]).all() else None


@lru_cache(maxsize=64)
def _way(source: str, target: str, ground: Geographic | None) -> CrsChange:
    return CrsChange(stated_system(source), project_crs(target), ground)


@lru_cache(maxsize=64)
def stated_system(text: str) -> StatedSystem:
    """The system that a code, WKT or PROJ string names; raises CrsRefused where none is known by it."""
    try:
        crs = pyproj.CRS.from_user_input(text)
    except CRSError:
        raise CrsRefused(f"“{text[:40]}” is not a coordinate system that is known here; type a code.") from None
    datum = crs.datum.name.replace("Unknown based on", "a datum on the") if crs.datum else "unknown datum"
    label = text if text.startswith("EPSG:") else crs.name
    return StatedSystem(text, label, datum, float(crs.axis_info[0].unit_conversion_factor) if crs.axis_info else 1.0)


def _about(crs: ProjectCrs, place: GroundXY) -> Geographic | None:
    """The whole degrees around a place, so that neighbouring places go the same way."""
    longitude, latitude = (float(v) for v in crs.to_geographic(*place))
    if not (np.isfinite(longitude) and np.isfinite(latitude)):
        return None
    west, south = np.floor(longitude), np.floor(latitude)
    return float(max(west, -180)), float(max(south, -90)), float(min(west + 1, 180)), float(min(south + 1, 90))


def densified(border: shapely.LineString) -> shapely.LineString:
    """A border with vertices enough along each side to keep its shape in another projection."""
    line: shapely.LineString = shapely.segmentize(border, border.length / (4 * BORDER_PIECES))
    return line


def _shift(source: ProjectCrs | StatedSystem, target: ProjectCrs, group: TransformerGroup) -> Shift:
    best = group.transformers[0]
    description = best.description or "unnamed"
    ballpark = "ballpark" in description.lower()
    shifts = source.datum.split(" ensemble")[0] != target.datum.split(" ensemble")[0]
    accuracy = best.accuracy if best.accuracy is not None and best.accuracy >= 0 else None
    better = None
    for operation in group.unavailable_operations:
        exact = operation.accuracy if operation.accuracy is not None and operation.accuracy >= 0 else None
        grids = tuple(g.short_name for g in operation.grids if not g.available)
        if shifts and grids and (accuracy is None or ballpark or (exact is not None and exact < accuracy)):
            better = (_short(operation.name), exact, grids)
            break
    return Shift(
        description=_short(description),
        shifts_datum=shifts,
        accuracy=accuracy,
        ballpark=ballpark and shifts,
        better=better[0] if better else None,
        better_accuracy=better[1] if better else None,
        grids=better[2] if better else (),
    )


def _short(description: str) -> str:
    """The datum shift alone: the projections before and after it go without saying."""
    steps = [s.strip() for s in description.split(" + ")]
    shifts = [s for s in steps if " to " in s]
    return " + ".join(shifts) or description

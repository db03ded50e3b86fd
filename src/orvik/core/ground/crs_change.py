"""From one coordinate system to another: which datum shift is used, how exact it is, and moving geometries."""

from __future__ import annotations

import warnings
from dataclasses import dataclass

import numpy as np
import pyproj
import shapely
from pyproj.aoi import AreaOfInterest
from pyproj.exceptions import CRSError, ProjError
from pyproj.transformer import TransformerGroup

from orvik.core.arrays import Floats, Objects
from orvik.core.errors import CoordinateRefused, CrsRefused
from orvik.core.ground.crs import ProjectCrs
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


class CrsChange:
    """The way from one system to another over a ground."""

    def __init__(self, source: ProjectCrs, target: ProjectCrs, ground: Geographic | None) -> None:
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


def converted(x: float, y: float, stated: str, system: str) -> tuple[float, float]:
    """A place given in one system, in another.

    Parameters
    ----------
    x, y
        Easting and northing, or longitude and latitude in degrees, as the stated system counts.
    stated, system
        Codes, WKT or PROJ strings; the stated one may be geographic.

    Raises
    ------
    CrsRefused
        A system is unknown.
    CoordinateRefused
        The place cannot be in the other system.
    """
    try:
        transformer = pyproj.Transformer.from_crs(stated, system, always_xy=True)
    except (CRSError, ProjError):
        raise CrsRefused(f"“{stated[:40]}” is not a coordinate system that is known here; type a code.") from None
    there = transformer.transform(x, y)
    if not np.isfinite(there).all():
        raise CoordinateRefused(f"{x:g}, {y:g} cannot be in {stated[:40]}; check the figures and the system.")
    return float(there[0]), float(there[1])


def densified(border: shapely.LineString) -> shapely.LineString:
    """A border with vertices enough along each side to keep its shape in another projection."""
    line: shapely.LineString = shapely.segmentize(border, border.length / (4 * BORDER_PIECES))
    return line


def _shift(source: ProjectCrs, target: ProjectCrs, group: TransformerGroup) -> Shift:
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

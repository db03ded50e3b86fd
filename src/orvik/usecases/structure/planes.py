"""Planes over the relief: from a reading, from places or from a line; their traces, and what is compared with them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Floats, object_array
from orvik.core.coordinates import GroundBox, GroundXY
from orvik.core.errors import FeatureRefused, StructureRefused
from orvik.core.features.attitude import Attitude, three_figures
from orvik.core.features.feature import Feature
from orvik.core.features.kind import kind_of
from orvik.core.features.table import FeatureKey
from orvik.core.geometry.curve import FLAT_MM
from orvik.core.ground.scale import on_ground, on_sheet, spaced
from orvik.core.structure.best_plane import FEWEST_PLACES, BestPlane, best_plane
from orvik.core.structure.course import DIGITIZED_MM
from orvik.core.structure.measures import Depth, Thickness, depth_below, true_thickness
from orvik.core.structure.plane import Plane
from orvik.store.read_project import ReadProject
from orvik.store.reader import Reader
from orvik.usecases.compile.features import FeatureEdit
from orvik.usecases.ground.heights import GroundHeights, ground_heights

# Places that were picked or lie along a line are asked for with so much ground around them, in units of the system.
AROUND = 50.0
NO_HEIGHT = "No heights are known at this {what}; choose another, or add a grid that reaches there."


@dataclass(frozen=True)
class PlaneFound:
    """A plane, where it comes from and what it is worth.

    Attributes
    ----------
    plane
        In the frame of heights: metres on the project's grid.
    attitude
        Strike and dip from true north.
    place
        Where it stands on the map, for a reading that is kept of it.
    origin
        What it is of in words: ``bedding 12``, ``contact 118``, ``4 places``.
    best
        How well places determine it; None for the plane of a reading.
    names, doubts
        Of the grids of heights, and what has to be said.
    """

    plane: Plane
    attitude: Attitude
    place: GroundXY
    origin: str
    best: BestPlane | None
    names: tuple[str, ...]
    doubts: tuple[str, ...]

    @property
    def note(self) -> str:
        """From what it was measured, for the note of a reading."""
        over = f"Measured over {' and '.join(self.names)} from {self.origin}"
        if self.best is None:
            return f"{over}."
        return f"{over}: {self.best.count} places, within {self.best.bound:.1f}° in 95 of 100 cases."


@dataclass(frozen=True)
class Comparison:
    """How far a line lies from the trace of a plane, in metres; ``scale`` is that of the sheet."""

    name: str
    mean: float
    greatest: float
    scale: int

    @property
    def words(self) -> str:
        """In metres and in millimetres of the sheet."""
        mean, greatest = (
            f"{spaced(metres, 1)} m ({on_sheet(metres, self.scale):.2f} mm)" for metres in (self.mean, self.greatest)
        )
        name = self.name[:1].upper() + self.name[1:]
        return f"{name} lies {mean} from the trace on the mean, {greatest} at most."


def plane_of_feature(project: ReadProject, key: FeatureKey) -> PlaneFound:
    """The plane of a reading, or the best one along a line.

    Raises
    ------
    StructureRefused
        It has no plane, or no heights reach it.
    FileRefused
        A grid of heights is missing or altered.
    """
    feature = project.feature(*key)
    if feature.table == "points":
        return _of_reading(project, feature)
    if feature.table == "lines":
        return _of_line(project, feature)
    raise StructureRefused("An area has no plane of its own; select a reading, or a line along its edge.")


def plane_of_places(project: ReadProject, places: Sequence[GroundXY]) -> PlaneFound:
    """The plane through three places or more, picked along a contact; raises StructureRefused and FileRefused."""
    for place in places:
        project.crs.check_place(*place)
    if len(places) < FEWEST_PLACES:
        raise StructureRefused(f"A plane needs three places at least; {len(places)} are picked.")
    xy = np.array(places, dtype=float)
    asked = _around(project, xy)
    scaled = xy * project.crs.metres_per_unit
    heights = asked.grid.at(scaled)
    if not np.isfinite(heights).all():
        raise StructureRefused(NO_HEIGHT.format(what="place"))
    error = on_ground(DIGITIZED_MM, project.scales.digitizing)
    found = best_plane(np.column_stack([scaled, heights]), error, asked.error)
    return _found(project, found, asked, tuple(xy.mean(axis=0).tolist()), f"{len(places)} places")


def _of_reading(project: ReadProject, feature: Feature) -> PlaneFound:
    meaning = kind_of(feature.kind)
    if meaning.linear or not meaning.reading or feature.azimuth is None:
        raise StructureRefused(f"This {feature.name} is not the reading of a plane; select a bed or a foliation.")
    if feature.inclination is None:
        raise StructureRefused(f"This {feature.name} has no dip; type it in the slip first.")
    attitude = Attitude(feature.azimuth, feature.inclination)
    x, y = shapely.get_coordinates(feature.geometry)[0].tolist()
    asked = _around(project, np.array([[x, y]]))
    metres = project.crs.metres_per_unit
    height = float(asked.grid.at(np.array([[x, y]]) * metres)[0])
    if not np.isfinite(height):
        raise StructureRefused(NO_HEIGHT.format(what=feature.name))
    plane = Plane.of_attitude((x * metres, y * metres, height), attitude, float(project.crs.convergence(x, y)))
    return PlaneFound(plane, attitude, (x, y), feature.name, None, asked.names, asked.doubts)


def _of_line(project: ReadProject, feature: Feature) -> PlaneFound:
    metres = project.crs.metres_per_unit
    xy = shapely.get_coordinates(feature.geometry)
    asked = _around(project, xy)
    line = shapely.LineString(xy * metres)
    draped = asked.grid.draped(line, min(asked.grid.cell) / 2)
    error = on_ground(DIGITIZED_MM, feature.capture_scale or project.scales.digitizing)
    found = best_plane(draped, error, asked.error)
    middle = feature.geometry.interpolate(0.5, normalized=True)
    missing = int((~np.isfinite(draped[:, 2])).sum())
    without = (f"Heights are missing along {100 * missing / len(draped):.0f} % of it.",) if missing else ()
    return _found(project, found, asked, (float(middle.x), float(middle.y)), feature.name, without)


def _found(
    project: Reader,
    best: BestPlane,
    asked: GroundHeights,
    place: GroundXY,
    origin: str,
    more: tuple[str, ...] = (),
) -> PlaneFound:
    attitude = best.plane.attitude(float(project.crs.convergence(*place)))
    return PlaneFound(best.plane, attitude, place, origin, best, asked.names, (*best.doubts, *more, *asked.doubts))


def _around(project: ReadProject, xy: Floats) -> GroundHeights:
    (west, south), (east, north) = xy.min(axis=0).tolist(), xy.max(axis=0).tolist()
    return ground_heights(project, (west - AROUND, south - AROUND, east + AROUND, north + AROUND))


def trace_over(
    project: ReadProject, plane: Plane, window: GroundBox, coarsest: float, reach: float | None = None
) -> list[shapely.LineString]:
    """Where a plane meets the ground in a window, in the project's coordinates, drawn no finer than the sheet shows.

    Parameters
    ----------
    coarsest
        Units of the project's system that a pixel of the view covers.
    reach
        As far from the plane's own place as it is drawn, in metres; over the whole window without it.
    """
    metres = project.crs.metres_per_unit
    if reach is not None:
        x, y = plane.at[0] / metres, plane.at[1] / metres
        around = shapely.Point(x, y).buffer(reach / metres, quad_segs=32)
        seen = shapely.intersection(shapely.box(*window), around)
        if seen.is_empty:
            return []
        west, south, east, north = seen.bounds
        window = (west, south, east, north)
    found = plane.trace(ground_heights(project, window, coarsest).grid)
    flat = max(on_ground(FLAT_MM, project.scales.publication) / metres, coarsest / 4)
    drawn = shapely.simplify(object_array(shapely.LineString(line / metres) for line in found), flat)
    if reach is not None:
        drawn = shapely.get_parts(shapely.intersection(drawn, around))
    return [line for line in drawn if isinstance(line, shapely.LineString) and line.length > flat]


def compared(project: ReadProject, plane: Plane, key: FeatureKey) -> Comparison:
    """How far a line of the map lies from a plane's trace; raises StructureRefused where there is none to compare."""
    feature = project.feature(*key)
    if feature.table != "lines":
        raise StructureRefused("A line is compared with the trace; select a contact or a fault.")
    metres = project.crs.metres_per_unit
    west, south, east, north = feature.geometry.bounds
    wide = max(east - west, north - south, AROUND)
    grid = ground_heights(project, (west - wide, south - wide, east + wide, north + wide)).grid
    trace = plane.trace(grid)
    if not trace:
        raise StructureRefused(f"The plane does not meet the ground near this {feature.name}.")
    line = shapely.LineString(shapely.get_coordinates(feature.geometry) * metres)
    # By its length, not by where its vertices stand.
    count = int(np.clip(line.length / (min(grid.cell) / 2), 2, 4000))
    along = shapely.line_interpolate_point(line, np.linspace(0, 1, count), normalized=True)
    away = shapely.distance(along, shapely.multilinestrings([shapely.LineString(one) for one in trace]))
    return Comparison(feature.name, float(away.mean()), float(away.max()), project.scales.publication)


def thickness_between(project: ReadProject, plane: Plane, one: GroundXY, other: GroundXY) -> Thickness:
    """The true thickness of beds of a plane's attitude between two places; raises StructureRefused without heights."""
    return true_thickness(_on_ground(project, one), _on_ground(project, other), plane)


def depth_at(project: ReadProject, plane: Plane, place: GroundXY) -> Depth:
    """How deep a plane lies below a place; raises StructureRefused without heights, or where it stands upright."""
    found = depth_below(_on_ground(project, place), plane)
    if found is None:
        raise StructureRefused("This plane stands upright; it lies at no depth below a place.")
    return found


def _on_ground(project: ReadProject, place: GroundXY) -> tuple[float, float, float]:
    project.crs.check_place(*place)
    scaled = np.array([place], dtype=float) * project.crs.metres_per_unit
    height = float(_around(project, np.array([place], dtype=float)).grid.at(scaled)[0])
    if not np.isfinite(height):
        raise StructureRefused(NO_HEIGHT.format(what="place"))
    return float(scaled[0, 0]), float(scaled[0, 1]), height


def reading_of(found: PlaneFound, kind: str, scale: int) -> FeatureEdit:
    """A plane as a reading on the map, to be kept; its note says from what it was measured.

    Parameters
    ----------
    scale
        The digitizing scale of the project.

    Raises
    ------
    FeatureRefused
        The kind has no plane.
    """
    meaning = kind_of(kind)
    if meaning.linear or not meaning.reading:
        raise FeatureRefused("A plane is kept as the reading of one; choose a bed, a foliation or a joint.")
    dip, strike = round(found.attitude.inclination or 0.0), round(found.attitude.azimuth) % 360
    reading = Feature(
        "points",
        shapely.Point(found.place),
        kind,
        azimuth=float(strike),
        inclination=float(dip),
        capture_scale=scale,
        note=found.note,
    )
    return FeatureEdit(f"measure {three_figures(strike)}/{dip} from {found.origin}", [reading])

"""What is drawn on a section, when its line on the map changes: the changes that keep it where it is on the ground."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.features.feature import Feature
from orvik.core.features.kind import SECTION_LINE
from orvik.core.features.table import SECTION_TABLES
from orvik.core.structure.section.restationed import restationed
from orvik.core.structure.section.section_line import SectionLine
from orvik.store.feature_tables import SECTION_SRS_ID
from orvik.store.geometry import encoded
from orvik.store.journal import Change
from orvik.store.reader import Reader

# What goes no further than this, in metres, stays as it is: a vertex more on a straight line moves nothing.
STAYS = 1e-6


def followed_line(project: Reader, old: Feature | None, new: Feature) -> list[Change]:
    """The changes of what is drawn on a section whose line has been drawn otherwise; none for any other line."""
    if old is None or new.table != "lines" or SECTION_LINE not in (old.kind, new.kind) or old.geometry == new.geometry:
        return []
    metres = project.crs.metres_per_unit
    was, now = (SectionLine.of(shapely.LineString(f.geometry.coords), metres) for f in (old, new))
    return stationed_anew(project, new.number, lambda along: restationed(was, now, along))


def moved_line(
    project: Reader, number: int, old: shapely.LineString, new: shapely.LineString, metres: tuple[float, float]
) -> list[Change]:
    """The same of a line that has been put into another system: as far along, by its vertices.

    Parameters
    ----------
    metres
        In a unit of the system that it was in, and of the other.
    """
    stations = [
        np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(shapely.get_coordinates(line) * unit, axis=0).T))])
        for line, unit in zip((old, new), metres, strict=True)
    ]
    whole = stations[1][-1] / stations[0][-1]

    def along_again(along: Floats) -> Floats:
        inside = np.asarray(np.interp(along, stations[0], stations[1]))
        beyond = np.minimum(along, 0.0) + np.maximum(along - stations[0][-1], 0.0)
        return np.asarray(inside + beyond * whole)

    return stationed_anew(project, number, along_again)


def stationed_anew(project: Reader, number: int, along_again: Callable[[Floats], Floats]) -> list[Change]:
    """The changes of all that is drawn on a section by what becomes of distances along it.

    An area that a new bend folds over itself goes; forming the units brings it back.
    """
    changes = []
    for table, features in project.drawn_features(number).items():
        for row, geometry in zip(features.ids.tolist(), features.geometries, strict=True):
            along = shapely.get_coordinates(geometry)[:, 0]
            if np.abs(along_again(along) - along).max() < STAYS:
                continue
            moved = shapely.transform(geometry, lambda xy: np.column_stack([along_again(xy[:, 0]), xy[:, 1]]))
            if table == "areas":
                moved = shapely.orient_polygons(moved)
            values = {"geom": encoded(moved, SECTION_SRS_ID)} if moved.is_valid else None
            changes.append(Change(SECTION_TABLES[table], row, values))
    return changes

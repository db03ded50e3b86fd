"""The sheet border: made from four corner values as typed, and set."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.drawing.validity import checked
from orvik.core.errors import CoordinateRefused
from orvik.core.features.feature import Feature
from orvik.core.features.kind import SHEET_BORDER
from orvik.core.ground.border import (
    TypedCorners,
    corners_around,
    geographic_border,
    grid_border,
    typed_corners,
)
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.scale import Scales
from orvik.core.sheet.templates.fitting import check_size
from orvik.core.symbols.book_file import standard
from orvik.store.journal import Entry
from orvik.store.project import Project
from orvik.store.reader import Reader
from orvik.usecases.compile.features import feature_changes


@dataclass(frozen=True)
class Corners:
    """Corner values of a border as typed: on the grid, or ``geographic`` in degrees."""

    west: str
    south: str
    east: str
    north: str
    geographic: bool = False

    @property
    def given(self) -> bool:
        """Whether the four values are there.

        Raises
        ------
        CoordinateRefused
            Only some of them are.
        """
        values = [value.strip() for value in (self.west, self.south, self.east, self.north)]
        if any(values) and not all(values):
            raise CoordinateRefused("A border needs all four corner values: west, south, east and north.")
        return all(values)


def border_of(corners: Corners, crs: ProjectCrs, scales: Scales) -> Feature:
    """The border feature that corner values mean, ready to be kept.

    Raises
    ------
    CoordinateRefused
        A value cannot be read, lies where the system cannot be used, or the border fits no page.
    """
    make = geographic_border if corners.geographic else grid_border
    line = make(crs, corners.west, corners.south, corners.east, corners.north)
    check_size(line, crs, scales.publication)
    feature = Feature("lines", line, SHEET_BORDER, capture_scale=scales.digitizing)
    return checked(feature, crs, standard(), set())


def set_border(project: Project, corners: Corners) -> Entry:
    """Set the sheet border; the one that was there gives way."""
    border = border_of(corners, project.crs, project.scales)
    return project.apply("set the sheet border", feature_changes(project, project.srs_id, [border]))


def border_around(project: Reader) -> TypedCorners:
    """Corners of a border around all features, on round coordinates, ready to be typed.

    Raises
    ------
    CoordinateRefused
        There are no features yet.
    """
    boxes = []
    for table, features in project.all_features().items():
        is_border = [table == "lines" and kind == SHEET_BORDER for kind in features.columns["kind"]]
        kept = features.geometries[~np.array(is_border, dtype=bool)]
        if len(kept):
            boxes.append(shapely.total_bounds(kept))
    if not boxes:
        raise CoordinateRefused("There are no features yet to stand around; import or draw some first.")
    held = np.array(boxes)
    (west, south), (east, north) = held[:, :2].min(axis=0).tolist(), held[:, 2:].max(axis=0).tolist()
    return typed_corners(corners_around(west, south, east, north))

"""What is drawn with a pen, as edits; and the edges that a line being drawn may follow or run parallel to."""

from __future__ import annotations

import math
from collections.abc import Sequence

import shapely

from orvik.core.coordinates import GroundXY
from orvik.core.errors import FeatureRefused
from orvik.core.features.feature import Feature
from orvik.core.features.kind import UNIT_AREA, UNIT_TAG, kind_words
from orvik.core.features.table import FeatureKey, Table
from orvik.core.geometry.following import followed
from orvik.core.geometry.snapping import SnapIndex
from orvik.core.geometry.vertices import paths_of, segment_at
from orvik.store.changeable import Changeable
from orvik.store.reader import Reader
from orvik.usecases.compile.area_edits import Order, area_drawn
from orvik.usecases.compile.features import FeatureEdit
from orvik.usecases.compile.line_edits import sheet_units

# Ground around two clicks, as a share of their distance, in which edges are followed from one to the other; and the
# least of it, in millimetres on the sheet.
AROUND = 1.0
AROUND_MM = 5.0


def feature_drawn(
    project: Changeable, index: SnapIndex, feature: Feature, order: Order, nodes: Sequence[GroundXY]
) -> FeatureEdit:
    """A line or an area that has been drawn, as it comes among the others.

    Parameters
    ----------
    order
        Which is cut where a unit area lies over others; areas of other kinds lie over all, and cut nothing.
    nodes
        Vertices of it that lie on edges of others.

    Raises
    ------
    OverlapUndecided
        It lies over others, and ``order`` asks which is cut.
    """
    if feature.kind == UNIT_AREA:
        return area_drawn(project, index, feature, order, nodes)
    return FeatureEdit(f"draw {kind_words(feature.kind)}", [feature], nodes=nodes)


def point_drawn(feature: Feature) -> FeatureEdit:
    """A point that has been set. Raises FeatureRefused for a tag without a unit."""
    if feature.kind == UNIT_TAG and not feature.map_unit:
        raise FeatureRefused("A unit tag needs a map unit; choose one in the slip first.")
    return FeatureEdit(f"add {kind_words(feature.kind)}", [feature])


def edge_courses(project: Reader, index: SnapIndex, place: GroundXY, reach: float) -> tuple[float, float]:
    """Both directions, in degrees on the grid, of the edge nearest to a place.

    Parameters
    ----------
    reach
        How far the edge may be, in project units.

    Raises
    ------
    FeatureRefused
        No edge is so near.
    """
    keys: list[FeatureKey] = [key for key in index.touching(*place, reach) if key[0] != "points"]
    if not keys:
        raise FeatureRefused("No edge is near the pointer; point at the line that the next span is to be parallel to.")
    features = [project.feature(*key) for key in keys]
    pointer = shapely.Point(place)
    feature = min(features, key=lambda f: f.edge.distance(pointer))
    path, segment, _ = segment_at(feature, place)
    a, b = paths_of(feature)[path][segment : segment + 2]
    course = math.degrees(math.atan2(b[0] - a[0], b[1] - a[1])) % 360
    return course, (course + 180) % 360


def along_edges(
    project: Reader,
    index: SnapIndex,
    start: GroundXY,
    end: GroundXY,
    tables: frozenset[Table],
    also: Sequence[Feature] = (),
) -> list[GroundXY]:
    """The vertices of the way along edges from one place on them to another, with both ends.

    Parameters
    ----------
    tables
        Those whose edges may be followed.
    also
        Lines that may be followed and are no features of the map, such as the trace of a plane.

    Raises
    ------
    FeatureRefused
        No edges lead from one place to the other.
    """
    reach = AROUND * max(math.dist(start, end), sheet_units(project, AROUND_MM))
    west, east = sorted((start[0], end[0]))
    south, north = sorted((start[1], end[1]))
    keys = index.within((west - reach, south - reach, east + reach, north + reach), tables - {"points"})
    return followed([*(project.feature(*key) for key in keys), *also], start, end)

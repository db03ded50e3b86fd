"""What may be kept: the rules every feature passes before it is stored."""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely
from shapely.validation import explain_validity

from orvik.core.errors import CoordinateRefused, FeatureRefused
from orvik.core.features.attitude import Attitude
from orvik.core.features.feature import CERTAINTIES, GEOMETRY_TYPES, Feature
from orvik.core.features.kind import a_kind, kind_of
from orvik.core.features.stretch import SIDES
from orvik.core.geometry.vertices import without_repeats
from orvik.core.ground.crs import ProjectCrs
from orvik.core.symbols.symbol_book import SymbolBook

NOTE_LENGTH = 4000


def checked(
    feature: Feature,
    crs: ProjectCrs,
    book: SymbolBook,
    unit_codes: set[str],
    before: Feature | None = None,
    *,
    placed: bool = False,
) -> Feature:
    """The feature as it may be kept.

    Parameters
    ----------
    feature
        As drawn, typed or imported, in the project's coordinates.
    crs
        The project's coordinate system.
    book
        The symbol book, which knows the kinds.
    unit_codes
        Codes of the project's map units.
    before
        As it stands in the project. Attributes that stay as they are are not looked at again: an old fault of theirs
        is no reason to refuse a move or a note.
    placed
        Whether its vertices are known to lie where the system can have them: those of a file are looked at in one.

    Raises
    ------
    FeatureRefused
        The geometry is empty, of another type, invalid, or an attribute cannot be.
    CoordinateRefused
        A vertex lies where the coordinate system cannot.
    ReadingRefused
        An azimuth or inclination cannot be.
    """
    name = feature.name
    geometry = feature.geometry
    if geometry is None or geometry.is_empty:
        raise FeatureRefused(f"This {name} has no vertices; draw it again.")
    wanted = GEOMETRY_TYPES[feature.table]
    if geometry.geom_type.upper() != wanted:
        raise FeatureRefused(
            f"This {name} is a {geometry.geom_type}, but {feature.table} hold single {wanted.title()}s; "
            "split it into its parts first."
        )
    if shapely.has_z(geometry):
        geometry = shapely.force_2d(geometry)
    if feature.table == "areas":
        geometry = shapely.orient_polygons(geometry)
    if geometry is not feature.geometry:
        feature = feature.changed(geometry=geometry)
    if feature.table != "points":
        feature = without_repeats(feature)
        geometry = feature.geometry
    if not placed:
        _check_places(geometry, crs)
    _check_shape(feature, geometry, crs)

    def changes(*names: str) -> bool:
        return before is None or any(getattr(before, name) != getattr(feature, name) for name in names)

    if changes("kind") and feature.kind not in book.kinds(feature.table):
        known = ", ".join(sorted(book.kinds(feature.table)))
        raise FeatureRefused(f"“{feature.kind}” is not a kind of {feature.table}; the symbol book has {known}.")
    custom_kind = book.custom_kinds.get(feature.kind)
    if not changes("kind", "fields"):
        pass
    elif custom_kind is not None:
        feature = feature.changed(fields=custom_kind.checked(feature.fields))
    elif feature.fields:
        raise FeatureRefused(f"{a_kind(feature.kind).capitalize()} has no fields of its own.")
    if changes("certainty") and feature.certainty not in CERTAINTIES:
        raise FeatureRefused(f"“{feature.certainty}” is not a certainty; choose {', '.join(CERTAINTIES)}.")
    if changes("map_unit") and feature.map_unit and feature.map_unit not in unit_codes:
        raise FeatureRefused(f"There is no map unit {feature.map_unit}; add it in Symbols, or choose another.")
    if changes("kind", "azimuth", "inclination"):
        _check_reading(feature, book)
    _check_line(feature, geometry)
    if len(feature.note) > NOTE_LENGTH:
        raise FeatureRefused(f"The note is longer than {NOTE_LENGTH} characters; shorten it.")
    return feature if feature.map_unit != "" else feature.changed(map_unit=None)


def all_placed(geometries: Any, crs: ProjectCrs) -> bool:
    """Whether all vertices lie where the system can have them; where one does not, each feature is looked at."""
    try:
        crs.check_places(shapely.get_coordinates(geometries))
    except CoordinateRefused:
        return False
    return True


def _check_places(geometry: shapely.geometry.base.BaseGeometry, crs: ProjectCrs) -> None:
    xy = shapely.get_coordinates(geometry)
    if not np.isfinite(xy).all():
        crs.check_places(xy)
    (west, south), (east, north) = xy.min(axis=0), xy.max(axis=0)
    try:
        crs.check_places(np.array([(west, south), (east, south), (east, north), (west, north)]))
    except CoordinateRefused:
        # A corner of the box around it says nothing of the feature; its vertices do.
        crs.check_places(xy)


def _check_shape(feature: Feature, geometry: shapely.geometry.base.BaseGeometry, crs: ProjectCrs) -> None:
    if feature.table == "lines":
        if geometry.length == 0:
            raise FeatureRefused(f"This {feature.name} has no length; give it two different vertices.")
        if not geometry.is_simple:
            raise FeatureRefused(f"This {feature.name} crosses itself; remove vertices to before the crossing.")
        if kind_of(feature.kind).closed and not geometry.is_closed:
            raise FeatureRefused("A sheet border must close on its first vertex.")
    if feature.table == "areas":
        if not geometry.is_valid:
            why = explain_validity(geometry).split("[")[0].strip().lower()
            raise FeatureRefused(
                f"The edge of this {feature.name} is not sound ({why}); draw it without crossing itself."
            )
        if geometry.area * crs.metres_per_unit**2 < 1e-4:
            raise FeatureRefused(f"This {feature.name} covers no ground; give it three corners that are apart.")


def _check_line(feature: Feature, geometry: shapely.geometry.base.BaseGeometry) -> None:
    """Stretches and knots must be vertices of the line."""
    if feature.table != "lines":
        return
    last = int(shapely.get_num_coordinates(geometry)) - 1
    for stretch in feature.stretches:
        if not 0 <= stretch.first < stretch.last <= last or stretch.side not in SIDES:
            raise FeatureRefused(f"A stretch of this {feature.name} lies beyond its ends; set it again.")
        if stretch.certainty not in CERTAINTIES:
            raise FeatureRefused(f"“{stretch.certainty}” is not a certainty; choose {', '.join(CERTAINTIES)}.")
    if any(not 0 <= knot <= last for knot in feature.knots):
        raise FeatureRefused(f"A knot of this {feature.name} is not a vertex of it; draw it again.")


def _check_reading(feature: Feature, book: SymbolBook) -> None:
    azimuth, inclination = feature.azimuth, feature.inclination
    if azimuth is not None or inclination is not None:
        Attitude(azimuth if azimuth is not None else 0.0, inclination if inclination is not None else 0.0)
    kind = kind_of(feature.kind)
    if kind.inclined and (azimuth is None or inclination is None):
        what = "a trend and a plunge" if kind.linear else "a strike and a dip"
        raise FeatureRefused(f"This {feature.name} needs {what}; type them as {kind.reading_example}.")
    if kind.reading and azimuth is None:
        raise FeatureRefused(f"This {feature.name} needs a direction; type it as {kind.reading_example}.")
    if kind.plunges and (azimuth is None) != (inclination is None):
        raise FeatureRefused(f"The plunge of this {feature.name} needs a trend and a plunge; type them as 120/30.")

"""Areas drawn, cut, filled, split, merged, trimmed and clipped by hand, as edits.

Only areas of the same kind give way to each other: areas of other kinds lie over them, and lose nothing to them.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import shapely

from orvik.core.coordinates import GroundXY
from orvik.core.drawing import area_operations
from orvik.core.errors import FeatureRefused, OverlapUndecided
from orvik.core.features.feature import Feature
from orvik.core.features.kind import BOUNDING, SHORE, UNIT_AREA, UNIT_TAG, kind_words
from orvik.core.features.table import FeatureKey, Table
from orvik.core.geometry.snapping import SnapIndex
from orvik.store.reader import Reader
from orvik.usecases.compile.features import FeatureEdit
from orvik.usecases.compile.line_edits import sheet_units

# How far from the pointer the edges may be that close open ground, in millimetres on the sheet.
FILL_MM = 120.0
_AREAS: frozenset[Table] = frozenset({"areas"})
Order = Literal["ask", "below", "above"]


def only_areas(features: Sequence[Feature]) -> list[Feature]:
    """Features that are areas, one and all. Raises FeatureRefused."""
    if not features or any(f.table != "areas" for f in features):
        raise FeatureRefused("Select areas for this.")
    return list(features)


def _around(project: Reader, index: SnapIndex, features: Sequence[Feature], tables: frozenset[Table]) -> list[Feature]:
    """Features of some tables in the box around others."""
    west, south, east, north = shapely.total_bounds([f.geometry for f in features])
    return [project.feature(*key) for key in index.within((west, south, east, north), tables)]


def _neighbours(project: Reader, index: SnapIndex, areas: Sequence[Feature]) -> list[Feature]:
    """Other areas of the same kinds in the box around some."""
    numbers, kinds = {a.id for a in areas}, {a.kind for a in areas}
    return [a for a in _around(project, index, areas, _AREAS) if a.id not in numbers and a.kind in kinds]


def _edit(label: str, outcome: area_operations.Outcome, nodes: Sequence[GroundXY] = ()) -> FeatureEdit:
    deleted: list[FeatureKey] = [("areas", number) for number in outcome.deleted]
    return FeatureEdit(label, outcome.kept, deleted, nodes)


def area_drawn(project: Reader, index: SnapIndex, new: Feature, order: Order, nodes: Sequence[GroundXY]) -> FeatureEdit:
    """A new area among those of its kind.

    Parameters
    ----------
    order
        ``above``: those that it lies over give way to it; ``below``: it is filled up to them.
    nodes
        Vertices of it that lie on edges of others.

    Raises
    ------
    OverlapUndecided
        It lies over others, and ``order`` asks which is cut.
    FeatureRefused
        They leave it no ground.
    """
    neighbours = _neighbours(project, index, [new])
    over = [a for a in neighbours if area_operations.lies_over(new, a)]
    if over and order == "ask":
        which = over[0].name if len(over) == 1 else f"{len(over)} areas"
        raise OverlapUndecided(f"It lies over {which}. Which is cut?")
    work = area_operations.laid_over if order == "above" else area_operations.fill_to_neighbours
    return _edit(f"draw {kind_words(new.kind)}", work(new, neighbours), nodes)


def area_split(project: Reader, index: SnapIndex, area: Feature, places: Sequence[GroundXY]) -> FeatureEdit:
    """An area in parts along a line drawn through it. Raises FeatureRefused where it does not part it."""
    if len(places) < 2:
        raise FeatureRefused("Draw the splitting line through the area, from edge to edge.")
    outcome = area_operations.split(area, shapely.LineString(places), _neighbours(project, index, [area]))
    return _edit(f"split {area.name}", outcome)


def hole_cut(project: Reader, index: SnapIndex, areas: Sequence[Feature], hole: Feature, *, fill: bool) -> FeatureEdit:
    """A hole cut into areas, open or filled.

    Parameters
    ----------
    hole
        The unit area that fills it; where it stays open, only its geometry is looked at.

    Raises
    ------
    FeatureRefused
        No unit is chosen to fill it, or areas are cut that no unit fills.
    """
    if fill and not hole.map_unit:
        raise FeatureRefused("Choose the map unit that fills the hole, or leave it open.")
    others = [a.kind for a in areas if a.kind != UNIT_AREA]
    if fill and others:
        name = kind_words(others[0])
        raise FeatureRefused(f"A hole in the {name} stays open: only unit areas are filled with a unit.")
    neighbours = _neighbours(project, index, areas)
    outcome = area_operations.cut_out(areas, hole.geometry, neighbours, hole if fill else None)
    return _edit("cut a hole and fill it" if fill else "cut a hole", outcome)


def areas_merged(areas: Sequence[Feature]) -> FeatureEdit:
    """One area made of several. Raises FeatureRefused where they are no neighbours."""
    return _edit(f"merge {len(areas)} areas", area_operations.merge(areas))


def overlaps_trimmed(project: Reader, index: SnapIndex, area: Feature, *, below: bool) -> FeatureEdit:
    """An area trimmed to those that it overlaps (``below`` them), or those trimmed to it."""
    outcome = area_operations.trim_overlaps(area, _neighbours(project, index, [area]), below)
    return _edit(f"trim {area.name} {'to those beside it' if below else 'from those below it'}", outcome)


def clipped_to_shore(project: Reader, index: SnapIndex, area: Feature, side: str) -> FeatureEdit:
    """An area cut by the shoreline that it was drawn past.

    Parameters
    ----------
    side
        Which side stays, where tags do not tell.
    """
    around = _around(project, index, [area], frozenset({"lines", "points"}))
    shore, tags = ([f for f in around if f.kind == kind] for kind in (SHORE, UNIT_TAG))
    outcome = area_operations.clip_to_shore(area, shore, _neighbours(project, index, [area]), tags, side)
    return _edit(f"clip {area.name} to the shore", outcome)


def ground_filled(
    project: Reader, index: SnapIndex, place: GroundXY, unit: str | None, capture_scale: int
) -> FeatureEdit:
    """The open ground at a place filled up to the edges around it. Raises FeatureRefused where they do not close."""
    x, y = place
    reach = sheet_units(project, FILL_MM)
    keys = index.within((x - reach, y - reach, x + reach, y + reach), frozenset({"areas", "lines"}))
    around = [project.feature(*key) for key in keys]
    lines = [f for f in around if f.table == "lines" and f.kind in BOUNDING and f.certainty != "concealed"]
    new = Feature("areas", shapely.Point(x, y), UNIT_AREA, map_unit=unit, capture_scale=capture_scale)
    units = [f for f in around if f.kind == UNIT_AREA]
    return _edit("fill to neighbours", area_operations.filled_at(x, y, units, lines, new))

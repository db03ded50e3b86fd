"""Moving a whole project into another coordinate system, as the changes of one entry."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from orvik.core.arrays import object_array
from orvik.core.features.kind import SECTION_LINE, SHEET_BORDER
from orvik.core.geometry.nodes import NODE
from orvik.core.geometry.nodes_on_edges import with_nodes_on_edges
from orvik.core.ground.border import ground_of
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.crs_change import CrsChange, Shift, densified
from orvik.core.ground.distortion import Geographic
from orvik.core.joins.neighbour import Edge
from orvik.store import rows
from orvik.store.geometry import encoded_all
from orvik.store.journal import Change
from orvik.store.project import Project
from orvik.store.tables.labels import label_moves
from orvik.store.tables.margin_notes import margin_notes
from orvik.store.tables.neighbours import neighbour_change, neighbours
from orvik.usecases.compile.section_changes import moved_line
from orvik.usecases.sheet.panels import panels_of


@dataclass(frozen=True)
class Relocation:
    """What moving a project does, before it is done."""

    target: ProjectCrs
    shift: Shift
    round_trip: float
    vertices: int
    features: int
    changes: tuple[Change, ...]


def ground(project: Project) -> Geographic | None:
    """The ground of a project in degrees: its sheet border, or all its features."""
    border = project.border()
    if border is None:
        extent = project.extent()
        if extent is None:
            return None
        border = shapely.LineString(shapely.box(*extent).exterior.coords)
    return ground_of(project.crs, border)


def relocation(project: Project, target: ProjectCrs) -> Relocation:
    """All features, borders and panels in another system.

    Attributes stay: attitudes are from true north, so that their symbols turn by themselves.

    Raises
    ------
    CrsRefused
        There is no way to the system, or it cannot show all of the map.
    """
    change = CrsChange(project.crs, target, ground(project))
    srs_id = project.number_of(target)
    changes: list[Change] = []
    kept = [features.feature(row) for features in project.all_features().values() for row in range(len(features))]
    # What lies on a straight edge of another feature would be beside it afterwards.
    met = with_nodes_on_edges(kept, NODE)
    geometries = np.empty(len(met), dtype=object)
    geometries[:] = [
        densified(f.geometry) if f.kind == SHEET_BORDER and isinstance(f.geometry, shapely.LineString) else f.geometry
        for f in met
    ]
    worst = change.round_trip(geometries)
    moved = change.moved(geometries)
    for old, new, there, blob in zip(kept, met, moved, encoded_all(moved, srs_id), strict=True):
        whole = new is not old
        changes.append(
            rows.feature_change(new.changed(geometry=there), srs_id)
            if whole
            else Change(old.table, old.id, {"geom": blob})
        )
        if new.kind == SECTION_LINE:
            course = shapely.LineString(shapely.get_coordinates(new.geometry))
            units = (project.crs.metres_per_unit, target.metres_per_unit)
            changes += moved_line(
                project, new.number, course, shapely.LineString(shapely.get_coordinates(there)), units
            )
    for panel in panels_of(project):
        # Those with a system of their own stay where they are.
        if not panel.settings.system:
            x, y = change.places(np.array([panel.settings.centre]))[0]
            changes.append(panel.changed(centre=(float(x), float(y))))
    for view in (view for view in project.views() if not view.crs):
        x, y = change.places(np.array([[view.x, view.y]]))[0]
        changes.append(Change("views", view.id, {"x": float(x), "y": float(y)}))
    for station in project.stations():
        x, y = change.places(np.array([[station.x, station.y]]))[0]
        changes.append(Change("stations", station.id, {"x": float(x), "y": float(y)}))
    for row_id, move in label_moves(project):
        # Those of points are millimetres from them, which no system changes.
        if move.at is not None and move.key.table != "points":
            x, y = change.places(np.array([move.at]))[0]
            changes.append(Change("label_moves", row_id, {"x": float(x), "y": float(y)}))
    for note in margin_notes(project):
        if note.pin is not None and note.pin.to == "ground":
            x, y = change.places(np.array([(note.pin.x, note.pin.y)]))[0]
            changes.append(Change("margin_notes", note.id, {"x": float(x), "y": float(y)}))
    read = [held for held in neighbours(project) if not held.edge.is_empty]
    changes += [neighbour_change(replace(held, edge=_moved_edge(held.edge, change))) for held in read]
    changes.append(Change("project", 1, {"crs": target.text}))
    vertices = int(shapely.get_num_coordinates(geometries).sum())
    return Relocation(target, change.shift, worst, vertices, len(kept), tuple(changes))


def _moved_edge(edge: Edge, change: CrsChange) -> Edge:
    """What a neighbour shows along the border, in the other system."""
    held: list[BaseGeometry] = [*(line.geometry for line in edge.lines), *(area.geometry for area in edge.areas)]
    if edge.ring is not None:
        held.append(shapely.Polygon(densified(shapely.LineString(edge.ring.exterior.coords))))
    moved = iter(change.moved(object_array(held)))
    lines = tuple(replace(line, geometry=next(moved)) for line in edge.lines)
    areas = tuple(replace(area, geometry=next(moved)) for area in edge.areas)
    return Edge(lines, areas, next(moved) if edge.ring is not None else None)

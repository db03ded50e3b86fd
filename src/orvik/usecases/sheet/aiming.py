"""Aiming panels: at figures, the border, saved views, the working view, and features."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import pyproj
import shapely

from orvik.core.errors import NotFound, SheetRefused
from orvik.core.features.table import TABLES, FeatureKey
from orvik.core.ground.crs_build import upright_along
from orvik.core.sheet.layout.room_for_map import Box, most_room
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.panels.aim import fitted
from orvik.core.sheet.panels.panel import Panel, aimed
from orvik.core.sheet.panels.reprojection import Carrier, carried_place
from orvik.core.sheet.panels.scale_distortion import check_shown
from orvik.core.sheet.parts.map_panel import NO_BORDER, MapPanel, panel_of
from orvik.store import rows
from orvik.store.journal import Entry
from orvik.store.project import Project
from orvik.store.reader import Reader
from orvik.usecases.ground.views import save_view


@dataclass(frozen=True)
class GroundShown:
    """How much ground a panel shows, and how much of the border it leaves out.

    Attributes
    ----------
    width, height
        Of its frame, in metres.
    outside
        The share of the border that it does not show, 0 to 1; None without a border.
    """

    width: float
    height: float
    outside: float | None


def frame_border(project: Project, part_id: int) -> Entry | None:
    """Give a panel the size of the border at the publication scale, turned back, in the project's system.

    Its upper left corner stays. None where it is so.

    Raises
    ------
    SheetRefused
        There is no border, or the panel is locked.
    """
    part, settings = panel_to_aim(project, part_id)
    scale = project.scales.publication
    centre, width, height = aimed(_border(project), scale, project.crs)
    new = replace(settings, scale=scale, centre=centre, rotation=0.0, system="")
    return _kept(project, part, part.changed(width=width, height=height, settings=new), "aim {} at the border")


def most_room_for(project: Reader, part_id: int) -> Box:
    """The frame that gives a panel the most room; raises SheetRefused where it has that already."""
    part, _ = panel_to_aim(project, part_id)
    return most_room(project.sheet(part.sheet_id or 0), part, project.parts(part.sheet_id or 0))


def give_most_room(project: Project, part_id: int) -> Entry | None:
    """Give a panel the most room that the other parts allow, at its scale, about the same middle of ground."""
    part, _ = panel_to_aim(project, part_id)
    x, y, width, height = (round(v, 3) for v in most_room_for(project, part_id))
    return _kept(project, part, part.changed(x=x, y=y, width=width, height=height), "give {} the most room")


def aim_at_border(project: Project, part_id: int) -> Entry | None:
    """Show the border as large as the frame allows at a round scale; None where it is so."""
    part, settings = panel_to_aim(project, part_id)
    panel = panel_of(part, project.crs, project.border())
    if panel.border is None:
        _border(project)
        raise SheetRefused(f"{panel.crs.label} cannot show the project border; choose a system made for its ground.")
    scale, centre = fitted(panel, panel.border, room=0.0)
    return _aimed(project, part, replace(settings, scale=scale, centre=centre), "aim {} at the border")


def aim_at_view(project: Project, part_id: int, view_id: int) -> Entry | None:
    """Show what a saved view shows, at its scale; None where it is so."""
    view = next((view for view in project.views() if view.id == view_id), None)
    if view is None:
        raise NotFound("That saved view is no longer there.")
    part, settings = panel_to_aim(project, part_id)
    centre = view.place_in(settings.crs_in(project.crs), project.crs)
    if centre is None:
        raise SheetRefused(f"The system of this panel cannot show {view.name}; choose another system or view.")
    new = settings.changed({"scale": view.denominator, "centre": centre})
    return _aimed(project, part, new, f"aim {{}} at {view.name}")


def keep_view(project: Project, part_id: int, name: str) -> Entry:
    """Keep what a panel is aimed at as a saved view, in the panel's system; raises OrvikError."""
    part, settings = panel_to_aim(project, part_id)
    return save_view(project, name or part.label, *settings.centre, settings.scale, settings.system)


def aim_at_place(project: Project, part_id: int, x: float, y: float, denominator: int) -> Entry | None:
    """Show a place of the project's system in the middle, at a scale; None where it is so."""
    part, settings = panel_to_aim(project, part_id)
    centre = carried_place(project.crs, settings.crs_in(project.crs), (x, y))
    return _aimed(
        project, part, settings.changed({"scale": denominator, "centre": centre}), "aim {} as the map was seen"
    )


def aim_at_features(project: Project, part_id: int, keys: Sequence[FeatureKey]) -> Entry | None:
    """Show features whole, as large as the frame allows at a round scale; None where it is so."""
    part, settings = panel_to_aim(project, part_id)
    found = [
        feature.geometry
        for table in TABLES
        for feature in project.whole(table, [number for of, number in keys if of == table]).values()
    ]
    if not found:
        raise SheetRefused("Nothing of what was selected is on the map any more; select something in Compile.")
    panel = panel_of(part, project.crs, None)
    geometries = np.array(found, dtype=object)
    if panel.crs.text != project.crs.text:
        middle = shapely.GeometryCollection(found).centroid
        carrier = Carrier(project.crs, panel.crs, 1e9, (middle.x, middle.y))
        geometries = carrier.geometries(geometries)
    scale, centre = fitted(panel, shapely.GeometryCollection(list(geometries)))
    return _aimed(project, part, replace(settings, scale=scale, centre=centre), "aim {} at what is selected")


def stand_upright(project: Project, part_id: int, keys: Sequence[FeatureKey]) -> Entry | None:
    """Draw a panel in a system whose central line runs along a line of the map, which then stands upright in it.

    The ground in the middle of the panel stays, and so does its scale.

    Raises
    ------
    SheetRefused
        No line is selected, or it goes nowhere.
    """
    part, settings = panel_to_aim(project, part_id)
    lines = project.whole("lines", [number for table, number in keys if table == "lines"])
    if not lines:
        raise SheetRefused("No line is selected; select the line that is to be vertical in Compile.")
    line = next(iter(lines.values()))
    xy = shapely.get_coordinates(line.geometry)
    longitude, latitude = project.crs.to_geographic(xy[[0, -1], 0], xy[[0, -1], 1])
    base = pyproj.CRS.from_user_input(project.crs.text).geodetic_crs
    assert base is not None
    start, end = ((float(longitude[i]), float(latitude[i])) for i in (0, 1))
    own = upright_along(start, end, base.to_wkt("WKT2_2019"), f"Along line {line.id}")
    centre = carried_place(settings.crs_in(project.crs), own, settings.centre)
    new = settings.changed({"system": own.text, "centre": centre, "rotation": 0.0})
    return _aimed(project, part, new, f"turn line {line.id} vertical in {{}}")


def ground_shown(project: Reader, panel: Panel) -> GroundShown:
    """How much ground a panel shows."""
    k = panel.scale / 1000
    outside = None
    if panel.border is not None:
        seen = shapely.intersection(panel.border, shapely.Polygon(panel.corners))
        outside = max(0.0, 1 - float(seen.area / panel.border.area))
    return GroundShown(panel.part.width * k, panel.part.height * k, outside)


def panel_to_aim(project: Reader, part_id: int) -> tuple[Part, MapPanel]:
    """A panel that may be aimed; raises SheetRefused where it is none, or locked."""
    part = project.part(part_id)
    if not isinstance(part.settings, MapPanel):
        raise SheetRefused(f"“{part.label}” shows no ground; choose a map panel.")
    if part.locked:
        raise SheetRefused(f"“{part.label}” is locked; unlock it first.")
    return part, part.settings


def _aimed(project: Project, part: Part, settings: MapPanel, label: str) -> Entry | None:
    new = part.changed(settings=settings)
    check_shown(panel_of(new, project.crs, project.border()))
    return _kept(project, part, new, label)


def _kept(project: Project, part: Part, new: Part, label: str) -> Entry | None:
    return project.apply(label.format(part.label.lower()), [rows.part_change(new)]) if new != part else None


def _border(project: Reader) -> shapely.LineString:
    border = project.border()
    if border is None:
        raise SheetRefused(NO_BORDER)
    return border

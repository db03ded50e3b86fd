"""The ring: what is held at the pointer, and where that is."""

from __future__ import annotations

import math
from typing import Any

from orvik.core.drawing.drawing import Vertex
from orvik.core.errors import FeatureRefused
from orvik.core.features.table import TABLES
from orvik.core.geometry.snapping import Switches, Target
from orvik.core.ground.coordinates import format_angle, format_grid
from orvik.core.ground.grid_crossings import nearest_crossing
from orvik.core.ground.scale import on_sheet
from orvik.web.live.connection import Handler
from orvik.web.live.drawing import drawing_words
from orvik.web.live.messages import Aim, Hover, Snap, tables_named
from orvik.web.live.page_state import RING_PX, Answer, PageState, Ring

# The resolution that a screen millimetre stands for: CSS pixels in an inch.
PX_PER_MM = 96 / 25.4


async def hover(page: PageState, message: Hover) -> Answer:
    """What the ring holds at the pointer, and what the drawing would be."""
    x, y = message.place
    project = page.workspace.project
    radius = _radius(page, message) / project.crs.metres_per_unit
    target = None
    if not message.free and (page.pen is not None or page.purpose is not None or message.moving):
        tables = page.workspace.tables_in_sight() & page.snapping
        target = page.workspace.index.snap(x, y, radius, page.switches, tables)
        plane = page.workspace.planes.get(page.window_id)
        if target is None and plane is not None:
            target = plane.snap(x, y, radius)
        target = _own_start(page, x, y, radius, target)
    if page.courses and page.drawing and page.drawing.vertices:
        target = None
        x, y = page.drawing.aligned(x, y, page.courses)
    at = (target.x, target.y) if target else (x, y)
    page.ring = Ring(page.ring.number + 1, target, project.revision, at)
    answer: Answer = {"ring": page.ring.number, "at": at, "radius": radius, "place": place_words(page, *at)}
    scale = message.scale
    if page.pen is not None and scale is not None:
        answer["coarse"] = scale > project.scales.digitizing
    if target:
        answer["held"] = {"what": target.what, "label": target.label}
    if page.drawing and page.drawing.vertices:
        answer["drawing"] = drawing_words(page, Vertex(*at, 1, target, page.way))
    return answer


async def aim(page: PageState, message: Aim) -> Answer:
    """The ground meant by a pointer that looks for a control point: a vertex, or a crossing of the grid."""
    x, y = message.place
    project = page.workspace.project
    radius = message.reach
    switches = Switches(vertex=True, edge=False, end=True)
    target = page.workspace.index.snap(x, y, radius, switches, page.workspace.tables_in_sight())
    crossing = nearest_crossing(project.crs, x, y, radius)
    if target is not None and (
        crossing is None or math.hypot(target.x - x, target.y - y) <= math.hypot(crossing.x - x, crossing.y - y)
    ):
        at, label = (target.x, target.y), target.label
    elif crossing is not None:
        at, label = (crossing.x, crossing.y), crossing.label
    else:
        at, label = (x, y), ""
    return {"at": at, "label": label, "place": place_words(page, *at)}


def _radius(page: PageState, message: Hover) -> float:
    """The ring's radius in metres; one in pixels is so much at the scale of the view."""
    scale = message.scale
    if scale is None:
        return page.radius_m
    per_pixel = scale / PX_PER_MM / 1000
    if page.radius_px is not None:
        page.radius_m = page.radius_px * per_pixel
    return max(page.radius_m, page.least_px * per_pixel)


def _own_start(page: PageState, x: float, y: float, radius: float, target: Target | None) -> Target | None:
    """The first vertex of what is being drawn is held too, so that figures can be closed."""
    if not (page.drawing and len(page.drawing.vertices) >= 3 and page.switches.end):
        return target
    first = page.drawing.vertices[0]
    reach = math.hypot(first.x - x, first.y - y)
    if reach <= radius and (target is None or reach <= math.hypot(target.x - x, target.y - y)):
        return Target("start", page.drawing.pen.table, 0, page.drawing.pen.kind, first.x, first.y)
    return target


def place_words(page: PageState, x: float, y: float) -> Answer:
    """A place on the grid and in degrees."""
    crs = page.workspace.project.crs
    longitude, latitude = crs.to_geographic(x, y)
    geographic = ""
    if math.isfinite(longitude) and math.isfinite(latitude):
        geographic = f"{format_angle(float(latitude), 'latitude')} {format_angle(float(longitude), 'longitude')}"
    return {"grid": format_grid(x, y), "geographic": geographic}


async def snap_settings(page: PageState, message: Snap) -> Answer:
    """The ring's radius, what it may hold, and in which layers."""
    radius, unit = message.radius, message.unit
    publication = page.workspace.project.scales.publication
    metres = radius * publication / 1000 if unit == "mm" else radius
    if unit == "px":
        if not 1 <= radius <= 200:
            raise FeatureRefused("A ring needs a radius of 1 to 200 pixels; type another.")
    elif not 0 < metres <= 10_000:
        raise FeatureRefused("A ring needs a radius above nought and up to 10 km; type another.")
    page.radius_px = radius if unit == "px" else None
    # What is typed in metres is meant so; on the sheet a ring of a dot or two could not be seen.
    page.least_px = RING_PX if unit == "mm" else 0.0
    if unit != "px":
        page.radius_m = metres
    page.switches = Switches(
        message.vertex, message.edge, message.end, message.crossing, message.middle, message.extension
    )
    page.snapping = tables_named(message.layers, TABLES)
    if unit == "px":
        words = "on screen"
    elif unit == "mm":
        words = f"= {_trimmed(metres)} m"
    else:
        words = f"= {_trimmed(on_sheet(metres, publication))} mm"
    return {"radius": page.radius_m / page.workspace.project.crs.metres_per_unit, "words": words}


def _trimmed(value: float) -> str:
    return f"{value:.2f}".rstrip("0").rstrip(".")


HANDLERS: dict[str, Handler[Any]] = {
    "hover": Handler(Hover, hover),
    "aim": Handler(Aim, aim),
    "snap": Handler(Snap, snap_settings),
}

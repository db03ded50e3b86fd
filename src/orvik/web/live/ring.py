"""The ring: what is held at the pointer, and where that is."""

from __future__ import annotations

import math
from typing import Any

from orvik.core.drawing.drawing import Vertex
from orvik.core.errors import FeatureRefused
from orvik.core.features.table import TABLES
from orvik.core.geometry.snapping import Switches, Target
from orvik.core.ground.grid_crossings import nearest_crossing
from orvik.core.ground.scale import on_sheet
from orvik.web.live.connection import Handler
from orvik.web.live.drawing import drawing_words
from orvik.web.live.messages import Aim, Hover, Snap, tables_named
from orvik.web.live.page_state import RING_PX, Answer, PageState, Ring
from orvik.web.session.section_space import CROSSING

# The resolution that a screen millimetre stands for: CSS pixels in an inch.
EDGE = "edge"
PX_PER_MM = 96 / 25.4


async def hover(page: PageState, message: Hover) -> Answer:
    """What the ring holds at the pointer, and what the drawing would be."""
    x, y = message.place
    project = page.space.project
    radius = _radius(page, message) / project.crs.metres_per_unit
    target = None
    if not message.free and (page.pen is not None or page.purpose is not None or message.moving):
        tables = page.space.tables_in_sight() & page.holds.tables
        target = page.space.index.snap(x, y, radius, page.holds.switches, tables)
        target = _or_beside(page, x, y, radius, target)
        target = _own_start(page, x, y, radius, target)
    if page.courses and page.drawing and page.drawing.vertices:
        target = None
        x, y = page.drawing.aligned(x, y, page.courses)
    at = (target.x, target.y) if target else (x, y)
    page.ring = Ring(page.ring.number + 1, target, project.revision, at)
    answer: Answer = {"ring": page.ring.number, "at": at, "radius": radius, "place": page.space.place_words(*at)}
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
    project = page.space.project
    radius = message.reach
    switches = Switches(vertex=True, edge=False, end=True)
    target = page.space.index.snap(x, y, radius, switches, page.space.tables_in_sight())
    crossing = nearest_crossing(project.crs, x, y, radius)
    if target is not None and (
        crossing is None or math.hypot(target.x - x, target.y - y) <= math.hypot(crossing.x - x, crossing.y - y)
    ):
        at, label = (target.x, target.y), target.label
    elif crossing is not None:
        at, label = (crossing.x, crossing.y), crossing.label
    else:
        at, label = (x, y), ""
    return {"at": at, "label": label, "place": page.space.place_words(*at)}


def _radius(page: PageState, message: Hover) -> float:
    """The ring's radius in metres; one in pixels is so much at the scale of the view."""
    scale = message.scale
    if scale is None:
        return page.holds.radius_m
    per_pixel = scale / PX_PER_MM / 1000
    if page.holds.radius_px is not None:
        page.holds.radius_m = page.holds.radius_px * per_pixel
    return max(page.holds.radius_m, page.holds.least_px * per_pixel)


def _or_beside(page: PageState, x: float, y: float, radius: float, target: Target | None) -> Target | None:
    """What is held beside features, where these hold nothing, or no more than a place along an edge."""
    beside = page.space.beside(page.window_id)
    if beside is None or (target is not None and target.what != EDGE):
        return target
    held = beside.snap(x, y, radius)
    return held if target is None or (held is not None and held.what == CROSSING) else target


def _own_start(page: PageState, x: float, y: float, radius: float, target: Target | None) -> Target | None:
    """The first vertex of what is being drawn is held too, so that figures can be closed."""
    if not (page.drawing and len(page.drawing.vertices) >= 3 and page.holds.switches.end):
        return target
    first = page.drawing.vertices[0]
    reach = math.hypot(first.x - x, first.y - y)
    if reach <= radius and (target is None or reach <= math.hypot(target.x - x, target.y - y)):
        return Target("start", page.drawing.pen.table, 0, page.drawing.pen.kind, first.x, first.y)
    return target


async def snap_settings(page: PageState, message: Snap) -> Answer:
    """The ring's radius, what it may hold, and in which layers."""
    radius, unit = message.radius, message.unit
    publication = page.space.project.scales.publication
    metres = radius * publication / 1000 if unit == "mm" else radius
    if unit == "px":
        if not 1 <= radius <= 200:
            raise FeatureRefused("A ring needs a radius of 1 to 200 pixels; type another.")
    elif not 0 < metres <= 10_000:
        raise FeatureRefused("A ring needs a radius above nought and up to 10 km; type another.")
    page.holds.radius_px = radius if unit == "px" else None
    # What is typed in metres is meant so; on the sheet a ring of a dot or two could not be seen.
    page.holds.least_px = RING_PX if unit == "mm" else 0.0
    if unit != "px":
        page.holds.radius_m = metres
    page.holds.switches = Switches(
        message.vertex, message.edge, message.end, message.crossing, message.middle, message.extension
    )
    page.holds.tables = tables_named(message.layers, TABLES)
    if unit == "px":
        words = "on screen"
    elif unit == "mm":
        words = f"= {_trimmed(metres)} m"
    else:
        words = f"= {_trimmed(on_sheet(metres, publication))} mm"
    return {"radius": page.holds.radius_m / page.space.project.crs.metres_per_unit, "words": words}


def _trimmed(value: float) -> str:
    return f"{value:.2f}".rstrip("0").rstrip(".")


HANDLERS: dict[str, Handler[Any]] = {
    "hover": Handler(Hover, hover),
    "aim": Handler(Aim, aim),
    "snap": Handler(Snap, snap_settings),
}

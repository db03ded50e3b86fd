"""The ring: what is held at the pointer, and where that is."""

from __future__ import annotations

import math
from collections.abc import Mapping

from ..core.coordinates import format_angle, format_grid
from ..core.crossings import nearest_crossing
from ..core.errors import FeatureRefused
from ..core.feature import TABLES, Table
from ..core.scale import on_sheet
from ..core.snap import Switches, Target
from ..core.stroke import Vertex
from .live import RING_PX, Answer, Handler, Live, number_of, place_of
from .live_drawing import drawing_words

# The resolution that a screen millimetre stands for: CSS pixels in an inch.
PX_PER_MM = 96 / 25.4


async def hover(live: Live, message: Answer) -> Answer:
    """What the ring holds at the pointer, and what the drawing would be."""
    x, y = place_of(message)
    project = live.workspace.project
    radius = _radius(live, message) / project.crs.metres_per_unit
    target = None
    if not message.get("free") and (live.pen is not None or live.purpose is not None or message.get("moving")):
        tables = live.workspace.tables_in_sight() & live.snapping
        target = live.workspace.index.snap(x, y, radius, live.switches, tables)
        target = _own_start(live, x, y, radius, target)
    if live.courses and live.drawing and live.drawing.vertices:
        target = None
        x, y = live.drawing.aligned(x, y, live.courses)
    live.ring = (live.ring[0] + 1, target, project.revision)
    at = (target.x, target.y) if target else (x, y)
    live.ring_at = at
    answer: Answer = {"ring": live.ring[0], "at": at, "radius": radius, "place": place_words(live, *at)}
    scale = message.get("scale")
    if live.pen is not None and scale is not None:
        answer["coarse"] = number_of(scale) > project.scales.digitizing
    if target:
        answer["held"] = {"what": target.what, "label": target.label}
    if live.drawing and live.drawing.vertices:
        answer["drawing"] = drawing_words(live, Vertex(*at, 1, target, live.way))
    return answer


async def aim(live: Live, message: Answer) -> Answer:
    """The ground meant by a pointer that looks for a control point: a vertex, or a crossing of the grid."""
    x, y = place_of(message)
    project = live.workspace.project
    radius = number_of(message["reach"])
    switches = Switches(vertex=True, edge=False, end=True)
    target = live.workspace.index.snap(x, y, radius, switches, live.workspace.tables_in_sight())
    crossing = nearest_crossing(project.crs, x, y, radius)
    if target is not None and (
        crossing is None or math.hypot(target.x - x, target.y - y) <= math.hypot(crossing.x - x, crossing.y - y)
    ):
        at, label = (target.x, target.y), target.label
    elif crossing is not None:
        at, label = (crossing.x, crossing.y), crossing.label
    else:
        at, label = (x, y), ""
    return {"at": at, "label": label, "place": place_words(live, *at)}


def _radius(live: Live, message: Answer) -> float:
    """The ring's radius in metres; one in pixels is so much at the scale of the view."""
    scale = message.get("scale")
    if scale is None:
        return live.radius_m
    per_pixel = number_of(scale) / PX_PER_MM / 1000
    if live.radius_px is not None:
        live.radius_m = live.radius_px * per_pixel
    return max(live.radius_m, live.least_px * per_pixel)


def _own_start(live: Live, x: float, y: float, radius: float, target: Target | None) -> Target | None:
    """The first vertex of what is being drawn is held too, so that figures can be closed."""
    if not (live.drawing and len(live.drawing.vertices) >= 3 and live.switches.end):
        return target
    first = live.drawing.vertices[0]
    reach = math.hypot(first.x - x, first.y - y)
    if reach <= radius and (target is None or reach <= math.hypot(target.x - x, target.y - y)):
        return Target("start", live.drawing.pen.table, 0, live.drawing.pen.kind, first.x, first.y)
    return target


def place_words(live: Live, x: float, y: float) -> Answer:
    """A place on the grid and in degrees."""
    crs = live.workspace.project.crs
    longitude, latitude = crs.to_geographic(x, y)
    geographic = ""
    if math.isfinite(longitude) and math.isfinite(latitude):
        geographic = f"{format_angle(float(latitude), 'latitude')} {format_angle(float(longitude), 'longitude')}"
    return {"grid": format_grid(x, y), "geographic": geographic}


async def snap_settings(live: Live, message: Answer) -> Answer:
    """The ring's radius, what it may hold, and in which layers."""
    radius, unit = number_of(message["radius"]), message.get("unit")
    publication = live.workspace.project.scales.publication
    metres = radius * publication / 1000 if unit == "mm" else radius
    if unit == "px":
        if not 1 <= radius <= 200:
            raise FeatureRefused("A ring needs a radius of 1 to 200 pixels; type another.")
    elif not 0 < metres <= 10_000:
        raise FeatureRefused("A ring needs a radius above nought and up to 10 km; type another.")
    live.radius_px = radius if unit == "px" else None
    # What is typed in metres is meant so; on the sheet a ring of a dot or two could not be seen.
    live.least_px = RING_PX if unit == "mm" else 0.0
    if unit != "px":
        live.radius_m = metres
    names = ("vertex", "edge", "end", "crossing", "middle", "extension")
    live.switches = Switches(**{name: bool(message.get(name)) for name in names})
    live.snapping = _layers(message.get("layers"))
    if unit == "px":
        words = "on screen"
    elif unit == "mm":
        words = f"= {_trimmed(metres)} m"
    else:
        words = f"= {_trimmed(on_sheet(metres, publication))} mm"
    return {"radius": live.radius_m / live.workspace.project.crs.metres_per_unit, "words": words}


def _layers(named: object) -> frozenset[Table]:
    if not isinstance(named, Mapping):
        return frozenset(TABLES)
    return frozenset(t for t in TABLES if named.get(t, True))


def _trimmed(value: float) -> str:
    return f"{value:.2f}".rstrip("0").rstrip(".")


HANDLERS: dict[str, Handler] = {"hover": hover, "aim": aim, "snap": snap_settings}

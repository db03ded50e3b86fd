"""Drawing: pens and ways, clicks that place vertices, and the drafts that outlive a reload and a crash."""

from __future__ import annotations

import logging
import math

import numpy as np
import shapely

from ..core import areas as area_work
from ..core.band import Band
from ..core.coordinates import parse_number
from ..core.errors import FeatureRefused, NotFound, OrvikError, SignMissing
from ..core.feature import Feature
from ..core.scale import on_sheet, spaced
from ..core.signs.catalogue import Pen
from ..core.stroke import (
    FREE_MM,
    WAYS,
    Drawing,
    Vertex,
    crossing,
    length_of,
    parse_step,
    stepped,
    thinned_hand,
    vertices_of,
)
from ..core.trace import followed
from ..core.vertices import paths_of, segment_at
from .live import Answer, Handler, Live, nodes_of, place_of, point_geometry, scale_of, text_of, vertex_of
from .live_attitudes import preview

# Ground around two clicks, as a share of their distance, in which edges are followed from one to the other.
AROUND = 1.0
LOG = logging.getLogger(__name__)


async def hello(live: Live, message: Answer) -> Answer:
    """A page takes its seat and takes up what was being drawn there; what others have left it is only told of."""
    live.seat = str(message["seat"])[:64]
    workspace = live.workspace
    workspace.seats.add(live.seat)
    text = await workspace.write(lambda: workspace.project.draft(live.seat))
    if text is not None:
        return _taken_up(live, text) or {"drawing": None}
    left = _left(live)
    return {"drawing": None} | ({"left": left[2]} if left else {})


async def take_up(live: Live, message: Answer) -> Answer:
    """Go on with what a window that is closed has left half drawn."""
    left = _left(live)
    if left is None:
        raise NotFound("Nothing is left half drawn any more.")
    seat, text, _ = left
    workspace = live.workspace

    def move() -> None:
        workspace.project.set_draft(live.seat, text)
        workspace.project.set_draft(seat, None)

    await workspace.write(move)
    return _taken_up(live, text) or {"drawing": None}


async def drop_left(live: Live, message: Answer) -> Answer:
    """Forget what a window that is closed has left half drawn."""
    left = _left(live)
    if left is not None:
        await live.workspace.write(lambda: live.workspace.project.set_draft(left[0], None))
    return {"drawing": None}


def _left(live: Live) -> tuple[str, str, str] | None:
    """Seat and drawing that a closed window has left, and what that is in words."""
    for seat, text in live.workspace.project.drafts_left(frozenset(live.workspace.seats)):
        found = _read(live, text)
        if found is not None:
            pen, vertices = found
            return seat, text, f"{pen.label}, {len(vertices)} {'vertex' if len(vertices) == 1 else 'vertices'}"
    return None


def _read(live: Live, text: str) -> tuple[Pen, tuple[Vertex, ...]] | None:
    try:
        name, vertices = vertices_of(text)
        return live.workspace.book.pen(name), vertices
    except (SignMissing, ValueError, KeyError, TypeError):
        return None


def _taken_up(live: Live, text: str) -> Answer | None:
    found = _read(live, text)
    if found is None:
        return None
    live.pen = found[0]
    live.drawing = Drawing(live.pen, found[1], live.flat)
    return {"pen": live.pen.name, "drawing": drawing_words(live)}


async def _save_draft(live: Live, drawing: Drawing | None) -> None:
    """Keep what is being drawn before the page hears of it, or forget it when nothing is."""
    if live.seat and live.purpose is None:
        text = drawing.text if drawing and drawing.vertices else None
        await live.workspace.write(lambda: live.workspace.project.set_draft(live.seat, text))
    live.drawing = drawing


async def forget_draft(live: Live) -> None:
    """Forget the draft of a line that is kept; should that fail, the line is kept all the same."""
    live.drawing = live.fresh()
    try:
        if live.seat:
            await live.workspace.write(lambda: live.workspace.project.set_draft(live.seat, None))
    except OrvikError:
        LOG.exception("the draft of a line that is kept")


async def take_pen(live: Live, message: Answer) -> Answer:
    """Take a pen in hand, or none."""
    if live.drawing and live.drawing.vertices:
        raise FeatureRefused("Finish with Enter or drop with Escape what is being drawn, then change pens.")
    name = message.get("name")
    pen = live.workspace.book.pen(str(name)) if name else None
    if pen is not None:
        live.workspace.refuse_locked(pen.table)
    live.pen, live.waiting, live.purpose, live.begun, live.courses = pen, None, None, None, ()
    live.drawing = live.fresh()
    return {"pen": pen.name if pen else None}


async def take_way(live: Live, message: Answer) -> Answer:
    """How the next span is led: straight, on a curve, by a free hand, or along an edge."""
    way = str(message["way"])
    if way not in WAYS:
        raise FeatureRefused("There is no such way of drawing; choose another.")
    live.way = way
    return {"way": way, **({"drawing": drawing_words(live)} if live.drawing and live.drawing.vertices else {})}


async def align(live: Live, message: Answer) -> Answer:
    """Keep the next span at right angles to the last, parallel to the edge at the pointer, or free again."""
    how = message.get("how")
    if not how:
        live.courses = ()
    elif how == "right":
        course = live.drawing.course() if live.drawing else None
        live.courses = tuple(((course or 0.0) + turn) % 360 for turn in (0, 90, 180, 270))
    else:
        x, y = place_of(message)
        live.courses = _along_edge(live, x, y)
    return {"courses": [round(c, 3) for c in live.courses]}


def _along_edge(live: Live, x: float, y: float) -> tuple[float, float]:
    """Both directions of the edge nearest to the pointer."""
    reach = 4 * live.radius_m / live.workspace.project.crs.metres_per_unit
    keys = [k for k in live.workspace.index.touching(x, y, reach) if k[0] != "points"]
    if not keys:
        raise FeatureRefused("No edge is near the pointer; point at the line that the next span is to be parallel to.")
    features = [live.workspace.project.feature(*key) for key in keys]
    pointer = shapely.Point(x, y)
    feature = min(features, key=lambda f: f.edge.distance(pointer))
    path, segment, _ = segment_at(feature, (x, y))
    a, b = paths_of(feature)[path][segment : segment + 2]
    course = math.degrees(math.atan2(b[0] - a[0], b[1] - a[1])) % 360
    return course, (course + 180) % 360


async def press(live: Live, message: Answer) -> Answer:
    """A click: a vertex, an attitude that waits for its reading, or a point."""
    if live.pen is None and live.purpose is None:
        raise FeatureRefused("Take a pen from the tray first.")
    vertex = vertex_of(live, message)
    if live.pen is not None and live.pen.table == "points":
        return await _point(live, vertex, message)
    if live.drawing is None:
        live.drawing = live.fresh()
    assert live.drawing is not None
    longer = live.drawing.pressed(*_led(live, vertex))
    closing = len(longer.vertices) > 3 and longer.vertices[-1].place == longer.vertices[0].place
    if longer.crosses() and not closing:
        raise FeatureRefused("That would make the line cross itself; click elsewhere.")
    await _save_draft(live, longer)
    live.courses = ()
    return {"drawing": drawing_words(live), "closed": closing}


def _led(live: Live, vertex: Vertex) -> list[Vertex]:
    """The vertices that one click adds: one, or all along the edges that it follows."""
    drawn = live.drawing.vertices if live.drawing else ()
    if live.way != "follow" or not drawn:
        return [vertex]
    if vertex.target is None or drawn[-1].target is None:
        raise FeatureRefused("To follow an edge, both clicks must hold an edge, an end or a vertex of it.")
    start, end = drawn[-1].place, vertex.place
    reach = AROUND * max(math.hypot(end[0] - start[0], end[1] - start[1]), live.sheet_units(5))
    bounds = (
        min(start[0], end[0]) - reach,
        min(start[1], end[1]) - reach,
        max(start[0], end[0]) + reach,
        max(start[1], end[1]) + reach,
    )
    tables = (live.workspace.tables_in_sight() & live.snapping) - {"points"}
    features = [live.workspace.project.feature(*key) for key in live.workspace.index.within(bounds, tables)]
    way = followed(features, start, end)
    return [
        *(Vertex(x, y, vertex.capture_scale, None, "follow") for x, y in way[1:-1]),
        Vertex(*end, vertex.capture_scale, vertex.target, "follow"),
    ]


async def _point(live: Live, vertex: Vertex, message: Answer) -> Answer:
    pen = live.pen
    assert pen is not None
    if live.workspace.book.needs_reading(pen.table, pen.kind):
        live.waiting, live.station = vertex, None
        return {"waiting": vertex.place, **preview(live, "000/45", vertex)}
    values = message.get("fields")
    feature = Feature(
        "points",
        point_geometry(vertex),
        pen.kind,
        certainty=pen.certainty,
        capture_scale=vertex.capture_scale,
        map_unit=text_of(message.get("unit")) if pen.kind == "unit_tag" else None,
        fields=dict(values) if isinstance(values, dict) else {},
    )
    if pen.kind == "unit_tag" and not feature.map_unit:
        raise FeatureRefused("A unit tag needs a map unit; choose one in the slip first.")
    entry = await live.keep(f"add {pen.kind.replace('_', ' ')}", [feature])
    return {"kept": entry.id}


async def free_hand(live: Live, message: Answer) -> Answer:
    """A stretch drawn with the button held: thinned, and added to the line."""
    if live.purpose is None and (live.pen is None or live.pen.table == "points"):
        raise FeatureRefused("Take a pen for lines or areas from the tray first.")
    places = [place_of({"x": x, "y": y}) for x, y in message["places"][:20_000]]
    if len(places) < 2:
        raise FeatureRefused("Hold the button and draw; a free hand needs some way to go.")
    scale = scale_of(message)
    for place in (places[0], places[-1]):
        live.workspace.project.crs.check_place(*place)
    thin = thinned_hand(places, live.sheet_units(FREE_MM))
    drawing = live.drawing or live.fresh()
    assert drawing is not None
    if drawing.vertices:
        thin = thin[1:] or thin
    longer = drawing.pressed(*(Vertex(x, y, scale, None, "free") for x, y in thin))
    if longer.crosses():
        raise FeatureRefused("This stretch crosses itself or the line; draw it again.")
    await _save_draft(live, longer)
    return {"drawing": drawing_words(live)}


async def step(live: Live, message: Answer) -> Answer:
    """A vertex at a typed bearing and distance from the last one."""
    drawing = live.drawing
    if drawing is None or not drawing.vertices:
        raise FeatureRefused("Click where the line begins first; a bearing and a distance lead on from there.")
    project = live.workspace.project
    bearing, metres = parse_step(str(message["text"]), project.scales.publication)
    last = drawing.vertices[-1]
    x, y = stepped(project.crs, last.place, bearing, metres)
    project.crs.check_place(x, y)
    longer = drawing.pressed(Vertex(x, y, last.capture_scale, None, "straight"))
    if longer.crosses():
        raise FeatureRefused("That would make the line cross itself; type another step.")
    await _save_draft(live, longer)
    return {"drawing": drawing_words(live), "at": (x, y)}


async def back(live: Live, message: Answer) -> Answer:
    """Take the last vertex back."""
    if live.waiting is not None:
        live.waiting = None
        return {"drawing": None}
    if live.drawing is None or not live.drawing.vertices:
        raise FeatureRefused("There is no vertex to take back.")
    shorter = live.drawing.back()
    await _save_draft(live, shorter)
    return {"drawing": drawing_words(live) if shorter.vertices else None}


async def finish(live: Live, message: Answer) -> Answer:
    """Keep what is drawn, or carry out what it was drawn for."""
    drawing = live.drawing
    if drawing is None or not drawing.vertices:
        raise FeatureRefused("Nothing is being drawn.")
    if live.purpose is not None:
        from .live_areas import carried_out

        return await carried_out(live, message)
    feature = drawing.finished(text_of(message.get("unit")))
    values = message.get("fields")
    if isinstance(values, dict) and values:
        feature = feature.changed(fields=values)
    if feature.kind == "dyke" and message.get("width"):
        width = parse_number(str(message["width"]), "width")
        feature = feature.changed(band=Band(width, str(message.get("width_on") or "ground")))
    label = f"draw {feature.kind.replace('_', ' ')}"
    nodes = nodes_of(drawing.vertices)
    if feature.kind == "unit_area":
        order = str(message.get("overlap") or "ask")
        around = live.workspace.around(feature.geometry.bounds, frozenset({"areas"}))
        neighbours = [a for a in around if a.kind == feature.kind]
        over = [a for a in neighbours if area_work.lies_over(feature, a)]
        if over and order not in ("below", "above"):
            which = over[0].name if len(over) == 1 else f"{len(over)} areas"
            return {"asks": f"It lies over {which}. Which gives way?"}
        work = area_work.laid_over if order == "above" else area_work.fill_to_neighbours
        outcome = work(feature, neighbours)
        entry = await live.keep(label, outcome.put, [("areas", n) for n in outcome.gone], nodes)
    else:
        entry = await live.keep(label, [feature], nodes=nodes)
    await forget_draft(live)
    made = next(c for c in entry.changes if c.table == feature.table and c.before is None)
    return {"kept": entry.id, "feature": {"table": made.table, "id": made.id}}


async def drop(live: Live, message: Answer) -> Answer:
    """Drop what is drawn and not kept."""
    live.waiting, live.begun, live.courses = None, None, ()
    if live.purpose is not None:
        live.purpose, live.drawing = None, None
    await _save_draft(live, live.fresh())
    return {"drawing": None}


def drawing_words(live: Live, pointer: Vertex | None = None) -> Answer:
    """What the page shows of a drawing; led on to the pointer, without the vertices that the page knows."""
    drawing = live.drawing
    assert drawing is not None
    project = live.workspace.project
    line, _, smooth = drawing.path(pointer)
    metres = length_of(line) * project.crs.metres_per_unit
    words: Answer = {
        "crosses": crossing(line),
        "count": f"{len(drawing.vertices)}",
        "length": f"{spaced(metres)} m",
        "sheet": f"{spaced(on_sheet(metres, project.scales.publication), 1)} mm",
        "sheet_mm": on_sheet(metres, project.scales.publication),
        "captured": f"1:{spaced(max(v.capture_scale for v in drawing.vertices))}",
    }
    if pointer is None:
        words["vertices"] = [v.place for v in drawing.vertices]
    if any(smooth):
        words["line"] = np.round(line, 3).tolist()
    return words


HANDLERS: dict[str, Handler] = {
    "hello": hello,
    "take_up": take_up,
    "drop_left": drop_left,
    "pen": take_pen,
    "way": take_way,
    "align": align,
    "press": press,
    "free": free_hand,
    "step": step,
    "back": back,
    "finish": finish,
    "drop": drop,
}

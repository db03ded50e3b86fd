"""Drawing: pens and ways, clicks that place vertices, and the drafts that outlive a reload and a crash."""

from __future__ import annotations

import logging
from typing import Any

import numpy as np

from orvik.core.drawing.drawing import (
    FREE_MM,
    WAYS,
    Drawing,
    Vertex,
    crossing,
    length_of,
    parse_step,
    thinned_hand,
    vertices_of,
)
from orvik.core.errors import FeatureRefused, NotFound, OrvikError, OverlapUndecided, SymbolMissing
from orvik.core.features.band import Band
from orvik.core.features.feature import Feature
from orvik.core.features.kind import kind_of
from orvik.core.ground.coordinates import parse_quantity
from orvik.core.ground.scale import on_sheet, spaced
from orvik.core.symbols.pen import Pen
from orvik.core.symbols.sides import side_in_words
from orvik.usecases.compile.drawing_edits import along_edges, edge_courses, feature_drawn, point_drawn
from orvik.web.live.areas import finish_purpose
from orvik.web.live.attitudes import preview
from orvik.web.live.connection import Handler
from orvik.web.live.messages import Align, Finish, FreeHand, Hello, Message, Press, Step, TakePen, TakeWay, text_or_none
from orvik.web.live.page_state import Answer, PageState, nodes_of, point_geometry

# How far from the pointer an edge may be whose course is taken, in radii of the ring.
COURSE_REACH = 4.0
LOG = logging.getLogger(__name__)


async def hello(page: PageState, message: Hello) -> Answer:
    """A page names its window, and takes up what was being drawn there; what others have left it is only told of."""
    page.window_id = message.window_id[:64]
    space = page.space
    space.window_ids.add(page.window_id)
    text = await space.write(lambda: space.project.draft(page.window_id))
    if text is not None:
        return _taken_up(page, text) or {"drawing": None}
    left = _left(page)
    return {"drawing": None} | ({"left": left[2]} if left else {})


async def take_up(page: PageState, message: Message) -> Answer:
    """Go on with what a window that is closed has left half drawn."""
    left = _left(page)
    if left is None:
        raise NotFound("Nothing is left half drawn any more.")
    window_id, text, _ = left
    space = page.space

    def move() -> None:
        space.project.set_draft(page.window_id, text)
        space.project.set_draft(window_id, None)

    await space.write(move)
    return _taken_up(page, text) or {"drawing": None}


async def drop_left(page: PageState, message: Message) -> Answer:
    """Forget what a window that is closed has left half drawn."""
    left = _left(page)
    if left is not None:
        await page.space.write(lambda: page.space.project.set_draft(left[0], None))
    return {"drawing": None}


def _left(page: PageState) -> tuple[str, str, str] | None:
    """Seat and drawing that a closed window has left, and what that is in words."""
    for window_id, text in page.space.project.drafts_left(frozenset(page.space.window_ids)):
        found = _read(page, text)
        if found is not None:
            pen, vertices = found
            return window_id, text, f"{pen.label}, {len(vertices)} {'vertex' if len(vertices) == 1 else 'vertices'}"
    return None


def _read(page: PageState, text: str) -> tuple[Pen, tuple[Vertex, ...]] | None:
    try:
        name, vertices = vertices_of(text)
        return page.space.book.pen(name), vertices
    except (SymbolMissing, ValueError, KeyError, TypeError):
        return None


def _taken_up(page: PageState, text: str) -> Answer | None:
    found = _read(page, text)
    if found is None:
        return None
    page.pen = found[0]
    page.drawing = Drawing(page.pen, found[1], page.flat)
    return {"pen": page.pen.name, "drawing": drawing_words(page)}


async def _save_draft(page: PageState, drawing: Drawing | None) -> None:
    """Keep what is being drawn before the page hears of it, or forget it when nothing is."""
    if page.window_id and page.purpose is None:
        text = drawing.text if drawing and drawing.vertices else None
        await page.space.write(lambda: page.space.project.set_draft(page.window_id, text))
    page.drawing = drawing


async def forget_draft(page: PageState) -> None:
    """Forget the draft of a line that is kept; should that fail, the line is kept all the same."""
    page.drawing = page.fresh_drawing()
    try:
        if page.window_id:
            await page.space.write(lambda: page.space.project.set_draft(page.window_id, None))
    except OrvikError:
        LOG.exception("the draft of a line that is kept")


async def take_pen(page: PageState, message: TakePen) -> Answer:
    """Choose a pen selected, or none."""
    if page.drawing and page.drawing.vertices:
        raise FeatureRefused("Finish with Enter or discard with Escape what is being drawn, then change pens.")
    name = message.name
    pen = page.space.book.pen(str(name)) if name else None
    if pen is not None:
        page.space.refuse_pen(pen)
    page.pen, page.waiting, page.purpose, page.begun, page.courses = pen, None, None, None, ()
    page.drawing = page.fresh_drawing()
    return {"pen": pen.name if pen else None}


async def take_way(page: PageState, message: TakeWay) -> Answer:
    """How the next span is led: straight, on a curve, by a free hand, or along an edge."""
    way = message.way
    if way not in WAYS:
        raise FeatureRefused("There is no such way of drawing; choose another.")
    page.way = way
    return {"way": way, **({"drawing": drawing_words(page)} if page.drawing and page.drawing.vertices else {})}


async def align(page: PageState, message: Align) -> Answer:
    """Keep the next span at right angles to the last, parallel to the edge at the pointer, down a dip, or free."""
    how = message.how
    if not how:
        page.courses = ()
    elif how == "right":
        course = page.drawing.course() if page.drawing else None
        page.courses = tuple(((course or 0.0) + turn) % 360 for turn in (0, 90, 180, 270))
    elif how == "dip":
        last = page.drawing.vertices[-1].place if page.drawing and page.drawing.vertices else None
        page.courses, words = page.space.dip_courses(last or (message.x or 0.0, message.y or 0.0))
        return {"courses": [round(c, 3) for c in page.courses], "words": words}
    else:
        if message.x is None or message.y is None:
            raise FeatureRefused("Point at the line that the next span is to be parallel to.")
        space = page.space
        reach = COURSE_REACH * page.holds.radius_m / space.project.crs.metres_per_unit
        page.courses = edge_courses(space.project, space.index, (message.x, message.y), reach)
    return {"courses": [round(c, 3) for c in page.courses]}


async def press(page: PageState, message: Press) -> Answer:
    """A click: a vertex, an attitude that waits for its reading, or a point."""
    if page.pen is None and page.purpose is None:
        raise FeatureRefused("Choose a pen from the tray first.")
    vertex = page.vertex_at(message)
    if page.pen is not None and page.pen.table == "points":
        return await _point(page, vertex, message)
    if page.drawing is None:
        page.drawing = page.fresh_drawing()
    assert page.drawing is not None
    longer = page.drawing.pressed(*_led(page, vertex))
    closing = len(longer.vertices) > 3 and longer.vertices[-1].place == longer.vertices[0].place
    if longer.crosses() and not closing:
        raise FeatureRefused("That would make the line cross itself; click elsewhere.")
    await _save_draft(page, longer)
    page.courses = ()
    return {"drawing": drawing_words(page), "closed": closing}


def _led(page: PageState, vertex: Vertex) -> list[Vertex]:
    """The vertices that one click adds: one, or all along the edges that it follows."""
    drawn = page.drawing.vertices if page.drawing else ()
    if page.way != "follow" or not drawn:
        return [vertex]
    if vertex.target is None or drawn[-1].target is None:
        raise FeatureRefused("To follow an edge, both clicks must hold an edge, an end or a vertex of it.")
    space = page.space
    tables = space.tables_in_sight() & page.holds.tables
    end = vertex.place
    beside = space.beside(page.window_id)
    also = beside.trace if beside is not None else ()
    way = along_edges(space.project, space.index, drawn[-1].place, end, tables, also)
    return [
        *(Vertex(x, y, vertex.capture_scale, None, "follow") for x, y in way[1:-1]),
        Vertex(*end, vertex.capture_scale, vertex.target, "follow"),
    ]


async def _point(page: PageState, vertex: Vertex, message: Press) -> Answer:
    pen = page.pen
    assert pen is not None
    if kind_of(pen.kind).reading:
        page.waiting, page.station = vertex, None
        return {"waiting": vertex.place, **preview(page, kind_of(pen.kind).first_reading, vertex)}
    values = message.fields
    feature = Feature(
        "points",
        point_geometry(vertex),
        pen.kind,
        certainty=pen.certainty,
        capture_scale=vertex.capture_scale,
        map_unit=text_or_none(message.unit) if kind_of(pen.kind).takes_unit else None,
        fields=dict(values) if isinstance(values, dict) else {},
    )
    entry = await page.keep_edit(point_drawn(feature))
    return {"kept": entry.id}


async def free_hand(page: PageState, message: FreeHand) -> Answer:
    """A stretch drawn with the button held: thinned, and added to the line."""
    if page.purpose is None and (page.pen is None or page.pen.table == "points"):
        raise FeatureRefused("Choose a pen for lines or areas from the tray first.")
    places = message.places
    if len(places) < 2:
        raise FeatureRefused("Hold the button and draw; a free hand needs some way to go.")
    scale = message.scale
    for place in (places[0], places[-1]):
        page.space.project.crs.check_place(*place)
    thin = thinned_hand(places, page.sheet_units(FREE_MM))
    drawing = page.drawing or page.fresh_drawing()
    assert drawing is not None
    if drawing.vertices:
        thin = thin[1:] or thin
    longer = drawing.pressed(*(Vertex(x, y, scale, None, "free") for x, y in thin))
    if longer.crosses():
        raise FeatureRefused("This stretch crosses itself or the line; draw it again.")
    await _save_draft(page, longer)
    return {"drawing": drawing_words(page)}


async def step(page: PageState, message: Step) -> Answer:
    """A vertex at a typed bearing and distance from the last one."""
    drawing = page.drawing
    if drawing is None or not drawing.vertices:
        raise FeatureRefused("Click where the line begins first; a bearing and a distance lead on from there.")
    project = page.space.project
    bearing, metres = parse_step(message.text, project.scales.publication)
    last = drawing.vertices[-1]
    x, y = page.space.stepped(last.place, bearing, metres)
    project.crs.check_place(x, y)
    longer = drawing.pressed(Vertex(x, y, last.capture_scale, None, "straight"))
    if longer.crosses():
        raise FeatureRefused("That would make the line cross itself; type another step.")
    await _save_draft(page, longer)
    return {"drawing": drawing_words(page), "at": (x, y)}


async def back(page: PageState, message: Message) -> Answer:
    """Take the last vertex back."""
    if page.waiting is not None:
        page.waiting = None
        return {"drawing": None}
    if page.drawing is None or not page.drawing.vertices:
        raise FeatureRefused("There is no vertex to undo.")
    shorter = page.drawing.back()
    await _save_draft(page, shorter)
    return {"drawing": drawing_words(page) if shorter.vertices else None}


async def finish(page: PageState, message: Finish) -> Answer:
    """Keep what is drawn, or carry out what it was drawn for."""
    drawing = page.drawing
    if drawing is None or not drawing.vertices:
        raise FeatureRefused("Nothing is being drawn.")
    if page.purpose is not None:
        return await finish_purpose(page, message)
    feature = drawing.finished(text_or_none(message.unit))
    values = message.fields
    if isinstance(values, dict) and values:
        feature = feature.changed(fields=values)
    if kind_of(feature.kind).margin and message.width:
        width = parse_quantity(str(message.width), "width", FeatureRefused)
        feature = feature.changed(band=Band(width, str(message.width_on or "ground")))
    nodes = nodes_of(drawing.vertices)
    try:
        entry = await page.carry(
            lambda project, index: feature_drawn(project, index, feature, message.overlap or "ask", nodes)
        )
    except OverlapUndecided as undecided:
        return {"asks": str(undecided)}
    await forget_draft(page)
    made = next(c for c in entry.changes if c.table == feature.table and c.before is None)
    return {"kept": entry.id, "feature": {"table": made.table, "id": made.id}}


async def drop(page: PageState, message: Message) -> Answer:
    """Drop what is drawn and not kept."""
    page.waiting, page.begun, page.courses = None, None, ()
    if page.purpose is not None:
        page.purpose, page.drawing = None, None
    await _save_draft(page, page.fresh_drawing())
    return {"drawing": None}


def drawing_words(page: PageState, pointer: Vertex | None = None) -> Answer:
    """What the page shows of a drawing; led on to the pointer, without the vertices that the page knows."""
    drawing = page.drawing
    assert drawing is not None
    project = page.space.project
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
    pen = drawing.pen
    side = side_in_words(line, page.space.book.symbol(pen.table, pen.kind, pen.certainty), project.crs)
    if side:
        words["side"] = side
    if pointer is None:
        words["vertices"] = [v.place for v in drawing.vertices]
    if any(smooth):
        words["line"] = np.round(line, 3).tolist()
    return words


HANDLERS: dict[str, Handler[Any]] = {
    "hello": Handler(Hello, hello),
    "take_up": Handler(Message, take_up),
    "drop_left": Handler(Message, drop_left),
    "pen": Handler(TakePen, take_pen),
    "way": Handler(TakeWay, take_way),
    "align": Handler(Align, align),
    "press": Handler(Press, press),
    "free": Handler(FreeHand, free_hand),
    "step": Handler(Step, step),
    "back": Handler(Message, back),
    "finish": Handler(Finish, finish),
    "drop": Handler(Message, drop),
}

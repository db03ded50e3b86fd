"""Areas: cut, filled, split, merged, trimmed and clipped; and new courses drawn for what is in hand."""

from __future__ import annotations

from collections.abc import Awaitable, Callable, Sequence

import shapely

from ..core import areas, change
from ..core.errors import FeatureRefused, Stale
from ..core.feature import Feature, Table
from ..core.shared import taken_along, with_shared_vertices
from ..core.signs.catalogue import Pen
from ..core.stroke import Drawing
from .live import Answer, Handler, Live, Purpose, new_ids, nodes_of, place_of, scale_of, text_of, whole_of

# What is drawn for something in hand: its words, and whether it closes.
PURPOSES = {"reshape": ("new course", False), "split": ("splitting line", False), "hole": ("edge of the hole", True)}


def _around(live: Live, features: Sequence[Feature], tables: frozenset[Table]) -> list[Feature]:
    bounds = shapely.total_bounds([f.geometry for f in features])
    return live.workspace.around((bounds[0], bounds[1], bounds[2], bounds[3]), tables)


def _areas_around(live: Live, features: Sequence[Feature]) -> list[Feature]:
    own = {f.id for f in features}
    return [a for a in _around(live, features, frozenset({"areas"})) if a.id not in own]


def _only_areas(features: Sequence[Feature]) -> list[Feature]:
    if not features or any(f.table != "areas" for f in features):
        raise FeatureRefused("Take areas in hand for this.")
    return list(features)


async def _carry_out(live: Live, label: str, outcome: areas.Outcome, hand: Sequence[Feature]) -> Answer:
    gone: list[tuple[Table, int]] = [("areas", number) for number in outcome.gone]
    entry = await live.keep(label, outcome.put, gone)
    keys: list[tuple[Table, int]] = [("areas", f.id or 0) for f in hand if f.id not in outcome.gone]
    return live.kept_answer(entry, keys + new_ids(entry, "areas"))


async def begin(live: Live, message: Answer) -> Answer:
    """Begin to draw for what is in hand."""
    what = str(message["what"])
    if what not in PURPOSES:
        raise FeatureRefused("There is no such thing to draw.")
    features = live.own(message)
    for feature in features:
        live.workspace.refuse_locked(feature.table)
    words, closes = PURPOSES[what]
    live.purpose = Purpose(what, tuple((f.table, f.id or 0) for f in features), whole_of(message["revision"]))
    pen = Pen("", "", "areas" if closes else "lines", "unit_area" if closes else "contact", "certain", words, "")
    live.pen, live.drawing, live.way = None, Drawing(pen, tolerance=live.flat), "straight"
    return {"words": f"Draw the {words}; Enter or a double-click carries it out, Escape drops it.", "closes": closes}


async def carried_out(live: Live, message: Answer) -> Answer:
    """What was drawn for what is in hand, done."""
    purpose, drawing = live.purpose, live.drawing
    assert purpose is not None
    assert drawing is not None
    project = live.workspace.project
    for table, number in purpose.features:
        if live.workspace.changed_since(table, number, purpose.revision):
            raise Stale("The feature was changed in another window meanwhile; drop the line and begin anew.")
    features = [project.feature(*key) for key in purpose.features]
    answer = await _DRAWN[purpose.what](live, message, features)
    live.purpose, live.drawing = None, None
    return answer


async def _reshape(live: Live, message: Answer, features: list[Feature]) -> Answer:
    (feature,) = features
    drawing = live.drawing
    assert drawing is not None
    line, _, _ = drawing.path()
    places = [(float(x), float(y)) for x, y in line]
    changed, run = change.reshaped(feature, places)
    old, new = run
    sharing = live.beside([(float(old[0, 0]), float(old[0, 1]))], [feature])
    # Neighbours need the ends of the new course as vertices before they can follow it.
    ends = [places[0], places[-1]]
    marked = {(f.table, f.id): f for f in with_shared_vertices(ends, live.beside(ends, [feature]))}
    pool = {(f.table, f.id): f for f in (*sharing, *live.beside(ends, [feature]))} | marked
    others = {(f.table, f.id): f for f in taken_along([(old, new)], pool.values())}
    scale = max([feature.capture_scale or 0, *(v.capture_scale for v in drawing.vertices)])
    changed = changed.changed(capture_scale=scale)
    if not changed.geometry.is_simple or not changed.geometry.is_valid:
        raise FeatureRefused("With this course the edge would cross itself; draw it a little otherwise.")
    put = [changed, *(marked | others).values()]
    nodes = nodes_of(drawing.vertices[1:-1])
    entry = await live.keep(f"reshape {feature.name}", put, nodes=nodes)
    return live.kept_answer(entry, [(feature.table, feature.id or 0)])


async def _split(live: Live, message: Answer, features: list[Feature]) -> Answer:
    area = _only_areas(features)[0]
    drawing = live.drawing
    assert drawing is not None
    if len(drawing.vertices) < 2:
        raise FeatureRefused("Draw the splitting line through the area, from edge to edge.")
    line = shapely.LineString(drawing.path()[0])
    outcome = areas.split(area, line, _areas_around(live, [area]))
    return await _carry_out(live, f"split {area.name}", outcome, [area])


async def _hole(live: Live, message: Answer, features: list[Feature]) -> Answer:
    drawn = live.drawing
    assert drawn is not None
    polygon = drawn.finished().geometry
    unit = text_of(message.get("unit"))
    scale = max(v.capture_scale for v in drawn.vertices)
    fill = Feature("areas", polygon, "unit_area", map_unit=unit, capture_scale=scale) if message.get("fill") else None
    if message.get("fill") and not unit:
        raise FeatureRefused("Choose the map unit that fills the hole, or leave it open.")
    cut = _only_areas(features)
    outcome = areas.cut_out(cut, polygon, _areas_around(live, cut), fill)
    return await _carry_out(live, "cut a hole and fill it" if fill else "cut a hole", outcome, cut)


async def merge(live: Live, message: Answer) -> Answer:
    """Make one area of those in hand."""
    features = live.own(message)
    outcome = areas.merge(_only_areas(features))
    return await _carry_out(live, f"merge {len(features)} areas", outcome, features[:1])


async def trim_overlaps(live: Live, message: Answer) -> Answer:
    """Trim the area in hand to those that it lies over, or those to it."""
    area = _only_areas(live.own(message))[0]
    below = message.get("order") == "below"
    outcome = areas.trim_overlaps(area, _areas_around(live, [area]), below)
    how = "to those beside it" if below else "from those below it"
    return await _carry_out(live, f"trim {area.name} {how}", outcome, [area])


async def clip_to_shore(live: Live, message: Answer) -> Answer:
    """Let the shoreline cut what was drawn past it."""
    area = _only_areas(live.own(message))[0]
    shore = [f for f in _around(live, [area], frozenset({"lines"})) if f.kind == "shoreline"]
    outcome = areas.clip_to_shore(area, shore, _areas_around(live, [area]))
    return await _carry_out(live, f"clip {area.name} to the shore", outcome, [area])


async def fill(live: Live, message: Answer) -> Answer:
    """Fill the open ground at the pointer up to the edges around it."""
    x, y = place_of(message)
    reach = live.sheet_units(120)
    around = live.workspace.around((x - reach, y - reach, x + reach, y + reach), frozenset({"areas", "lines"}))
    book = live.workspace.book
    lines = [f for f in around if f.table == "lines" and f.kind in book.bounding and f.certainty != "concealed"]
    scale = scale_of(message)
    new = Feature("areas", shapely.Point(x, y), "unit_area", map_unit=text_of(message.get("unit")), capture_scale=scale)
    outcome = areas.filled_at(x, y, [f for f in around if f.table == "areas"], lines, new)
    return await _carry_out(live, "fill to neighbours", outcome, [])


_Drawn = Callable[[Live, Answer, list[Feature]], Awaitable[Answer]]
_DRAWN: dict[str, _Drawn] = {"reshape": _reshape, "split": _split, "hole": _hole}
HANDLERS: dict[str, Handler] = {
    "begin": begin,
    "merge": merge,
    "trim_overlaps": trim_overlaps,
    "clip": clip_to_shore,
    "fill": fill,
}

"""Changing lines and vertices: what is shared goes along, unless it is told to part."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray

from ..core import change
from ..core.band import Band
from ..core.coordinates import parse_number
from ..core.curve import redrawn
from ..core.errors import CoordinateRefused, FeatureRefused
from ..core.feature import Feature
from ..core.shared import junctions, taken_along
from ..core.stretch import Stretch, with_stretch
from ..core.vertices import (
    cut,
    inserted,
    is_ring,
    joined,
    opened,
    paths_of,
    removed,
    reversed_line,
    segment_at,
    spliced,
    vertex_at,
    with_vertex,
)
from .live import Answer, Handler, Live, new_ids, number_of, place_of, text_of, vertex_of, whole_of

Floats = NDArray[np.float64]
Run = tuple[Floats, list[tuple[float, float]]]
# How far a line is led on to another, in millimetres on the sheet.
LEAD_MM = 40.0


def _one_line(features: list[Feature]) -> Feature:
    if len(features) != 1 or features[0].table != "lines":
        raise FeatureRefused("Take one line in hand for this.")
    return features[0]


def _curve_again(live: Live, changed: Feature) -> tuple[Feature, list[Run]]:
    """A smooth line drawn anew, and what the inner vertices of each of its spans have become."""
    if not changed.knots:
        return changed, []
    new = redrawn(changed, live.flat)
    was, now = paths_of(changed)[0], paths_of(new)[0]
    knots = sorted({0, len(was) - 1, *changed.knots})
    runs: list[Run] = []
    for (a, b), (c, d) in zip(pairwise(knots), pairwise(new.knots), strict=True):
        inner = now[c + 1 : d]
        if b - a > 1 and not np.array_equal(was[a + 1 : b], inner):
            runs.append((was[a + 1 : b], [(float(x), float(y)) for x, y in inner]))
    return new, runs


def _sharing(live: Live, feature: Feature, run: Floats, spans: list[Run]) -> list[Feature]:
    """Features that hold a run of vertices, or the spans of a curve."""
    places = [(float(x), float(y)) for x, y in run]
    found = {
        (f.table, f.id): f
        for f in live.beside(places, [feature])
        if all(vertex_at(f, place) is not None for place in places)
    }
    inner = [(float(old[0, 0]), float(old[0, 1])) for old, _ in spans]
    found |= {(f.table, f.id): f for f in live.beside(inner, [feature])}
    return list(found.values())


async def move_vertex(live: Live, message: Answer) -> Answer:
    """Move a vertex, or make one on an edge and move it; others that share it go along unless it parts."""
    feature = _same(live.own(message))
    live.workspace.refuse_locked(feature.table)
    path, index = whole_of(message["path"]), whole_of(message["vertex"])
    target = vertex_of(live, message)
    xy = paths_of(feature)[path]
    changed = feature
    if message.get("insert"):
        run = xy[index : index + 2]
        (a, b), (c, d) = run.tolist()
        places = [(a, b), target.place, (c, d)]
        changed, index = inserted(feature, index, target.place, path), index + 1
    else:
        run, places = xy[index : index + 1], [target.place]
        changed = spliced(feature, index, index, places, path, knots=(0,))
    scale = max(feature.capture_scale or 0, target.capture_scale)
    changed, spans = _curve_again(live, changed.changed(capture_scale=scale))
    others = [] if message.get("apart") else taken_along([(run, places), *spans], _sharing(live, feature, run, spans))
    nodes = [target.place] if target.target is not None and target.target.id else []
    entry = await live.keep(f"move a vertex of {feature.name}", [changed, *others], nodes=nodes)
    return live.kept_answer(entry, [(feature.table, feature.id or 0)])


def _same(features: list[Feature]) -> Feature:
    if len(features) != 1:
        raise FeatureRefused("Take one feature in hand to change its vertices.")
    return features[0]


async def remove_vertex(live: Live, message: Answer) -> Answer:
    """Remove a vertex; where others have it between the same neighbours, from them too."""
    feature = _same(live.own(message))
    path, index = whole_of(message["path"]), whole_of(message["vertex"])
    xy = paths_of(feature)[path]
    changed, spans = _curve_again(live, removed(feature, index, path))
    others: list[Feature] = []
    last = len(xy) - 1
    if 0 < index < last or is_ring(xy):
        run = xy[index - 1 : index + 2] if 0 < index < last else xy[[last - 1, 0, 1]]
        ends = [(float(run[0, 0]), float(run[0, 1])), (float(run[2, 0]), float(run[2, 1]))]
        others = taken_along([(run, ends), *spans], _sharing(live, feature, run[1:2], spans))
    entry = await live.keep(f"remove a vertex of {feature.name}", [changed, *others])
    return live.kept_answer(entry, [(feature.table, feature.id or 0)])


async def reverse(live: Live, message: Answer) -> Answer:
    """Turn lines round: signs have sides."""
    features = live.own(message)
    lines = [reversed_line(_line(f)) for f in features]
    name = features[0].name if len(features) == 1 else f"{len(features)} lines"
    entry = await live.keep(f"reverse {name}", lines)
    return live.kept_answer(entry, [(f.table, f.id or 0) for f in features])


def _line(feature: Feature) -> Feature:
    if feature.table != "lines":
        raise FeatureRefused(f"{feature.name.capitalize()} is no line.")
    return feature


async def thin(live: Live, message: Answer) -> Answer:
    """Leave out vertices that change nothing on the sheet."""
    feature = _same(live.own(message))
    sharing = _along(live, feature)
    changed, runs = change.thinned(feature, junctions(feature, sharing), live.sheet_units(change.THIN_MM))
    entry = await live.keep(f"thin {feature.name}", [changed.changed(knots=()), *taken_along(runs, sharing)])
    return live.kept_answer(entry, [(feature.table, feature.id or 0)])


async def smooth(live: Live, message: Answer) -> Answer:
    """Draw a line as a smooth curve through a few of its vertices."""
    feature = _one_line(live.own(message))
    sharing = _along(live, feature)
    changed, runs = change.made_smooth(
        feature, junctions(feature, sharing), live.sheet_units(change.SMOOTH_MM), live.flat
    )
    entry = await live.keep(f"smooth {feature.name}", [changed, *taken_along(runs, sharing)])
    return live.kept_answer(entry, [(feature.table, feature.id or 0)])


def _along(live: Live, feature: Feature) -> list[Feature]:
    """Everything that touches a feature, in layers that may be touched."""
    return [
        f
        for f in live.workspace.around(feature.geometry.bounds, frozenset({"lines", "areas"}))
        if (f.table, f.id) != (feature.table, feature.id)
        and live.workspace.may_touch(f.table)
        and shapely.dwithin(f.geometry, feature.geometry, 1e-6)
    ]


async def lead_on(live: Live, message: Answer) -> Answer:
    """Extend the end nearest to the pointer to the nearest line straight on, or trim it there."""
    feature = _one_line(live.own(message))
    x, y = place_of(message)
    xy = paths_of(feature)[0]
    end = 0 if math.hypot(*(xy[0] - (x, y))) <= math.hypot(*(xy[-1] - (x, y))) else -1
    reach = live.sheet_units(LEAD_MM)
    west, south, east, north = feature.geometry.bounds
    near = live.workspace.around((west - reach, south - reach, east + reach, north + reach), frozenset({"lines"}))
    others = [f for f in near if f.id != feature.id]
    if message["do"] == "extend":
        changed, other, place = change.led_on(feature, end, others, reach)
    else:
        changed, other, place = change.trimmed(feature, end, others)
    entry = await live.keep(f"{message['do']} {feature.name} to {other.name}", [changed], nodes=[place])
    return live.kept_answer(entry, [("lines", feature.id or 0)])


async def cut_line(live: Live, message: Answer) -> Answer:
    """Cut a line in two where it is clicked."""
    feature = _one_line(live.own(message))
    place = _on_edge(live, feature, message)
    marked = with_vertex(feature, place)
    found = vertex_at(marked, place)
    assert found is not None
    path = paths_of(marked)[0]
    if bool((path[0] == path[-1]).all()):
        entry = await live.keep(f"open {feature.name}", [opened(marked, found[1])], nodes=[place])
        return live.kept_answer(entry, [("lines", feature.id or 0)])
    entry = await live.keep(f"cut {feature.name}", cut(marked, found[1]), nodes=[place])
    return live.kept_answer(entry, [("lines", feature.id or 0), *new_ids(entry, "lines")])


def _on_edge(live: Live, feature: Feature, message: Answer) -> tuple[float, float]:
    """The place on a feature's edge that a click means: what the ring holds there, else the nearest."""
    vertex = vertex_of(live, message)
    if vertex.target is not None and feature.geometry.distance(shapely.Point(vertex.place)) < 1e-6:
        return vertex.place
    _, _, foot = segment_at(feature, vertex.place)
    reach = max(live.radius_m / live.workspace.project.crs.metres_per_unit, number_of(message.get("reach") or 0))
    if math.hypot(foot[0] - vertex.x, foot[1] - vertex.y) > reach:
        raise FeatureRefused(f"This is not on {feature.name}; click on its line.")
    return foot


async def join(live: Live, message: Answer) -> Answer:
    """Join the line in hand to another: the one that is clicked, or the second in hand."""
    features = live.own(message)
    if len(features) == 1:
        features.append(_clicked(live, message))
    if len(features) != 2:
        raise FeatureRefused("Two lines are joined at a time; take two in hand, or one and click the other.")
    one, two = features
    made = joined(one, two)
    entry = await live.keep(f"join {one.name} and {two.name}", [made], [("lines", two.id or 0)])
    return live.kept_answer(entry, [("lines", one.id or 0)])


def _clicked(live: Live, message: Answer) -> Feature:
    x, y = place_of(message)
    own = {(f["table"], f["id"]) for f in message["features"]}
    reach = number_of(message.get("reach") or 0)
    for key in live.workspace.index.touching(x, y, reach):
        if key not in own and key[0] == message["features"][0]["table"]:
            return live.workspace.project.feature(*key)
    found = live.workspace.index.pick(x, y, reach, live.workspace.tables_in_sight())
    if found is None or found in own:
        raise FeatureRefused("There is no other feature here; click on one.")
    return live.workspace.project.feature(*found)


async def like(live: Live, message: Answer) -> Answer:
    """Give what is in hand the sign and attributes of the feature that is clicked."""
    features = live.own(message)
    source = _clicked(live, message)
    changed = [change.like(f, source) for f in features]
    entry = await live.keep(f"copy attributes from {source.name}", changed)
    return live.kept_answer(entry, [(f.table, f.id or 0) for f in features])


async def move_whole(live: Live, message: Answer) -> Answer:
    """Move what is in hand by what lies between two clicks."""
    features = live.own(message)
    vertex = vertex_of(live, message)
    if live.begun is None or live.begun[0] != "move":
        live.begun = ("move", vertex.place)
        return {"begun": vertex.place, "words": "Click where this place is to be."}
    start, live.begun = live.begun[1], None
    dx, dy = vertex.x - start[0], vertex.y - start[1]
    if dx == dy == 0:
        raise FeatureRefused("These are the same place; nothing is moved.")
    name = features[0].name if len(features) == 1 else f"{len(features)} features"
    entry = await live.keep(f"move {name}", [change.moved(f, dx, dy) for f in features])
    return live.kept_answer(entry, [(f.table, f.id or 0) for f in features])


async def beside(live: Live, message: Answer) -> Answer:
    """A parallel copy at a typed distance, to the right; to the left where it is negative."""
    feature = _one_line(live.own(message))
    text = str(message.get("text") or "").strip()
    try:
        metres = parse_number(text.removesuffix("mm").removesuffix("m"), "distance")
    except CoordinateRefused as error:
        raise FeatureRefused("Type the distance of the parallel as 40 (metres to the right), −40 or 2 mm.") from error
    if text.endswith("mm"):
        metres *= live.workspace.project.scales.publication / 1000
    made = change.parallel(feature, metres / live.workspace.project.crs.metres_per_unit)
    entry = await live.keep(f"draw a parallel of {feature.name}", [made])
    return live.kept_answer(entry, new_ids(entry, "lines"))


async def stretch(live: Live, message: Answer) -> Answer:
    """Give the part of a line between two clicks a certainty of its own."""
    feature = _one_line(live.own(message))
    place = _on_edge(live, feature, message)
    if live.begun is None or live.begun[0] != "stretch":
        live.begun = ("stretch", place)
        return {"begun": place, "words": "Click where this stretch ends."}
    start, live.begun = live.begun[1], None
    side = text_of(message.get("side")) or "line"
    marked = with_vertex(with_vertex(feature, start), place)
    ends = sorted(v[1] for v in (vertex_at(marked, start), vertex_at(marked, place)) if v)
    segments = len(paths_of(marked)[0]) - 1
    base = margin_certainty(marked, side)
    told = with_stretch(base, marked.stretches, segments, Stretch(ends[0], ends[-1], str(message["certainty"]), side))
    entry = await live.keep(
        f"change a stretch of {feature.name}", [marked.changed(stretches=told)], nodes=[start, place]
    )
    return live.kept_answer(entry, [("lines", feature.id or 0)])


def margin_certainty(feature: Feature, side: str) -> str:
    """The certainty of a line or of one margin of its band where no stretch says otherwise."""
    band: Band | None = feature.band
    own = {"left": band.left, "right": band.right}.get(side, "") if band else ""
    return own or feature.certainty


HANDLERS: dict[str, Handler] = {
    "move_vertex": move_vertex,
    "remove_vertex": remove_vertex,
    "reverse": reverse,
    "thin": thin,
    "smooth": smooth,
    "extend": lead_on,
    "trim": lead_on,
    "cut": cut_line,
    "join": join,
    "like": like,
    "move": move_whole,
    "parallel": beside,
    "stretch": stretch,
}

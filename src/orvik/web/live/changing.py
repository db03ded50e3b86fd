"""Changing lines and vertices: what is shared goes along, unless it is told to part."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Any

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.drawing import line_changes
from orvik.core.errors import CoordinateRefused, FeatureRefused, NotFound
from orvik.core.features.band import Band
from orvik.core.features.feature import Feature
from orvik.core.features.stretch import Stretch, with_stretch
from orvik.core.geometry.curve import redrawn
from orvik.core.geometry.shared_edges import junctions, taken_along
from orvik.core.geometry.vertices import (
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
from orvik.core.ground.coordinates import parse_quantity
from orvik.usecases.compile.layers import may_touch, refuse_locked
from orvik.web.live.connection import Handler
from orvik.web.live.messages import (
    InHand,
    Join,
    LeadOn,
    MoveVertex,
    MoveWhole,
    OnEdge,
    OnOther,
    Parallel,
    RemoveVertex,
    StretchEnd,
    text_or_none,
)
from orvik.web.live.page_state import Answer, PageState, new_ids

Run = tuple[Floats, list[tuple[float, float]]]
# How far a line is led on to another, in millimetres on the sheet.
LEAD_MM = 40.0


def _one_line(features: list[Feature]) -> Feature:
    if len(features) != 1 or features[0].table != "lines":
        raise FeatureRefused("Take one line in hand for this.")
    return features[0]


def _curve_again(page: PageState, changed: Feature) -> tuple[Feature, list[Run]]:
    """A smooth line drawn anew, and what the inner vertices of each of its spans have become."""
    if not changed.knots:
        return changed, []
    new = redrawn(changed, page.flat)
    was, now = paths_of(changed)[0], paths_of(new)[0]
    knots = sorted({0, len(was) - 1, *changed.knots})
    runs: list[Run] = []
    for (a, b), (c, d) in zip(pairwise(knots), pairwise(new.knots), strict=True):
        inner = now[c + 1 : d]
        if b - a > 1 and not np.array_equal(was[a + 1 : b], inner):
            runs.append((was[a + 1 : b], [(float(x), float(y)) for x, y in inner]))
    return new, runs


def _sharing(page: PageState, feature: Feature, run: Floats, spans: list[Run]) -> list[Feature]:
    """Features that hold a run of vertices, or the spans of a curve."""
    places = [(float(x), float(y)) for x, y in run]
    found = {
        (f.table, f.id): f
        for f in page.touching(places, [feature])
        if all(vertex_at(f, place) is not None for place in places)
    }
    inner = [(float(old[0, 0]), float(old[0, 1])) for old, _ in spans]
    found |= {(f.table, f.id): f for f in page.touching(inner, [feature])}
    return list(found.values())


async def move_vertex(page: PageState, message: MoveVertex) -> Answer:
    """Move a vertex, or make one on an edge and move it; others that share it go along unless it parts."""
    feature = _same(page.in_hand(message))
    refuse_locked(page.workspace.stack, feature.table)
    path, index = message.path, message.vertex
    target = page.vertex_at(message)
    xy = _path_of(feature, path, index + 1 if message.insert else index)
    changed = feature
    if message.insert:
        run = xy[index : index + 2]
        (a, b), (c, d) = run.tolist()
        places = [(a, b), target.place, (c, d)]
        changed, index = inserted(feature, index, target.place, path), index + 1
    else:
        run, places = xy[index : index + 1], [target.place]
        changed = spliced(feature, index, index, places, path, knots=(0,))
    scale = max(feature.capture_scale or 0, target.capture_scale)
    changed, spans = _curve_again(page, changed.changed(capture_scale=scale))
    others = [] if message.apart else taken_along([(run, places), *spans], _sharing(page, feature, run, spans))
    nodes = [target.place] if target.target is not None and target.target.id else []
    entry = await page.keep(f"move a vertex of {feature.name}", [changed, *others], nodes=nodes)
    return page.kept_answer(entry, [(feature.table, feature.id or 0)])


def _path_of(feature: Feature, path: int, vertex: int) -> Floats:
    """A path of a feature that has a vertex; raises NotFound where it has none such."""
    paths = paths_of(feature)
    if not (0 <= path < len(paths) and 0 <= vertex < len(paths[path])):
        raise NotFound("That vertex is no longer there; take the feature in hand again.")
    return paths[path]


def _same(features: list[Feature]) -> Feature:
    if len(features) != 1:
        raise FeatureRefused("Take one feature in hand to change its vertices.")
    return features[0]


async def remove_vertex(page: PageState, message: RemoveVertex) -> Answer:
    """Remove a vertex; where others have it between the same neighbours, from them too."""
    feature = _same(page.in_hand(message))
    path, index = message.path, message.vertex
    xy = _path_of(feature, path, index)
    changed, spans = _curve_again(page, removed(feature, index, path))
    others: list[Feature] = []
    last = len(xy) - 1
    if 0 < index < last or is_ring(xy):
        run = xy[index - 1 : index + 2] if 0 < index < last else xy[[last - 1, 0, 1]]
        ends = [(float(run[0, 0]), float(run[0, 1])), (float(run[2, 0]), float(run[2, 1]))]
        others = taken_along([(run, ends), *spans], _sharing(page, feature, run[1:2], spans))
    entry = await page.keep(f"remove a vertex of {feature.name}", [changed, *others])
    return page.kept_answer(entry, [(feature.table, feature.id or 0)])


async def reverse(page: PageState, message: InHand) -> Answer:
    """Turn lines round: signs have sides."""
    features = page.in_hand(message)
    lines = [reversed_line(_line(f)) for f in features]
    name = features[0].name if len(features) == 1 else f"{len(features)} lines"
    entry = await page.keep(f"reverse {name}", lines)
    return page.kept_answer(entry, [(f.table, f.id or 0) for f in features])


def _line(feature: Feature) -> Feature:
    if feature.table != "lines":
        raise FeatureRefused(f"{feature.name.capitalize()} is no line.")
    return feature


async def thin(page: PageState, message: InHand) -> Answer:
    """Leave out vertices that change nothing on the sheet."""
    feature = _same(page.in_hand(message))
    sharing = _along(page, feature)
    changed, runs = line_changes.thinned(feature, junctions(feature, sharing), page.sheet_units(line_changes.THIN_MM))
    entry = await page.keep(f"thin {feature.name}", [changed.changed(knots=()), *taken_along(runs, sharing)])
    return page.kept_answer(entry, [(feature.table, feature.id or 0)])


async def smooth(page: PageState, message: InHand) -> Answer:
    """Draw a line as a smooth curve through a few of its vertices."""
    feature = _one_line(page.in_hand(message))
    sharing = _along(page, feature)
    changed, runs = line_changes.made_smooth(
        feature, junctions(feature, sharing), page.sheet_units(line_changes.SMOOTH_MM), page.flat
    )
    entry = await page.keep(f"smooth {feature.name}", [changed, *taken_along(runs, sharing)])
    return page.kept_answer(entry, [(feature.table, feature.id or 0)])


def _along(page: PageState, feature: Feature) -> list[Feature]:
    """Everything that touches a feature, in layers that may be touched."""
    return [
        f
        for f in page.workspace.around(feature.geometry.bounds, frozenset({"lines", "areas"}))
        if (f.table, f.id) != (feature.table, feature.id)
        and may_touch(page.workspace.stack, f.table)
        and shapely.dwithin(f.geometry, feature.geometry, 1e-6)
    ]


async def extend(page: PageState, message: LeadOn) -> Answer:
    """Extend the end nearest to the pointer to the nearest line straight on."""
    return await _lead_on(page, message, extending=True)


async def trim(page: PageState, message: LeadOn) -> Answer:
    """Trim the end nearest to the pointer at the nearest line."""
    return await _lead_on(page, message, extending=False)


async def _lead_on(page: PageState, message: LeadOn, extending: bool) -> Answer:
    feature = _one_line(page.in_hand(message))
    x, y = message.place
    xy = paths_of(feature)[0]
    end = 0 if math.hypot(*(xy[0] - (x, y))) <= math.hypot(*(xy[-1] - (x, y))) else -1
    reach = page.sheet_units(LEAD_MM)
    west, south, east, north = feature.geometry.bounds
    near = page.workspace.around((west - reach, south - reach, east + reach, north + reach), frozenset({"lines"}))
    others = [f for f in near if f.id != feature.id]
    if extending:
        changed, other, place = line_changes.led_on(feature, end, others, reach)
    else:
        changed, other, place = line_changes.trimmed(feature, end, others)
    entry = await page.keep(
        f"{'extend' if extending else 'trim'} {feature.name} to {other.name}", [changed], nodes=[place]
    )
    return page.kept_answer(entry, [("lines", feature.id or 0)])


async def cut_line(page: PageState, message: OnEdge) -> Answer:
    """Cut a line in two where it is clicked."""
    feature = _one_line(page.in_hand(message))
    place = _on_edge(page, feature, message)
    marked = with_vertex(feature, place)
    found = vertex_at(marked, place)
    assert found is not None
    path = paths_of(marked)[0]
    if bool((path[0] == path[-1]).all()):
        entry = await page.keep(f"open {feature.name}", [opened(marked, found[1])], nodes=[place])
        return page.kept_answer(entry, [("lines", feature.id or 0)])
    entry = await page.keep(f"cut {feature.name}", cut(marked, found[1]), nodes=[place])
    return page.kept_answer(entry, [("lines", feature.id or 0), *new_ids(entry, "lines")])


def _on_edge(page: PageState, feature: Feature, message: OnEdge) -> tuple[float, float]:
    """The place on a feature's edge that a click means: what the ring holds there, else the nearest."""
    vertex = page.vertex_at(message)
    if vertex.target is not None and feature.geometry.distance(shapely.Point(vertex.place)) < 1e-6:
        return vertex.place
    _, _, foot = segment_at(feature, vertex.place)
    reach = max(page.radius_m / page.workspace.project.crs.metres_per_unit, message.reach)
    if math.hypot(foot[0] - vertex.x, foot[1] - vertex.y) > reach:
        raise FeatureRefused(f"This is not on {feature.name}; click on its line.")
    return foot


async def join(page: PageState, message: Join) -> Answer:
    """Join the line in hand to another: the one that is clicked, or the second in hand."""
    features = page.in_hand(message)
    if len(features) == 1:
        features.append(_clicked(page, message))
    if len(features) != 2:
        raise FeatureRefused("Two lines are joined at a time; take two in hand, or one and click the other.")
    one, two = features
    made = joined(one, two)
    entry = await page.keep(f"join {one.name} and {two.name}", [made], [("lines", two.id or 0)])
    return page.kept_answer(entry, [("lines", one.id or 0)])


def _clicked(page: PageState, message: OnOther | Join) -> Feature:
    x, y, reach = message.x, message.y, message.reach
    in_hand = {named.key for named in message.features}
    for key in page.workspace.index.touching(x, y, reach):
        if key not in in_hand and key[0] == message.features[0].table:
            return page.workspace.project.feature(*key)
    found = page.workspace.index.pick(x, y, reach, page.workspace.tables_in_sight())
    if found is None or found in in_hand:
        raise FeatureRefused("There is no other feature here; click on one.")
    return page.workspace.project.feature(*found)


async def like(page: PageState, message: OnOther) -> Answer:
    """Give what is in hand the sign and attributes of the feature that is clicked."""
    features = page.in_hand(message)
    source = _clicked(page, message)
    changed = [line_changes.like(f, source) for f in features]
    entry = await page.keep(f"copy attributes from {source.name}", changed)
    return page.kept_answer(entry, [(f.table, f.id or 0) for f in features])


async def move_whole(page: PageState, message: MoveWhole) -> Answer:
    """Move what is in hand by what lies between two clicks."""
    features = page.in_hand(message)
    vertex = page.vertex_at(message)
    if page.begun is None or page.begun[0] != "move":
        page.begun = ("move", vertex.place)
        return {"begun": vertex.place, "words": "Click where this place is to be."}
    start, page.begun = page.begun[1], None
    dx, dy = vertex.x - start[0], vertex.y - start[1]
    if dx == dy == 0:
        raise FeatureRefused("These are the same place; nothing is moved.")
    name = features[0].name if len(features) == 1 else f"{len(features)} features"
    entry = await page.keep(f"move {name}", [line_changes.moved(f, dx, dy) for f in features])
    return page.kept_answer(entry, [(f.table, f.id or 0) for f in features])


async def parallel(page: PageState, message: Parallel) -> Answer:
    """A parallel copy at a typed distance, to the right; to the left where it is negative."""
    feature = _one_line(page.in_hand(message))
    text = str(message.text or "").strip()
    try:
        metres = parse_quantity(text.removesuffix("mm").removesuffix("m"), "distance")
    except CoordinateRefused as error:
        raise FeatureRefused("Type the distance of the parallel as 40 (metres to the right), −40 or 2 mm.") from error
    if text.endswith("mm"):
        metres *= page.workspace.project.scales.publication / 1000
    made = line_changes.parallel(feature, metres / page.workspace.project.crs.metres_per_unit)
    entry = await page.keep(f"draw a parallel of {feature.name}", [made])
    return page.kept_answer(entry, new_ids(entry, "lines"))


async def stretch(page: PageState, message: StretchEnd) -> Answer:
    """Give the part of a line between two clicks a certainty of its own."""
    feature = _one_line(page.in_hand(message))
    place = _on_edge(page, feature, message)
    if page.begun is None or page.begun[0] != "stretch":
        page.begun = ("stretch", place)
        return {"begun": place, "words": "Click where this stretch ends."}
    start, page.begun = page.begun[1], None
    side = text_or_none(message.side) or "line"
    marked = with_vertex(with_vertex(feature, start), place)
    ends = sorted(v[1] for v in (vertex_at(marked, start), vertex_at(marked, place)) if v)
    segments = len(paths_of(marked)[0]) - 1
    base = margin_certainty(marked, side)
    stretches = with_stretch(base, marked.stretches, segments, Stretch(ends[0], ends[-1], message.certainty, side))
    entry = await page.keep(
        f"change a stretch of {feature.name}", [marked.changed(stretches=stretches)], nodes=[start, place]
    )
    return page.kept_answer(entry, [("lines", feature.id or 0)])


def margin_certainty(feature: Feature, side: str) -> str:
    """The certainty of a line or of one margin of its band where no stretch says otherwise."""
    band: Band | None = feature.band
    margin = {"left": band.left, "right": band.right}.get(side, "") if band else ""
    return margin or feature.certainty


HANDLERS: dict[str, Handler[Any]] = {
    "move_vertex": Handler(MoveVertex, move_vertex),
    "remove_vertex": Handler(RemoveVertex, remove_vertex),
    "reverse": Handler(InHand, reverse),
    "thin": Handler(InHand, thin),
    "smooth": Handler(InHand, smooth),
    "extend": Handler(LeadOn, extend),
    "trim": Handler(LeadOn, trim),
    "cut": Handler(OnEdge, cut_line),
    "join": Handler(Join, join),
    "like": Handler(OnOther, like),
    "move": Handler(MoveWhole, move_whole),
    "parallel": Handler(Parallel, parallel),
    "stretch": Handler(StretchEnd, stretch),
}

"""Changing lines and vertices by hand: messages parsed, edits asked for, answers given."""

from __future__ import annotations

import math
from typing import Any

import shapely

from orvik.core.errors import FeatureRefused
from orvik.core.features.feature import Feature
from orvik.core.geometry.vertices import segment_at
from orvik.usecases.compile import line_edits
from orvik.web.live.connection import Handler
from orvik.web.live.messages import (
    Join,
    LeadOn,
    MoveVertex,
    MoveWhole,
    OnEdge,
    OnOther,
    Parallel,
    RemoveVertex,
    Selection,
    StretchEnd,
    text_or_none,
)
from orvik.web.live.page_state import Answer, PageState, new_ids


def _one_line(features: list[Feature]) -> Feature:
    if len(features) != 1 or features[0].table != "lines":
        raise FeatureRefused("Select one line for this.")
    return features[0]


def _same(features: list[Feature]) -> Feature:
    if len(features) != 1:
        raise FeatureRefused("Select one feature to change its vertices.")
    return features[0]


async def move_vertex(page: PageState, message: MoveVertex) -> Answer:
    """Move a vertex, or make one on an edge and move it; others that share it go along unless it parts."""
    feature, target = _same(page.selected(message)), page.vertex_at(message)
    entry = await page.carry(
        lambda project, index: line_edits.vertex_moved(
            project,
            index,
            feature,
            message.path,
            message.vertex,
            target,
            insert=message.insert,
            apart=message.apart,
        )
    )
    return page.kept_answer(entry, [feature.key])


async def remove_vertex(page: PageState, message: RemoveVertex) -> Answer:
    """Remove a vertex; where others have it between the same neighbours, from them too."""
    feature = _same(page.selected(message))
    entry = await page.carry(
        lambda project, index: line_edits.vertex_removed(project, index, feature, message.path, message.vertex)
    )
    return page.kept_answer(entry, [feature.key])


async def reverse(page: PageState, message: Selection) -> Answer:
    """Turn lines round: symbols have sides."""
    features = page.selected(message)
    entry = await page.keep_edit(line_edits.lines_reversed(features))
    return page.kept_answer(entry, [f.key for f in features])


async def simplify(page: PageState, message: Selection) -> Answer:
    """Leave out vertices that change nothing on the sheet."""
    feature = _same(page.selected(message))
    entry = await page.carry(lambda project, index: line_edits.simplified(project, index, feature))
    return page.kept_answer(entry, [feature.key])


async def smooth(page: PageState, message: Selection) -> Answer:
    """Draw a line as a smooth curve through a few of its vertices."""
    feature = _one_line(page.selected(message))
    entry = await page.carry(lambda project, index: line_edits.smoothed(project, index, feature))
    return page.kept_answer(entry, [feature.key])


async def extend(page: PageState, message: LeadOn) -> Answer:
    """Extend the end nearest to the pointer to the nearest line straight on."""
    return await _lead_on(page, message, extending=True)


async def trim(page: PageState, message: LeadOn) -> Answer:
    """Trim the end nearest to the pointer at the nearest line."""
    return await _lead_on(page, message, extending=False)


async def _lead_on(page: PageState, message: LeadOn, extending: bool) -> Answer:
    feature = _one_line(page.selected(message))
    entry = await page.carry(
        lambda project, index: line_edits.led_on(project, index, feature, message.place, extending=extending)
    )
    return page.kept_answer(entry, [feature.key])


async def cut_line(page: PageState, message: OnEdge) -> Answer:
    """Cut a line in two where it is clicked."""
    feature = _one_line(page.selected(message))
    entry = await page.keep_edit(line_edits.line_cut(feature, _on_edge(page, feature, message)))
    return page.kept_answer(entry, [feature.key, *new_ids(entry, "lines")])


def _on_edge(page: PageState, feature: Feature, message: OnEdge) -> tuple[float, float]:
    """The place on a feature's edge that a click means: what the ring holds there, else the nearest."""
    vertex = page.vertex_at(message)
    if vertex.target is not None and feature.geometry.distance(shapely.Point(vertex.place)) < 1e-6:
        return vertex.place
    _, _, foot = segment_at(feature, vertex.place)
    reach = max(page.holds.radius_m / page.space.project.crs.metres_per_unit, message.reach)
    if math.hypot(foot[0] - vertex.x, foot[1] - vertex.y) > reach:
        raise FeatureRefused(f"This is not on {feature.name}; click on its line.")
    return foot


async def join(page: PageState, message: Join) -> Answer:
    """Join the selected line to another: the one that is clicked, or the second selected."""
    features = page.selected(message)
    if len(features) == 1:
        features.append(_clicked(page, message))
    if len(features) != 2:
        raise FeatureRefused("Two lines are joined at a time; select two, or one and click the other.")
    entry = await page.keep_edit(line_edits.lines_joined(*features))
    return page.kept_answer(entry, [features[0].key])


def _clicked(page: PageState, message: OnOther | Join) -> Feature:
    x, y, reach = message.x, message.y, message.reach
    selected = {named.key for named in message.features}
    for key in page.space.index.touching(x, y, reach):
        if key not in selected and key[0] == message.features[0].table:
            return page.space.project.feature(*key)
    found = page.space.index.pick(x, y, reach, page.space.tables_in_sight())
    if found is None or found in selected:
        raise FeatureRefused("There is no other feature here; click on one.")
    return page.space.project.feature(*found)


async def like(page: PageState, message: OnOther) -> Answer:
    """Give what is selected the symbol and attributes of the feature that is clicked."""
    features = page.selected(message)
    entry = await page.keep_edit(line_edits.attributes_copied(features, _clicked(page, message)))
    return page.kept_answer(entry, [f.key for f in features])


async def move_whole(page: PageState, message: MoveWhole) -> Answer:
    """Move what is selected by what lies between two clicks."""
    features = page.selected(message)
    vertex = page.vertex_at(message)
    if page.begun is None or page.begun[0] != "move":
        page.begun = ("move", vertex.place)
        return {"begun": vertex.place, "words": "Click where this place is to be."}
    start, page.begun = page.begun[1], None
    entry = await page.keep_edit(line_edits.moved(features, start, vertex.place))
    return page.kept_answer(entry, [f.key for f in features])


async def parallel(page: PageState, message: Parallel) -> Answer:
    """A parallel copy at a typed distance, to the right; to the left where it is negative."""
    feature = _one_line(page.selected(message))
    edit = line_edits.parallel_drawn(page.space.project, feature, str(message.text or ""))
    entry = await page.keep_edit(edit)
    return page.kept_answer(entry, new_ids(entry, "lines"))


async def stretch(page: PageState, message: StretchEnd) -> Answer:
    """Give the part of a line between two clicks a certainty of its own."""
    feature = _one_line(page.selected(message))
    place = _on_edge(page, feature, message)
    if page.begun is None or page.begun[0] != "stretch":
        page.begun = ("stretch", place)
        return {"begun": place, "words": "Click where this stretch ends."}
    start, page.begun = page.begun[1], None
    side = text_or_none(message.side) or "line"
    entry = await page.keep_edit(line_edits.stretch_changed(feature, start, place, message.certainty, side))
    return page.kept_answer(entry, [feature.key])


HANDLERS: dict[str, Handler[Any]] = {
    "move_vertex": Handler(MoveVertex, move_vertex),
    "remove_vertex": Handler(RemoveVertex, remove_vertex),
    "reverse": Handler(Selection, reverse),
    "simplify": Handler(Selection, simplify),
    "smooth": Handler(Selection, smooth),
    "extend": Handler(LeadOn, extend),
    "trim": Handler(LeadOn, trim),
    "cut": Handler(OnEdge, cut_line),
    "join": Handler(Join, join),
    "like": Handler(OnOther, like),
    "move": Handler(MoveWhole, move_whole),
    "parallel": Handler(Parallel, parallel),
    "stretch": Handler(StretchEnd, stretch),
}

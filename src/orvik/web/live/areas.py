"""Areas: cut, filled, split, merged, trimmed and clipped; and new courses drawn for what is selected."""

from __future__ import annotations

from collections.abc import Awaitable, Callable, Sequence
from typing import Any

from orvik.core.drawing.drawing import Drawing
from orvik.core.errors import FeatureRefused, Stale
from orvik.core.features.feature import Feature
from orvik.core.features.kind import UNIT_AREA, USUAL
from orvik.core.geometry.snapping import SnapIndex
from orvik.core.symbols.pen import Pen
from orvik.store.changeable import Changeable
from orvik.usecases.compile import area_edits
from orvik.usecases.compile.features import FeatureEdit
from orvik.usecases.compile.layers import refuse_locked
from orvik.usecases.compile.reshaping import reshaping
from orvik.web.live.connection import Handler
from orvik.web.live.messages import Begin, ClipToShore, Fill, Finish, Selection, TrimOverlaps, text_or_none
from orvik.web.live.page_state import Answer, PageState, Purpose, new_ids, nodes_of

# What is drawn for something selected: its words, and whether it closes.
PURPOSES = {"reshape": ("new course", False), "split": ("splitting line", False), "hole": ("edge of the hole", True)}


async def _carry_out(
    page: PageState, make: Callable[[Changeable, SnapIndex], FeatureEdit], selected: Sequence[Feature]
) -> Answer:
    entry = await page.carry(make)
    return page.kept_answer(entry, [*(f.key for f in selected), *new_ids(entry, "areas")])


async def begin(page: PageState, message: Begin) -> Answer:
    """Begin to draw for what is selected."""
    what = message.what
    if what not in PURPOSES:
        raise FeatureRefused("There is no such thing to draw.")
    features = page.selected(message)
    for feature in features:
        refuse_locked(page.space.stack, feature.table)
    words, closes = PURPOSES[what]
    page.purpose = Purpose(what, tuple(f.key for f in features), message.revision)
    pen = Pen("", "", "areas" if closes else "lines", USUAL["areas" if closes else "lines"], "certain", words, "")
    page.pen, page.drawing, page.way = None, Drawing(pen, tolerance=page.flat), "straight"
    return {"words": f"Draw the {words}; Enter or a double-click carries it out, Escape cancels it.", "closes": closes}


async def finish_purpose(page: PageState, message: Finish) -> Answer:
    """What was drawn for what is selected, done."""
    purpose, drawing = page.purpose, page.drawing
    assert purpose is not None
    assert drawing is not None
    project = page.space.project
    for table, number in purpose.features:
        if page.space.project.changed_after(table, number, purpose.revision):
            raise Stale("The feature was changed in another window meanwhile; discard the line and begin anew.")
    features = [project.feature(*key) for key in purpose.features]
    answer = await _DRAWN[purpose.what](page, message, features)
    page.purpose, page.drawing = None, None
    return answer


async def _reshape(page: PageState, message: Finish, features: list[Feature]) -> Answer:
    (feature,) = features
    drawing = page.drawing
    assert drawing is not None
    line, _, _ = drawing.path()
    places = [(float(x), float(y)) for x, y in line]
    scale = max(v.capture_scale for v in drawing.vertices)
    nodes = nodes_of(drawing.vertices[1:-1])
    return await _carry_out(
        page, lambda project, index: reshaping(project, index, feature, places, scale, nodes), [feature]
    )


async def _split(page: PageState, message: Finish, features: list[Feature]) -> Answer:
    area = area_edits.only_areas(features)[0]
    drawing = page.drawing
    assert drawing is not None
    places = [(float(x), float(y)) for x, y in drawing.path()[0]]
    return await _carry_out(page, lambda project, index: area_edits.area_split(project, index, area, places), [area])


async def _hole(page: PageState, message: Finish, features: list[Feature]) -> Answer:
    drawn = page.drawing
    assert drawn is not None
    scale = max(v.capture_scale for v in drawn.vertices)
    unit = text_or_none(message.unit)
    hole = Feature("areas", drawn.finished().geometry, UNIT_AREA, map_unit=unit, capture_scale=scale)
    areas = area_edits.only_areas(features)
    return await _carry_out(
        page, lambda project, index: area_edits.hole_cut(project, index, areas, hole, fill=message.fill), areas
    )


async def merge(page: PageState, message: Selection) -> Answer:
    """Make one area of those selected."""
    areas = area_edits.only_areas(page.selected(message))
    return await _carry_out(page, lambda project, index: area_edits.areas_merged(areas), areas)


async def trim_overlaps(page: PageState, message: TrimOverlaps) -> Answer:
    """Trim the selected area to those that it lies over, or those to it."""
    area = area_edits.only_areas(page.selected(message))[0]
    below = message.order == "below"
    return await _carry_out(
        page, lambda project, index: area_edits.overlaps_trimmed(project, index, area, below=below), [area]
    )


async def clip_to_shore(page: PageState, message: ClipToShore) -> Answer:
    """Let the shoreline cut what was drawn past it."""
    area = area_edits.only_areas(page.selected(message))[0]
    side = message.side or ""
    return await _carry_out(
        page, lambda project, index: area_edits.clipped_to_shore(project, index, area, side), [area]
    )


async def fill(page: PageState, message: Fill) -> Answer:
    """Fill the open ground at the pointer up to the edges around it."""
    unit = text_or_none(message.unit)
    return await _carry_out(
        page,
        lambda project, index: area_edits.ground_filled(project, index, message.place, unit, message.scale),
        [],
    )


_Drawn = Callable[[PageState, Finish, list[Feature]], Awaitable[Answer]]
_DRAWN: dict[str, _Drawn] = {"reshape": _reshape, "split": _split, "hole": _hole}
HANDLERS: dict[str, Handler[Any]] = {
    "begin": Handler(Begin, begin),
    "merge": Handler(Selection, merge),
    "trim_overlaps": Handler(TrimOverlaps, trim_overlaps),
    "clip": Handler(ClipToShore, clip_to_shore),
    "fill": Handler(Fill, fill),
}

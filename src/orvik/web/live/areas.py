"""Areas: cut, filled, split, merged, trimmed and clipped; and new courses drawn for what is selected."""

from __future__ import annotations

from collections.abc import Awaitable, Callable, Sequence
from typing import Any

import shapely

from orvik.core.drawing import area_operations
from orvik.core.drawing.drawing import Drawing
from orvik.core.errors import FeatureRefused, Stale
from orvik.core.features.feature import Feature
from orvik.core.features.kind import BOUNDING, SHORE, UNIT_AREA, UNIT_TAG, USUAL, kind_words
from orvik.core.features.table import FeatureKey, Table
from orvik.core.symbols.pen import Pen
from orvik.usecases.compile.layers import refuse_locked
from orvik.usecases.compile.reshaping import reshaping
from orvik.web.live.connection import Handler
from orvik.web.live.messages import Begin, ClipToShore, Fill, Finish, InHand, TrimOverlaps, text_or_none
from orvik.web.live.page_state import Answer, PageState, Purpose, new_ids, nodes_of

# What is drawn for something selected: its words, and whether it closes.
PURPOSES = {"reshape": ("new course", False), "split": ("splitting line", False), "hole": ("edge of the hole", True)}


def _around(page: PageState, features: Sequence[Feature], tables: frozenset[Table]) -> list[Feature]:
    bounds = shapely.total_bounds([f.geometry for f in features])
    return page.workspace.around((bounds[0], bounds[1], bounds[2], bounds[3]), tables)


def _areas_around(page: PageState, features: Sequence[Feature]) -> list[Feature]:
    """Other areas of the kind of the selected ones: areas of other kinds lie over them, and lose nothing to them."""
    in_hand, kinds = {f.id for f in features}, {f.kind for f in features}
    return [a for a in _around(page, features, frozenset({"areas"})) if a.id not in in_hand and a.kind in kinds]


def _only_areas(features: Sequence[Feature]) -> list[Feature]:
    if not features or any(f.table != "areas" for f in features):
        raise FeatureRefused("Select areas for this.")
    return list(features)


async def _carry_out(
    page: PageState, label: str, outcome: area_operations.Outcome, selected: Sequence[Feature]
) -> Answer:
    deleted: list[FeatureKey] = [("areas", number) for number in outcome.deleted]
    entry = await page.keep(label, outcome.kept, deleted)
    keys: list[FeatureKey] = [f.key for f in selected if f.id not in outcome.deleted]
    return page.kept_answer(entry, keys + new_ids(entry, "areas"))


async def begin(page: PageState, message: Begin) -> Answer:
    """Begin to draw for what is selected."""
    what = message.what
    if what not in PURPOSES:
        raise FeatureRefused("There is no such thing to draw.")
    features = page.in_hand(message)
    for feature in features:
        refuse_locked(page.workspace.stack, feature.table)
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
    project = page.workspace.project
    for table, number in purpose.features:
        if page.workspace.project.changed_after(table, number, purpose.revision):
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
    workspace = page.workspace
    edit = reshaping(workspace.project, workspace.index, feature, places, scale, nodes_of(drawing.vertices[1:-1]))
    entry = await page.keep(edit.label, edit.kept, nodes=edit.nodes)
    return page.kept_answer(entry, [feature.key])


async def _split(page: PageState, message: Finish, features: list[Feature]) -> Answer:
    area = _only_areas(features)[0]
    drawing = page.drawing
    assert drawing is not None
    if len(drawing.vertices) < 2:
        raise FeatureRefused("Draw the splitting line through the area, from edge to edge.")
    line = shapely.LineString(drawing.path()[0])
    outcome = area_operations.split(area, line, _areas_around(page, [area]))
    return await _carry_out(page, f"split {area.name}", outcome, [area])


async def _hole(page: PageState, message: Finish, features: list[Feature]) -> Answer:
    drawn = page.drawing
    assert drawn is not None
    polygon = drawn.finished().geometry
    unit = text_or_none(message.unit)
    scale = max(v.capture_scale for v in drawn.vertices)
    fill = Feature("areas", polygon, UNIT_AREA, map_unit=unit, capture_scale=scale) if message.fill else None
    if message.fill and not unit:
        raise FeatureRefused("Choose the map unit that fills the hole, or leave it open.")
    cut = _only_areas(features)
    if fill is not None and any(a.kind != UNIT_AREA for a in cut):
        name = kind_words(next(a.kind for a in cut if a.kind != UNIT_AREA))
        raise FeatureRefused(f"A hole in the {name} stays open: only unit areas are filled with a unit.")
    outcome = area_operations.cut_out(cut, polygon, _areas_around(page, cut), fill)
    return await _carry_out(page, "cut a hole and fill it" if fill else "cut a hole", outcome, cut)


async def merge(page: PageState, message: InHand) -> Answer:
    """Make one area of those selected."""
    features = page.in_hand(message)
    outcome = area_operations.merge(_only_areas(features))
    return await _carry_out(page, f"merge {len(features)} areas", outcome, features[:1])


async def trim_overlaps(page: PageState, message: TrimOverlaps) -> Answer:
    """Trim the selected area to those that it lies over, or those to it."""
    area = _only_areas(page.in_hand(message))[0]
    below = message.order == "below"
    outcome = area_operations.trim_overlaps(area, _areas_around(page, [area]), below)
    how = "to those beside it" if below else "from those below it"
    return await _carry_out(page, f"trim {area.name} {how}", outcome, [area])


async def clip_to_shore(page: PageState, message: ClipToShore) -> Answer:
    """Let the shoreline cut what was drawn past it."""
    area = _only_areas(page.in_hand(message))[0]
    around = _around(page, [area], frozenset({"lines", "points"}))
    shore, tags = ([f for f in around if f.kind == kind] for kind in (SHORE, UNIT_TAG))
    outcome = area_operations.clip_to_shore(area, shore, _areas_around(page, [area]), tags, message.side or "")
    return await _carry_out(page, f"clip {area.name} to the shore", outcome, [area])


async def fill(page: PageState, message: Fill) -> Answer:
    """Fill the open ground at the pointer up to the edges around it."""
    x, y = message.place
    reach = page.sheet_units(120)
    around = page.workspace.around((x - reach, y - reach, x + reach, y + reach), frozenset({"areas", "lines"}))
    lines = [f for f in around if f.table == "lines" and f.kind in BOUNDING and f.certainty != "concealed"]
    scale = message.scale
    new = Feature("areas", shapely.Point(x, y), UNIT_AREA, map_unit=text_or_none(message.unit), capture_scale=scale)
    units = [f for f in around if f.kind == UNIT_AREA]
    outcome = area_operations.filled_at(x, y, units, lines, new)
    return await _carry_out(page, "fill to neighbours", outcome, [])


_Drawn = Callable[[PageState, Finish, list[Feature]], Awaitable[Answer]]
_DRAWN: dict[str, _Drawn] = {"reshape": _reshape, "split": _split, "hole": _hole}
HANDLERS: dict[str, Handler[Any]] = {
    "begin": Handler(Begin, begin),
    "merge": Handler(InHand, merge),
    "trim_overlaps": Handler(TrimOverlaps, trim_overlaps),
    "clip": Handler(ClipToShore, clip_to_shore),
    "fill": Handler(Fill, fill),
}

"""What is selected: taken by a click, by a box, by what it has in common, or as the next of its kind."""

from __future__ import annotations

from typing import Any

from orvik.core.errors import FeatureRefused
from orvik.core.features.feature import Feature
from orvik.core.features.table import TABLES, FeatureKey, Table
from orvik.store.project import Project
from orvik.usecases.compile.features import FeatureEdit
from orvik.web.live.connection import Handler
from orvik.web.live.messages import Alike, Features, Message, Neighbour, Pick, PickBox, PickWhere, Selection
from orvik.web.live.page_state import Answer, PageState, outline

# More than this selected cannot be shown vertex by vertex.
MOST_SELECTED = 500


async def pick(page: PageState, message: Pick) -> Answer:
    """The feature at the pointer."""
    x, y = message.place
    found = page.space.index.pick(x, y, message.reach, page.space.tables_in_sight())
    return {"hand": page.outlines([found] if found else [])}


async def pick_box(page: PageState, message: PickBox) -> Answer:
    """All features that lie wholly in a box."""
    bounds = (
        message.west,
        message.south,
        message.east,
        message.north,
    )
    keys = page.space.index.within(bounds, page.space.tables_in_sight(), whole=True)
    return _many(page, keys)


async def show(page: PageState, message: Features) -> Answer:
    """Features as they are now."""
    return _many(page, [named.key for named in message.features])


async def alike(page: PageState, message: Alike) -> Answer:
    """All features that have the kind, the certainty and the unit of the one selected."""
    table, number = message.features[0].key
    like = page.space.project.feature(table, number)
    return _where(page, table, {"kind": like.kind, "certainty": like.certainty, "map_unit": like.map_unit})


async def pick_where(page: PageState, message: PickWhere) -> Answer:
    """All features of a kind, with a certainty, a unit or a doubt where these are named."""
    table, _, kind = (message.kind or "").partition(":")
    if table not in TABLES or not kind:
        raise FeatureRefused("Choose a kind of feature to select.")
    chosen: Table = next(t for t in TABLES if t == table)
    wanted: dict[str, str | bool | None] = {"kind": kind}
    if message.certainty:
        wanted["certainty"] = message.certainty
    if message.map_unit:
        wanted["map_unit"] = message.map_unit
    if message.questionable in ("yes", "no"):
        wanted["questionable"] = message.questionable == "yes"
    return _where(page, chosen, wanted)


def _where(page: PageState, table: Table, wanted: dict[str, str | bool | None]) -> Answer:
    """Takes selected what has all these values; what is hidden is not taken."""
    if table not in page.space.tables_in_sight():
        raise FeatureRefused("Nothing in sight is so; choose otherwise.")
    keys: list[FeatureKey] = [(table, i) for i in page.space.project.ids_where(table, wanted, MOST_SELECTED + 1)]
    if not keys:
        raise FeatureRefused("Nothing in sight is so; choose otherwise.")
    return _many(page, keys)


async def neighbour(page: PageState, message: Neighbour) -> Answer:
    """The next or the previous feature of the same kind, by number; round at the end."""
    table, number = message.features[0].key
    project = page.space.project
    like = project.feature(table, number)
    chosen = project.neighbour_id(table, like.kind, number, message.forward)
    feature = project.feature(table, chosen or number)
    return {"hand": [outline(feature)], "at": _middle(feature)}


def _middle(feature: Feature) -> tuple[float, float]:
    if feature.table == "lines":
        point = feature.geometry.interpolate(0.5, normalized=True)
    else:
        point = feature.geometry.point_on_surface()
    return point.x, point.y


def _many(page: PageState, keys: list[FeatureKey]) -> Answer:
    refuse_many(len(keys))
    return {"hand": page.outlines(keys)}


def refuse_many(count: int) -> None:
    """Raise FeatureRefused where more features are to be selected than can be shown."""
    if count > MOST_SELECTED:
        many = f"More than {MOST_SELECTED}" if count == MOST_SELECTED + 1 else f"{count}"
        raise FeatureRefused(f"{many} features are too many to be selected at once; select at most {MOST_SELECTED}.")


async def delete(page: PageState, message: Selection) -> Answer:
    """Delete what is selected."""
    features = page.selected(message)
    name = features[0].name if len(features) == 1 else f"{len(features)} features"
    entry = await page.keep_edit(FeatureEdit(f"delete {name}", [], [f.key for f in features]))
    return page.kept_answer(entry, [])


async def undo(page: PageState, message: Message) -> Answer:
    """Take back the last edit."""
    return {"kept": (await page.workspace.carry_out(Project.undo)).id}


async def redo(page: PageState, message: Message) -> Answer:
    """Carry it out again."""
    return {"kept": (await page.workspace.carry_out(Project.redo)).id}


async def state(page: PageState, message: Message) -> Answer:
    """What the strip shows, after a look at what other programs did."""
    workspace = page.workspace
    await workspace.detect_external_write()
    return workspace.state()


HANDLERS: dict[str, Handler[Any]] = {
    "pick": Handler(Pick, pick),
    "pick_box": Handler(PickBox, pick_box),
    "show": Handler(Features, show),
    "alike": Handler(Alike, alike),
    "pick_where": Handler(PickWhere, pick_where),
    "neighbour": Handler(Neighbour, neighbour),
    "delete": Handler(Selection, delete),
    "undo": Handler(Message, undo),
    "redo": Handler(Message, redo),
    "state": Handler(Message, state),
}

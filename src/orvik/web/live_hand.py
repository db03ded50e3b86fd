"""What is in hand: taken by a click, by a box, by what it has in common, or as the next of its kind."""

from __future__ import annotations

from ..core.errors import FeatureRefused
from ..core.feature import TABLES, Feature, Table
from .live import Answer, Handler, Live, feature_key, number_of, outline, place_of

# More than this in hand cannot be shown vertex by vertex.
MOST = 500


async def pick(live: Live, message: Answer) -> Answer:
    """The feature at the pointer."""
    x, y = place_of(message)
    found = live.workspace.index.pick(x, y, number_of(message["reach"]), live.workspace.tables_in_sight())
    return {"hand": live.outlines([found] if found else [])}


async def pick_box(live: Live, message: Answer) -> Answer:
    """All features that lie wholly in a box."""
    bounds = (
        number_of(message["west"]),
        number_of(message["south"]),
        number_of(message["east"]),
        number_of(message["north"]),
    )
    keys = live.workspace.index.within(bounds, live.workspace.tables_in_sight(), whole=True)
    return _many(live, keys)


async def show(live: Live, message: Answer) -> Answer:
    """Features as they are now."""
    return {"hand": live.outlines(feature_key(named) for named in message["features"])}


async def alike(live: Live, message: Answer) -> Answer:
    """All features that have the kind, the certainty and the unit of the one in hand."""
    table, number = feature_key(message["features"][0])
    like = live.workspace.project.feature(table, number)
    return _where(live, table, {"kind": like.kind, "certainty": like.certainty, "map_unit": like.map_unit})


async def pick_where(live: Live, message: Answer) -> Answer:
    """All features of a kind, with a certainty, a unit or a doubt where these are named."""
    table, _, kind = str(message.get("kind") or "").partition(":")
    if table not in TABLES or not kind:
        raise FeatureRefused("Choose a kind of feature to take in hand.")
    chosen: Table = next(t for t in TABLES if t == table)
    wanted: dict[str, str | bool | None] = {"kind": kind}
    wanted |= {name: str(message[name]) for name in ("certainty", "map_unit") if message.get(name)}
    if message.get("questionable") in ("yes", "no"):
        wanted["questionable"] = message["questionable"] == "yes"
    return _where(live, chosen, wanted)


def _where(live: Live, table: Table, wanted: dict[str, str | bool | None]) -> Answer:
    """Takes in hand what has all these values; what is hidden is not taken."""
    if table not in live.workspace.tables_in_sight():
        raise FeatureRefused("Nothing in sight is so; choose otherwise.")
    keys: list[tuple[Table, int]] = [(table, i) for i in live.workspace.project.ids_where(table, wanted, MOST + 1)]
    if not keys:
        raise FeatureRefused("Nothing in sight is so; choose otherwise.")
    return _many(live, keys)


async def neighbour(live: Live, message: Answer) -> Answer:
    """The next or the previous feature of the same kind, by number; round at the end."""
    table, number = feature_key(message["features"][0])
    project = live.workspace.project
    like = project.feature(table, number)
    chosen = project.neighbour_id(table, like.kind, number, bool(message.get("forward")))
    feature = project.feature(table, chosen or number)
    return {"hand": [outline(feature)], "at": _middle(feature)}


def _middle(feature: Feature) -> tuple[float, float]:
    if feature.table == "lines":
        point = feature.geometry.interpolate(0.5, normalized=True)
    else:
        point = feature.geometry.point_on_surface()
    return point.x, point.y


def _many(live: Live, keys: list[tuple[Table, int]]) -> Answer:
    if len(keys) > MOST:
        many = f"More than {MOST}" if len(keys) == MOST + 1 else f"{len(keys)}"
        raise FeatureRefused(f"{many} features are more than fit in a hand; take at most {MOST}.")
    return {"hand": live.outlines(keys)}


async def delete(live: Live, message: Answer) -> Answer:
    """Delete what is in hand."""
    features = live.own(message)
    name = features[0].name if len(features) == 1 else f"{len(features)} features"
    entry = await live.keep(f"delete {name}", [], [(f.table, f.id or 0) for f in features])
    return live.kept_answer(entry, [])


async def undo(live: Live, message: Answer) -> Answer:
    """Take back the last edit."""
    return {"kept": (await live.workspace.undo()).id}


async def redo(live: Live, message: Answer) -> Answer:
    """Carry it out again."""
    return {"kept": (await live.workspace.redo()).id}


async def state(live: Live, message: Answer) -> Answer:
    """What the strip shows, after a look at what other programs did."""
    await live.workspace.notice_outside()
    return live.workspace.state()


HANDLERS: dict[str, Handler] = {
    "pick": pick,
    "pick_box": pick_box,
    "show": show,
    "alike": alike,
    "pick_where": pick_where,
    "neighbour": neighbour,
    "delete": delete,
    "undo": undo,
    "redo": redo,
    "state": state,
}

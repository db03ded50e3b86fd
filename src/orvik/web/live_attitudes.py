"""Attitudes: one click and figures, or the strike drawn along the sign on the scan and a click on the dip side."""

from __future__ import annotations

from ..core.attitude import drawn_strike
from ..core.errors import FeatureRefused
from ..core.feature import Feature
from ..core.reading import parse_reading
from ..core.stroke import Vertex
from ..store.journal import Change, Made
from .inkwire import plain
from .live import Answer, Handler, Live, place_of, point_geometry, whole_of
from .notebook import station_named


def preview(live: Live, text: str, vertex: Vertex, dip_direction: bool = False) -> Answer:
    """The sign as it would be kept, as ink, and the reading in words."""
    pen = live.pen
    assert pen is not None
    attitude = parse_reading(text, dip_direction, pen.kind)
    sign = Feature(
        "points",
        point_geometry(vertex),
        pen.kind,
        id=0,
        azimuth=attitude.azimuth,
        inclination=attitude.inclination,
    )
    items = live.workspace.ink_of([sign])["attitudes"].items
    return {"sign": plain(items, vertex.place), "origin": vertex.place, "words": attitude.words, "text": attitude.text}


async def reading(live: Live, message: Answer) -> Answer:
    """What a reading that is being typed means."""
    if live.waiting is None:
        raise FeatureRefused("Click where the reading was taken first.")
    return preview(live, str(message["text"]), live.waiting, bool(message.get("dip_direction")))


async def station(live: Live, message: Answer) -> Answer:
    """Take a station of the notebook in hand: its place, for its reading to be kept there."""
    taken = station_named(live.workspace, whole_of(message["station"]))
    if live.pen is None or not live.workspace.book.needs_reading(live.pen.table, live.pen.kind):
        raise FeatureRefused("Take a pen for attitudes from the tray first.")
    live.waiting = Vertex(taken.x, taken.y, live.workspace.project.scales.digitizing)
    live.station = taken.id
    return {"waiting": live.waiting.place, **preview(live, taken.reading or "000/45", live.waiting)}


async def strike(live: Live, message: Answer) -> Answer:
    """The reading of a sign that is drawn over: along the strike, and a click on the side that it dips to."""
    if live.waiting is None:
        raise FeatureRefused("Click where the reading was taken first.")
    x, y = live.waiting.place
    places = [place_of({"x": a, "y": b}) for a, b in message["along"]]
    side = place_of(message)
    convergence = float(live.workspace.project.crs.convergence(x, y))
    azimuth = drawn_strike(places[0], places[-1], side, convergence)
    return {"azimuth": f"{azimuth:03d}"}


async def keep_reading(live: Live, message: Answer) -> Answer:
    """Keep the attitude that waits."""
    if live.waiting is None or live.pen is None:
        raise FeatureRefused("Click where the reading was taken first.")
    attitude = parse_reading(str(message["text"]), bool(message.get("dip_direction")), live.pen.kind)
    feature = Feature(
        "points",
        point_geometry(live.waiting),
        live.pen.kind,
        azimuth=attitude.azimuth,
        inclination=attitude.inclination,
        capture_scale=live.waiting.capture_scale,
        note=str(message.get("note") or ""),
    )
    also = []
    if live.station is not None:
        also.append(Change("stations", live.station, {"point_id": Made(0)}))
    entry = await live.keep(f"add {live.pen.kind.replace('_', ' ')} {attitude.text}", [feature], also=also)
    live.waiting, live.station = None, None
    return {"kept": entry.id, "words": attitude.words, "feature": {"table": "points", "id": entry.changes[0].id}}


HANDLERS: dict[str, Handler] = {"reading": reading, "station": station, "strike": strike, "keep_reading": keep_reading}

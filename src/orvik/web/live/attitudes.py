"""Attitudes: one click and figures, or the strike drawn along the symbol on the scan and a click on the dip side."""

from __future__ import annotations

from typing import Any

from orvik.core.drawing.drawing import Vertex
from orvik.core.errors import FeatureRefused
from orvik.core.features.attitude import drawn_strike
from orvik.core.features.feature import Feature
from orvik.core.features.kind import kind_of, kind_words
from orvik.core.features.reading import parse_reading
from orvik.store.journal import Change, Made
from orvik.usecases.compile.features import FeatureEdit
from orvik.usecases.compile.stations import station_by_id
from orvik.web.live.connection import Handler
from orvik.web.live.messages import KeepReading, Reading, Strike, TakeStation
from orvik.web.live.page_state import Answer, PageState, point_geometry
from orvik.web.session.ink_wire import as_json


def preview(page: PageState, text: str, vertex: Vertex, dip_direction: bool = False) -> Answer:
    """The symbol as it would be kept, as ink, and the reading in words."""
    pen = page.pen
    assert pen is not None
    attitude = parse_reading(text, dip_direction, pen.kind)
    symbol = Feature(
        "points",
        point_geometry(vertex),
        pen.kind,
        id=0,
        azimuth=attitude.azimuth,
        inclination=attitude.inclination,
    )
    items = page.space.symbol_ink(symbol)
    return {
        "symbol": as_json(items, vertex.place),
        "origin": vertex.place,
        "words": attitude.words,
        "text": attitude.text,
    }


async def reading(page: PageState, message: Reading) -> Answer:
    """What a reading that is being typed means."""
    if page.waiting is None:
        raise FeatureRefused("Click where the reading was taken first.")
    return preview(page, message.text, page.waiting, message.dip_direction)


async def station(page: PageState, message: TakeStation) -> Answer:
    """Take a station of the notebook selected: its place, for its reading to be kept there."""
    taken = station_by_id(page.space.project, message.station)
    if page.pen is None or not kind_of(page.pen.kind).reading:
        raise FeatureRefused("Choose a pen for attitudes from the tray first.")
    page.waiting = Vertex(taken.x, taken.y, page.space.project.scales.digitizing)
    page.station = taken.id
    shown = taken.reading or kind_of(page.pen.kind).first_reading
    return {"waiting": page.waiting.place, **preview(page, shown, page.waiting)}


async def strike(page: PageState, message: Strike) -> Answer:
    """The reading of a symbol that is drawn over: along the strike, and a click on the side that it dips to."""
    if page.waiting is None:
        raise FeatureRefused("Click where the reading was taken first.")
    x, y = page.waiting.place
    places, side = message.along, message.place
    convergence = float(page.space.project.crs.convergence(x, y))
    azimuth = drawn_strike(places[0], places[-1], side, convergence)
    return {"azimuth": f"{azimuth:03d}"}


async def keep_reading(page: PageState, message: KeepReading) -> Answer:
    """Keep the attitude that waits."""
    if page.waiting is None or page.pen is None:
        raise FeatureRefused("Click where the reading was taken first.")
    attitude = parse_reading(message.text, message.dip_direction, page.pen.kind)
    feature = Feature(
        "points",
        point_geometry(page.waiting),
        page.pen.kind,
        azimuth=attitude.azimuth,
        inclination=attitude.inclination,
        capture_scale=page.waiting.capture_scale,
        note=str(message.note or ""),
    )
    also = []
    if page.station is not None:
        also.append(Change("stations", page.station, {"point_id": Made(0)}))
    label = f"add {kind_words(page.pen.kind)} {attitude.text}"
    entry = await page.keep_edit(FeatureEdit(label, [feature], also=also))
    page.waiting, page.station = None, None
    return {"kept": entry.id, "words": attitude.words, "feature": {"table": "points", "id": entry.changes[0].id}}


HANDLERS: dict[str, Handler[Any]] = {
    "reading": Handler(Reading, reading),
    "station": Handler(TakeStation, station),
    "strike": Handler(Strike, strike),
    "keep_reading": Handler(KeepReading, keep_reading),
}

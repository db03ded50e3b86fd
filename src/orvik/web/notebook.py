"""The field notebook on the page: a table brought in with a preview, stations ticked off, and sent over HTTP."""

from __future__ import annotations

import asyncio
from dataclasses import dataclass
from typing import Annotated, Any

from fastapi import APIRouter, File, Form, Request, UploadFile
from pydantic import BaseModel, Field
from starlette.datastructures import FormData
from starlette.responses import JSONResponse, Response

from ..core.attitude import Attitude
from ..core.errors import FeatureRefused, FileRefused, NotFound, Stale
from ..core.notebook import KINDS, LEFT_OUT, NEAR_MM, Doubles, Station, Table, decoded, logged, read_table
from ..core.scale import on_ground
from ..store.journal import Change
from .pages import chest_of, page
from .workspace import Workspace

router = APIRouter(prefix="/p/{slug}/notebook")
LARGEST_TABLE = 4_000_000
# So many stations are listed; those that wait come first.
LISTED = 500


class SentStation(BaseModel):
    """A station as a field notebook sends it; longitude and latitude in degrees, WGS 84."""

    name: str = Field(max_length=60)
    longitude: float = Field(ge=-180, le=180)
    latitude: float = Field(ge=-90, le=90)
    kind: str = "bedding"
    azimuth: float | None = None
    inclination: float | None = None
    note: str = Field(default="", max_length=2000)


@dataclass(frozen=True)
class Ticked:
    """A station and the point that logs it, if there is one."""

    station: Station
    point: int | None


def stations_of(workspace: Workspace) -> list[Station]:
    """All stations of a project."""
    return [
        Station(r["name"], r["x"], r["y"], r["kind"], r["azimuth"], r["inclination"], r["note"], r["id"], r["point_id"])
        for r in workspace.project.stations()
    ]


def near_of(workspace: Workspace) -> float:
    """How near two places are the same, in project units."""
    project = workspace.project
    return on_ground(NEAR_MM, project.scales.publication) / project.crs.metres_per_unit


def ticked(workspace: Workspace) -> list[Ticked]:
    """Stations with what logs them on the map."""
    near = near_of(workspace)
    stations = stations_of(workspace)
    found = workspace.index.beside([(s.x, s.y) for s in stations], near, "points")
    wanted = {number for numbers in found for number in numbers} | {s.point_id for s in stations if s.point_id}
    points = workspace.project.whole("points", sorted(wanted))
    out = []
    for station, numbers in zip(stations, found, strict=True):
        names = [station.point_id, *numbers] if station.point_id else numbers
        around = [points[number] for number in dict.fromkeys(names) if number in points]
        out.append(Ticked(station, logged(station, around, near)))
    return out


def listing(workspace: Workspace) -> dict[str, Any]:
    """What the list of stations shows: all that wait, and as many of the others as one reads through."""
    rows = ticked(workspace)
    waiting = sum(1 for r in rows if r.point is None)
    shown = sorted(rows, key=lambda r: r.point is not None)[:LISTED]
    order = {id(r): i for i, r in enumerate(rows)}
    shown.sort(key=lambda r: order[id(r)])
    return {"logged_stations": shown, "left": waiting, "all_stations": len(rows)}


@router.get("")
async def notebook(request: Request, slug: str) -> Response:
    return _list(request, await chest_of(request).workspace(slug))


@router.post("/preview")
async def preview(
    request: Request,
    slug: str,
    table: Annotated[UploadFile | None, File()] = None,
    text: Annotated[str, Form()] = "",
    name: Annotated[str, Form()] = "table",
) -> Response:
    """What a table would bring in, as a file or again with answers; nothing is kept."""
    workspace = await chest_of(request).workspace(slug)
    if table is not None and table.filename:
        data = await table.read(LARGEST_TABLE + 1)
        if len(data) > LARGEST_TABLE:
            raise FileRefused("This table is larger than 4 MB; bring it in in parts.")
        text, name = decoded(data), table.filename
    answers = _answers(await request.form())
    read = await _read(workspace, text, answers)
    choices = {kind: kind.replace("_", " ") for kind in sorted(set(KINDS.values()))} | {
        LEFT_OUT: "leave these rows out"
    }
    return page(
        request,
        "_notebook_preview.html",
        slug=slug,
        read=read,
        title=name[:60],
        text=text,
        answers=answers,
        choices=choices,
    )


def _answers(form: FormData) -> dict[str, str]:
    """What the words for kinds that a table has and nobody knows are said to mean."""
    allowed = {*KINDS.values(), LEFT_OUT}
    words = {key.removeprefix("word-"): str(value) for key, value in form.items() if key.startswith("word-")}
    told = {word: str(form.get(f"kind-{number}") or "") for number, word in words.items()}
    return {word: kind for word, kind in told.items() if kind in allowed}


async def _read(workspace: Workspace, text: str, answers: dict[str, str]) -> Table:
    return await asyncio.to_thread(
        read_table, text, workspace.project.crs, stations_of(workspace), near_of(workspace), answers
    )


@router.post("/keep")
async def keep(request: Request, slug: str, text: Annotated[str, Form()], name: Annotated[str, Form()]) -> Response:
    """Keep the new stations of a table that was looked at."""
    workspace = await chest_of(request).workspace(slug)
    read = await _read(workspace, text, _answers(await request.form()))
    if read.asks:
        words = ", ".join(f"“{word}”" if word else "an empty kind" for word, _ in read.asks[:5])
        raise FileRefused(f"Say first what kind of reading {words} is, or leave these rows out.")
    if not read.new:
        raise FileRefused("There is no new station in this table.")
    await workspace.apply(f"bring in {len(read.new)} stations from {name[:60]}", [_change(s) for s in read.new])
    return _list(request, workspace)


@router.post("/stations")
async def sent(request: Request, slug: str, station: SentStation) -> Response:
    """A station sent by a field notebook over HTTP."""
    workspace = await chest_of(request).workspace(slug)
    project = workspace.project
    kind = station.kind if station.kind in KINDS.values() else ""
    if not kind:
        raise FeatureRefused(
            f"“{station.kind}” is no kind of reading; send one of {', '.join(sorted(set(KINDS.values())))}."
        )
    if (station.azimuth is None) != (station.inclination is None):
        raise FeatureRefused("A reading is an azimuth and an inclination; send both or neither.")
    if station.azimuth is not None and station.inclination is not None:
        Attitude(station.azimuth, station.inclination)
    x, y = (float(v) for v in project.crs.from_geographic(station.longitude, station.latitude))
    project.crs.check_place(x, y)
    made = Station(station.name, x, y, kind, station.azimuth, station.inclination, station.note)
    twin = Doubles(stations_of(workspace), near_of(workspace)).of(made)
    if twin:
        raise Stale(f"Station {made.name} was not taken: {twin}.")
    entry = await workspace.apply(f"take station {made.name} from the field notebook", [_change(made)])
    return JSONResponse({"kept": entry.id, "station": entry.changes[0].id}, 201)


@router.post("/{station_id}/remove")
async def remove(request: Request, slug: str, station_id: int) -> Response:
    """Take a station out of the list."""
    workspace = await chest_of(request).workspace(slug)
    station = station_named(workspace, station_id)
    await workspace.apply(f"remove station {station.name}", [Change("stations", station_id, None)])
    return _list(request, workspace)


def station_named(workspace: Workspace, station_id: int) -> Station:
    """A station by its number."""
    for station in stations_of(workspace):
        if station.id == station_id:
            return station
    raise NotFound("That station is no longer in the notebook.")


def _change(station: Station) -> Change:
    values = {
        "name": station.name,
        "x": station.x,
        "y": station.y,
        "kind": station.kind,
        "azimuth": station.azimuth,
        "inclination": station.inclination,
        "note": station.note,
        "point_id": station.point_id,
    }
    return Change("stations", None, values)


def _list(request: Request, workspace: Workspace) -> Response:
    return page(request, "_notebook.html", slug=workspace.slug, **listing(workspace))

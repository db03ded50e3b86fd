"""The field notebook on the page: a table brought in with a preview, stations ticked off, and sent over HTTP."""

from __future__ import annotations

import asyncio
from dataclasses import dataclass
from typing import Annotated, Any

from fastapi import APIRouter, File, Form, Request, UploadFile
from pydantic import BaseModel, Field
from starlette.datastructures import FormData
from starlette.responses import JSONResponse, Response

from orvik.core.errors import FileRefused
from orvik.core.features.station_table import (
    KINDS,
    LEFT_OUT,
    Station,
    decoded,
    logged,
)
from orvik.usecases.stations import keep_stations, near_of, read_stations, remove_station, take_station
from orvik.web.frame.pages import page
from orvik.web.session.dependencies import TheWorkspace
from orvik.web.session.workspace import Workspace

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


def ticked(workspace: Workspace) -> list[Ticked]:
    """Stations with what logs them on the map."""
    near = near_of(workspace.project)
    stations = workspace.project.stations()
    found = workspace.index.beside([(s.x, s.y) for s in stations], near, "points")
    wanted = {number for numbers in found for number in numbers} | {s.point_id for s in stations if s.point_id}
    points = workspace.project.whole("points", sorted(wanted))
    out = []
    for station, numbers in zip(stations, found, strict=True):
        names = [station.point_id, *numbers] if station.point_id else numbers
        around = [points[number] for number in dict.fromkeys(names) if number in points]
        out.append(Ticked(station, logged(station, around, near)))
    return out


async def listing(workspace: Workspace) -> dict[str, Any]:
    """What the list of stations shows: all that wait, and as many of the others as one reads through."""
    rows = await asyncio.to_thread(ticked, workspace)
    waiting = sum(1 for r in rows if r.point is None)
    shown = sorted(rows, key=lambda r: r.point is not None)[:LISTED]
    order = {id(r): i for i, r in enumerate(rows)}
    shown.sort(key=lambda r: order[id(r)])
    return {"logged_stations": shown, "left": waiting, "all_stations": len(rows)}


@router.get("")
async def notebook(request: Request, workspace: TheWorkspace) -> Response:
    return await _list(request, workspace)


@router.post("/preview")
async def preview(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    table: Annotated[UploadFile | None, File()] = None,
    text: Annotated[str, Form()] = "",
    name: Annotated[str, Form()] = "table",
) -> Response:
    """What a table would bring in, as a file or again with answers; nothing is kept."""
    if table is not None and table.filename:
        data = await table.read(LARGEST_TABLE + 1)
        if len(data) > LARGEST_TABLE:
            raise FileRefused("This table is larger than 4 MB; bring it in in parts.")
        text, name = decoded(data), table.filename
    answers = _answers(await request.form())
    read = await asyncio.to_thread(read_stations, workspace.project, text, answers)
    choices = {kind: kind.replace("_", " ") for kind in sorted(set(KINDS.values()))} | {
        LEFT_OUT: "leave these rows out"
    }
    return page(
        request,
        "compile/_notebook_preview.html",
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


@router.post("/keep")
async def post_stations(
    request: Request, workspace: TheWorkspace, text: Annotated[str, Form()], name: Annotated[str, Form()]
) -> Response:
    """Keep the new stations of a table that was looked at."""
    await workspace.carry_out(keep_stations, text, name, _answers(await request.form()))
    return await _list(request, workspace)


@router.post("/stations")
async def post_station(workspace: TheWorkspace, station: SentStation) -> Response:
    """A station sent by a field notebook over HTTP."""
    entry = await workspace.carry_out(take_station, **station.model_dump())
    return JSONResponse({"kept": entry.id, "station": entry.changes[0].id}, 201)


@router.post("/{station_id}/remove")
async def post_removal(request: Request, workspace: TheWorkspace, station_id: int) -> Response:
    """Take a station out of the list."""
    await workspace.carry_out(remove_station, station_id)
    return await _list(request, workspace)


async def _list(request: Request, workspace: Workspace) -> Response:
    return page(request, "compile/_notebook.html", slug=workspace.slug, **await listing(workspace))

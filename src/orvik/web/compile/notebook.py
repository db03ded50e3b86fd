"""The field notebook on the page: a table imported with a preview, stations ticked off, and sent over HTTP."""

from __future__ import annotations

import asyncio
from typing import Annotated, Any

from fastapi import APIRouter, File, Form, Request, UploadFile
from pydantic import BaseModel, Field
from starlette.datastructures import FormData
from starlette.responses import JSONResponse, Response

from orvik.core.errors import FileRefused
from orvik.core.features.kind import NOTED, USUAL_READING, kind_words
from orvik.core.features.station_table import (
    LEFT_OUT,
    decoded,
)
from orvik.usecases.compile.stations import keep_stations, read_stations, remove_station, take_station
from orvik.web.frame.pages import page
from orvik.web.session.dependencies import TheWorkers, TheWorkspace
from orvik.web.session.jobs import listed_notebook
from orvik.web.session.workers import Workers
from orvik.web.session.workspace import Workspace

router = APIRouter(prefix="/p/{slug}/notebook")
LARGEST_TABLE = 4_000_000
# What degrees of a table stand on: a system, or the project's own datum.
DegreesOn = Annotated[str, Form(max_length=20)]
# So many stations are listed; those that wait come first.
LISTED = 500


class SentStation(BaseModel):
    """A station as a field notebook sends it; longitude and latitude in degrees, WGS 84."""

    name: str = Field(max_length=60)
    longitude: float = Field(ge=-180, le=180)
    latitude: float = Field(ge=-90, le=90)
    kind: str = USUAL_READING
    azimuth: float | None = None
    inclination: float | None = None
    note: str = Field(default="", max_length=2000)


async def notebook_values(workspace: Workspace, workers: Workers) -> dict[str, Any]:
    """What the list of stations shows."""
    return {"notebook": await workers.run(listed_notebook, workspace.project.path, LISTED)}


@router.get("")
async def notebook(request: Request, workspace: TheWorkspace, workers: TheWorkers) -> Response:
    return await _list(request, workspace, workers)


@router.post("/preview")
async def preview(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    table: Annotated[UploadFile | None, File()] = None,
    text: Annotated[str, Form()] = "",
    name: Annotated[str, Form()] = "table",
    degrees_on: DegreesOn = "EPSG:4326",
) -> Response:
    """What a table would import, as a file or again with answers; nothing is kept."""
    if table is not None and table.filename:
        data = await table.read(LARGEST_TABLE + 1)
        if len(data) > LARGEST_TABLE:
            raise FileRefused("This table is larger than 4 MB; import it in parts.")
        text, name = decoded(data), table.filename
    answers = _answers(await request.form())
    read = await asyncio.to_thread(read_stations, workspace.project, text, answers, degrees_on)
    choices = {kind: kind_words(kind) for kind in NOTED} | {LEFT_OUT: "leave these rows out"}
    return page(
        request,
        "compile/_notebook_preview.html",
        slug=slug,
        read=read,
        title=name[:60],
        text=text,
        answers=answers,
        choices=choices,
        degrees_on=degrees_on,
        datum=workspace.project.crs.datum,
    )


def _answers(form: FormData) -> dict[str, str]:
    """What the words for kinds that a table has and nobody knows are said to mean."""
    allowed = {*NOTED, LEFT_OUT}
    words = {key.removeprefix("word-"): str(value) for key, value in form.items() if key.startswith("word-")}
    chosen = {word: str(form.get(f"kind-{number}") or "") for number, word in words.items()}
    return {word: kind for word, kind in chosen.items() if kind in allowed}


@router.post("/keep")
async def post_stations(
    request: Request,
    workspace: TheWorkspace,
    workers: TheWorkers,
    text: Annotated[str, Form()],
    name: Annotated[str, Form()],
    degrees_on: DegreesOn = "EPSG:4326",
) -> Response:
    """Keep the new stations of a table that was looked at."""
    await workspace.carry_out(keep_stations, text, name, _answers(await request.form()), degrees_on)
    return await _list(request, workspace, workers)


@router.post("/stations")
async def post_station(workspace: TheWorkspace, station: SentStation) -> Response:
    """A station sent by a field notebook over HTTP."""
    entry = await workspace.carry_out(take_station, **station.model_dump())
    return JSONResponse({"kept": entry.id, "station": entry.changes[0].id}, 201)


@router.post("/{station_id}/remove")
async def post_removal(request: Request, workspace: TheWorkspace, workers: TheWorkers, station_id: int) -> Response:
    """Take a station out of the list."""
    await workspace.carry_out(remove_station, station_id)
    return await _list(request, workspace, workers)


async def _list(request: Request, workspace: Workspace, workers: Workers) -> Response:
    return page(request, "compile/_notebook.html", slug=workspace.slug, **await notebook_values(workspace, workers))

"""Compile, a section under the map: its picture, which one it is, and what is asked of it."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Form, Query, Request
from pydantic import BaseModel, Field
from starlette.responses import PlainTextResponse, Response

from orvik.core.errors import FileRefused, StructureRefused
from orvik.core.structure.section.carried import FoldAxis
from orvik.core.structure.section.section import Section
from orvik.usecases.structure.section_drawing import follow_map, form_section
from orvik.usecases.structure.sections import ask_of_section
from orvik.web.frame.pages import page
from orvik.web.session.dependencies import TheWorkers, TheWorkspace
from orvik.web.session.section_picture import first_section, found_section, section_picture
from orvik.web.session.workers import Workers
from orvik.web.session.workspace import Workspace

router = APIRouter(prefix="/p/{slug}/section")
# Millimetres of a pixel of style sheets.
PX_MM = 25.4 / 96
# So many times as large as fits its room a section may be shown.
MOST_ZOOM = 32


class Room(BaseModel):
    """How large the picture may be, in pixels of the page."""

    width: Annotated[float, Field(ge=120, le=20_000)] = 780.0
    height: Annotated[float, Field(ge=60, le=20_000)] = 240.0
    zoom: Annotated[float, Field(ge=1, le=MOST_ZOOM)] = 1.0


class SectionForm(Room):
    """What is asked of a section, as it is typed."""

    exaggeration: Annotated[str, Field(max_length=20)] = "1"
    base: Annotated[str, Field(max_length=20)] = ""
    corridor: Annotated[str, Field(max_length=20)] = "250"
    axis: Annotated[str, Field(max_length=20)] = ""


@router.get("")
async def first(
    request: Request, slug: str, workspace: TheWorkspace, workers: TheWorkers, asked: Annotated[Room, Query()]
) -> Response:
    """The first section of the map, or how one comes about."""
    number = await workers.run(first_section, workspace.project.path)
    if number is None:
        return page(request, "compile/_section_none.html", slug=slug, why="")
    return await _shown(request, slug, workspace, workers, number, asked)


@router.get("/{line_id}")
async def section(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    workers: TheWorkers,
    line_id: int,
    asked: Annotated[Room, Query()],
) -> Response:
    """A section under the map."""
    return await _shown(request, slug, workspace, workers, line_id, asked)


@router.post("/{line_id}")
async def ask(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    workers: TheWorkers,
    line_id: int,
    form: Annotated[SectionForm, Form()],
) -> Response:
    """Keep what is asked of a section, and show it."""
    wanted = Section(
        line_id,
        _figure(form.exaggeration, "vertical exaggeration", "1"),
        _figure(form.base, "base", "-400") if form.base.strip() else None,
        _figure(form.corridor, "width", "250"),
        _axis(form.axis),
    )
    await workspace.carry_out(ask_of_section, wanted)
    return await _shown(request, slug, workspace, workers, line_id, form)


@router.post("/{line_id}/form")
async def form(workspace: TheWorkspace, workers: TheWorkers, line_id: int) -> Response:
    """Form the units of a section; says in words what was done."""
    found = await workers.run(found_section, workspace.project.path, line_id)
    formed = await workspace.section(line_id, found).carry_out(form_section, found)
    if formed is None:
        return PlainTextResponse("All its units are formed: they are as its lines, its tags and the map say.")
    return PlainTextResponse(f"{formed.new} units formed, {formed.changed} changed, {formed.deleted} gone.")


@router.post("/{line_id}/follow")
async def follow(workspace: TheWorkspace, workers: TheWorkers, line_id: int) -> Response:
    """Let a section follow its map, in one edit; says in words what was done."""
    found = await workers.run(found_section, workspace.project.path, line_id)
    entry = await workspace.section(line_id, found).carry_out(follow_map, found)
    if entry is None:
        return PlainTextResponse("Nothing has to follow: all ends meet the map, or what they met is no longer there.")
    moved = sum(change.table == "lines" for change in entry.changes)
    return PlainTextResponse(f"{moved} {'line follows' if moved == 1 else 'lines follow'} the map.")


async def _shown(
    request: Request, slug: str, workspace: Workspace, workers: Workers, line_id: int, asked: Room
) -> Response:
    path, width, height = workspace.project.path, asked.width * PX_MM, asked.height * PX_MM
    try:
        picture = await workers.run(section_picture, path, line_id, width, height, asked.zoom)
    except (StructureRefused, FileRefused) as refusal:
        # Without heights there is no picture, and the reason stands where it would be.
        return page(request, "compile/_section_none.html", slug=slug, why=refusal.sentence)
    workspace.section(line_id, picture.found)
    return page(
        request,
        "compile/_section.html",
        slug=slug,
        picture=picture,
        found=picture.found,
        asked=picture.found.section,
        asked_room=asked,
        scale=round(picture.scale, -2) or picture.scale,
    )


def _figure(text: str, what: str, example: str) -> float:
    try:
        return float(text.strip().replace("−", "-").replace(",", "."))
    except ValueError as error:
        raise StructureRefused(f"“{text}” is no figure for the {what}; type one such as {example}.") from error


def _axis(text: str) -> FoldAxis | None:
    """A fold axis as it is typed: its plunge and its trend, ``12 → 058`` or ``12/058``."""
    if not text.strip():
        return None
    plunge, _, trend = text.replace("→", "/").replace("->", "/").partition("/")
    if not trend.strip():
        raise StructureRefused(
            "A fold axis is its plunge and its trend, such as 12/058; nothing carries along strikes."
        )
    return FoldAxis(_figure(trend, "trend", "058"), _figure(plunge, "plunge", "12"))

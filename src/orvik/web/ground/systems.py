"""Ground, the choice of a coordinate system: the short list, own systems, and changing it later."""

from __future__ import annotations

import asyncio
import math
import shutil
import tempfile
from pathlib import Path
from typing import Annotated, Any

from fastapi import APIRouter, File, Form, Request, UploadFile
from pydantic import BaseModel
from starlette.responses import Response

from orvik.core.errors import CrsRefused
from orvik.core.ground import crs_build, crs_choice, crs_search, distortion, distortion_map
from orvik.core.ground.border import geographic_border
from orvik.core.ground.coordinates import parse_angle, parse_number
from orvik.core.ground.crs import ProjectCrs, project_crs
from orvik.core.ground.crs_change import CrsChange
from orvik.exchange.rasters import grids
from orvik.press.svg import fragment
from orvik.usecases.project.project import change_system
from orvik.usecases.project.relocation import Relocation, ground, relocation
from orvik.web.frame.pages import page, stage_page
from orvik.web.session.dependencies import TheProjectFolder, TheWorkspace
from orvik.web.session.workspace import Workspace

router = APIRouter()

# Millimetres of a picture on a card.
PICTURE = (46.0, 30.0)
WGS84_PLANE = "EPSG:3857"
# The ground around a place that is pointed at: about a sheet at 1:50 000.
PLACE_DEGREES = 0.25


class OwnSystem(BaseModel):
    """Parameters as typed, or a definition to paste."""

    method: str = ""
    name: str = ""
    base: str = crs_build.WGS84
    unit: str = "metre"
    latitude: str = ""
    longitude: str = ""
    parallel_1: str = ""
    parallel_2: str = ""
    scale: str = ""
    false_easting: str = ""
    false_northing: str = ""
    definition: str = ""


@router.get("/p/{slug}/systems")
async def systems(request: Request, workspace: TheWorkspace) -> Response:
    """The candidates for the project's ground, side by side."""
    here = ground(workspace.project)
    cards = await asyncio.to_thread(_cards, here) if here else []
    parameters = crs_build.proposed("lcc", here) if here else None
    return stage_page(
        request,
        workspace,
        "ground",
        template="ground/systems.html",
        cards=cards,
        here=here,
        methods=crs_build.METHODS,
        parameters=parameters,
        labels=crs_build.LABELS,
        units=crs_build.UNITS,
        legend=_legend(),
    )


@router.get("/p/{slug}/systems/search")
async def search(request: Request, slug: str, workspace: TheWorkspace, q: str = "") -> Response:
    here = ground(workspace.project)
    middle = ((here[0] + here[2]) / 2, (here[1] + here[3]) / 2) if here else None
    found = await asyncio.to_thread(crs_search.search, q, 12, middle) if q.strip() else []
    return page(request, "ground/_systems_found.html", found=found, asked=q.strip(), slug=slug)


@router.get("/p/{slug}/systems/parameters")
async def parameters(request: Request, slug: str, workspace: TheWorkspace, method: str = "lcc") -> Response:
    """The fields of a projection, with what is proposed for the ground."""
    here = ground(workspace.project)
    if method not in crs_build.METHODS:
        raise CrsRefused("There is no such projection; choose one from the list.")
    parameters = crs_build.proposed(method, here) if here else None
    return page(
        request,
        "ground/_own_system.html",
        slug=slug,
        parameters=parameters,
        method=crs_build.METHODS[method],
        labels=crs_build.LABELS,
        units=crs_build.UNITS,
    )


@router.post("/p/{slug}/systems/own")
async def try_own(request: Request, workspace: TheWorkspace, form: Annotated[OwnSystem, Form()]) -> Response:
    return await _report(request, workspace, _own(form))


@router.post("/p/{slug}/systems/try")
async def try_system(request: Request, workspace: TheWorkspace, crs: Annotated[str, Form()] = "") -> Response:
    """What a change to a system would do; nothing is changed."""
    return await _report(request, workspace, project_crs(crs))


@router.post("/p/{slug}/systems/change")
async def change(request: Request, slug: str, workspace: TheWorkspace, crs: Annotated[str, Form()] = "") -> Response:
    """Move the whole project; one entry, which undo takes back."""
    await workspace.carry_out(change_system, project_crs(crs))
    return Response(status_code=204, headers={"HX-Redirect": f"/p/{slug}/ground"})


@router.post("/p/{slug}/grids")
async def give_grid(
    request: Request,
    projects: TheProjectFolder,
    workspace: TheWorkspace,
    file: Annotated[UploadFile, File()],
    crs: Annotated[str, Form()] = "",
) -> Response:
    """A grid that a better datum shift needs; the change is then reckoned anew."""
    target = project_crs(crs)
    shift = CrsChange(workspace.project.crs, target, ground(workspace.project)).shift
    with tempfile.TemporaryDirectory() as temporary:
        path = Path(temporary) / Path(file.filename or "grid").name
        with path.open("wb") as out:
            await asyncio.to_thread(shutil.copyfileobj, file.file, out)
        await asyncio.to_thread(grids.taken_in, projects.folder, path, shift.grids)
    return await _report(request, workspace, target)


@router.get("/crs/ranked")
async def ranked(
    request: Request, corners: str = "grid", west: str = "", south: str = "", east: str = "", north: str = ""
) -> Response:
    """The short list for the ground that geographic corners of a new border name."""
    if corners != "geographic":
        raise CrsRefused("Choose geographic corners and type them: grid coordinates need a system first.")
    w, e = parse_angle(west, "longitude"), parse_angle(east, "longitude")
    s, n = parse_angle(south, "latitude"), parse_angle(north, "latitude")
    # The rules for corners are the border's own; any world-wide system can carry them out.
    geographic_border(project_crs(WGS84_PLANE), west, south, east, north)
    found = await asyncio.to_thread(crs_choice.short_list, (w, s, w + (e - w) % 360, n))
    return page(request, "home/_crs_ranked.html", found=found)


@router.get("/crs/here")
async def here(request: Request, ground_longitude: str = "", ground_latitude: str = "") -> Response:
    """The short list for the ground around a place that was pointed at or typed."""
    east, north = parse_angle(ground_longitude, "longitude"), parse_angle(ground_latitude, "latitude")
    half_height = PLACE_DEGREES / 2
    half_width = min(half_height / max(math.cos(math.radians(north)), 0.05), 5.0)
    south, top = max(north - half_height, -89.9), min(north + half_height, 89.9)
    found = await asyncio.to_thread(crs_choice.short_list, (east - half_width, south, east + half_width, top))
    return page(request, "home/_crs_ranked.html", found=found)


def _cards(here: distortion.Geographic) -> list[dict[str, Any]]:
    return [
        {"choice": choice, "svg": _svg(choice.crs, here, f"card-{i}")}
        for i, choice in enumerate(crs_choice.short_list(here, limit=7))
    ]


def _svg(crs: ProjectCrs, here: distortion.Geographic, prefix: str) -> str:
    width, height = PICTURE
    ink = fragment(distortion_map.picture(crs, here, width, height), prefix)
    return f'<svg class="system-picture" viewBox="0 0 {width:g} {height:g}" aria-hidden="true">{ink}</svg>'


def _legend() -> list[tuple[str, str]]:
    return [(colour, words) for (_, colour), words in zip(distortion_map.CLASSES, distortion_map.WORDS, strict=True)]


def _own(form: OwnSystem) -> ProjectCrs:
    if form.definition.strip():
        return project_crs(form.definition)
    if form.method not in crs_build.METHODS:
        raise CrsRefused("There is no such projection; choose one from the list.")
    values: dict[str, float] = {}
    for name in (*crs_build.METHODS[form.method].needs, "false_easting", "false_northing"):
        typed = getattr(form, name)
        if name == "longitude":
            values[name] = parse_angle(typed, "longitude")
        elif name in ("latitude", "parallel_1", "parallel_2"):
            values[name] = parse_angle(typed, "latitude")
        else:
            values[name] = parse_number(typed or "0", crs_build.LABELS[name].lower())
    made = crs_build.Parameters(form.method, base=form.base, unit=form.unit, name=form.name, **values)
    return crs_build.built(made)


async def _report(request: Request, workspace: Workspace, target: ProjectCrs) -> Response:
    here = ground(workspace.project)
    plan: Relocation = await asyncio.to_thread(relocation, workspace.project, target)
    return page(
        request,
        "ground/_system_report.html",
        slug=workspace.slug,
        project=workspace.project,
        plan=plan,
        distortion=distortion.over(target, here) if here else None,
        svg=_svg(target, here, "report") if here else "",
    )

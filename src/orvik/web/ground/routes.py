"""Ground: coordinate system, scales, border and underlays."""

from __future__ import annotations

import asyncio
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Form, Request
from starlette.responses import Response

from orvik.core.errors import CoordinateRefused, ScaleRefused
from orvik.core.ground import distortion
from orvik.core.ground.border import TypedCorners, corners_of, ground_of, series_corners
from orvik.core.ground.coordinates import parse_number
from orvik.core.ground.scale import Scales, parse_rungs, parse_scale, proposed_digitizing
from orvik.core.sheet.page.paper import families
from orvik.core.sheet.panels.panel import aimed
from orvik.core.sheet.templates.fitting import scale_fits
from orvik.core.sheet.templates.quadrangle import paper_for
from orvik.store.read_project import opened_for_reading
from orvik.usecases.ground.border import border_around, set_border
from orvik.usecases.project.project import set_scales
from orvik.usecases.project.relocation import ground as ground_in_degrees
from orvik.web.frame.pages import page, stage_page
from orvik.web.ground.neighbours import neighbour_facts
from orvik.web.ground.stack import old_files, set_aside, stack_rows
from orvik.web.home.routes import BorderForm
from orvik.web.session.dependencies import TheWorkspace
from orvik.web.session.workspace import Workspace

router = APIRouter(prefix="/p/{slug}")
LARGEST_VIEW = 4096


@router.get("/ground")
async def ground(request: Request, workspace: TheWorkspace) -> Response:
    workspace.ink.begin()
    return stage_page(
        request,
        workspace,
        "ground",
        **_facts(workspace),
        **neighbour_facts(workspace),
        stack=stack_rows(workspace),
        old_files=old_files(workspace),
        set_aside=set_aside(workspace),
        slips=True,
    )


@router.get("/ground/facts")
async def facts(request: Request, slug: str, workspace: TheWorkspace) -> Response:
    return page(request, "ground/_ground_facts.html", slug=slug, project=workspace.project, **_facts(workspace))


@router.post("/scales")
async def post_scales(
    request: Request,
    workspace: TheWorkspace,
    publication: Annotated[str, Form()],
    digitizing: Annotated[str, Form()] = "",
    rungs: Annotated[str, Form()] = "",
) -> Response:
    """Set the scales; without a digitizing scale, the one that the publication scale asks for."""
    denominator = parse_scale(publication)
    fine = parse_scale(digitizing) if digitizing.strip() else proposed_digitizing(denominator)
    scales = Scales(denominator, fine, parse_rungs(rungs))
    await workspace.carry_out(set_scales, scales)
    return Response(status_code=204, headers={"HX-Refresh": "true"})


@router.get("/scales/fits")
async def scales_that_fit(request: Request, slug: str, workspace: TheWorkspace, paper: str = "A3") -> Response:
    """The scales that the border allows on a paper."""
    border = workspace.project.border()
    if border is None:
        raise ScaleRefused("Set the sheet border first; then scales can be fitted to a paper.")
    found = scale_fits(border, workspace.project.crs, paper)
    return page(request, "ground/_scale_fits.html", slug=slug, found=found, scales=workspace.project.scales)


@router.get("/border/proposed")
async def proposed_border(request: Request, workspace: TheWorkspace, step: str = "15") -> Response:
    """Corner values around all features, or of the sheet of a series that holds the middle of the project's ground."""
    if step == "around":
        path = workspace.project.path

        def corners() -> TypedCorners:
            with opened_for_reading(path) as project:
                return border_around(project)

        typed = await asyncio.to_thread(corners)
        return page(request, "home/_border_fields.html", typed=typed, in_degrees=False)
    here = ground_in_degrees(workspace.project)
    if here is None:
        raise CoordinateRefused("There is no ground yet that a sheet of the series could hold; type one corner first.")
    minutes = parse_number(step, "series")
    values = series_corners((here[0] + here[2]) / 2, (here[1] + here[3]) / 2, minutes)
    return page(request, "home/_border_fields.html", typed=values, in_degrees=True)


@router.post("/border")
async def post_border(
    request: Request, slug: str, workspace: TheWorkspace, form: Annotated[BorderForm, Form()]
) -> Response:
    await workspace.carry_out(set_border, form.typed)
    project = workspace.project
    return page(request, "ground/_ground_facts.html", slug=slug, project=project, **_facts(workspace))


def _facts(workspace: Workspace) -> dict[str, Any]:
    """What the page says of the system over the border, and what paper the map would fill."""
    project = workspace.project
    border = project.border()
    if border is None:
        return {"border": None, "papers": families()}
    crs, scales = project.crs, project.scales
    west, south, east, north = border.bounds
    longitude, latitude = crs.to_geographic(np.array([west, east]), np.array([south, north]))
    _, width, height = aimed(border, scales.publication, crs)
    return {
        "border": border,
        "papers": families(),
        "geographic": (longitude[0], latitude[0], longitude[1], latitude[1]),
        "typed": corners_of(border, crs),
        "distortion": distortion.over(crs, ground_of(crs, border)),
        "paper": paper_for(width, height, "ISO A"),
        "map_size": (width, height),
    }

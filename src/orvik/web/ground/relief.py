"""Ground, how a grid of heights is shown, and the height at the pointer."""

from __future__ import annotations

import asyncio
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Form, Request
from pydantic import BaseModel
from starlette.responses import Response

from orvik.core.errors import ReliefRefused
from orvik.core.features.attitude import letters_of
from orvik.core.ground.coordinates import parse_number, parse_quantity
from orvik.core.ground.scale import spaced
from orvik.core.pictures.height_facts import UNIT_WORDS, HeightFacts
from orvik.core.pictures.relief import RAMPS, ReliefStyle
from orvik.core.pictures.source import Source
from orvik.exchange.rasters import elevation
from orvik.usecases.ground.sources import set_relief, state_heights
from orvik.usecases.ground.underlay_views import sound_copy
from orvik.web.frame.pages import page
from orvik.web.session.dependencies import TheProjectFolder, TheWorkers, TheWorkspace
from orvik.web.session.jobs import ground_of
from orvik.web.session.workspace import Workspace

router = APIRouter(prefix="/p/{slug}")


class ReliefForm(BaseModel):
    """A style as typed; switches that are off are not sent."""

    ramp: str = ""
    flipped: bool = False
    low: str = ""
    high: str = ""
    shade: bool = False
    azimuth: str = "315"
    altitude: str = "45"
    exaggeration: str = "1"
    around: bool = False
    contours: str = "0"


@router.post("/underlays/{source_id}/relief")
async def post_relief(
    request: Request, slug: str, workspace: TheWorkspace, source_id: int, form: Annotated[ReliefForm, Form()]
) -> Response:
    style = ReliefStyle(
        ramp=form.ramp,
        flipped=form.flipped,
        low=parse_number(form.low, "height") if form.low.strip() else None,
        high=parse_number(form.high, "height") if form.high.strip() else None,
        shade=form.shade,
        azimuth=parse_number(form.azimuth, "direction"),
        altitude=parse_number(form.altitude, "altitude"),
        exaggeration=parse_number(form.exaggeration, "number"),
        around=form.around,
        contours=parse_number(form.contours or "0", "interval"),
    )
    await workspace.carry_out(set_relief, source_id, style)
    source = workspace.project.source(source_id)
    return page(request, "ground/_relief.html", slug=slug, source=source, **await relief_values(workspace, source))


class HeightsForm(BaseModel):
    """What is stated of heights as typed; a switch that is off is not sent."""

    unit: str = "m"
    datum: str = ""
    error: str = "2.5"
    asked: bool = False


@router.post("/underlays/{source_id}/heights")
async def post_heights(
    request: Request, slug: str, workspace: TheWorkspace, source_id: int, form: Annotated[HeightsForm, Form()]
) -> Response:
    """State what a grid's heights are."""
    error = parse_quantity(form.error, "height", ReliefRefused)
    facts = HeightFacts(form.unit, form.datum.strip(), form.asked, error)
    await workspace.carry_out(state_heights, source_id, facts)
    source = workspace.project.source(source_id)
    return page(request, "ground/_relief.html", slug=slug, source=source, **await relief_values(workspace, source))


@router.get("/height")
async def height(
    request: Request, projects: TheProjectFolder, slug: str, workers: TheWorkers, x: float, y: float
) -> Response:
    """The height at a place in words and how the ground falls there, or nothing where none is known."""
    path = projects.path(slug)
    found = await workers.run(ground_of, path, x, y) if np.isfinite([x, y]).all() else None
    if found is None:
        return Response("", media_type="text/plain")
    words = f"{spaced(found.height, 1)} m"
    if found.slope is not None and found.towards is not None and round(found.slope):
        words += f", falls {found.slope:.0f}° {letters_of(found.towards)}"
    return Response(words, media_type="text/plain")


async def relief_values(workspace: Workspace, source: Source) -> dict[str, Any]:
    """What the slip of a grid of heights shows; nothing for other pictures."""
    if not source.relief:
        return {}
    path = sound_copy(workspace.project.path, source)
    low, high = await asyncio.to_thread(elevation.span, elevation.height_file(path, source))
    facts = HeightFacts.of_json(source.heights)
    style = ReliefStyle.of_json(source.relief)
    return {"style": style, "ramps": RAMPS, "low": low, "high": high, "facts": facts, "height_units": UNIT_WORDS}

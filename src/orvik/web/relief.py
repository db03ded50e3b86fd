"""Ground, how a grid of heights is shown, and the height at the pointer."""

from __future__ import annotations

import asyncio
import sqlite3
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Form, Request
from pydantic import BaseModel
from starlette.responses import Response

from ..core.coordinates import parse_number
from ..core.errors import NotFound
from ..core.relief import RAMPS, ReliefStyle
from ..core.scale import spaced
from ..exchange import elevation, raster_files
from ..store.journal import Change
from .pages import chest_of, page, workers_of
from .work import height_of
from .workspace import Workspace

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
async def set_relief(request: Request, slug: str, source_id: int, form: Annotated[ReliefForm, Form()]) -> Response:
    workspace = await chest_of(request).workspace(slug)
    workspace.refuse_locked_picture(source_id)
    source = workspace.project.source(source_id)
    if not source["relief"]:
        raise NotFound(f"{source['name']} holds no heights.")
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
    if style.json != source["relief"]:
        change = Change("sources", source_id, {"relief": style.json})
        await workspace.apply(f"show {source['name']} another way", [change])
    source = workspace.project.source(source_id)
    return page(request, "_relief.html", slug=slug, source=source, **await relief_values(workspace, source))


@router.get("/height")
async def height(request: Request, slug: str, x: float, y: float) -> Response:
    """The height at a place in words, or nothing where none is known."""
    path = chest_of(request).path(slug)
    found = await workers_of(request).run(height_of, path, x, y) if np.isfinite([x, y]).all() else None
    return Response(f"{spaced(found, 1)} m" if found is not None else "", media_type="text/plain")


async def relief_values(workspace: Workspace, source: sqlite3.Row) -> dict[str, Any]:
    """What the slip of a grid of heights shows; nothing for other pictures."""
    if not source["relief"]:
        return {}
    path = raster_files.beside(workspace.project.path, source["file"])
    low, high = await asyncio.to_thread(elevation.span, path)
    return {"style": ReliefStyle.of_json(source["relief"]), "ramps": RAMPS, "low": low, "high": high}

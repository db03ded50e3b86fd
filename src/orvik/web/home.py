"""Home: the plan chest, and a new project."""

from __future__ import annotations

import asyncio
from typing import Annotated

from fastapi import APIRouter, Form, Request
from pydantic import BaseModel
from starlette.responses import Response

from ..core import crs_search
from ..core.border import check_size, geographic_border, grid_border
from ..core.crs import project_crs
from ..core.edit import checked
from ..core.errors import CoordinateRefused
from ..core.feature import Feature
from ..core.scale import Scales, parse_scale, proposed_digitizing
from ..core.signs import catalogue
from ..demo.build import build
from ..store import rows
from .pages import chest_of, page, workers_of

router = APIRouter()


class BorderForm(BaseModel):
    """Corners of the sheet border as typed."""

    corners: str = "grid"
    west: str = ""
    south: str = ""
    east: str = ""
    north: str = ""

    @property
    def given(self) -> bool:
        values = [v.strip() for v in (self.west, self.south, self.east, self.north)]
        if any(values) and not all(values):
            raise CoordinateRefused("A border needs all four corner values: west, south, east and north.")
        return all(values)


class NewProject(BorderForm):
    """What the page of a new project asks for."""

    name: str = ""
    crs: str = ""
    publication: str = ""
    digitizing: str = ""


@router.get("/")
async def home(request: Request) -> Response:
    drawers = await asyncio.to_thread(chest_of(request).drawers)
    return page(request, "home.html", drawers=drawers)


@router.post("/demo")
async def lay_out_demo(request: Request) -> Response:
    """Make the demo project in this chest."""
    path = await workers_of(request).run(build, chest_of(request).folder)
    return Response(status_code=204, headers={"HX-Redirect": f"/p/{path.stem}/compile"})


@router.get("/new")
async def new(request: Request) -> Response:
    return page(request, "new.html")


@router.get("/crs")
async def find_crs(request: Request, q: str = "") -> Response:
    found = await asyncio.to_thread(crs_search.search, q) if q.strip() else []
    return page(request, "_crs_found.html", found=found, asked=q.strip())


@router.get("/digitizing")
async def propose(request: Request, publication: str = "") -> Response:
    # An empty field asks for nothing yet.
    digitizing = proposed_digitizing(parse_scale(publication)) if publication.strip() else None
    return page(request, "_digitizing.html", digitizing=digitizing)


@router.post("/new")
async def make(request: Request, form: Annotated[NewProject, Form()]) -> Response:
    crs = project_crs(form.crs)
    publication = parse_scale(form.publication)
    digitizing = parse_scale(form.digitizing) if form.digitizing.strip() else proposed_digitizing(publication)
    scales = Scales(publication, digitizing)
    border = None
    if form.given:
        corners = (form.west, form.south, form.east, form.north)
        line = (geographic_border if form.corners == "geographic" else grid_border)(crs, *corners)
        check_size(line, crs, scales.publication)
        feature = Feature("lines", line, "border", capture_scale=digitizing)
        border = checked(feature, crs, catalogue.standard(), set())
    chest = chest_of(request)
    slug = await asyncio.to_thread(chest.make, form.name.strip(), crs, scales)
    if border is not None:
        workspace = await chest.workspace(slug)
        change = rows.feature_change(border, workspace.project.srs_id)
        await workspace.apply("set the sheet border", [change])
    return Response(status_code=204, headers={"HX-Redirect": f"/p/{slug}/ground"})

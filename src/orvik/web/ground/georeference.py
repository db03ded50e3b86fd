"""Ground, georeferencing a scan: control points on both sides, and what the fit leaves over."""

from __future__ import annotations

import json
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Form, Request
from pydantic import BaseModel
from starlette.responses import Response

from orvik.core.errors import CoordinateRefused, FileRefused, FitRefused
from orvik.core.ground.coordinates import parse_angle, parse_number
from orvik.core.ground.crs import project_crs
from orvik.core.ground.crs_change import way_in
from orvik.core.ground.scale import on_sheet
from orvik.core.pictures.georeferencing import FIT_KINDS, LEAST, ControlPoint, ControlSet, Fit
from orvik.core.pictures.source import Source
from orvik.core.sheet.panels.reprojection import carried_place
from orvik.exchange.rasters import raster
from orvik.usecases.ground.sources import add_control_point, fitted, remove_control_point, set_fit, switch_control_point
from orvik.usecases.ground.underlay_views import sound_copy
from orvik.web.frame.pages import page, stage_page
from orvik.web.ground.stack import stack_rows
from orvik.web.session.dependencies import TheProjectFolder, TheWorkers, TheWorkspace
from orvik.web.session.jobs import scan_picture
from orvik.web.session.workspace import Workspace

router = APIRouter(prefix="/p/{slug}/underlays/{source_id}")

LARGEST_VIEW = 4096


class PointForm(BaseModel):
    """A control point as picked or typed: pixels, and ground in a stated system."""

    column: float
    row: float
    east: str
    north: str
    system: str = "project"


@router.get("/georeference")
async def georeference(request: Request, workspace: TheWorkspace, source_id: int) -> Response:
    source = workspace.project.source(source_id)
    width, height = raster.size(sound_copy(workspace.project.path, source))
    return stage_page(
        request,
        workspace,
        "ground",
        template="ground/georeference.html",
        source=source,
        width=width,
        height=height,
        stack=stack_rows(workspace),
        **_values(workspace, source),
    )


@router.get("/points")
async def points(request: Request, workspace: TheWorkspace, source_id: int) -> Response:
    return _table(request, workspace, source_id)


@router.post("/points")
async def post_point(
    request: Request, workspace: TheWorkspace, source_id: int, form: Annotated[PointForm, Form()]
) -> Response:
    x, y = _ground(workspace, workspace.project.source(source_id), form)
    if not np.isfinite([form.column, form.row]).all():
        raise FitRefused("That place is not on the picture; click on it again.")
    await workspace.carry_out(add_control_point, source_id, ControlPoint(form.column, form.row, x, y))
    return _table(request, workspace, source_id)


@router.post("/points/{number}/switch")
async def post_switch(request: Request, workspace: TheWorkspace, source_id: int, number: int) -> Response:
    await workspace.carry_out(switch_control_point, source_id, number)
    return _table(request, workspace, source_id)


@router.delete("/points/{number}")
async def delete_point(request: Request, workspace: TheWorkspace, source_id: int, number: int) -> Response:
    await workspace.carry_out(remove_control_point, source_id, number)
    return _table(request, workspace, source_id)


@router.post("/kind")
async def post_kind(
    request: Request, workspace: TheWorkspace, source_id: int, kind: Annotated[str, Form()]
) -> Response:
    await workspace.carry_out(set_fit, source_id, kind)
    return _table(request, workspace, source_id)


@router.get("/scan.png")
async def scan(
    request: Request,
    projects: TheProjectFolder,
    slug: str,
    workers: TheWorkers,
    source_id: int,
    left: float,
    top: float,
    right: float,
    bottom: float,
    width: int,
    height: int,
) -> Response:
    """A part of the scan as it lies, sharp at the size asked for."""
    if not (np.isfinite([left, top, right, bottom]).all() and left < right and top < bottom):
        raise FileRefused("This view has no extent.")
    if not (0 < width <= LARGEST_VIEW and 0 < height <= LARGEST_VIEW):
        raise FileRefused("This view is too large.")
    path = projects.path(slug)
    box = (left, top, right, bottom)
    data = await workers.run(scan_picture, path, source_id, box, width, height)
    return Response(data, media_type="image/png")


def _ground(workspace: Workspace, source: Source, form: PointForm) -> tuple[float, float]:
    """Where a typed or picked place is in the scan's own system."""
    crs = workspace.project.crs
    if form.system == "project":
        x, y = parse_number(form.east), parse_number(form.north)
    elif form.system == "geographic":
        longitude, latitude = parse_angle(form.east, "longitude"), parse_angle(form.north, "latitude")
        x, y = (float(v) for v in crs.from_geographic(longitude, latitude))
    else:
        try:
            x, y = parse_number(form.east), parse_number(form.north)
        except CoordinateRefused:
            x, y = parse_angle(form.east, "longitude"), parse_angle(form.north, "latitude")
        way = way_in(form.system.strip(), crs, workspace.project.middle())
        x, y = (float(v) for v in way.places(np.array([[x, y]]))[0])
    crs.check_place(x, y)
    if source.crs == crs.text:
        return x, y
    return carried_place(crs, project_crs(source.crs), (x, y))


def _values(workspace: Workspace, source: Source) -> dict[str, Any]:
    held = ControlSet.of_json(source.fit)
    found = fitted(held)
    publication = workspace.project.scales.publication
    rows: list[dict[str, Any]] = []
    for i, point in enumerate(held.points):
        row: dict[str, Any] = {"number": i + 1, "point": point}
        if isinstance(found, Fit):
            metres = float(np.hypot(*found.residuals[i]))
            row |= {
                "arrow": found.pixel_residuals[i].tolist(),
                "pixels": float(np.hypot(*found.pixel_residuals[i])),
                "metres": metres,
                "sheet": on_sheet(metres, publication),
                "left_out": float(found.left_out[i]),
            }
        rows.append(row)
    drawn = [
        {
            "column": r["point"].column,
            "row": r["point"].row,
            "x": r["point"].x,
            "y": r["point"].y,
            "on": r["point"].on,
            "arrow": r.get("arrow"),
        }
        for r in rows
    ]
    return {
        "rows": rows,
        "held": held,
        "kinds": FIT_KINDS,
        "least": LEAST,
        "drawn": json.dumps(drawn),
        "fit": found if isinstance(found, Fit) else None,
        "untold": sum(point.on for point in held.points) == LEAST.get(held.kind),
        "why": found if isinstance(found, str) else "",
        "rms_sheet": on_sheet(found.rms, publication) if isinstance(found, Fit) else None,
    }


def _table(request: Request, workspace: Workspace, source_id: int) -> Response:
    source = workspace.project.source(source_id)
    return page(
        request, "ground/_control_points.html", slug=workspace.slug, source=source, **_values(workspace, source)
    )

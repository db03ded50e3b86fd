"""Ground, georeferencing a scan: control points on both sides, and what the fit leaves over."""

from __future__ import annotations

import json
import sqlite3
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Form, Request
from pydantic import BaseModel
from starlette.responses import Response

from ..core.coordinates import parse_angle, parse_number
from ..core.crs_change import converted
from ..core.errors import CoordinateRefused, FileRefused, FitRefused, NotFound
from ..core.georef import KINDS, LEAST, ControlPoint, ControlSet, Fit, fit, switched
from ..core.scale import on_sheet
from ..exchange import raster, raster_files
from ..store.journal import Change
from .ground import stack_rows
from .pages import chest_of, page, stage_page, workers_of
from .work import scan_picture
from .workspace import Workspace

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
async def georeference(request: Request, slug: str, source_id: int) -> Response:
    workspace = await chest_of(request).workspace(slug)
    source = workspace.project.source(source_id)
    width, height = raster.size(raster_files.beside(workspace.project.path, source["file"]))
    return stage_page(
        request,
        workspace,
        "ground",
        template="georeference.html",
        source=source,
        width=width,
        height=height,
        stack=stack_rows(workspace),
        **_values(workspace, source),
    )


@router.get("/points")
async def points(request: Request, slug: str, source_id: int) -> Response:
    workspace = await chest_of(request).workspace(slug)
    return _table(request, workspace, source_id)


@router.post("/points")
async def add_point(request: Request, slug: str, source_id: int, form: Annotated[PointForm, Form()]) -> Response:
    workspace = await chest_of(request).workspace(slug)
    source = workspace.project.source(source_id)
    held = ControlSet.of_json(source["fit"])
    x, y = _ground(workspace, source, form)
    if not np.isfinite([form.column, form.row]).all():
        raise FitRefused("That place is not on the picture; click on it again.")
    point = ControlPoint(form.column, form.row, x, y)
    if any((p.column, p.row) == (point.column, point.row) for p in held.points):
        raise FitRefused("There is a control point on that pixel already; remove it first, or click elsewhere.")
    return await _keep(request, workspace, source, ControlSet(held.kind, (*held.points, point)), "add control point")


@router.post("/points/{number}/switch")
async def switch_point(request: Request, slug: str, source_id: int, number: int) -> Response:
    workspace = await chest_of(request).workspace(slug)
    source = workspace.project.source(source_id)
    held = ControlSet.of_json(source["fit"])
    _known(held, number)
    changed = ControlSet(held.kind, tuple(switched(held.points, number)))
    return await _keep(request, workspace, source, changed, f"switch control point {number + 1}")


@router.delete("/points/{number}")
async def remove_point(request: Request, slug: str, source_id: int, number: int) -> Response:
    workspace = await chest_of(request).workspace(slug)
    source = workspace.project.source(source_id)
    held = ControlSet.of_json(source["fit"])
    _known(held, number)
    left = held.points[:number] + held.points[number + 1 :]
    return await _keep(request, workspace, source, ControlSet(held.kind, left), f"remove control point {number + 1}")


@router.post("/kind")
async def set_kind(request: Request, slug: str, source_id: int, kind: Annotated[str, Form()]) -> Response:
    workspace = await chest_of(request).workspace(slug)
    source = workspace.project.source(source_id)
    if kind not in KINDS:
        raise FitRefused("There is no such fit; choose one from the list.")
    return await _keep(
        request,
        workspace,
        source,
        ControlSet(kind, ControlSet.of_json(source["fit"]).points),
        f"fit by {kind}",
    )


@router.get("/scan.png")
async def scan(
    request: Request,
    slug: str,
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
    path = chest_of(request).path(slug)
    box = (left, top, right, bottom)
    data = await workers_of(request).run(scan_picture, path, source_id, box, width, height)
    return Response(data, media_type="image/png")


def _known(held: ControlSet, number: int) -> None:
    if not 0 <= number < len(held.points):
        raise NotFound("That control point is no longer there.")


def _ground(workspace: Workspace, source: sqlite3.Row, form: PointForm) -> tuple[float, float]:
    """Where a typed or picked place is in the scan's own system."""
    crs = workspace.project.crs
    if form.system == "project":
        x, y = parse_number(form.east), parse_number(form.north)
        crs.check_place(x, y)
        stated = crs.text
    elif form.system == "geographic":
        x, y = parse_angle(form.east, "longitude"), parse_angle(form.north, "latitude")
        stated = crs.geographic_text
    else:
        stated = form.system.strip()
        try:
            x, y = parse_number(form.east), parse_number(form.north)
        except CoordinateRefused:
            x, y = parse_angle(form.east, "longitude"), parse_angle(form.north, "latitude")
        crs.check_place(*converted(x, y, stated, crs.text))
    return converted(x, y, stated, source["crs"])


async def _keep(request: Request, workspace: Workspace, source: sqlite3.Row, held: ControlSet, label: str) -> Response:
    """Keep the points; the picture moves with them as soon as they hold a fit."""
    workspace.refuse_locked_picture(source["id"])
    values: dict[str, Any] = {"fit": held.json}
    found = _fitted(held)
    if isinstance(found, Fit):
        values["transform"] = found.mapping.json
    await workspace.apply(label, [Change("sources", source["id"], values)])
    return _table(request, workspace, source["id"])


def _fitted(held: ControlSet) -> Fit | str:
    """The fit, or the sentence that says why there is none yet."""
    try:
        return fit(held.points, held.kind)
    except FitRefused as refusal:
        return refusal.sentence


def _values(workspace: Workspace, source: sqlite3.Row) -> dict[str, Any]:
    held = ControlSet.of_json(source["fit"])
    found = _fitted(held)
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
        "kinds": KINDS,
        "least": LEAST,
        "drawn": json.dumps(drawn),
        "fit": found if isinstance(found, Fit) else None,
        "why": found if isinstance(found, str) else "",
        "rms_sheet": on_sheet(found.rms, publication) if isinstance(found, Fit) else None,
    }


def _table(request: Request, workspace: Workspace, source_id: int) -> Response:
    source = workspace.project.source(source_id)
    return page(request, "_control_points.html", slug=workspace.slug, source=source, **_values(workspace, source))

"""The boxes of a correlation, moved where they stand on the page."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Form, Request
from starlette.responses import Response

from orvik.usecases.sheet import correlations
from orvik.web.frame.pages import page
from orvik.web.session import part_jobs
from orvik.web.session.dependencies import TheWorkers, TheWorkspace
from orvik.web.session.workers import Workers
from orvik.web.session.workspace import Workspace
from orvik.web.sheet.parts import TypedForm

router = APIRouter(prefix="/p/{slug}/parts/{part_id}/boxes")


@router.get("")
async def get_boxes(
    request: Request, workspace: TheWorkspace, workers: TheWorkers, part_id: int, chosen: str = ""
) -> Response:
    return await _boxes(request, workspace, workers, part_id, chosen)


@router.post("/drag")
async def post_drag(
    request: Request,
    workspace: TheWorkspace,
    workers: TheWorkers,
    part_id: int,
    code: Annotated[str, Form()],
    right: Annotated[float, Form(allow_inf_nan=False)],
    down: Annotated[float, Form(allow_inf_nan=False)],
    hold: Annotated[str, Form()] = "whole",
) -> Response:
    await workspace.carry_out(correlations.drag_box, part_id, code, hold, (right, down))
    return await _boxes(request, workspace, workers, part_id, code)


@router.post("/change")
async def post_change(
    request: Request, workspace: TheWorkspace, workers: TheWorkers, part_id: int, typed: TypedForm
) -> Response:
    code = typed.get("code", "")
    lane, older, younger = (typed.get(name) for name in ("lane", "older", "younger"))
    await workspace.carry_out(correlations.change_box, part_id, code, lane, older, younger)
    return await _boxes(request, workspace, workers, part_id, code)


@router.post("/reset")
async def post_reset(
    request: Request,
    workspace: TheWorkspace,
    workers: TheWorkers,
    part_id: int,
    code: Annotated[str, Form()] = "",
) -> Response:
    """Have one box, or all, stand as they are laid out."""
    await workspace.carry_out(correlations.reset_boxes, part_id, code)
    return await _boxes(request, workspace, workers, part_id, code)


async def _boxes(request: Request, workspace: Workspace, workers: Workers, part_id: int, chosen: str = "") -> Response:
    view = await workers.run(part_jobs.correlation_boxes, workspace.project.path, part_id)
    return page(
        request,
        "sheet/_boxes.html",
        slug=workspace.slug,
        part=view.part,
        boxes=view.boxes,
        words=view.words,
        chosen=chosen,
        places=[{"key": b.unit.code, "x": b.x, "y": b.y, "width": b.width, "height": b.height} for b in view.boxes],
    )

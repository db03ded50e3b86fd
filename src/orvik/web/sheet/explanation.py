"""The rows of an explanation, changed where they stand on the page."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any

from fastapi import APIRouter, Form, Request
from starlette.responses import Response

from orvik.core.errors import NotFound
from orvik.usecases.sheet import explanations
from orvik.usecases.sheet.explanations import RowChange
from orvik.web.frame.pages import page
from orvik.web.session import part_jobs
from orvik.web.session.dependencies import TheWorkers, TheWorkspace
from orvik.web.session.workers import Workers
from orvik.web.session.workspace import Workspace
from orvik.web.sheet.parts import TypedForm

router = APIRouter(prefix="/p/{slug}")

# What is done to all rows at once, by the name that the page sends.
DEEDS: dict[str, Callable[..., Any]] = {
    "empty": explanations.empty_rows,
    "reset": explanations.reset_rows,
    "look": explanations.look_at_rows,
}


@router.get("/sheets/{sheet_id}/new-rows")
async def get_new_rows(
    request: Request, slug: str, workspace: TheWorkspace, workers: TheWorkers, sheet_id: int
) -> Response:
    """What the strip says of rows that have come new."""
    count = await workers.run(part_jobs.new_rows, workspace.project.path, sheet_id)
    return page(request, "sheet/_new_rows.html", count=count)


@router.get("/parts/{part_id}/rows")
async def get_rows(
    request: Request, workspace: TheWorkspace, workers: TheWorkers, part_id: int, chosen: str = ""
) -> Response:
    return await _rows(request, workspace, workers, part_id, chosen)


@router.post("/parts/{part_id}/rows/change")
async def post_row(
    request: Request, workspace: TheWorkspace, workers: TheWorkers, part_id: int, typed: TypedForm
) -> Response:
    key = typed.get("key", "")
    hidden = typed.get("hidden")
    change = RowChange(
        typed.get("name"),
        typed["text"].replace("\r\n", "\n") if "text" in typed else None,
        typed.get("heading"),
        None if hidden is None else hidden == "true",
    )
    await workspace.carry_out(explanations.change_row, part_id, key, change)
    return await _rows(request, workspace, workers, part_id, key)


@router.post("/parts/{part_id}/rows/move")
async def post_moved_row(
    request: Request,
    workspace: TheWorkspace,
    workers: TheWorkers,
    part_id: int,
    key: Annotated[str, Form()],
    where: Annotated[str, Form()],
) -> Response:
    await workspace.carry_out(explanations.move_row, part_id, key, where)
    return await _rows(request, workspace, workers, part_id, key)


@router.post("/parts/{part_id}/rows/add")
async def post_added_row(
    request: Request, workspace: TheWorkspace, workers: TheWorkers, part_id: int, key: Annotated[str, Form()] = ""
) -> Response:
    await workspace.carry_out(explanations.add_row, part_id, key)
    return await _rows(request, workspace, workers, part_id, key)


@router.post("/parts/{part_id}/rows/all/{deed}")
async def post_deed(
    request: Request, workspace: TheWorkspace, workers: TheWorkers, part_id: int, deed: str
) -> Response:
    if deed not in DEEDS:
        raise NotFound("There is no such thing to do.")
    await workspace.carry_out(DEEDS[deed], part_id)
    return await _rows(request, workspace, workers, part_id)


async def _rows(request: Request, workspace: Workspace, workers: Workers, part_id: int, chosen: str = "") -> Response:
    view = await workers.run(part_jobs.explanation_rows, workspace.project.path, part_id)
    return page(
        request,
        "sheet/_rows.html",
        slug=workspace.slug,
        part=view.part,
        rows=view.rows,
        hidden=view.hidden,
        new=view.new,
        offers=view.offers,
        words=view.layout.words,
        size="%.0f" % (view.layout.k * 100),
        columns=view.layout.columns,
        chosen=chosen,
        headings=sorted({row.heading for row in view.rows if row.heading}),
        boxes=[
            {"key": p.block.row.key, "x": p.x, "y": p.y, "width": p.width, "height": p.height}
            for p in view.layout.placed
            if p.block.row is not None
        ],
    )

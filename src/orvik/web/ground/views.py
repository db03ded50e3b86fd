"""Saved views: places and scales by name, to come back to."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Form, Request
from starlette.responses import Response

from orvik.usecases.ground.views import remove_view, save_view
from orvik.web.frame.pages import page
from orvik.web.session.dependencies import TheWorkspace
from orvik.web.session.workspace import Workspace

router = APIRouter(prefix="/p/{slug}/views")


@router.get("")
async def views(request: Request, workspace: TheWorkspace) -> Response:
    return _list(request, workspace)


@router.post("")
async def post_view(
    request: Request,
    workspace: TheWorkspace,
    x: Annotated[float, Form()],
    y: Annotated[float, Form()],
    denominator: Annotated[float, Form()],
    name: Annotated[str, Form()] = "",
) -> Response:
    await workspace.carry_out(save_view, name, x, y, denominator)
    return _list(request, workspace)


@router.delete("/{view_id}")
async def delete_view(request: Request, workspace: TheWorkspace, view_id: int) -> Response:
    await workspace.carry_out(remove_view, view_id)
    return _list(request, workspace)


def _list(request: Request, workspace: Workspace) -> Response:
    return page(request, "frame/_views.html", slug=workspace.slug, project=workspace.project, open=True)

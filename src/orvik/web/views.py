"""Saved views: places and scales by name, to come back to."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from fastapi import APIRouter, Form, Request
from starlette.responses import Response

from ..core.errors import CoordinateRefused, ScaleRefused
from ..core.scale import LARGEST_DENOMINATOR
from ..store.journal import Change
from .pages import chest_of, page
from .workspace import Workspace

router = APIRouter(prefix="/p/{slug}/views")


@router.get("")
async def views(request: Request, slug: str) -> Response:
    return _list(request, await chest_of(request).workspace(slug))


@router.post("")
async def save_view(
    request: Request,
    slug: str,
    x: Annotated[float, Form()],
    y: Annotated[float, Form()],
    denominator: Annotated[float, Form()],
    name: Annotated[str, Form()] = "",
) -> Response:
    workspace = await chest_of(request).workspace(slug)
    if not np.isfinite([x, y]).all():
        raise CoordinateRefused("This view is nowhere; move the map and try again.")
    if not 1 <= denominator <= LARGEST_DENOMINATOR:
        raise ScaleRefused("This view has no scale that could be kept.")
    known = [view["name"] for view in workspace.project.views()]
    title = name.strip()[:80] or f"View {len(known) + 1}"
    if title in known:
        raise ScaleRefused(f"There is a view {title} already; give another name.")
    values = {"name": title, "x": x, "y": y, "denominator": round(denominator), "position": len(known) + 1}
    await workspace.apply(f"save view {title}", [Change("views", None, values)])
    return _list(request, workspace)


@router.delete("/{view_id}")
async def remove_view(request: Request, slug: str, view_id: int) -> Response:
    workspace = await chest_of(request).workspace(slug)
    await workspace.apply("remove a saved view", [Change("views", view_id, None)])
    return _list(request, workspace)


def _list(request: Request, workspace: Workspace) -> Response:
    return page(request, "_views.html", slug=workspace.slug, project=workspace.project, open=True)

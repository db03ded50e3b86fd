"""Proof: the way out of a sheet to PDF and PNG."""

from __future__ import annotations

import re

from fastapi import APIRouter, Request
from starlette.responses import Response

from orvik.core.sheet.page import Sheet
from orvik.core.sheet.parts import essentials
from orvik.usecases.printing import sheet_pdf, sheet_png
from orvik.web.frame.pages import stage_page
from orvik.web.session.dependencies import TheChest, TheWorkers, TheWorkspace

router = APIRouter(prefix="/p/{slug}")

PREVIEW_DPI = 150.0


@router.get("/proof")
async def proof(request: Request, workspace: TheWorkspace, sheet: int | None = None) -> Response:
    project = workspace.project
    sheets = project.sheets()
    chosen = next((s for s in sheets if s.id == sheet), sheets[0] if sheets else None)
    parts = project.parts(chosen.id) if chosen and chosen.id else []
    return stage_page(
        request, workspace, "proof", sheets=sheets, sheet=chosen, parts=parts, essentials=essentials(parts)
    )


@router.get("/sheets/{sheet_id}/preview.png")
async def preview(request: Request, chest: TheChest, slug: str, workers: TheWorkers, sheet_id: int) -> Response:
    path = chest.path(slug)
    data = await workers.run(sheet_png, path, sheet_id, PREVIEW_DPI)
    return Response(data, media_type="image/png")


@router.get("/sheets/{sheet_id}/pdf")
async def pdf(request: Request, workspace: TheWorkspace, workers: TheWorkers, sheet_id: int) -> Response:
    sheet = workspace.project.sheet(sheet_id)
    data = await workers.run(sheet_pdf, workspace.project.path, sheet_id)
    return Response(data, media_type="application/pdf", headers=_named(sheet, "pdf"))


@router.get("/sheets/{sheet_id}/png")
async def png(
    request: Request, workspace: TheWorkspace, workers: TheWorkers, sheet_id: int, dpi: float = 300.0
) -> Response:
    sheet = workspace.project.sheet(sheet_id)
    data = await workers.run(sheet_png, workspace.project.path, sheet_id, dpi)
    return Response(data, media_type="image/png", headers=_named(sheet, "png"))


def _named(sheet: Sheet, ending: str) -> dict[str, str]:
    name = re.sub(r"[^A-Za-z0-9]+", "-", sheet.name).strip("-") or "sheet"
    return {"Content-Disposition": f'attachment; filename="{name}.{ending}"'}

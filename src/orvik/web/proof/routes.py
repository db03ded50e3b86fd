"""Proof: the ways out of a sheet."""

from __future__ import annotations

import asyncio
import re
import shutil
import tempfile
from pathlib import Path

from fastapi import APIRouter, Request
from starlette.background import BackgroundTask
from starlette.responses import FileResponse, Response

from orvik.core.errors import SheetRefused
from orvik.core.sheet.page import Sheet
from orvik.core.sheet.parts import essentials
from orvik.usecases.printing import FORMATS, PRINT_DPI, export_file, sheet_png
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
        request,
        workspace,
        "proof",
        sheets=sheets,
        sheet=chosen,
        parts=parts,
        essentials=essentials(parts),
        print_dpi=PRINT_DPI,
    )


@router.get("/sheets/{sheet_id}/preview.png")
async def preview(request: Request, chest: TheChest, slug: str, workers: TheWorkers, sheet_id: int) -> Response:
    path = chest.path(slug)
    data = await workers.run(sheet_png, path, sheet_id, PREVIEW_DPI)
    return Response(data, media_type="image/png")


@router.get("/sheets/{sheet_id}/file")
async def get_file(
    workspace: TheWorkspace, workers: TheWorkers, sheet_id: int, ending: str = "pdf", dpi: float = PRINT_DPI
) -> Response:
    """The sheet as a file: one of ``FORMATS``, by its ending; pictures have so many dots per inch."""
    sheet = workspace.project.sheet(sheet_id)
    if f".{ending}" not in FORMATS:
        raise SheetRefused(f"“{ending[:10]}” is no format of a sheet; choose {', '.join(FORMATS)}.")
    folder = await asyncio.to_thread(tempfile.mkdtemp, prefix="orvik-")
    leave = BackgroundTask(shutil.rmtree, folder, ignore_errors=True)
    target = Path(folder) / f"sheet.{ending}"
    try:
        await workers.run(export_file, workspace.project.path, sheet_id, target, dpi)
    except BaseException:
        await leave()
        raise
    return FileResponse(target, headers=_named(sheet, ending), background=leave)


def _named(sheet: Sheet, ending: str) -> dict[str, str]:
    name = re.sub(r"[^A-Za-z0-9]+", "-", sheet.name).strip("-") or "sheet"
    return {"Content-Disposition": f'attachment; filename="{name}.{ending}"'}

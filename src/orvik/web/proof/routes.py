"""Proof: the page, the sheet as it is printed, and the proof on paper."""

from __future__ import annotations

from fastapi import APIRouter, Request
from slugify import slugify
from starlette.responses import Response

from orvik.core.sheet.output.export_settings import ENDINGS, GROUPS, LINES, MADE_FOR, ExportSettings
from orvik.core.sheet.output.plotter import PAPERS, Plotter
from orvik.usecases.export.data_export import data_choices
from orvik.usecases.export.press_profile import press_name
from orvik.web.frame.pages import stage_page
from orvik.web.proof.export_routes import WHICH
from orvik.web.proof.notes import true_scale_words
from orvik.web.session import jobs
from orvik.web.session.dependencies import TheExportJobs, TheProjectFolder, TheWorkers, TheWorkspace

router = APIRouter(prefix="/p/{slug}")

PREVIEW_DPI, FINE_DPI = 150.0, 300.0


@router.get("/proof")
async def proof(
    request: Request, slug: str, workspace: TheWorkspace, export_jobs: TheExportJobs, sheet: int | None = None
) -> Response:
    project = workspace.project
    sheets = project.sheets()
    chosen = next((s for s in sheets if s.id == sheet), sheets[0] if sheets else None)
    exports = export_jobs.of(slug)
    return stage_page(
        request,
        workspace,
        "proof",
        sheets=sheets,
        sheet=chosen,
        true_scale=true_scale_words(project, chosen) if chosen else "",
        way=ExportSettings(),
        endings=ENDINGS,
        data=data_choices(),
        groups=GROUPS,
        made_for=MADE_FOR,
        press=press_name(workspace.project),
        lines=LINES,
        which=WHICH,
        plotter=Plotter(),
        papers=PAPERS,
        exports=exports,
        under_way=any(put.under_way for put in exports),
        jammed=export_jobs.jammed,
    )


@router.get("/sheets/{sheet_id}/preview.png")
async def preview(
    projects: TheProjectFolder, slug: str, workers: TheWorkers, sheet_id: int, fine: bool = False
) -> Response:
    """The sheet as it is printed; ``fine`` for looking at it enlarged."""
    path = projects.path(slug)
    data = await workers.run(jobs.sheet_png, path, sheet_id, FINE_DPI if fine else PREVIEW_DPI)
    return Response(data, media_type="image/png")


@router.get("/proof/marked.pdf")
async def get_marked(workspace: TheWorkspace, workers: TheWorkers, sheet: int) -> Response:
    """The proof on paper: the sheet with its marks, and a checklist to sign."""
    name = slugify(workspace.project.sheet(sheet).name, lowercase=False) or "sheet"
    data = await workers.run(jobs.marked_proof, workspace.project.path, sheet)
    headers = {"Content-Disposition": f'attachment; filename="{name}-proof.pdf"'}
    return Response(data, media_type="application/pdf", headers=headers)

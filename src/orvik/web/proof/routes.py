"""Proof: the page, the sheet as it is printed, and the proof on paper."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated

from fastapi import APIRouter, Form, Request
from slugify import slugify
from starlette.responses import Response

from orvik.core.errors import NotFound
from orvik.core.sheet.output.export_settings import ENDINGS, GROUPS, LINES, MADE_FOR, ExportSettings
from orvik.core.sheet.output.plotter import PAPERS, Plotter
from orvik.store.journal import Entry
from orvik.store.project import Project
from orvik.usecases.export.data_export import data_choices
from orvik.usecases.export.press_profile import press_name
from orvik.usecases.proof.margin_notes import take_proof
from orvik.web.frame.pages import page, stage_page
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


@router.post("/proof/marked")
async def post_marked(
    request: Request, slug: str, workspace: TheWorkspace, workers: TheWorkers, sheet: Annotated[int, Form()]
) -> Response:
    """Take a proof on paper: the sheet with its marks, and a checklist to sign; what it told is noted."""
    name = slugify(workspace.project.sheet(sheet).name, lowercase=False) or "sheet"
    proof = await workers.run(jobs.marked_proof, workspace.project.path, sheet)
    await workspace.carry_out(_note_proof, sheet, proof.keys)
    taken = workspace.proof.put_taken(f"{name}-proof.pdf", proof.data)
    return page(request, "proof/_taken.html", slug=slug, taken=taken)


@router.get("/proof/taken/{token}/{name}")
async def get_taken(workspace: TheWorkspace, token: str, name: str) -> Response:
    """The proof that was taken last."""
    taken = workspace.proof.taken
    if taken is None or (taken.token, taken.name) != (token, name):
        raise NotFound("That proof is no longer there; take it again.")
    headers = {"Content-Disposition": f'attachment; filename="{taken.name}"'}
    return Response(taken.data, media_type="application/pdf", headers=headers)


def _note_proof(project: Project, sheet: int, keys: Sequence[str]) -> Entry:
    return take_proof(project, sheet, keys, project.author)

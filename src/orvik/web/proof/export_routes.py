"""Exporting: exports begun, followed, cancelled, their files fetched; the plotter tray."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from fastapi import APIRouter, File, Form, Request, UploadFile
from starlette.responses import FileResponse, Response

from orvik.core.errors import FileRefused, NotFound, OrvikError
from orvik.core.sheet.output.export_settings import ENDINGS, PLATES, ExportRun, ExportSettings, file_names
from orvik.core.sheet.output.plotter import Plotter
from orvik.store.journal import Entry
from orvik.store.project import Project
from orvik.usecases.export.data_export import data_choices
from orvik.usecases.export.press_profile import LARGEST_PROFILE, give_profile, press_name
from orvik.usecases.proof.returned_notes import take_notes
from orvik.web.frame.pages import page
from orvik.web.session import jobs, press_jobs
from orvik.web.session.dependencies import TheExportJobs, TheProjectFolder, TheWorkers, TheWorkspace
from orvik.web.session.export_jobs import ExportJobs
from orvik.web.uploads import aside, laid_aside, name_of, thrown_away

router = APIRouter(prefix="/p/{slug}/exports")

# Which sheets an export is of.
WHICH = {"this": "this sheet", "all": "all sheets", "together": "all sheets in one file"}


@router.get("")
async def get_exports(request: Request, slug: str, export_jobs: TheExportJobs) -> Response:
    return _exports(request, slug, export_jobs)


@router.post("")
async def post_order(request: Request, slug: str, workspace: TheWorkspace, export_jobs: TheExportJobs) -> Response:
    """Export as the form says: a format with its choices, for this sheet or for all."""
    form = {name: str(value) for name, value in (await request.form()).items()}
    sheet, which = _whole(form.pop("sheet", "")), form.pop("which", "this")
    if which not in WHICH:
        raise NotFound("Choose which sheets to export.")
    typed = {name: text for name, text in form.items() if name in ExportSettings.entries()}
    # A box that is not ticked sends nothing.
    for box in ("trim_marks", "outlines", "drawn_out"):
        typed.setdefault(box, "false")
    way = ExportSettings().changed(ExportSettings().typed(typed))
    project = workspace.project
    sheets = [project.sheet(sheet)] if which == "this" else project.sheets()
    file_names(way.pattern, project.name, sheets, date.today())
    run = ExportRun(tuple(s.number for s in sheets), way, which == "together")
    title = f"{sheets[0].name if which == 'this' else WHICH[which]} · {ENDINGS[way.ending].split(',')[0]}"
    if way.ending in ("png", "tif", "jpg"):
        title += f" {way.dpi:g}"
    return _begun(request, slug, workspace.project, export_jobs, title, run)


@router.post("/profile")
async def post_profile(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    workers: TheWorkers,
    file: Annotated[UploadFile, File()],
    sheet: int | None = None,
) -> Response:
    """The profile of the press that the map is printed on."""
    data = await file.read(LARGEST_PROFILE + 1)
    kept = await workers.open_strange(press_jobs.press_profile, name_of(file), data)
    await workspace.carry_out(give_profile, kept)
    project = workspace.project
    shown = project.sheet(sheet) if sheet is not None else None
    return page(request, "proof/_press.html", slug=slug, press=press_name(project), sheet=shown)


@router.get("/plates/{sheet}/{plate}.png")
async def get_plate(workspace: TheWorkspace, workers: TheWorkers, sheet: int, plate: str) -> Response:
    """What one plate of the press prints of a sheet, or all of them together, as percentages of ink."""
    if plate not in (*PLATES, "all"):
        raise NotFound("There is no such plate.")
    return Response(
        await workers.run(press_jobs.plate_png, workspace.project.path, sheet, plate), media_type="image/png"
    )


@router.post("/data")
async def post_data(
    request: Request, slug: str, workspace: TheWorkspace, export_jobs: TheExportJobs, data: Annotated[str, Form()]
) -> Response:
    """Put the features out, or the whole project."""
    choices = data_choices()
    if data not in choices:
        raise FileRefused(f"“{data[:20]}” is not a format of data; choose {', '.join(choices)}.")
    run = ExportRun((), ExportSettings(), data=data)
    return _begun(request, slug, workspace.project, export_jobs, f"Data · {choices[data]}", run)


@router.post("/plot")
async def post_plot(request: Request, slug: str, workspace: TheWorkspace, export_jobs: TheExportJobs) -> Response:
    """Print a sheet with the plotter stand-in."""
    form = {name: str(value) for name, value in (await request.form()).items()}
    sheet = workspace.project.sheet(_whole(form.get("sheet", "")))
    typed = {name: text for name, text in form.items() if name in Plotter.entries()}
    plotter = Plotter().changed(Plotter().typed(typed))
    run = ExportRun((sheet.number,), ExportSettings(), plotter=plotter)
    return _begun(request, slug, workspace.project, export_jobs, f"{sheet.name} · plotter", run)


@router.post("/returned")
async def post_returned(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    projects: TheProjectFolder,
    workers: TheWorkers,
    sheet: Annotated[int, Form()],
    file: Annotated[UploadFile, File()],
) -> Response:
    """Compare a returned file with the sheet; it is laid aside, so that its edits can be applied."""
    token, path = await laid_aside(projects.folder, file)
    try:
        found = await workers.open_strange(jobs.compare_returned, workspace.project.path, sheet, path)
    except OrvikError:
        thrown_away(projects.folder, token)
        raise
    values = {"words": found.words, "edits": found.edits, "token": token, "sheet": sheet, "notes": found.notes}
    values["read_notes"] = found.read_notes
    return page(request, "proof/_returned.html", slug=slug, **values)


def _take_back(project: Project, sheet: int, data: bytes, name: str) -> Entry | None:
    """As the use case does, whose libraries are loaded when somebody first needs them."""
    from orvik.usecases.proof.returned import apply_returned

    return apply_returned(project, sheet, data, name)


@router.post("/returned/take")
async def post_taken_back(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    projects: TheProjectFolder,
    sheet: Annotated[int, Form()],
    token: Annotated[str, Form()],
) -> Response:
    """Take the edits of a file that was laid aside back into the sheet."""
    path = aside(projects.folder, token)
    entry = await workspace.carry_out(_take_back, sheet, path.read_bytes(), path.name)
    thrown_away(projects.folder, token)
    words = [f"Saved: {entry.label}."] if entry is not None else ["Nothing in it was moved or rewritten."]
    return page(request, "proof/_returned.html", slug=slug, words=words, edits=0)


@router.post("/returned/notes")
async def post_taken_notes(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    projects: TheProjectFolder,
    workers: TheWorkers,
    sheet: Annotated[int, Form()],
    token: Annotated[str, Form()],
) -> Response:
    """Take the notes that readers have left in a PDF into the project."""
    path = aside(projects.folder, token)
    found = await workers.open_strange(jobs.notes_returned, workspace.project.path, sheet, path)
    entry = await workspace.carry_out(take_notes, sheet, found, path.name)
    thrown_away(projects.folder, token)
    words = [f"Saved: {entry.label}."] if entry is not None else ["All of its notes are here already."]
    return page(request, "proof/_returned.html", slug=slug, words=words, edits=0)


@router.post("/jam")
async def post_jam(
    request: Request, slug: str, export_jobs: TheExportJobs, jammed: Annotated[bool, Form()] = False
) -> Response:
    """Jam or clear the tray: its state, and beside it the exports that it held up."""
    export_jobs.jam(jammed)
    return _exports(request, slug, export_jobs, "proof/_tray_state.html", beside=True)


@router.post("/{number}/again")
async def post_again(request: Request, slug: str, export_jobs: TheExportJobs, number: str) -> Response:
    export_jobs.again(slug, number)
    return _exports(request, slug, export_jobs)


@router.delete("/{number}")
async def delete_order(request: Request, slug: str, export_jobs: TheExportJobs, number: str) -> Response:
    export_jobs.remove(slug, number)
    return _exports(request, slug, export_jobs)


@router.get("/{number}/{name}")
async def get_file(slug: str, export_jobs: TheExportJobs, number: str, name: str) -> Response:
    return FileResponse(export_jobs.file(slug, number, name), filename=name)


def _whole(text: str) -> int:
    if not text.isascii() or not text.isdecimal():
        raise NotFound("Choose a sheet to export.")
    return int(text[:12])


def _begun(
    request: Request, slug: str, project: Project, export_jobs: ExportJobs, title: str, run: ExportRun
) -> Response:
    job = export_jobs.begin(slug, project.path, title, run)
    response = _exports(request, slug, export_jobs)
    response.headers["Orvik-Export"] = job.id
    return response


def _exports(
    request: Request, slug: str, export_jobs: ExportJobs, template: str = "proof/_exports.html", beside: bool = False
) -> Response:
    exports = export_jobs.of(slug)
    return page(
        request,
        template,
        slug=slug,
        exports=exports,
        under_way=any(job.under_way for job in exports),
        jammed=export_jobs.jammed,
        beside=beside,
    )

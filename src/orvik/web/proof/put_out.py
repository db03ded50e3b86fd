"""Putting out: orders begun, followed, cancelled, their files fetched; the plotter tray."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from fastapi import APIRouter, File, Form, Request, UploadFile
from starlette.responses import FileResponse, Response

from orvik.core.errors import NotFound, OrvikError
from orvik.core.sheet.output.export_settings import DATA, ENDINGS, Order, WayOut, file_names
from orvik.core.sheet.output.plotter import Plotter
from orvik.store.journal import Entry
from orvik.store.project import Project
from orvik.web.frame.pages import page
from orvik.web.session import jobs
from orvik.web.session.dependencies import TheChest, ThePutOuts, TheWorkers, TheWorkspace
from orvik.web.session.put_outs import PutOuts
from orvik.web.uploads import aside, laid_aside, thrown_away

router = APIRouter(prefix="/p/{slug}/put-out")

# Which sheets an order is of.
WHICH = {"this": "this sheet", "all": "all sheets", "together": "all sheets in one file"}


@router.get("")
async def get_orders(request: Request, slug: str, put_outs: ThePutOuts) -> Response:
    return _orders(request, slug, put_outs)


@router.post("")
async def post_order(request: Request, slug: str, workspace: TheWorkspace, put_outs: ThePutOuts) -> Response:
    """Put out as the form says: a format with its choices, for this sheet or for all."""
    form = {name: str(value) for name, value in (await request.form()).items()}
    sheet, which = _whole(form.pop("sheet", "")), form.pop("which", "this")
    if which not in WHICH:
        raise NotFound("Choose which sheets to put out.")
    typed = {name: text for name, text in form.items() if name in WayOut.entries()}
    # A box that is not ticked sends nothing.
    for box in ("trim_marks", "outlines", "drawn_out"):
        typed.setdefault(box, "false")
    way = WayOut().changed(WayOut().typed(typed))
    project = workspace.project
    sheets = [project.sheet(sheet)] if which == "this" else project.sheets()
    file_names(way.pattern, project.name, sheets, date.today())
    order = Order(tuple(s.id or 0 for s in sheets), way, which == "together")
    title = f"{sheets[0].name if which == 'this' else WHICH[which]} · {ENDINGS[way.ending].split(',')[0]}"
    if way.ending in ("png", "tif", "jpg"):
        title += f" {way.dpi:g}"
    return _begun(request, slug, workspace.project, put_outs, title, order)


@router.post("/data")
async def post_data(
    request: Request, slug: str, workspace: TheWorkspace, put_outs: ThePutOuts, data: Annotated[str, Form()]
) -> Response:
    """Put the features out, or the whole project."""
    order = Order((), WayOut(), data=data)
    return _begun(request, slug, workspace.project, put_outs, f"Data · {DATA[data]}", order)


@router.post("/plot")
async def post_plot(request: Request, slug: str, workspace: TheWorkspace, put_outs: ThePutOuts) -> Response:
    """Print a sheet with the plotter stand-in."""
    form = {name: str(value) for name, value in (await request.form()).items()}
    sheet = workspace.project.sheet(_whole(form.get("sheet", "")))
    typed = {name: text for name, text in form.items() if name in Plotter.entries()}
    plotter = Plotter().changed(Plotter().typed(typed))
    order = Order((sheet.id or 0,), WayOut(), plotter=plotter)
    return _begun(request, slug, workspace.project, put_outs, f"{sheet.name} · plotter", order)


@router.post("/returned")
async def post_returned(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    chest: TheChest,
    workers: TheWorkers,
    sheet: Annotated[int, Form()],
    file: Annotated[UploadFile, File()],
) -> Response:
    """Compare a file that has come back with the sheet; it is laid aside, so that its edits can be taken back."""
    token, path = await laid_aside(chest.folder, file)
    try:
        found = await workers.open_strange(jobs.compare_returned, workspace.project.path, sheet, path)
    except OrvikError:
        thrown_away(chest.folder, token)
        raise
    values = {"words": found.words, "edits": found.edits, "token": token, "sheet": sheet}
    return page(request, "proof/_returned.html", slug=slug, **values)


def _take_back(project: Project, sheet: int, data: bytes, name: str) -> Entry | None:
    """As the use case does, whose libraries are loaded when somebody first needs them."""
    from orvik.usecases.proof.returned import take_back

    return take_back(project, sheet, data, name)


@router.post("/returned/take")
async def post_taken_back(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    chest: TheChest,
    sheet: Annotated[int, Form()],
    token: Annotated[str, Form()],
) -> Response:
    """Take the edits of a file that was laid aside back into the sheet."""
    path = aside(chest.folder, token)
    entry = await workspace.carry_out(_take_back, sheet, path.read_bytes(), path.name)
    thrown_away(chest.folder, token)
    words = [f"Kept: {entry.label}."] if entry is not None else ["Nothing in it was moved or rewritten."]
    return page(request, "proof/_returned.html", slug=slug, words=words, edits=0)


@router.post("/jam")
async def post_jam(
    request: Request, slug: str, put_outs: ThePutOuts, jammed: Annotated[bool, Form()] = False
) -> Response:
    """Jam or clear the tray: its state, and beside it the orders that it held up."""
    put_outs.jam(jammed)
    return _orders(request, slug, put_outs, "proof/_tray_state.html", beside=True)


@router.post("/{number}/again")
async def post_again(request: Request, slug: str, put_outs: ThePutOuts, number: str) -> Response:
    put_outs.again(slug, number)
    return _orders(request, slug, put_outs)


@router.delete("/{number}")
async def delete_order(request: Request, slug: str, put_outs: ThePutOuts, number: str) -> Response:
    put_outs.remove(slug, number)
    return _orders(request, slug, put_outs)


@router.get("/{number}/{name}")
async def get_file(slug: str, put_outs: ThePutOuts, number: str, name: str) -> Response:
    return FileResponse(put_outs.file(slug, number, name), filename=name)


def _whole(text: str) -> int:
    if not text.isascii() or not text.isdecimal():
        raise NotFound("Choose a sheet to put out.")
    return int(text[:12])


def _begun(request: Request, slug: str, project: Project, put_outs: PutOuts, title: str, order: Order) -> Response:
    put = put_outs.begin(slug, project.path, title, order)
    response = _orders(request, slug, put_outs)
    response.headers["Orvik-Order"] = put.id
    return response


def _orders(
    request: Request, slug: str, put_outs: PutOuts, template: str = "proof/_orders.html", beside: bool = False
) -> Response:
    orders = put_outs.of(slug)
    return page(
        request,
        template,
        slug=slug,
        orders=orders,
        under_way=any(put.under_way for put in orders),
        jammed=put_outs.jammed,
        beside=beside,
    )

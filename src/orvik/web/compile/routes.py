"""Compile: the map and its pens."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Form, Request
from starlette.responses import PlainTextResponse, Response

from orvik.core.features.kind import SECTION_LINE, USUAL_READING
from orvik.core.symbols.pen import Pen
from orvik.usecases.compile.forming import carry_out_forming, taken_words
from orvik.usecases.compile.pens import keys_of, set_key
from orvik.web.compile.notebook import notebook_values
from orvik.web.compile.slips import choices
from orvik.web.frame.pages import page, stage_page
from orvik.web.ground.stack import stack_rows
from orvik.web.session.dependencies import TheWorkers, TheWorkspace
from orvik.web.session.workspace import Workspace
from orvik.web.symbols.swatches import pen_swatch

router = APIRouter(prefix="/p/{slug}")
# So many of the places are shown where tags would take ground; all of them are findings.
MOST_PLACES = 6


@router.get("/compile")
async def compile_page(request: Request, workspace: TheWorkspace, workers: TheWorkers) -> Response:
    workspace.ink.begin()
    return stage_page(
        request,
        workspace,
        "compile",
        pen_groups=_groups(workspace),
        stack=stack_rows(workspace),
        usual_reading=USUAL_READING,
        section_kind=SECTION_LINE,
        **choices(workspace),
        **await notebook_values(workspace, workers),
    )


@router.get("/pens")
async def pens(request: Request, slug: str, workspace: TheWorkspace) -> Response:
    return page(request, "compile/_pens.html", slug=slug, pen_groups=_groups(workspace))


def _groups(workspace: Workspace) -> dict[str, list[tuple[Pen, str]]]:
    """Pens by their group, each with its swatch; custom kinds last."""
    groups: dict[str, list[tuple[Pen, str]]] = {}
    for pen in workspace.book.pens:
        groups.setdefault(pen.group, []).append((pen, pen_swatch(workspace.book, pen)))
    groups.setdefault("Custom kinds", [])
    return groups


@router.post("/form-units")
async def post_form_units(workspace: TheWorkspace, take: bool = False) -> Response:
    """Build unit areas from linework and tags, where they are not so yet; says in words what was done.

    Faces whose tags would take ground from other units wait until that has been seen, and are asked for by ``take``.
    The header ``Orvik-Waiting`` counts them.
    """
    report = await workspace.forming_report()
    if not report.faces:
        return PlainTextResponse("There is no face to form: the lines close none yet.")
    formed = await workspace.carry_out(carry_out_forming, report, take)
    waiting = 0 if take else len(report.plan.takings)
    headers = {"Orvik-Waiting": str(waiting)}
    if waiting:
        begun = f"{formed.new} units formed, {formed.changed} changed. " if formed is not None else ""
        which = "One face waits: its tag says" if waiting == 1 else f"{waiting} faces wait: their tags say"
        return PlainTextResponse(f"{begun}{which} another unit than the areas there.", headers=headers)
    if formed is None and report.untagged:
        which = "One face has" if report.untagged == 1 else f"{report.untagged} faces have"
        return PlainTextResponse(f"{which} no unit tag yet; place one in each, then form the units.")
    if formed is None:
        return PlainTextResponse("All units are formed: they are as the lines and the tags say.")
    bands = formed.bands
    follow = f" {bands} {'band follows' if bands == 1 else 'bands follow'} them." if bands else ""
    return PlainTextResponse(f"{formed.new} units formed, {formed.changed} changed, {formed.deleted} replaced.{follow}")


@router.get("/form-units/takings")
async def takings(request: Request, slug: str, workspace: TheWorkspace) -> Response:
    """What tagged faces would take from other units, with the question whether they shall."""
    report = await workspace.forming_report()
    plan = report.plan
    said = taken_words(plan, workspace.project.crs.metres_per_unit)
    return page(request, "compile/_takings.html", slug=slug, said=said, places=plan.takings[:MOST_PLACES])


@router.get("/ink")
async def ink(request: Request, workspace: TheWorkspace) -> Response:
    return Response(await workspace.ink.get(), media_type="application/octet-stream")


@router.get("/labels")
async def labels(request: Request, workspace: TheWorkspace) -> Response:
    """All labels as ground ink."""
    return Response(await workspace.all_labels(), media_type="application/octet-stream")


@router.post("/tray/{kind}/{certainty}/key")
async def post_key(
    request: Request, slug: str, workspace: TheWorkspace, kind: str, certainty: str, key: Annotated[str, Form()] = ""
) -> Response:
    """Give a pen a key; the one that had it gets this one's."""
    name = f"{kind}-{certainty}"
    await workspace.carry_out(set_key, name, key)
    pen = workspace.book.pen(name)
    return page(request, "compile/_pen_key.html", slug=slug, pen=pen, keys=keys_of(pen.table))

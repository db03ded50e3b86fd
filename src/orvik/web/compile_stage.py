"""Compile: the map and its pens."""

from __future__ import annotations

from fastapi import APIRouter, Request
from starlette.responses import PlainTextResponse, Response

from ..core.attitude import LINEAR
from ..core.feature import TABLES
from ..core.signs.catalogue import Pen
from ..store.surveying import plan_changes
from .ground import stack_rows
from .notebook import listing
from .pages import chest_of, page, stage_page
from .slips import choices
from .swatches import dash_picture, pen_swatch
from .workspace import Workspace

router = APIRouter(prefix="/p/{slug}")


@router.get("/compile")
async def compile_page(request: Request, slug: str) -> Response:
    workspace = await chest_of(request).workspace(slug)
    workspace.foresee_ink()
    return stage_page(
        request,
        workspace,
        "compile",
        pen_groups=_groups(workspace),
        stack=stack_rows(workspace),
        **choices(workspace),
        **listing(workspace),
    )


@router.get("/pens")
async def pens(request: Request, slug: str) -> Response:
    workspace = await chest_of(request).workspace(slug)
    return page(request, "_pens.html", slug=slug, pen_groups=_groups(workspace))


def _groups(workspace: Workspace) -> dict[str, list[tuple[Pen, str]]]:
    """Pens by their group, each with its swatch; own kinds last."""
    groups: dict[str, list[tuple[Pen, str]]] = {}
    for pen in workspace.book.pens:
        groups.setdefault(pen.group, []).append((pen, pen_swatch(workspace.book, pen)))
    groups.setdefault("Own kinds", [])
    return groups


@router.post("/form-units")
async def form_units(request: Request, slug: str) -> Response:
    """Build unit areas from linework and tags, where they are not so yet; says in words what was done."""
    workspace = await chest_of(request).workspace(slug)
    workspace.refuse_locked("areas")
    plan, revision, faces, untagged = await workspace.plan()
    # Bands that give way are lines; where these are locked they stay as they are.
    locked = {table for table in TABLES if not workspace.may_touch(table)}
    changes = [c for c in plan_changes(workspace.project, plan) if c.table not in locked]
    if not faces:
        return PlainTextResponse("There is no face to form: the lines close none yet.")
    if not changes and untagged:
        which = "One face has" if untagged == 1 else f"{untagged} faces have"
        return PlainTextResponse(f"{which} no unit tag yet; place one in each, then form the units.")
    if not changes:
        return PlainTextResponse("All units are formed: they are as the lines and the tags say.")
    await workspace.apply("form units", changes, revision)
    new = sum(1 for f in plan.put if f.id is None)
    bands = sum(1 for c in changes if c.table == "lines")
    follow = f" {bands} {'band follows' if bands == 1 else 'bands follow'} them." if bands else ""
    return PlainTextResponse(f"{new} units formed, {len(plan.put) - new} changed, {len(plan.gone)} gave way.{follow}")


@router.get("/ink")
async def ink(request: Request, slug: str) -> Response:
    workspace = await chest_of(request).workspace(slug)
    return Response(await workspace.all_ink(), media_type="application/octet-stream")


@router.get("/slip/pen/{name}")
async def pen_slip(request: Request, slug: str, name: str) -> Response:
    workspace = await chest_of(request).workspace(slug)
    pen = workspace.book.pen(name)
    return page(
        request,
        "_slip_pen.html",
        pen=pen,
        slug=slug,
        needs_unit=pen.kind in ("unit_area", "unit_tag"),
        reading=workspace.book.needs_reading(pen.table, pen.kind),
        linear=pen.kind in LINEAR,
        own=workspace.book.own.get(pen.kind),
        values={},
        prefix="",
        logging=True,
        swatch=pen_swatch(workspace.book, pen, "slip"),
        dash=dash_picture(workspace.book, pen),
        units=[unit for _, unit in workspace.project.units()],
    )

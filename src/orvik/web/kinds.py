"""Own kinds: making a pen of one's own, with its fields and signs."""

from __future__ import annotations

import re
import unicodedata
from typing import Any

from fastapi import APIRouter, Request
from starlette.datastructures import FormData
from starlette.responses import Response

from ..core.errors import FeatureRefused, NotFound
from ..core.feature import TABLES, Table
from ..core.own_kinds import DASHES, NAMES, SHAPES, TYPES, FieldOfOwn, OwnKind, parse_choices
from ..store.books import kind_change, own_kinds
from ..store.journal import Change
from .pages import chest_of, page
from .workspace import Workspace

router = APIRouter(prefix="/p/{slug}/kinds")
MOST_FIELDS = 12


@router.get("/new")
async def new(request: Request, slug: str) -> Response:
    return _form(request, slug, None, None, 0)


@router.get("/{name}")
async def kind(request: Request, slug: str, name: str) -> Response:
    workspace = await chest_of(request).workspace(slug)
    row_id, found = _named(workspace, name)
    return _form(request, slug, row_id, found, workspace.project.kind_use(found.table, found.name))


@router.post("")
async def add(request: Request, slug: str) -> Response:
    """Make a kind."""
    workspace = await chest_of(request).workspace(slug)
    form = await request.form()
    label = str(form.get("label") or "").strip()
    name = re.sub(
        r"[^a-z0-9]+", "_", unicodedata.normalize("NFKD", label).encode("ascii", "ignore").decode().lower()
    ).strip("_")
    if any(name in workspace.book.kinds(table) for table in TABLES):
        raise FeatureRefused(f"There is a kind {label} already; choose another name.")
    table = str(form.get("table") or "points")
    if table not in TABLES:
        raise FeatureRefused("A kind is a point, a line or an area; choose one.")
    made = _from(form, name, table, len(own_kinds(workspace.project)) + 1)
    await workspace.apply(f"make kind {label}", [kind_change(None, made)])
    return _form(request, slug, *_found(workspace, made.name))


@router.post("/{name}")
async def change(request: Request, slug: str, name: str) -> Response:
    """Change a kind; features of it keep the fields that they have."""
    workspace = await chest_of(request).workspace(slug)
    row_id, old = _named(workspace, name)
    made = _from(await request.form(), old.name, old.table, old.position)
    gone = {f.name for f in old.fields} - {f.name for f in made.fields}
    if gone and workspace.project.kind_use(old.table, old.name):
        raise FeatureRefused(
            f"Features of this kind have {sorted(gone)[0]} filled in; keep the field, or delete them first."
        )
    if made != old:
        await workspace.apply(f"change kind {old.label}", [kind_change(row_id, made)])
    return _form(request, slug, *_found(workspace, name))


@router.delete("/{name}")
async def remove(request: Request, slug: str, name: str) -> Response:
    """Remove a kind that nothing is of."""
    workspace = await chest_of(request).workspace(slug)
    row_id, old = _named(workspace, name)
    used = workspace.project.kind_use(old.table, old.name)
    if used:
        raise FeatureRefused(f"{used} features are of this kind; delete them or give them another first.")
    await workspace.apply(f"remove kind {old.label}", [Change("kinds", row_id, None)])
    return page(request, "_slip_empty.html", slug=slug, with_foot=True)


def _from(form: FormData, name: str, table: Table, position: int) -> OwnKind:
    fields = []
    for i in range(MOST_FIELDS):
        called = str(form.get(f"field-{i}") or "").strip()
        if called:
            what = str(form.get(f"type-{i}") or "text")
            choices = parse_choices(str(form.get(f"choices-{i}") or "")) if what == "choice" else ()
            fields.append(FieldOfOwn(called, what, choices, form.get(f"required-{i}") == "true"))
    try:
        width = float(str(form.get("width") or "0.3").replace(",", "."))
    except ValueError as error:
        raise FeatureRefused("The width of a line is a number of millimetres, such as 0.3.") from error
    label = str(form.get("label") or "").strip()
    return OwnKind(
        name,
        label,
        table,
        str(form.get("colour") or "#7A3E9D"),
        str(form.get("shape") or "circle"),
        width,
        str(form.get("dash") or "solid"),
        tuple(fields),
        position,
    )


def _named(workspace: Workspace, name: str) -> tuple[int, OwnKind]:
    for row_id, found in own_kinds(workspace.project):
        if found.name == name:
            return row_id, found
    raise NotFound("That kind is no longer in the project.")


def _found(workspace: Workspace, name: str) -> tuple[int, OwnKind, int]:
    row_id, found = _named(workspace, name)
    return row_id, found, workspace.project.kind_use(found.table, found.name)


def _form(request: Request, slug: str, row_id: int | None, kind: OwnKind | None, used: int) -> Response:
    fields: list[dict[str, Any]] = []
    for one in kind.fields if kind else ():
        listed = ", ".join(f"{c.value} {c.colour}".strip() for c in one.choices)
        fields.append({"name": one.name, "kind": one.kind, "choices": listed, "required": one.required})
    fields += [{"name": "", "kind": "choice" if not fields else "text", "choices": "", "required": False}] * 2
    return page(
        request,
        "_kind.html",
        slug=slug,
        kind=kind,
        used=used,
        fields=fields[:MOST_FIELDS],
        families=NAMES,
        shapes=SHAPES,
        dashes=list(DASHES),
        types=TYPES,
    )

"""Own kinds: making a pen of one's own, with its fields and signs."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request
from slugify import slugify
from starlette.datastructures import FormData
from starlette.responses import Response

from orvik.core.errors import FeatureRefused
from orvik.core.features.feature import TABLES, Table
from orvik.core.features.own_kind import DASHES, NAMES, SHAPES, TYPES, FieldOfOwn, OwnKind, parse_choices
from orvik.core.ground.coordinates import parse_quantity
from orvik.usecases.kinds import add_kind, change_kind, kind_by_name, remove_kind
from orvik.web.frame.pages import page
from orvik.web.session.dependencies import TheWorkspace
from orvik.web.session.workspace import Workspace

router = APIRouter(prefix="/p/{slug}/kinds")
MOST_FIELDS = 12


@router.get("/new")
async def get_new_kind(request: Request, slug: str) -> Response:
    return _form(request, slug, None, 0)


@router.get("/{name}")
async def get_kind(request: Request, workspace: TheWorkspace, name: str) -> Response:
    return _kind_form(request, workspace, name)


@router.post("")
async def post_kind(request: Request, workspace: TheWorkspace) -> Response:
    """Make a kind."""
    form = await request.form()
    table = str(form.get("table") or "points")
    if table not in TABLES:
        raise FeatureRefused("A kind is a point, a line or an area; choose one.")
    kind = _typed(form, kind_name(str(form.get("label") or "")), table)
    await workspace.carry_out(add_kind, kind)
    return _kind_form(request, workspace, kind.name)


@router.post("/{name}")
async def post_changed_kind(request: Request, workspace: TheWorkspace, name: str) -> Response:
    """Change a kind; features of it keep the fields that they have."""
    _, old = kind_by_name(workspace.project, name)
    await workspace.carry_out(change_kind, _typed(await request.form(), old.name, old.table))
    return _kind_form(request, workspace, name)


@router.delete("/{name}")
async def delete_kind(request: Request, slug: str, workspace: TheWorkspace, name: str) -> Response:
    """Remove a kind that nothing is of."""
    await workspace.carry_out(remove_kind, name)
    return page(request, "compile/_slip_empty.html", slug=slug, with_foot=True)


def kind_name(label: str) -> str:
    """The name of a kind as features hold it: ``Peat cover`` is ``peat_cover``."""
    return slugify(label, separator="_")


def _typed(form: FormData, name: str, table: Table) -> OwnKind:
    fields = []
    for i in range(MOST_FIELDS):
        called = str(form.get(f"field-{i}") or "").strip()
        if called:
            what = str(form.get(f"type-{i}") or "text")
            choices = parse_choices(str(form.get(f"choices-{i}") or "")) if what == "choice" else ()
            fields.append(FieldOfOwn(called, what, choices, form.get(f"required-{i}") == "true"))
    width = parse_quantity(str(form.get("width") or "0.3"), "width in millimetres", FeatureRefused)
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
    )


def _kind_form(request: Request, workspace: Workspace, name: str) -> Response:
    _, kind = kind_by_name(workspace.project, name)
    return _form(request, workspace.slug, kind, workspace.project.kind_use(kind.table, kind.name))


def _form(request: Request, slug: str, kind: OwnKind | None, used: int) -> Response:
    fields: list[dict[str, Any]] = []
    for one in kind.fields if kind else ():
        listed = ", ".join(f"{c.value} {c.colour}".strip() for c in one.choices)
        fields.append({"name": one.name, "kind": one.kind, "choices": listed, "required": one.required})
    fields += [{"name": "", "kind": "choice" if not fields else "text", "choices": "", "required": False}] * 2
    return page(
        request,
        "compile/_kind.html",
        slug=slug,
        kind=kind,
        used=used,
        fields=fields[:MOST_FIELDS],
        families=NAMES,
        shapes=SHAPES,
        dashes=list(DASHES),
        types=TYPES,
    )

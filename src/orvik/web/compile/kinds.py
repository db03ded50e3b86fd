"""Custom kinds: making a pen of one's own, with its fields and symbols."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import zip_longest
from typing import Annotated, Any

from fastapi import APIRouter, Form, Request
from pydantic import BaseModel
from starlette.responses import Response

from orvik.core.errors import FeatureRefused
from orvik.core.features.custom_kind import (
    DASHES,
    NAMES,
    SHAPES,
    TYPES,
    CustomField,
    CustomKind,
    kind_name,
    parse_choices,
)
from orvik.core.features.table import TABLES, Table
from orvik.core.ground.coordinates import parse_quantity
from orvik.usecases.compile.kinds import LostValue, add_kind, change_kind, kind_by_name, lost_values, remove_kind
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


class KindForm(BaseModel):
    """A kind as typed. Fields come in columns: names, what they take, lists; and which must be filled."""

    label: str = ""
    table: str = "points"
    colour: str = "#7A3E9D"
    shape: str = "circle"
    width: str = "0.3"
    dash: str = "solid"
    field: list[str] = []
    type: list[str] = []
    choices: list[str] = []
    required: list[int] = []
    # What values of lists become that are in use and go: the field, the value, and the new one, row by row.
    lost_field: list[str] = []
    lost_value: list[str] = []
    becomes: list[str] = []

    @property
    def become(self) -> dict[tuple[str, str], str]:
        """By field and value."""
        return dict(zip(zip(self.lost_field, self.lost_value, strict=False), self.becomes, strict=False))

    def kind(self, name: str, table: Table) -> CustomKind:
        """The kind that was typed; raises FeatureRefused where it cannot be."""
        fields = []
        for i, (called, what, choices) in enumerate(zip_longest(self.field, self.type, self.choices, fillvalue="")):
            if called.strip() and i < MOST_FIELDS:
                listed = parse_choices(choices) if what == "choice" else ()
                fields.append(CustomField(called.strip(), what or "text", listed, i in self.required))
        width = parse_quantity(self.width, "width in millimetres", FeatureRefused)
        return CustomKind(name, self.label.strip(), table, self.colour, self.shape, width, self.dash, tuple(fields))


@router.post("")
async def post_kind(request: Request, workspace: TheWorkspace, form: Annotated[KindForm, Form()]) -> Response:
    """Make a kind."""
    if form.table not in TABLES:
        raise FeatureRefused("A kind is a point, a line or an area; choose one.")
    kind = form.kind(kind_name(form.label), form.table)
    await workspace.carry_out(add_kind, kind)
    return _kind_form(request, workspace, kind.name)


@router.post("/{name}")
async def post_changed_kind(
    request: Request, workspace: TheWorkspace, name: str, form: Annotated[KindForm, Form()]
) -> Response:
    """Change a kind, with what features of it have filled in; asks what becomes of values that lists lose."""
    _, old = kind_by_name(workspace.project, name)
    kind = form.kind(old.name, old.table)
    lost = lost_values(workspace.project, kind)
    if any((one.field, one.value) not in form.become for one in lost):
        return _form(request, workspace.slug, kind, workspace.project.kind_use(old.table, old.name), lost)
    await workspace.carry_out(change_kind, kind, form.become)
    return _kind_form(request, workspace, name)


@router.delete("/{name}")
async def delete_kind(request: Request, slug: str, workspace: TheWorkspace, name: str) -> Response:
    """Remove a kind that nothing is of."""
    await workspace.carry_out(remove_kind, name)
    return page(request, "compile/_slip_empty.html", slug=slug, with_foot=True)


def _kind_form(request: Request, workspace: Workspace, name: str) -> Response:
    _, kind = kind_by_name(workspace.project, name)
    return _form(request, workspace.slug, kind, workspace.project.kind_use(kind.table, kind.name))


def _form(request: Request, slug: str, kind: CustomKind | None, used: int, lost: Sequence[LostValue] = ()) -> Response:
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
        lost=lost,
        lists={f.name: [c.value for c in f.choices] for f in kind.fields} if kind else {},
        fields=fields[:MOST_FIELDS],
        families=NAMES,
        shapes=SHAPES,
        dashes=list(DASHES),
        types=TYPES,
    )

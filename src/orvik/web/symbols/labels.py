"""The bench of labels: moved, turned and hidden by hand on the map itself, and what the labels of kinds say."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Depends, Form, Request
from pydantic import BaseModel
from starlette.responses import Response

from orvik.core.errors import FeatureRefused, NotFound
from orvik.core.features.table import TABLES, Table
from orvik.core.ground.coordinates import parse_quantity
from orvik.core.labels.label_move import PUBLICATION, LabelMove
from orvik.core.labels.label_request import LabelKey
from orvik.core.labels.label_rule import ATTRIBUTES, LabelRule, LinePlacing
from orvik.store.tables.labels import label_moves
from orvik.usecases.sheet.labels import (
    LabelChange,
    LabelKind,
    change_label,
    give_all_back,
    give_back,
    label_kinds,
    moved_by_hand,
    remove_rule,
    set_rule,
)
from orvik.web.frame.pages import page, stage_page
from orvik.web.ground.stack import stack_rows
from orvik.web.session.dependencies import TheWorkers, TheWorkspace
from orvik.web.session.jobs import labels_on_sheets
from orvik.web.session.workspace import Workspace
from orvik.web.symbols.benches import bench_values

router = APIRouter(prefix="/p/{slug}/symbols/labels")
TABLE_WORDS: dict[Table, str] = {"areas": "Areas", "points": "Points", "lines": "Lines"}


class LabelForm(BaseModel):
    """What a hand does to a label: where its middle is to be, how it is turned, whether it is hidden."""

    x: str = ""
    y: str = ""
    angle: str = ""
    # Whether the form speaks of its turn: without an angle it is turned no longer.
    turning: bool = False
    hidden: str = ""
    scope: int = PUBLICATION

    def change(self) -> LabelChange:
        """What is to change; raises FeatureRefused where a figure is none."""
        at = None
        if self.x.strip() and self.y.strip():
            at = (parse_quantity(self.x, "place", FeatureRefused), parse_quantity(self.y, "place", FeatureRefused))
        typed = self.angle.strip().rstrip("°")
        angle = parse_quantity(typed, "turn of the label", FeatureRefused) if typed else None
        hidden = {"1": True, "0": False}.get(self.hidden)
        return LabelChange(at, angle, hidden, unturned=self.turning and not typed)


class RuleForm(BaseModel):
    """What the labels of a kind write, as typed."""

    table: str
    kind: str
    pattern: str = ""
    size: str = ""
    italic: str = ""
    placing: LinePlacing = "above"

    def rule(self) -> LabelRule:
        """As a rule; raises FeatureRefused where it cannot be."""
        height = parse_quantity(self.size.strip().removesuffix("mm"), "height of letters", FeatureRefused)
        return LabelRule(_table(self.table), self.kind, self.pattern.strip(), height, self.italic == "1", self.placing)


def _table(name: str) -> Table:
    for table in TABLES:
        if table == name:
            return table
    raise NotFound("Labels are of areas, lines and points.")


def _key(table: str, number: int, which: int) -> LabelKey:
    return LabelKey(_table(table), number, which)


# Which label an address means.
TheLabel = Annotated[LabelKey, Depends(_key)]


@router.get("")
async def get_labels(request: Request, workspace: TheWorkspace) -> Response:
    workspace.ink.begin()
    values = {**bench_values(workspace, "labels"), "stack": stack_rows(workspace), **_kinds(workspace)}
    return stage_page(request, workspace, "symbols", template="symbols/labels.html", **values)


@router.get("/places")
async def get_places(workspace: TheWorkspace) -> Response:
    """Where each label stands, as JSON; ``label_places`` says how."""
    return Response((await workspace.labels.get()).places, media_type="application/json")


@router.get("/lists")
async def get_lists(request: Request, slug: str, workspace: TheWorkspace) -> Response:
    """Labels without room, those that are hidden, and how many stand where a hand has put them."""
    written = await workspace.labels.get()
    values = {
        "without": [(LabelKey(*found.features[0]), found.message, found.at) for found in written.findings],
        "hidden": written.hidden,
        "moved": moved_by_hand(workspace.project),
        "scope": PUBLICATION,
    }
    return page(request, "symbols/_label_lists.html", slug=slug, **values)


@router.get("/lists/sheets")
async def get_sheet_lists(request: Request, slug: str, workspace: TheWorkspace, workers: TheWorkers) -> Response:
    """Labels without room on the panels of sheets, which cut areas and have scales of their own."""
    found = await workers.run(labels_on_sheets, workspace.project.path)
    return page(request, "symbols/_labels_on_sheets.html", slug=slug, sheets=found)


@router.post("/back")
async def post_all_back(workspace: TheWorkspace, scope: Annotated[int, Form()] = PUBLICATION) -> Response:
    """Give all labels back that stand by hand; the lists come anew with the labels."""
    await workspace.carry_out(give_all_back, scope)
    return Response(status_code=204)


@router.post("/kinds")
async def post_rule(
    request: Request, slug: str, workspace: TheWorkspace, form: Annotated[RuleForm, Form()]
) -> Response:
    """Say what the labels of a kind write, and how."""
    await workspace.carry_out(set_rule, form.rule())
    return page(request, "symbols/_label_kinds.html", slug=slug, opened=form.kind, **_kinds(workspace))


@router.post("/kinds/back")
async def post_rule_back(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    table: Annotated[str, Form()],
    kind: Annotated[str, Form()],
) -> Response:
    """Let the labels of a kind be as its symbol has them."""
    await workspace.carry_out(remove_rule, _table(table), kind)
    return page(request, "symbols/_label_kinds.html", slug=slug, opened=kind, **_kinds(workspace))


@router.get("/{table}/{number}/{which}")
async def get_label(
    request: Request, slug: str, workspace: TheWorkspace, key: TheLabel, scope: int = PUBLICATION
) -> Response:
    """The slip of a label."""
    return _slip(request, slug, workspace, key, scope)


@router.post("/{table}/{number}/{which}")
async def post_label(
    request: Request, slug: str, workspace: TheWorkspace, key: TheLabel, form: Annotated[LabelForm, Form()]
) -> Response:
    """Move a label to a place, turn it, hide it or show it."""
    await workspace.carry_out(change_label, key, form.change(), form.scope)
    return _slip(request, slug, workspace, key, form.scope)


@router.post("/{table}/{number}/{which}/back")
async def post_back(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    key: TheLabel,
    scope: Annotated[int, Form()] = PUBLICATION,
) -> Response:
    """Give a label back, so that it is placed automatically again."""
    await workspace.carry_out(give_back, key, scope)
    return _slip(request, slug, workspace, key, scope)


def _slip(request: Request, slug: str, workspace: Workspace, key: LabelKey, scope: int) -> Response:
    found = workspace.project.whole(key.table, [key.id]).get(key.id)
    if found is None:
        raise NotFound("What this label speaks of is no longer there.")
    moves = (m for _, m in label_moves(workspace.project) if m.key == key and m.scope == scope)
    move = next(moves, LabelMove(key, scope))
    return page(request, "symbols/_label_slip.html", slug=slug, key=key, whose=found.name, move=move, scope=scope)


def _kinds(workspace: Workspace) -> dict[str, Any]:
    groups: dict[str, list[LabelKind]] = {words: [] for words in TABLE_WORDS.values()}
    for kind in label_kinds(workspace.project):
        groups[TABLE_WORDS[kind.rule.table]].append(kind)
    return {"label_groups": groups, "attributes": ATTRIBUTES}

"""The bench of emphases: ranks, what belongs to each, and the map in the emphasis beside the map as it is."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import APIRouter, Form, Request
from starlette.responses import Response

from orvik.core.errors import SymbolRefused
from orvik.core.ground.coordinates import parse_quantity
from orvik.core.symbols.emphasis import RANKS, Emphasis, RankLook
from orvik.store.tables.emphasis import emphasis_rows
from orvik.usecases.sheet.panels import panels_of
from orvik.usecases.symbols import emphasis as use
from orvik.web.frame.pages import page, stage_page
from orvik.web.session import jobs
from orvik.web.session.dependencies import TheWorkers, TheWorkspace
from orvik.web.session.workspace import Workspace
from orvik.web.symbols.benches import bench_values

router = APIRouter(prefix="/p/{slug}/symbols/emphases")
RANK_WORDS = {"subject": "Subject", "companion": "Companion", "ground": "Ground"}


@router.get("")
async def get_emphases(request: Request, workspace: TheWorkspace, emphasis: str = "") -> Response:
    values = {**bench_values(workspace, "emphases"), **_values(workspace, emphasis)}
    return stage_page(request, workspace, "symbols", template="symbols/emphases.html", **values)


@router.post("")
async def post_emphasis(
    request: Request, slug: str, workspace: TheWorkspace, name: Annotated[str, Form()] = ""
) -> Response:
    """Begin an emphasis."""
    entry = await workspace.carry_out(use.begin_emphasis, name)
    return _bench(request, slug, workspace, (entry.changes[0].after or {})["name"])


@router.get("/bench")
async def get_bench(request: Request, slug: str, workspace: TheWorkspace, emphasis: str) -> Response:
    return _bench(request, slug, workspace, use.emphasis_named(workspace.project, emphasis).name)


@router.get("/pictures")
async def get_pictures(
    request: Request, slug: str, workspace: TheWorkspace, workers: TheWorkers, emphasis: str
) -> Response:
    """The map as it is and in the emphasis."""
    found = use.emphasis_named(workspace.project, emphasis)
    path = workspace.project.path
    pictures = [
        ("As it is", await workers.run(jobs.emphasis_picture, path, None, "map-is")),
        (f"In the emphasis {found.name}", await workers.run(jobs.emphasis_picture, path, found, "map-then")),
    ]
    return page(request, "symbols/_emphasis_pictures.html", slug=slug, pictures=pictures)


@router.post("/look")
async def post_look(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    emphasis: Annotated[str, Form()],
    rank: Annotated[int, Form()],
    lightness: Annotated[str, Form()] = "0",
    saturation: Annotated[str, Form()] = "100",
    opacity: Annotated[str, Form()] = "100",
) -> Response:
    """Change how a rank is drawn."""
    figures = (_figure(lightness, "lightness"), _figure(saturation, "saturation"), _figure(opacity, "opacity"))
    await workspace.carry_out(use.set_look, emphasis, rank, RankLook(*figures))
    return _body(request, slug, workspace, emphasis)


@router.post("/rank")
async def post_rank(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    emphasis: Annotated[str, Form()],
    item: Annotated[str, Form()],
    rank: Annotated[Literal["subject", "companion", "ground"], Form()],
) -> Response:
    """Give a unit or a kind a rank."""
    await workspace.carry_out(use.set_rank, emphasis, item, rank)
    return _body(request, slug, workspace, emphasis)


@router.post("/panel")
async def post_panel(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    emphasis: Annotated[str, Form()],
    part: Annotated[int, Form()],
    on: Annotated[bool, Form()] = False,
) -> Response:
    """Have a panel printed in the emphasis, or as it is."""
    await workspace.carry_out(use.give_to_panel, emphasis, part, on)
    return _body(request, slug, workspace, emphasis)


@router.post("/remove")
async def post_remove(
    request: Request, slug: str, workspace: TheWorkspace, emphasis: Annotated[str, Form()]
) -> Response:
    await workspace.carry_out(use.remove_emphasis, emphasis)
    return _bench(request, slug, workspace, "")


def _figure(text: str, what: str) -> float:
    return parse_quantity(text.strip().rstrip("% "), what, SymbolRefused)


def _bench(request: Request, slug: str, workspace: Workspace, name: str) -> Response:
    return page(request, "symbols/_emphases.html", slug=slug, **_values(workspace, name))


def _body(request: Request, slug: str, workspace: Workspace, name: str) -> Response:
    return page(request, "symbols/_emphasis_body.html", slug=slug, **_values(workspace, name))


def _values(workspace: Workspace, name: str) -> dict[str, Any]:
    project = workspace.project
    emphases = [emphasis for _, emphasis in emphasis_rows(project)]
    emphasis: Emphasis | None = next(
        (one for one in emphases if one.name == name), emphases[0] if emphases and not name else None
    )
    items: dict[str, list[tuple[str, str, str]]] = {"Units": [], "Symbols": []}
    if emphasis is not None:
        for item, title in use.items_of(project).items():
            items["Units" if item.startswith("unit ") else "Symbols"].append((item, title, emphasis.rank(item)))
    return {
        "emphases": emphases,
        "emphasis": emphasis,
        "items": items,
        "emphasis_ranks": [(rank, RANK_WORDS[rank]) for rank in RANKS],
        "panels": panels_of(project),
        "revision": project.revision,
    }

"""The bench of themes: ranks, what belongs to each, and the map in the theme beside the map as it is."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import APIRouter, Form, Request
from starlette.responses import Response

from orvik.core.errors import SignRefused
from orvik.core.ground.coordinates import parse_quantity
from orvik.core.symbols.emphasis import RANKS, RankLook, Theme
from orvik.store.emphasis import theme_rows
from orvik.usecases.sheet.panels import panels_of
from orvik.usecases.symbols import emphasis as use
from orvik.web.frame.pages import page, stage_page
from orvik.web.session import jobs
from orvik.web.session.dependencies import TheWorkers, TheWorkspace
from orvik.web.session.workspace import Workspace
from orvik.web.signs.benches import bench_values

router = APIRouter(prefix="/p/{slug}/signs/themes")
RANK_WORDS = {"subject": "Subject", "companion": "Companion", "ground": "Ground"}


@router.get("")
async def get_themes(request: Request, workspace: TheWorkspace, theme: str = "") -> Response:
    values = {**bench_values(workspace, "themes"), **_values(workspace, theme)}
    return stage_page(request, workspace, "signs", template="signs/themes.html", **values)


@router.post("")
async def post_theme(
    request: Request, slug: str, workspace: TheWorkspace, name: Annotated[str, Form()] = ""
) -> Response:
    """Begin a theme."""
    entry = await workspace.carry_out(use.begin_theme, name)
    return _bench(request, slug, workspace, (entry.changes[0].after or {})["name"])


@router.get("/bench")
async def get_bench(request: Request, slug: str, workspace: TheWorkspace, theme: str) -> Response:
    return _bench(request, slug, workspace, use.theme_named(workspace.project, theme).name)


@router.get("/pictures")
async def get_pictures(
    request: Request, slug: str, workspace: TheWorkspace, workers: TheWorkers, theme: str
) -> Response:
    """The map as it is and in the theme."""
    found = use.theme_named(workspace.project, theme)
    path = workspace.project.path
    pictures = [
        ("As it is", await workers.run(jobs.theme_picture, path, None, "map-is")),
        (f"In the theme {found.name}", await workers.run(jobs.theme_picture, path, found, "map-then")),
    ]
    return page(request, "signs/_theme_pictures.html", slug=slug, pictures=pictures)


@router.post("/look")
async def post_look(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    theme: Annotated[str, Form()],
    rank: Annotated[int, Form()],
    lightness: Annotated[str, Form()] = "0",
    saturation: Annotated[str, Form()] = "100",
    strength: Annotated[str, Form()] = "100",
) -> Response:
    """Change how a rank is drawn."""
    figures = (_figure(lightness, "lightness"), _figure(saturation, "saturation"), _figure(strength, "strength"))
    await workspace.carry_out(use.set_look, theme, rank, RankLook(*figures))
    return _body(request, slug, workspace, theme)


@router.post("/rank")
async def post_rank(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    theme: Annotated[str, Form()],
    item: Annotated[str, Form()],
    rank: Annotated[Literal["subject", "companion", "ground"], Form()],
) -> Response:
    """Give a unit or a kind a rank."""
    await workspace.carry_out(use.set_rank, theme, item, rank)
    return _body(request, slug, workspace, theme)


@router.post("/panel")
async def post_panel(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    theme: Annotated[str, Form()],
    part: Annotated[int, Form()],
    on: Annotated[bool, Form()] = False,
) -> Response:
    """Have a panel printed in the theme, or as it is."""
    await workspace.carry_out(use.give_to_panel, theme, part, on)
    return _body(request, slug, workspace, theme)


@router.post("/remove")
async def post_remove(request: Request, slug: str, workspace: TheWorkspace, theme: Annotated[str, Form()]) -> Response:
    await workspace.carry_out(use.remove_theme, theme)
    return _bench(request, slug, workspace, "")


def _figure(text: str, what: str) -> float:
    return parse_quantity(text.strip().rstrip("% "), what, SignRefused)


def _bench(request: Request, slug: str, workspace: Workspace, name: str) -> Response:
    return page(request, "signs/_themes.html", slug=slug, **_values(workspace, name))


def _body(request: Request, slug: str, workspace: Workspace, name: str) -> Response:
    return page(request, "signs/_theme_body.html", slug=slug, **_values(workspace, name))


def _values(workspace: Workspace, name: str) -> dict[str, Any]:
    project = workspace.project
    themes = [theme for _, theme in theme_rows(project)]
    theme: Theme | None = next((one for one in themes if one.name == name), themes[0] if themes and not name else None)
    items: dict[str, list[tuple[str, str, str]]] = {"Units": [], "Signs": []}
    if theme is not None:
        for item, title in use.items_of(project).items():
            items["Units" if item.startswith("unit ") else "Signs"].append((item, title, theme.rank(item)))
    return {
        "themes": themes,
        "theme": theme,
        "items": items,
        "theme_ranks": [(rank, RANK_WORDS[rank]) for rank in RANKS],
        "panels": panels_of(project),
        "revision": project.revision,
    }

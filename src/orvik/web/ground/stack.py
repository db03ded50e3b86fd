"""The stack: the layers of the map, how each stands, and the order they lie in."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Any

from fastapi import APIRouter, Form, Request
from starlette.responses import Response

from orvik.core.errors import NotFound
from orvik.core.pictures.source import Source
from orvik.exchange.rasters import tiling
from orvik.usecases.compile.layers import LAYER_NAMES, TABLE_OF, state_of
from orvik.usecases.ground import underlay_views
from orvik.usecases.ground.lost_files import folder_of_old_name
from orvik.web.frame.pages import page
from orvik.web.session.dependencies import TheWorkspace
from orvik.web.session.workspace import Workspace

router = APIRouter(prefix="/p/{slug}")


@router.get("/stack")
async def stack(request: Request, workspace: TheWorkspace) -> Response:
    return stack_page(request, workspace)


@router.post("/stack/group")
async def see_group(
    request: Request, workspace: TheWorkspace, group: Annotated[str, Form()], shown: Annotated[bool, Form()]
) -> Response:
    """Show or hide all underlays of a group."""
    for row in stack_rows(workspace):
        if row.get("group") == group:
            await workspace.set_layer(row["layer"], replace(row["state"], shown=shown))
    return stack_page(request, workspace)


@router.post("/stack/{layer}")
async def set_layer(
    request: Request,
    workspace: TheWorkspace,
    layer: str,
    shown: Annotated[bool | None, Form()] = None,
    locked: Annotated[bool | None, Form()] = None,
    opacity: Annotated[float | None, Form()] = None,
) -> Response:
    if layer not in {row["layer"] for row in stack_rows(workspace)}:
        raise NotFound("That layer is no longer in the stack.")
    state = state_of(workspace.stack, layer)
    if shown is not None:
        state = replace(state, shown=shown)
    if locked is not None:
        state = replace(state, locked=locked)
    if opacity is not None:
        state = replace(state, opacity=min(1.0, max(0.0, opacity / 100)))
    await workspace.set_layer(layer, state)
    return stack_page(request, workspace)


def stack_page(request: Request, workspace: Workspace, emptied: bool = False) -> Response:
    """The stack for the page that asks; what it offers depends on the stage."""
    last = request.headers.get("HX-Current-URL", "").split("?")[0].rpartition("/")[2]
    stage = last if last in ("ground", "compile") else ""
    return page(
        request,
        "frame/_stack.html",
        slug=workspace.slug,
        stack=stack_rows(workspace),
        stage=stage,
        slips=stage == "ground",
        emptied=emptied,
        set_aside=set_aside(workspace),
        old_files=old_files(workspace) if stage == "ground" else "",
    )


def old_files(workspace: Workspace) -> str:
    """The name of the folder that holds the files which the project misses; empty where it misses none."""
    folder = folder_of_old_name(workspace.project)
    return folder.name if folder is not None else ""


def set_aside(workspace: Workspace) -> list[dict[str, Any]]:
    """Underlays that are set aside: neither shown nor deleted."""
    return [{"id": s.id, "name": s.name} for s in workspace.project.sources() if s.aside]


def stack_rows(workspace: Workspace) -> list[dict[str, Any]]:
    """The layers of the stack from the top, as the page shows them."""
    listed: list[dict[str, Any]] = [
        {"layer": layer, "name": name, "underlay": None, "table": TABLE_OF[layer]}
        for layer, name in LAYER_NAMES.items()
    ]
    for source in reversed(workspace.project.sources()):
        if source.kind in underlay_views.VIEW_KINDS and not source.aside:
            listed.append(
                {
                    "layer": f"underlay-{source.id}",
                    "name": source.name,
                    "underlay": source.id,
                    "multiply": bool(source.multiply),
                    "shows": " ".join(sorted(underlay_views.shows(source))),
                    "placed": underlay_views.can_be_shown(source),
                    "fitted": bool(source.fit),
                    "relief": bool(source.relief),
                    "tiling": _is_tiled_now(workspace, source),
                    "group": source.grouping,
                    "trouble": underlay_views.trouble_with(workspace.project.path, source),
                }
            )
    for entry in listed:
        entry["state"] = state_of(workspace.stack, entry["layer"])
    return listed


def _is_tiled_now(workspace: Workspace, source: Source) -> bool:
    copy = underlay_views.copy_of(workspace.project.path, source)
    return copy is not None and tiling.progress(copy) is not None

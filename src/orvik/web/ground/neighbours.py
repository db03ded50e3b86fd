"""Ground, the neighbouring sheets: named, read from their files, and removed."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Any

from fastapi import APIRouter, File, Form, Request, UploadFile
from starlette.responses import Response

from orvik.core.joins.neighbour import PLACES, Neighbour
from orvik.store.tables.neighbours import neighbours
from orvik.usecases.intake.neighbours import (
    add_neighbour,
    change_neighbour,
    join_neighbour,
    read_neighbour,
    remove_neighbour,
)
from orvik.usecases.proof.joins import joined_mm
from orvik.web.frame.pages import page
from orvik.web.session.dependencies import TheWorkers, TheWorkspace
from orvik.web.session.workspace import Workspace
from orvik.web.uploads import uploaded

router = APIRouter(prefix="/p/{slug}/neighbours")


@router.post("")
async def post_neighbour(
    request: Request,
    workspace: TheWorkspace,
    name: Annotated[str, Form()] = "",
    sheet_number: Annotated[str, Form()] = "",
    place: Annotated[str, Form()] = "n",
) -> Response:
    """A neighbouring sheet of which only the name is known."""
    typed = Neighbour(" ".join(name.split()), " ".join(sheet_number.split()), place)
    await workspace.carry_out(add_neighbour, typed)
    return _section(request, workspace)


@router.post("/read")
async def read(
    request: Request, workspace: TheWorkspace, workers: TheWorkers, file: Annotated[UploadFile, File()]
) -> Response:
    """A neighbouring sheet from its project or its data file; one of the same name is read again."""
    async with uploaded([file]) as paths:
        found = await workers.open_strange(read_neighbour, workspace.project.path, paths[0])
    await workspace.carry_out(join_neighbour, found, file.filename or "", date.today())
    rows = "1 row" if found.left == 1 else f"{found.left} rows"
    said = f"{rows} of the file mean nothing here, and are left out." if found.left else ""
    return _section(request, workspace, said=said)


@router.post("/{number}")
async def change(
    request: Request,
    workspace: TheWorkspace,
    number: int,
    name: Annotated[str, Form()],
    sheet_number: Annotated[str, Form()],
    place: Annotated[str, Form()],
) -> Response:
    """What a neighbour is called, and where it lies."""
    words = " ".join(name.split()), " ".join(sheet_number.split())
    await workspace.carry_out(change_neighbour, number, *words, place)
    return _section(request, workspace, chosen=number)


@router.delete("/{number}")
async def delete(request: Request, workspace: TheWorkspace, number: int) -> Response:
    await workspace.carry_out(remove_neighbour, number)
    return _section(request, workspace)


def _section(request: Request, workspace: Workspace, chosen: int | None = None, said: str = "") -> Response:
    """The section anew, with one of the sheets open."""
    return page(
        request,
        "ground/_neighbours.html",
        slug=workspace.slug,
        open=True,
        chosen=chosen,
        said=said,
        **neighbour_facts(workspace),
    )


def neighbour_facts(workspace: Workspace) -> dict[str, Any]:
    """What the section says of the neighbouring sheets."""
    project = workspace.project
    order = list(PLACES)
    held = sorted(neighbours(project), key=lambda n: (order.index(n.place), n.name))
    return {
        "neighbours": [(n, 0.0 if n.edge.is_empty else joined_mm(project, n)) for n in held],
        "neighbour_places": PLACES,
    }

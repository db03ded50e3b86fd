"""Several parts selected: their slip, and what is done to all of them at once."""

from __future__ import annotations

import json
import math
from typing import Annotated

from fastapi import APIRouter, Form, Request
from starlette.responses import Response

from orvik.core.errors import NotFound, SheetRefused
from orvik.usecases.sheet import arranging
from orvik.web.frame.pages import page
from orvik.web.session.dependencies import TheWorkspace

router = APIRouter(prefix="/p/{slug}/sheets/{sheet_id}/hand")

MOST_PARTS = 500
KEPT = 204


@router.get("")
async def get_hand(request: Request, slug: str, workspace: TheWorkspace, sheet_id: int, parts: str = "") -> Response:
    """What can be done to several parts."""
    numbers = numbers_of(parts)
    chosen = [part for part in workspace.project.parts(sheet_id) if part.id in numbers]
    return page(
        request,
        "sheet/_hand.html",
        slug=slug,
        sheet_id=sheet_id,
        parts=chosen,
        numbers=",".join(str(number) for number in numbers),
        locked=all(part.locked for part in chosen),
        grouped=len({part.settings.group for part in chosen} - {0}) == 1 and all(p.settings.group for p in chosen),
    )


@router.post("/places")
async def post_places(workspace: TheWorkspace, places: Annotated[str, Form()] = "") -> Response:
    """Where a hand has left parts: JSON of places in millimetres by number."""
    await workspace.carry_out(arranging.place_parts, _places(places))
    return Response(status_code=KEPT)


@router.post("/arrange")
async def post_arranged(
    workspace: TheWorkspace, how: Annotated[str, Form()], parts: Annotated[str, Form()] = ""
) -> Response:
    await workspace.carry_out(arranging.arrange_parts, numbers_of(parts), how)
    return Response(status_code=KEPT)


@router.post("/order")
async def post_ordered(
    workspace: TheWorkspace, how: Annotated[str, Form()], parts: Annotated[str, Form()] = ""
) -> Response:
    await workspace.carry_out(arranging.order_parts, numbers_of(parts), how)
    return Response(status_code=KEPT)


@router.post("/group")
async def post_grouped(
    workspace: TheWorkspace, on: Annotated[bool, Form()], parts: Annotated[str, Form()] = ""
) -> Response:
    await workspace.carry_out(arranging.group_parts, numbers_of(parts), on)
    return Response(status_code=KEPT)


@router.post("/lock")
async def post_locked(
    workspace: TheWorkspace, on: Annotated[bool, Form()], parts: Annotated[str, Form()] = ""
) -> Response:
    await workspace.carry_out(arranging.lock_parts, numbers_of(parts), on)
    return Response(status_code=KEPT)


@router.post("/copies")
async def post_copies(workspace: TheWorkspace, sheet_id: int, parts: Annotated[str, Form()] = "") -> Response:
    """Copies of parts, of this sheet or another one; tells the numbers of those that were made."""
    entry = await workspace.carry_out(arranging.copy_parts, numbers_of(parts), sheet_id)
    made = [change.id for change in entry.changes if change.table == "parts" and change.before is None]
    return Response(status_code=KEPT, headers={"Orvik-Parts": ",".join(str(number) for number in made)})


@router.post("/remove")
async def post_removed(workspace: TheWorkspace, parts: Annotated[str, Form()] = "") -> Response:
    await workspace.carry_out(arranging.remove_parts, numbers_of(parts))
    return Response(status_code=KEPT)


def numbers_of(text: str) -> list[int]:
    """Numbers of parts with commas between them, each once.

    Raises
    ------
    NotFound
        They are none, or too many.
    """
    found = [piece.strip() for piece in text.split(",") if piece.strip()]
    if len(found) > MOST_PARTS or not all(piece.isascii() and piece.isdigit() and len(piece) < 18 for piece in found):
        raise NotFound("There are no such parts.")
    return list(dict.fromkeys(int(piece) for piece in found))


def _places(text: str) -> dict[int, dict[str, float]]:
    try:
        read = json.loads(text)
        found = {
            int(number): {name: float(place[name]) for name in ("x", "y", "width", "height")}
            for number, place in list(read.items())[:MOST_PARTS]
        }
    except (ValueError, TypeError, KeyError, AttributeError) as error:
        raise SheetRefused("These places cannot be read; move the parts again.") from error
    if not all(math.isfinite(value) for place in found.values() for value in place.values()):
        raise SheetRefused("A place or size is not a number; move the parts again.")
    return found

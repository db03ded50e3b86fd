"""The page itself: its name, paper, margins, columns and guides, and copies of it on other papers."""

from __future__ import annotations

import asyncio
from collections.abc import Sequence
from typing import Annotated

from fastapi import APIRouter, File, Form, Request, UploadFile
from starlette.responses import Response

from orvik.core.errors import SheetRefused
from orvik.core.ground.coordinates import parse_quantity
from orvik.core.sheet.page.faces import AS_SET, STYLES
from orvik.core.sheet.page.paper import families
from orvik.core.sheet.templates import TEMPLATES
from orvik.exchange.sheets.font_file import LARGEST_FONT, font_of
from orvik.store.files import file_names
from orvik.store.tables.followed import followed_template
from orvik.store.tables.imprint import imprint_of
from orvik.usecases.sheet import following, sheets, templates
from orvik.usecases.sheet.imprint import set_imprint
from orvik.usecases.sheet.sheets import SheetChange
from orvik.web.frame.pages import page
from orvik.web.session.dependencies import TheWorkers, TheWorkspace
from orvik.web.session.workspace import Workspace
from orvik.web.sheet.parts import TypedForm
from orvik.web.uploads import name_of

# What is added to a palette, to be changed then.
SPARE_COLOURS = tuple(f"#{grey:02X}{grey:02X}{grey:02X}" for grey in range(64, 240, 8))

router = APIRouter(prefix="/p/{slug}/sheets/{sheet_id}")


@router.get("/page")
async def get_page_slip(request: Request, workspace: TheWorkspace, sheet_id: int) -> Response:
    return _page_slip(request, workspace, sheet_id)


@router.post("/page")
async def post_page(request: Request, workspace: TheWorkspace, sheet_id: int, typed: TypedForm) -> Response:
    rest = dict(typed)
    name, paper, orientation = rest.pop("name", None), rest.pop("paper", None), rest.pop("orientation", None)
    landscape = None if orientation is None else orientation == "landscape"
    await workspace.carry_out(sheets.change_sheet, sheet_id, SheetChange(name, paper or None, landscape, rest))
    return _page_slip(request, workspace, sheet_id)


@router.post("/imprint")
async def post_imprint(request: Request, workspace: TheWorkspace, sheet_id: int, typed: TypedForm) -> Response:
    """What is said of the map wherever it is printed."""
    await workspace.carry_out(set_imprint, typed)
    return _page_slip(request, workspace, sheet_id, imprint_open=True)


@router.post("/lay-out")
async def post_lay_out(
    request: Request,
    workspace: TheWorkspace,
    sheet_id: int,
    template: Annotated[str, Form()],
    ground: Annotated[str, Form()] = "",
) -> Response:
    """Lay an empty page out."""
    _, said = await workspace.carry_out(sheets.lay_out, sheet_id, template, ground)
    return _page_slip(request, workspace, sheet_id, said)


@router.post("/font")
async def post_font(
    request: Request, workspace: TheWorkspace, workers: TheWorkers, sheet_id: int, file: Annotated[UploadFile, File()]
) -> Response:
    """The font file of the sheet."""
    data = await file.read(LARGEST_FONT + 1)
    kept = await workers.open_strange(font_of, name_of(file), data)
    await workspace.carry_out(sheets.give_font, sheet_id, kept)
    return _page_slip(request, workspace, sheet_id)


@router.post("/palette")
async def post_palette(
    request: Request,
    workspace: TheWorkspace,
    sheet_id: int,
    colour: Annotated[str, Form()] = "",
    before: Annotated[str, Form()] = "",
) -> Response:
    """Add a colour, change the one that is ``before``, or take that away where no other is given."""
    wanted = colour.strip().upper() or None
    await workspace.carry_out(sheets.set_palette_colour, sheet_id, before.strip().upper() or None, wanted)
    return _page_slip(request, workspace, sheet_id)


@router.post("/guides")
async def post_guide(
    request: Request,
    workspace: TheWorkspace,
    sheet_id: int,
    axis: Annotated[str, Form()],
    at: Annotated[str, Form()] = "",
    before: Annotated[str, Form()] = "",
) -> Response:
    """Lay a guide, move one, or take it away where no place is given."""
    places = [parse_quantity(text, "place of a guide", SheetRefused) if text.strip() else None for text in (at, before)]
    if places == [None, None]:
        raise SheetRefused("Type where the guide is to lie, in millimetres.")
    await workspace.carry_out(sheets.set_guide, sheet_id, axis, *places)
    return _page_slip(request, workspace, sheet_id)


@router.post("/frames")
async def post_frames(
    request: Request, workspace: TheWorkspace, sheet_id: int, on: Annotated[bool, Form()]
) -> Response:
    """A frame around every part, or around none."""
    await workspace.carry_out(sheets.frame_all, sheet_id, on)
    return _page_slip(request, workspace, sheet_id)


@router.post("/duplicate")
async def post_duplicate(
    request: Request,
    workspace: TheWorkspace,
    sheet_id: int,
    name: Annotated[str, Form()] = "",
    paper: Annotated[str, Form()] = "A3",
    own_size: Annotated[str, Form()] = "",
    orientation: Annotated[str, Form()] = "landscape",
    refit: Annotated[bool, Form()] = False,
) -> Response:
    """The same sheet on another paper."""
    asked = asked_paper(paper, own_size)
    entry, said = await workspace.carry_out(
        sheets.duplicate_sheet, sheet_id, name, asked, orientation == "landscape", refit
    )
    return made_sheet(request, workspace, entry.changes[0].id, said)


@router.post("/template")
async def post_template(
    request: Request,
    workspace: TheWorkspace,
    sheet_id: int,
    name: Annotated[str, Form()] = "",
    for_all: Annotated[bool, Form()] = False,
    instead: Annotated[bool, Form()] = False,
) -> Response:
    """Keep the sheet as a template, of the project or for all; or in the place of the one that it follows."""
    await workspace.carry_out(templates.keep_template, sheet_id, name, for_all, instead)
    said = []
    if instead:
        found = await asyncio.to_thread(following.followers, workspace.project, " ".join(name.split()), for_all)
        said = [f"{one.sheet} ({one.project}) is offered the change." for one in found if one.behind]
    return _page_slip(request, workspace, sheet_id, said)


@router.post("/follow")
async def post_follow(
    request: Request, workspace: TheWorkspace, sheet_id: int, on: Annotated[bool, Form()] = True
) -> Response:
    """Have the sheet follow what its template changed; or follow it no more."""
    if not on:
        await workspace.carry_out(following.follow_no_more, sheet_id)
        return _page_slip(request, workspace, sheet_id)
    _, kept = await workspace.carry_out(following.follow, sheet_id)
    return _page_slip(request, workspace, sheet_id, kept)


@router.delete("/template/{key}")
async def delete_template(request: Request, workspace: TheWorkspace, sheet_id: int, key: str) -> Response:
    await workspace.carry_out(templates.remove_template, key)
    return _page_slip(request, workspace, sheet_id)


@router.post("/reduce")
async def post_reduce(
    request: Request,
    workspace: TheWorkspace,
    sheet_id: int,
    name: Annotated[str, Form()] = "",
    per_cent: Annotated[str, Form()] = "",
) -> Response:
    """The same sheet smaller or larger as a whole."""
    size = parse_quantity(per_cent.strip().removesuffix("%"), "share in per cent", SheetRefused)
    entry, said = await workspace.carry_out(sheets.reduce_sheet, sheet_id, name, size)
    return made_sheet(request, workspace, entry.changes[0].id, said)


def asked_paper(paper: str, own_size: str) -> str:
    """The paper that was chosen, or the size that was typed; raises SheetRefused where both were."""
    if paper != "own" and own_size.strip():
        raise SheetRefused(
            f"Choose “custom size” for {own_size.strip()[:30]}, or leave that field empty for {paper[:20]}."
        )
    return own_size if paper == "own" else paper


def made_sheet(request: Request, workspace: Workspace, sheet_id: int, said: list[str]) -> Response:
    """To the sheet that was made; or first what no longer fits on it."""
    address = f"/p/{workspace.slug}/sheet?sheet={sheet_id}"
    if not said:
        return Response(status_code=204, headers={"HX-Redirect": address})
    return page(request, "sheet/_made.html", address=address, said=said, called=workspace.project.sheet(sheet_id).name)


def _page_slip(
    request: Request, workspace: Workspace, sheet_id: int, said: Sequence[str] = (), imprint_open: bool = False
) -> Response:
    sheet = workspace.project.sheet(sheet_id)
    return page(
        request,
        "sheet/_page.html",
        slug=workspace.slug,
        sheet=sheet,
        said=said,
        empty=not workspace.project.parts(sheet_id),
        templates={name: made for name, made in TEMPLATES.items() if name != "empty"},
        views=workspace.project.views(),
        border=workspace.project.border(),
        imprint=imprint_of(workspace.project),
        imprint_open=imprint_open,
        layout=sheet.layout,
        entries=sheet.layout.entries(),
        papers=families(),
        own_templates=templates.offered(workspace.project),
        follows=followed_template(workspace.project, sheet_id),
        offer=following.offer_of(workspace.project, sheet),
        new_colour=next(c for c in SPARE_COLOURS if c not in sheet.layout.palette),
        fonts=file_names(workspace.project, "font"),
        styles={name: words for name, words in STYLES.items() if name != AS_SET},
    )

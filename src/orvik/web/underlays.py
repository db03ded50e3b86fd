"""Ground, the underlays: bringing them in, how each lies in the stack, and mending a copy that is gone."""

from __future__ import annotations

import asyncio
import re
from contextlib import suppress
from pathlib import Path
from typing import Annotated

import numpy as np
from fastapi import APIRouter, File, Form, Request, UploadFile
from starlette.responses import Response

from ..core.border import check_reach
from ..core.errors import FileRefused, NotFound
from ..exchange import intake, raster, raster_files, service, tiling
from ..exchange.raster import WORLD_FILES
from ..exchange.underlays import KINDS
from ..store.journal import Change
from .ground import stack_page
from .pages import chest_of, page, workers_of
from .relief import relief_values
from .uploads import uploaded
from .work import tile, underlay_view
from .workspace import Workspace

router = APIRouter(prefix="/p/{slug}")
LARGEST_VIEW = 4096


@router.post("/underlays")
async def add_underlay(request: Request, slug: str, files: Annotated[list[UploadFile], File()]) -> Response:
    """A picture, with its world file among the files where it has one."""
    workspace = await chest_of(request).workspace(slug)
    async with uploaded(files) as paths:
        pictures = [path for path in paths if path.suffix.lower() in WORLD_FILES]
        if len(pictures) != 1:
            raise FileRefused("Give one picture (GeoTIFF, PNG or JPEG), and its world file with it if it has one.")
        picture = pictures[0]
        world = next((path for path in paths if path != picture), None)
        if world is not None and world.suffix.lower() not in WORLD_FILES[picture.suffix.lower()]:
            raise FileRefused(f"{world.name} is no world file of {picture.name}.")
        facts = await workers_of(request).run(raster.examined, picture, world, workspace.project.crs)
        if facts.bounds is not None:
            check_reach(picture.name, facts.bounds, workspace.project.border())
        change = await asyncio.to_thread(intake.underlay_change, workspace.project, picture, facts, picture.stem)
    entry = await workspace.apply(f"add underlay {picture.stem}", [change])
    source = workspace.project.source(entry.changes[0].id)
    await asyncio.to_thread(raster.trouble_with, _file(workspace, source["id"]), source["checksum"])
    _begin_tiling(request, workspace, source["id"])
    if facts.bounds is None:
        where = f"/p/{slug}/underlays/{entry.changes[0].id}/georeference"
        return Response(status_code=204, headers={"HX-Redirect": where})
    return stack_page(request, workspace)


@router.post("/services")
async def add_service(
    request: Request, slug: str, address: Annotated[str, Form()] = "", name: Annotated[str, Form()] = ""
) -> Response:
    """An underlay from a tile service; it must answer now."""
    workspace = await chest_of(request).workspace(slug)
    project = workspace.project
    checked = service.checked_address(address)
    home = project.home()
    if home is not None:
        middle = ((home[0] + home[2]) / 2, (home[1] + home[3]) / 2)
        await asyncio.to_thread(service.probe, checked, project.crs, *middle)
    title = name.strip()[:80] or checked.split("/")[2]
    position = max((row["position"] for row in project.sources()), default=0) + 1
    values = {
        "kind": "service",
        "name": title,
        "file": checked,
        "crs": service.SYSTEM,
        "multiply": 1,
        "position": position,
    }
    await workspace.apply(f"add underlay {title}", [Change("sources", None, values)])
    return stack_page(request, workspace)


@router.delete("/underlays/{source_id}")
async def remove_underlay(request: Request, slug: str, source_id: int) -> Response:
    workspace = await chest_of(request).workspace(slug)
    workspace.refuse_locked_picture(source_id)
    row = workspace.project.source(source_id)
    await workspace.apply(f"remove underlay {row['name']}", [Change("sources", source_id, None)])
    return stack_page(request, workspace, emptied=True)


@router.get("/underlays/{source_id}.png")
async def underlay_png(
    request: Request,
    slug: str,
    source_id: int,
    west: float,
    south: float,
    east: float,
    north: float,
    width: int,
    height: int,
) -> Response:
    if not (np.isfinite([west, south, east, north]).all() and west < east and south < north):
        raise FileRefused("This view has no extent.")
    if not (0 < width <= LARGEST_VIEW and 0 < height <= LARGEST_VIEW):
        raise FileRefused("This view is too large.")
    path = chest_of(request).path(slug)
    window = (west, south, east, north)
    data = await workers_of(request).run(underlay_view, path, source_id, window, width, height)
    return Response(data, media_type="image/png") if data else Response(status_code=204)


@router.get("/underlays/{source_id}/tiling")
async def tiling_progress(request: Request, slug: str, source_id: int) -> Response:
    """How far the tiled copy is; the page asks again until it is done."""
    workspace = await chest_of(request).workspace(slug)
    part = tiling.progress(_file(workspace, source_id))
    return page(request, "_tiling.html", slug=slug, source_id=source_id, part=part)


@router.delete("/underlays/{source_id}/tiling")
async def cancel_tiling(request: Request, slug: str, source_id: int) -> Response:
    workspace = await chest_of(request).workspace(slug)
    tiling.cancel(_file(workspace, source_id))
    return page(request, "_tiling.html", slug=slug, source_id=source_id, part=None)


def _file(workspace: Workspace, source_id: int) -> Path:
    return raster_files.beside(workspace.project.path, str(workspace.project.source(source_id)["file"]))


def _begin_tiling(request: Request, workspace: Workspace, source_id: int) -> None:
    """Start making the tiled copy of a large picture; it can be seen meanwhile, only more slowly."""
    file = _file(workspace, source_id)
    if not tiling.is_large(file) or tiling.best(file) != file or tiling.progress(file) is not None:
        return
    tiling.begin(file)

    async def carry_out() -> None:
        with suppress(FileRefused):
            if await workers_of(request).run(tile, file):
                await workspace.forget_pictures()

    workspace.in_background(carry_out())


@router.get("/underlays/{source_id}/slip")
async def underlay_slip(request: Request, slug: str, source_id: int) -> Response:
    return await _slip(request, await chest_of(request).workspace(slug), source_id)


@router.post("/underlays/{source_id}/slip")
async def change_underlay(
    request: Request,
    slug: str,
    source_id: int,
    name: Annotated[str, Form()] = "",
    multiply: Annotated[bool, Form()] = False,
    group: Annotated[str, Form()] = "",
    colour: Annotated[str, Form()] = "",
) -> Response:
    workspace = await chest_of(request).workspace(slug)
    workspace.refuse_locked_picture(source_id)
    source = workspace.project.source(source_id)
    if colour and not re.fullmatch(r"#[0-9A-Fa-f]{6}", colour):
        raise FileRefused(f"“{colour[:20]}” is not a colour; give six figures such as #7A3E9D.")
    values = {
        "name": name.strip()[:80] or source["name"],
        "multiply": int(multiply),
        "grouping": group.strip()[:40],
        "colour": colour or source["colour"],
    }
    if any(values[key] != source[key] for key in values):
        await workspace.apply(f"change underlay {source['name']}", [Change("sources", source_id, values)])
    return await _slip(request, workspace, source_id)


@router.post("/underlays/{source_id}/aside")
async def set_underlay_aside(request: Request, slug: str, source_id: int, aside: Annotated[bool, Form()]) -> Response:
    """Take an underlay out of the stack without deleting it, or back."""
    workspace = await chest_of(request).workspace(slug)
    workspace.refuse_locked_picture(source_id)
    name = workspace.project.source(source_id)["name"]
    what = f"set {name} aside" if aside else f"take {name} back"
    await workspace.apply(what, [Change("sources", source_id, {"aside": int(aside)})])
    return stack_page(request, workspace, emptied=True)


@router.post("/underlays/{source_id}/move/{step}")
async def move_underlay(request: Request, slug: str, source_id: int, step: int) -> Response:
    """One place up (1) or down (-1) in the stack."""
    workspace = await chest_of(request).workspace(slug)
    workspace.refuse_locked_picture(source_id)
    order = [row["id"] for row in workspace.project.sources() if row["kind"] in KINDS]
    if source_id not in order:
        raise NotFound("That underlay is no longer in the project.")
    at = order.index(source_id)
    to = at + (1 if step > 0 else -1)
    if 0 <= to < len(order):
        order.insert(to, order.pop(at))
        changes = [Change("sources", row_id, {"position": i}) for i, row_id in enumerate(order, 1)]
        await workspace.apply("reorder the underlays", changes)
    return await _slip(request, workspace, source_id)


@router.post("/underlays/{source_id}/file")
async def mend_underlay(request: Request, slug: str, source_id: int, file: Annotated[UploadFile, File()]) -> Response:
    """The file given again; all settings stand."""
    workspace = await chest_of(request).workspace(slug)
    source = workspace.project.source(source_id)
    async with uploaded([file]) as paths:
        await asyncio.to_thread(raster.mended, workspace.project.path, source["file"], source["checksum"], paths[0])
    await workspace.forget_pictures()
    return await _slip(request, workspace, source_id)


async def _slip(request: Request, workspace: Workspace, source_id: int) -> Response:
    source = workspace.project.source(source_id)
    from_file = source["kind"] != "service"
    path = raster_files.beside(workspace.project.path, source["file"]) if from_file else Path()
    trouble = await asyncio.to_thread(raster.trouble_with, path, source["checksum"]) if from_file else ""
    values = {} if trouble else await relief_values(workspace, source)
    size = await asyncio.to_thread(raster.size, path) if source["kind"] == "underlay" and not trouble else None
    return page(
        request,
        "_underlay.html",
        slug=workspace.slug,
        source=source,
        trouble=trouble,
        size=size,
        project=workspace.project,
        **values,
    )

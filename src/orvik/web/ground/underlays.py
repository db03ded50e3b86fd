"""Ground, the underlays: bringing them in, how each lies in the stack, and fixing a copy that is gone."""

from __future__ import annotations

import asyncio
from contextlib import suppress
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, File, Form, Query, Request, UploadFile
from pydantic import BaseModel, FiniteFloat
from starlette.responses import Response

from orvik.core.errors import FileRefused
from orvik.core.features.custom_kind import DASHES
from orvik.core.ground.coordinates import parse_quantity
from orvik.core.pictures.reference_look import ReferenceLook
from orvik.exchange.rasters import raster, raster_files, tiling
from orvik.exchange.rasters.raster import WORLD_FILES
from orvik.store import allowed_services
from orvik.usecases.ground.lost_files import take_files
from orvik.usecases.ground.sources import (
    add_source,
    change_underlay,
    move_underlay,
    new_service,
    new_underlay,
    remove_underlay,
    set_aside,
)
from orvik.web.frame.pages import page
from orvik.web.ground.relief import relief_values
from orvik.web.ground.stack import stack_page
from orvik.web.session.dependencies import TheProjectFolder, TheWorkers, TheWorkspace
from orvik.web.session.jobs import tile, underlay_ink, underlay_view
from orvik.web.session.workers import Workers
from orvik.web.session.workspace import Workspace
from orvik.web.uploads import uploaded

router = APIRouter(prefix="/p/{slug}")
LARGEST_VIEW = 4096


@router.post("/underlays")
async def post_underlay(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    workers: TheWorkers,
    files: Annotated[list[UploadFile], File()],
) -> Response:
    """A picture, with its world file among the files where it has one."""
    async with uploaded(files) as paths:
        pictures = [path for path in paths if path.suffix.lower() in WORLD_FILES]
        if len(pictures) != 1:
            raise FileRefused("Choose one picture (GeoTIFF, PNG or JPEG), and its world file with it if it has one.")
        picture = pictures[0]
        world = next((path for path in paths if path != picture), None)
        if world is not None and world.suffix.lower() not in WORLD_FILES[picture.suffix.lower()]:
            raise FileRefused(f"{world.name} is not a world file of {picture.name}.")
        facts = await workers.open_strange(raster.examined, picture, world, workspace.project.crs)
        underlay = await asyncio.to_thread(
            new_underlay, workspace.project, picture, facts, picture.stem, workspace.project.path
        )
    entry = await workspace.carry_out(add_source, underlay)
    source_id = entry.changes[0].id
    file = _file(workspace, source_id)
    await asyncio.to_thread(raster.trouble_with, file, underlay.checksum)
    _begin_tiling(workspace, workers, file)
    if facts.bounds is None:
        where = f"/p/{slug}/underlays/{source_id}/georeference"
        return Response(status_code=204, headers={"HX-Redirect": where})
    return stack_page(request, workspace)


@router.post("/services")
async def post_service(
    request: Request, workspace: TheWorkspace, address: Annotated[str, Form()] = "", name: Annotated[str, Form()] = ""
) -> Response:
    """An underlay from a tile service; it must answer now."""
    underlay = await asyncio.to_thread(new_service, workspace.project, address, name)
    await workspace.carry_out(add_source, underlay)
    return stack_page(request, workspace)


@router.delete("/underlays/{source_id}")
async def delete_underlay(request: Request, workspace: TheWorkspace, source_id: int) -> Response:
    await workspace.carry_out(remove_underlay, source_id)
    return stack_page(request, workspace, emptied=True)


class View(BaseModel):
    """A window of ground in project coordinates, and how many dots it is seen with."""

    west: FiniteFloat
    south: FiniteFloat
    east: FiniteFloat
    north: FiniteFloat
    width: int
    height: int

    @property
    def window(self) -> tuple[float, float, float, float]:
        """West, south, east and north; raises FileRefused where nothing can be seen in it."""
        if not (self.west < self.east and self.south < self.north):
            raise FileRefused("This view has no extent.")
        if not (0 < self.width <= LARGEST_VIEW and 0 < self.height <= LARGEST_VIEW):
            raise FileRefused("This view is too large.")
        return self.west, self.south, self.east, self.north


@router.get("/underlays/{source_id}.png")
async def underlay_png(
    request: Request,
    projects: TheProjectFolder,
    slug: str,
    workers: TheWorkers,
    source_id: int,
    view: Annotated[View, Query()],
) -> Response:
    """The picture that an underlay shows in a window."""
    data = await workers.run(underlay_view, projects.path(slug), source_id, view.window, view.width, view.height)
    return Response(data, media_type="image/png") if data else Response(status_code=204)


@router.get("/underlays/{source_id}/ink")
async def get_underlay_ink(
    request: Request,
    projects: TheProjectFolder,
    slug: str,
    workers: TheWorkers,
    source_id: int,
    view: Annotated[View, Query()],
) -> Response:
    """The lines that an underlay shows in a window."""
    ink = await workers.run(underlay_ink, projects.path(slug), source_id, view.window, view.width, view.height)
    return Response(ink, media_type="application/octet-stream")


@router.get("/underlays/{source_id}/tiling")
async def tiling_progress(request: Request, slug: str, workspace: TheWorkspace, source_id: int) -> Response:
    """How far the tiled copy is; the page asks again until it is done."""
    part = tiling.progress(_file(workspace, source_id))
    return page(request, "ground/_tiling.html", slug=slug, source_id=source_id, part=part)


@router.delete("/underlays/{source_id}/tiling")
async def cancel_tiling(request: Request, slug: str, workspace: TheWorkspace, source_id: int) -> Response:
    tiling.cancel(_file(workspace, source_id))
    return page(request, "ground/_tiling.html", slug=slug, source_id=source_id, part=None)


def _file(workspace: Workspace, source_id: int) -> Path:
    return raster_files.kept_file(workspace.project.path, str(workspace.project.source(source_id).file))


def _begin_tiling(workspace: Workspace, workers: Workers, file: Path) -> None:
    """Start making the tiled copy of a large picture; it can be seen meanwhile, only more slowly."""
    if not tiling.is_large(file) or tiling.best(file) != file or tiling.progress(file) is not None:
        return
    tiling.begin(file)

    async def carry_out() -> None:
        with suppress(FileRefused):
            if await workers.run(tile, file):
                await workspace.forget_pictures()

    workspace.in_background(carry_out())


@router.get("/underlays/{source_id}/slip")
async def underlay_slip(request: Request, workspace: TheWorkspace, source_id: int) -> Response:
    return await _slip(request, workspace, source_id)


@router.post("/underlays/{source_id}/slip")
async def post_changed_underlay(
    request: Request,
    workspace: TheWorkspace,
    source_id: int,
    name: Annotated[str, Form()] = "",
    multiply: Annotated[bool, Form()] = False,
    group: Annotated[str, Form()] = "",
    colour: Annotated[str, Form()] = "",
    width: Annotated[str, Form()] = "0.25",
    dash: Annotated[str, Form()] = "solid",
    outlined: Annotated[bool, Form()] = False,
    filled: Annotated[bool, Form()] = False,
    fill: Annotated[str, Form()] = "",
    fill_opacity: Annotated[str, Form()] = "50",
    explained: Annotated[bool, Form()] = False,
) -> Response:
    look = None
    if colour:
        per_cent = parse_quantity(fill_opacity.strip().rstrip("% "), "opacity of the fill", FileRefused)
        wide = parse_quantity(width.strip().removesuffix("mm"), "width", FileRefused)
        tint = (fill or colour).upper() if filled else ""
        look = ReferenceLook(colour.upper(), wide, dash, outlined, tint, per_cent / 100, explained)
    await workspace.carry_out(change_underlay, source_id, name, multiply, group, look)
    return await _slip(request, workspace, source_id)


@router.post("/underlays/{source_id}/aside")
async def post_aside(
    request: Request, workspace: TheWorkspace, source_id: int, aside: Annotated[bool, Form()]
) -> Response:
    """Take an underlay out of the stack without deleting it, or back."""
    await workspace.carry_out(set_aside, source_id, aside)
    return stack_page(request, workspace, emptied=True)


@router.post("/underlays/{source_id}/move/{step}")
async def post_moved_underlay(request: Request, workspace: TheWorkspace, source_id: int, step: int) -> Response:
    """One place up (1) or down (-1) in the stack."""
    await workspace.carry_out(move_underlay, source_id, step > 0)
    return await _slip(request, workspace, source_id)


@router.post("/underlays/{source_id}/allow")
async def post_allowed(request: Request, workspace: TheWorkspace, source_id: int) -> Response:
    """Let the tile service of an underlay be asked that came with a project from elsewhere."""
    source = workspace.project.source(source_id)
    await asyncio.to_thread(allowed_services.allow, workspace.project.path, source.file)
    await workspace.forget_pictures()
    return await _slip(request, workspace, source_id)


@router.post("/underlays/files")
async def post_old_files(request: Request, workspace: TheWorkspace, folder: Annotated[str, Form()]) -> Response:
    """The files that the project misses since its own file was renamed, out of the folder of its old name."""
    await asyncio.to_thread(take_files, workspace.project, folder)
    await workspace.forget_pictures()
    return stack_page(request, workspace)


@router.post("/underlays/{source_id}/file")
async def fix_underlay(
    request: Request, workspace: TheWorkspace, source_id: int, file: Annotated[UploadFile, File()]
) -> Response:
    """The file given again; all settings stand."""
    source = workspace.project.source(source_id)
    async with uploaded([file]) as paths:
        await asyncio.to_thread(raster.restored, workspace.project.path, source.file, source.checksum, paths[0])
    await workspace.forget_pictures()
    return await _slip(request, workspace, source_id)


async def _slip(request: Request, workspace: Workspace, source_id: int) -> Response:
    source = workspace.project.source(source_id)
    from_file = source.kind != "service"
    path = raster_files.kept_file(workspace.project.path, source.file) if from_file else Path()
    trouble = await asyncio.to_thread(raster.trouble_with, path, source.checksum) if from_file else ""
    values = {} if trouble else await relief_values(workspace, source)
    size = await asyncio.to_thread(raster.size, path) if source.kind == "underlay" and not trouble else None
    return page(
        request,
        "ground/_underlay.html",
        slug=workspace.slug,
        source=source,
        trouble=trouble,
        host=allowed_services.host_of(source.file),
        allowed=from_file or allowed_services.is_allowed(workspace.project.path, source.file),
        size=size,
        look=ReferenceLook.of(source.colour, source.look),
        dashes=tuple(DASHES),
        project=workspace.project,
        **values,
    )

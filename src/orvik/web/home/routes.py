"""Home: the project folder, and a new project."""

from __future__ import annotations

import asyncio
from typing import Annotated

from fastapi import APIRouter, File, Form, Request, UploadFile
from pydantic import BaseModel
from starlette.responses import Response

from orvik.core.errors import FileRefused, OrvikError
from orvik.core.ground import crs_search
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales, parse_scale, proposed_digitizing
from orvik.usecases.ground.border import Corners
from orvik.usecases.intake.beginning import beginning_of, units_in
from orvik.usecases.symbols.unit_table import take_table
from orvik.web.frame.pages import page
from orvik.web.home.land_drawing import land_svg
from orvik.web.session import jobs
from orvik.web.session.dependencies import TheProjectFolder, TheWorkers
from orvik.web.uploads import aside, laid_aside, thrown_away, uploaded, with_parts

router = APIRouter()
# A project begins with so many files at most.
MOST_FILES = 40


class BorderForm(BaseModel):
    """Corners of the sheet border as typed."""

    corners: str = "grid"
    west: str = ""
    south: str = ""
    east: str = ""
    north: str = ""

    @property
    def typed(self) -> Corners:
        return Corners(self.west, self.south, self.east, self.north, self.corners == "geographic")


class NewProject(BorderForm):
    """What the page of a new project asks for."""

    name: str = ""
    crs: str = ""
    publication: str = ""
    digitizing: str = ""
    # Files laid aside that the project begins with, by their tokens.
    files: str = ""


@router.get("/")
async def home(request: Request, projects: TheProjectFolder) -> Response:
    cards = await asyncio.to_thread(projects.cards)
    return page(request, "home/home.html", cards=cards)


@router.post("/demo")
async def lay_out_demo(request: Request, projects: TheProjectFolder, workers: TheWorkers) -> Response:
    """Make the demo project in this projects."""
    path = await workers.run(jobs.build_demo, projects.folder)
    return Response(status_code=204, headers={"HX-Redirect": f"/p/{path.stem}/compile"})


@router.get("/sund.zip")
async def delivery(workers: TheWorkers) -> Response:
    """The files of a made-up survey's delivery, to try importing on."""
    data = await workers.run(jobs.delivery)
    headers = {"content-disposition": 'attachment; filename="sund.zip"'}
    return Response(data, media_type="application/zip", headers=headers)


@router.post("/take-over")
async def take_over(projects: TheProjectFolder, file: Annotated[UploadFile, File()]) -> Response:
    """Unpack an archive that was handed over, and open its project."""
    async with uploaded([file]) as (archive,):
        slug = await asyncio.to_thread(projects.open_archive, archive)
    return Response(status_code=204, headers={"HX-Redirect": f"/p/{slug}/compile"})


@router.get("/land.svg")
async def outline_of_land() -> Response:
    """The land in outline as a drawing in degrees, y southwards."""
    drawing = await asyncio.to_thread(land_svg)
    return Response(drawing, media_type="image/svg+xml", headers={"Cache-Control": "max-age=86400"})


@router.post("/begin")
async def begin(projects: TheProjectFolder, files: Annotated[list[UploadFile], File()]) -> Response:
    """Take files to begin a project with; nothing is made before its page has been seen."""
    if len(files) > MOST_FILES:
        raise FileRefused(f"{len(files)} files are too many to begin with; choose at most {MOST_FILES}.")
    tokens = [(await laid_aside(projects.folder, file, parts))[0] for file, parts in with_parts(files)]
    return Response(status_code=204, headers={"HX-Redirect": f"/new?files={'.'.join(tokens)}"})


@router.get("/new")
async def new(request: Request, projects: TheProjectFolder, workers: TheWorkers, files: str = "") -> Response:
    """A new project; where it begins with files, with what they propose."""
    if not files:
        return page(request, "home/new.html")
    tokens = files.split(".")[:MOST_FILES]
    paths = [aside(projects.folder, token) for token in tokens]
    try:
        found = await workers.open_strange(beginning_of, paths)
    except OrvikError as refusal:
        return page(request, "home/new.html", files=files, listed=[path.name for path in paths], why=refusal.sentence)
    candidates = await asyncio.to_thread(crs_search.search, found.crs)
    chosen = [one for one in candidates if one.code == found.crs][:1] or candidates[:1]
    return page(
        request,
        "home/new.html",
        files=".".join(tokens[file.place] for file in found.files),
        begun=found,
        found=chosen,
        asked=found.crs,
        typed=found.corners,
        digitizing=found.digitizing,
    )


@router.get("/crs")
async def find_crs(request: Request, q: str = "") -> Response:
    found = await asyncio.to_thread(crs_search.search, q) if q.strip() else []
    return page(request, "home/_crs_found.html", found=found, asked=q.strip())


@router.get("/digitizing")
async def propose(request: Request, publication: str = "") -> Response:
    # An empty field asks for nothing yet.
    digitizing = proposed_digitizing(parse_scale(publication)) if publication.strip() else None
    return page(request, "home/_digitizing.html", digitizing=digitizing)


@router.post("/new")
async def make(request: Request, projects: TheProjectFolder, form: Annotated[NewProject, Form()]) -> Response:
    crs = project_crs(form.crs)
    publication = parse_scale(form.publication)
    digitizing = parse_scale(form.digitizing) if form.digitizing.strip() else proposed_digitizing(publication)
    scales = Scales(publication, digitizing)
    corners = form.typed if form.typed.given else None
    begun = {token: aside(projects.folder, token) for token in form.files.split(".") if token}
    slug = await asyncio.to_thread(projects.make, form.name.strip(), crs, scales, corners)
    left = []
    workspace = await projects.workspace(slug)
    for token, path in begun.items():
        if not units_in(path):
            left.append(token)
            continue
        await workspace.carry_out(take_table, path.read_bytes())
        thrown_away(projects.folder, token)
    then = f"?then={'.'.join(left[1:])}" if left[1:] else ""
    onward = f"import/{left[0]}{then}" if left else "ground"
    return Response(status_code=204, headers={"HX-Redirect": f"/p/{slug}/{onward}"})

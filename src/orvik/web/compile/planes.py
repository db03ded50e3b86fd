"""Compile, planes over the relief: from a reading, a line or places; the trace, what lies off it, and measures."""

from __future__ import annotations

import json
from typing import Annotated, Any

from fastapi import APIRouter, Form, Request
from pydantic import BaseModel, Field
from starlette.responses import Response

from orvik.core.coordinates import GroundXY
from orvik.core.errors import NotFound, StructureRefused
from orvik.core.features.attitude import compass_point
from orvik.core.features.kind import KINDS, USUAL_READING
from orvik.core.features.table import TABLES, Table
from orvik.core.ground.coordinates import parse_number, parse_quantity
from orvik.core.ground.scale import spaced
from orvik.core.structure.best_plane import FEWEST_PLACES
from orvik.core.structure.measures import Thickness, apparent_dip
from orvik.usecases.compile.features import keep_features
from orvik.usecases.structure.planes import reading_of
from orvik.web.frame.pages import page
from orvik.web.session.dependencies import TheWorkers, TheWorkspace
from orvik.web.session.held_plane import HeldPlane
from orvik.web.session.jobs import compared_with_trace, measured, plane_of, trace_of
from orvik.web.session.workspace import Workspace

router = APIRouter(prefix="/p/{slug}/plane")
# The trace is drawn so much beyond the view, by its own size on each side, so that a small move shows it.
BEYOND = 0.25
MOST_PLACES = 500


class ViewForm(BaseModel):
    """A window of the page and the ground that it shows."""

    window_id: Annotated[str, Field(max_length=64)] = ""
    west: float
    south: float
    east: float
    north: float
    pixel: Annotated[float, Field(gt=0)]
    reach: Annotated[str, Field(max_length=40)] = ""


class PlaneForm(ViewForm):
    """What the plane is asked of: a feature, or places as JSON."""

    table: str = ""
    id: int = 0
    places: Annotated[str, Field(max_length=60_000)] = "[]"


@router.post("")
async def find(
    request: Request, slug: str, workspace: TheWorkspace, workers: TheWorkers, form: Annotated[PlaneForm, Form()]
) -> Response:
    """Find the plane of what is selected, or through the places that were picked, and draw its trace."""
    key = (_table(form.table), form.id) if form.table else None
    places = _places(form.places)
    if key is None and 0 < len(places) < FEWEST_PLACES:
        said = f"{len(places)} of at least {FEWEST_PLACES} places."
        return page(request, "compile/_plane_said.html", said=said, parts="")
    found = await workers.run(plane_of, workspace.project.path, key, places)
    held = await _traced(workspace, workers, HeldPlane(found), form)
    return _shown(request, slug, held)


@router.post("/trace")
async def trace(
    request: Request, slug: str, workspace: TheWorkspace, workers: TheWorkers, form: Annotated[ViewForm, Form()]
) -> Response:
    """Draw the trace anew, as after a move of the view."""
    held = await _traced(workspace, workers, _held(workspace, form.window_id), form)
    return page(request, "compile/_plane_trace.html", held=held, lines=_lines(held))


@router.post("/compare")
async def compare(
    request: Request,
    workspace: TheWorkspace,
    workers: TheWorkers,
    table: Annotated[str, Form()],
    id: Annotated[int, Form()],
    window_id: Annotated[str, Form()] = "",
) -> Response:
    """How far a line lies from the trace."""
    held = _held(workspace, window_id)
    words = await workers.run(compared_with_trace, workspace.project.path, held.found.plane, (_table(table), id))
    return page(request, "compile/_plane_said.html", said=words, parts="")


@router.post("/measure")
async def measure(
    request: Request,
    workspace: TheWorkspace,
    workers: TheWorkers,
    places: Annotated[str, Form()],
    window_id: Annotated[str, Form()] = "",
) -> Response:
    """The thickness between two places, or the depth of the plane below one."""
    at = _places(places)
    if len(at) not in (1, 2):
        raise StructureRefused("A depth is measured below one place, a thickness between two; pick again.")
    found = await workers.run(measured, workspace.project.path, _held(workspace, window_id).found.plane, at)
    if isinstance(found, Thickness):
        said = f"True thickness {spaced(found.metres, 1)} m."
    else:
        said = (
            f"The plane lies {spaced(abs(found.metres), 1)} m {'below' if found.metres >= 0 else 'above'} the ground."
        )
    return page(request, "compile/_plane_said.html", said=said, parts=found.words)


@router.post("/apparent")
async def apparent(
    request: Request, workspace: TheWorkspace, direction: Annotated[str, Form()], window_id: Annotated[str, Form()] = ""
) -> Response:
    """The dip that shows in an upright section of a direction from true north."""
    held = _held(workspace, window_id)
    azimuth = parse_number(direction, "direction")
    if not 0 <= azimuth <= 360:
        raise StructureRefused("A section runs in a direction of 0 to 360 degrees; type another.")
    convergence = float(workspace.project.crs.convergence(*held.found.place))
    found = apparent_dip(held.found.plane, azimuth - convergence)
    towards = azimuth if found.degrees >= 0 else (azimuth + 180) % 360
    said = f"It dips {abs(found.degrees):.1f}° to the {compass_point(towards)} there."
    if round(abs(found.degrees), 1) == 0:
        said = "It is level there."
    return page(request, "compile/_plane_said.html", said=said, parts=found.words)


@router.post("/keep")
async def keep(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    kind: Annotated[str, Form()],
    window_id: Annotated[str, Form()] = "",
) -> Response:
    """Keep the plane as a reading, whose note says from what it was measured."""
    held = _held(workspace, window_id)
    edit = reading_of(held.found, kind, workspace.project.scales.digitizing)
    await workspace.carry_out(keep_features, workspace.index, edit, workspace.project.revision)
    return _shown(request, slug, held, kept=True)


@router.delete("")
async def drop(request: Request, slug: str, workspace: TheWorkspace, window_id: str = "") -> Response:
    """Let the plane go."""
    workspace.planes.pop(window_id, None)
    return page(request, "compile/_plane.html", slug=slug, held=None)


async def _traced(workspace: Workspace, workers: Any, held: HeldPlane, form: ViewForm) -> HeldPlane:
    reach = parse_quantity(form.reach.removesuffix("m"), "distance", StructureRefused) if form.reach.strip() else None
    if reach is not None and reach <= 0:
        raise StructureRefused("A trace reaches some metres at least; type how far, or nothing for all of the view.")
    wide, high = (form.east - form.west) * BEYOND, (form.north - form.south) * BEYOND
    window = (form.west - wide, form.south - high, form.east + wide, form.north + high)
    if not window[0] < window[2] or not window[1] < window[3]:
        raise StructureRefused("The page shows no ground; load it again.")
    lines = await workers.run(trace_of, workspace.project.path, held.found.plane, window, form.pixel, reach)
    traced = held.traced(lines, reach)
    if form.window_id in workspace.window_ids:
        workspace.planes[form.window_id] = traced
    return traced


def _held(workspace: Workspace, window_id: str) -> HeldPlane:
    held = workspace.planes.get(window_id)
    if held is None:
        raise NotFound("No plane is shown here any more; find one again.")
    return held


def _shown(request: Request, slug: str, held: HeldPlane, *, kept: bool = False) -> Response:
    names = [kind.name for kind in KINDS.values() if kind.reading == "plane" and not kind.linear]
    return page(
        request,
        "compile/_plane.html",
        slug=slug,
        held=held,
        found=held.found,
        lines=_lines(held),
        kinds=names,
        usual=USUAL_READING,
        kept=kept,
    )


def _lines(held: HeldPlane) -> str:
    return json.dumps([[list(at) for at in line.geometry.coords] for line in held.trace])


def _table(name: str) -> Table:
    if name not in TABLES:
        raise StructureRefused("Select a reading or a line first.")
    return name


def _places(text: str) -> list[GroundXY]:
    try:
        places = [(float(x), float(y)) for x, y in json.loads(text)]
    except (ValueError, TypeError) as error:
        raise StructureRefused("The places that were picked cannot be read; pick them again.") from error
    if len(places) > MOST_PLACES:
        raise StructureRefused(f"A plane is laid through {MOST_PLACES} places at the most; draw a line and select it.")
    return places

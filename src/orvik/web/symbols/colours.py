"""Colours that meet: how well units that touch are told apart, and a proposal, shown before it is taken."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Form, Query, Request
from starlette.responses import Response

from orvik.core.colour.proposal import HUE_REACH
from orvik.core.errors import FeatureRefused
from orvik.core.features.column_colours import WAYS
from orvik.core.ground.coordinates import parse_quantity
from orvik.core.ink.primitives import INK
from orvik.usecases.symbols.meeting_colours import WANTED, ColourReport, column_moves, take_colours
from orvik.web.frame.pages import page, stage_page
from orvik.web.session import jobs
from orvik.web.session.dependencies import TheWorkers, TheWorkspace
from orvik.web.session.workers import Workers
from orvik.web.session.workspace import Workspace
from orvik.web.symbols.benches import bench_values
from orvik.web.symbols.colour_matrix import matrix_picture

router = APIRouter(prefix="/p/{slug}/symbols/colours")


@router.get("")
async def get_colours(request: Request, workspace: TheWorkspace, workers: TheWorkers) -> Response:
    values = await _values(workspace, workers, WANTED)
    bench = bench_values(workspace, "colours")
    return stage_page(request, workspace, "symbols", template="symbols/colours.html", **bench, **values)


@router.get("/report")
async def get_report(
    request: Request, slug: str, workspace: TheWorkspace, workers: TheWorkers, wanted: str = ""
) -> Response:
    """The pairs, for another least difference."""
    values = await _values(workspace, workers, _wanted(wanted))
    return page(request, "symbols/_colours.html", slug=slug, ink=INK, **values)


@router.get("/count")
async def get_count(request: Request, slug: str, workspace: TheWorkspace, workers: TheWorkers) -> Response:
    """How many pairs are hard to tell apart, for the bench and the strip."""
    report = await workers.run(jobs.colour_report, workspace.project.path, WANTED)
    return page(request, "symbols/_pair_count.html", slug=slug, bad=len(report.bad))


@router.get("/proposal")
async def get_proposal(
    request: Request, slug: str, workspace: TheWorkspace, workers: TheWorkers, wanted: str = ""
) -> Response:
    """What could be done about pairs that are hard to tell apart."""
    least = _wanted(wanted)
    found = await workers.run(jobs.colour_proposal, workspace.project.path, least)
    values = {"found": found, "wanted": least, "reach": round(HUE_REACH), "ink": INK}
    return page(request, "symbols/_proposal.html", slug=slug, **values)


@router.get("/column")
async def get_column_colours(request: Request, slug: str, workspace: TheWorkspace, way: str = "") -> Response:
    """Colours for the whole column by a way, to look at before they are taken."""
    chosen = next((one for one in WAYS if one == way), None)
    if chosen is None:
        raise FeatureRefused("Choose what the column is to be coloured by.")
    moves = column_moves(workspace.project, chosen)
    return page(request, "symbols/_column_colours.html", slug=slug, moves=moves, ink=INK, wanted=WANTED)


@router.post("/take")
async def post_colours(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    workers: TheWorkers,
    take: Annotated[list[str] | None, Form()] = None,
    wanted: Annotated[str, Form()] = "",
) -> Response:
    """Take the colours of a proposal that are ticked."""
    await workspace.carry_out(take_colours, _colours(take or []))
    values = await _values(workspace, workers, _wanted(wanted))
    return page(request, "symbols/_colours.html", slug=slug, ink=INK, **values)


@router.get("/map")
async def get_map(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    workers: TheWorkers,
    one: str = "",
    other: str = "",
    take: Annotated[list[str] | None, Query()] = None,
) -> Response:
    """The map as it is with the edge of a pair marked; or beside it the map in the colours of a proposal."""
    pair = (one, other) if one and other else None
    path = workspace.project.path
    pictures = [("As it is", await workers.run(jobs.colour_picture, path, {}, pair, "map-is"))]
    if take:
        pictures.append(("Proposal", await workers.run(jobs.colour_picture, path, _colours(take), pair, "map-then")))
    title = f"Where {one} and {other} meet" if pair else "The map as it is, and with the proposal"
    return page(request, "symbols/_colour_map.html", slug=slug, title=title, pictures=pictures)


async def _values(workspace: Workspace, workers: Workers, wanted: float) -> dict[str, Any]:
    report: ColourReport = await workers.run(jobs.colour_report, workspace.project.path, wanted)
    units = [unit for _, unit in workspace.project.units()]
    return {"report": report, "matrix": matrix_picture(units, report), "ways": WAYS}


def _wanted(text: str) -> float:
    if not text.strip():
        return WANTED
    wanted = parse_quantity(text, "difference", FeatureRefused)
    if not 0 < wanted <= 30:
        raise FeatureRefused("A difference of 0.1 to 30 can be wanted; 5 is told apart with ease.")
    return wanted


def _colours(taken: list[str]) -> dict[str, str]:
    """Colours by unit out of the ticked rows, ``Jc #E0AE75``."""
    return {code: colour for code, _, colour in (row.rpartition(" ") for row in taken)}

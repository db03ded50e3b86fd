"""Aiming: a panel's ground, moved and scaled while its page stands still."""

from __future__ import annotations

import json
import math
from typing import Annotated, Any

from fastapi import APIRouter, Form, Request
from starlette.responses import Response

from orvik.core.errors import OrvikError, SheetRefused
from orvik.core.features.table import TABLES, FeatureKey
from orvik.core.ground.border import ground_of
from orvik.core.ground.crs_change import way_between
from orvik.core.ground.crs_choice import short_list
from orvik.core.ground.scale import spaced
from orvik.core.sheet.panels.aim import ROUND_SCALES
from orvik.core.sheet.panels.scale_distortion import truth_of
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.usecases.sheet import aiming
from orvik.usecases.sheet.parts import PartChange, change_part, panel_shown
from orvik.web.frame.pages import page
from orvik.web.session.dependencies import TheWorkspace
from orvik.web.session.workspace import Workspace
from orvik.web.sheet.parts import TypedForm, part_slip

router = APIRouter(prefix="/p/{slug}/parts/{part_id}")

MOST_FEATURES = 2000


@router.post("/frame-border")
async def post_frame_border(request: Request, workspace: TheWorkspace, part_id: int) -> Response:
    """Give a panel the size of the border at the publication scale."""
    await workspace.carry_out(aiming.frame_border, part_id)
    return part_slip(request, workspace, workspace.project.part(part_id))


@router.get("/most-room")
async def get_most_room(request: Request, slug: str, workspace: TheWorkspace, part_id: int) -> Response:
    """The frame that would give a panel the most room, to be shown before it is taken."""
    x, y, width, height = aiming.most_room_for(workspace.project, part_id)
    return page(request, "sheet/_most_room.html", slug=slug, part_id=part_id, x=x, y=y, width=width, height=height)


@router.post("/most-room")
async def post_most_room(request: Request, workspace: TheWorkspace, part_id: int) -> Response:
    await workspace.carry_out(aiming.give_most_room, part_id)
    return part_slip(request, workspace, workspace.project.part(part_id))


@router.get("/aim")
async def get_aim(request: Request, workspace: TheWorkspace, part_id: int) -> Response:
    """What is beside the page while a panel is aimed, on both sides."""
    aiming.panel_to_aim(workspace.project, part_id)
    return _aim_slip(request, workspace, part_id, with_targets=True)


@router.post("/aim")
async def post_aim(request: Request, workspace: TheWorkspace, part_id: int, typed: TypedForm) -> Response:
    """Scale, centre, turn or system as typed, or as the hand has left them."""
    aiming.panel_to_aim(workspace.project, part_id)
    await workspace.carry_out(change_part, part_id, PartChange(typed=typed))
    return _aim_slip(request, workspace, part_id)


@router.post("/aim/border")
async def post_aim_border(request: Request, workspace: TheWorkspace, part_id: int) -> Response:
    await workspace.carry_out(aiming.aim_at_border, part_id)
    return _aim_slip(request, workspace, part_id)


@router.post("/aim/view")
async def post_aim_view(
    request: Request, workspace: TheWorkspace, part_id: int, view: Annotated[int, Form()]
) -> Response:
    await workspace.carry_out(aiming.aim_at_view, part_id, view)
    return _aim_slip(request, workspace, part_id)


@router.post("/aim/keep")
async def post_kept_view(
    request: Request, workspace: TheWorkspace, part_id: int, name: Annotated[str, Form()] = ""
) -> Response:
    """Keep what the panel is aimed at as a saved view."""
    await workspace.carry_out(aiming.keep_view, part_id, name)
    return _aim_slip(request, workspace, part_id, with_targets=True)


@router.post("/aim/working")
async def post_aim_working(
    request: Request,
    workspace: TheWorkspace,
    part_id: int,
    x: Annotated[float, Form()],
    y: Annotated[float, Form()],
    denominator: Annotated[float, Form()],
) -> Response:
    """As Compile shows the map, which the page knows."""
    if not (math.isfinite(denominator) and math.isfinite(x) and math.isfinite(y)):
        raise SheetRefused("Compile has not told what it shows; look at the map there once more.")
    await workspace.carry_out(aiming.aim_at_place, part_id, x, y, round(denominator))
    return _aim_slip(request, workspace, part_id)


@router.post("/aim/hand")
async def post_aim_hand(
    request: Request, workspace: TheWorkspace, part_id: int, keys: Annotated[str, Form()] = ""
) -> Response:
    """At what is selected in Compile, as the page knows it: tables and numbers as JSON."""
    await workspace.carry_out(aiming.aim_at_features, part_id, _keys(keys))
    return _aim_slip(request, workspace, part_id)


@router.post("/aim/upright")
async def post_aim_upright(
    request: Request, workspace: TheWorkspace, part_id: int, keys: Annotated[str, Form()] = ""
) -> Response:
    """In a system that runs along the selected line in Compile, so that vertical."""
    await workspace.carry_out(aiming.stand_upright, part_id, _keys(keys))
    return _aim_slip(request, workspace, part_id)


@router.get("/systems")
async def get_systems(request: Request, workspace: TheWorkspace, slug: str, part_id: int) -> Response:
    """The systems that suit the ground of a panel, the best first."""
    part = workspace.project.part(part_id)
    panel = panel_shown(workspace.project, part)
    ground = ground_of(panel.crs, panel.ground.exterior)
    return page(request, "sheet/_systems.html", slug=slug, part=part, choices=short_list(ground, 4))


def _keys(text: str) -> list[FeatureKey]:
    try:
        found = [(table, int(number)) for table, number in json.loads(text)[:MOST_FEATURES] if table in TABLES]
    except (ValueError, TypeError) as error:
        raise SheetRefused("Nothing is selected; select something in Compile, then aim again.") from error
    if not found:
        raise SheetRefused("Nothing is selected; select something in Compile, then aim again.")
    return found


def _aim_slip(request: Request, workspace: Workspace, part_id: int, with_targets: bool = False) -> Response:
    project = workspace.project
    part = project.part(part_id)
    settings = part.settings
    assert isinstance(settings, MapPanel)
    panel = panel_shown(project, part)
    state = {
        "id": part.id,
        "label": part.label,
        "scale": panel.scale,
        "centre": panel.centre,
        "rotation": panel.rotation,
        "mmPerMetre": 1000 * panel.crs.metres_per_unit,
        "toPage": panel.to_page,
        "scales": ROUND_SCALES,
    }
    values: dict[str, Any] = {"truth": None, "warning": "", "shift": ""}
    shift = way_between(panel.crs, project.crs, panel.centre).shift
    if shift.shifts_datum:
        values["shift"] = f"{shift.words} {shift.missing}".strip()
    try:
        truth = truth_of(panel)
        values |= {
            "truth": truth,
            "warning": truth.warning(panel.scale),
            "here": f"1:{spaced(panel.scale / truth.middle)}",
        }
    except OrvikError as refusal:
        values["warning"] = refusal.sentence
    return page(
        request,
        "sheet/_aim.html",
        slug=workspace.slug,
        part=part,
        settings=settings,
        panel=panel,
        state=state,
        ground=aiming.ground_shown(project, panel),
        views=project.views(),
        others=[p for p in project.parts(part.sheet_id or 0) if isinstance(p.settings, MapPanel) and p.id != part_id],
        with_targets=with_targets,
        **values,
    )

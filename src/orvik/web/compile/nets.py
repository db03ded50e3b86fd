"""Compile, the net of readings beside the map: its picture, what they say together, and a fold axis out of it."""

from __future__ import annotations

import json
from typing import Annotated

from fastapi import APIRouter, Depends, Form, Request
from pydantic import BaseModel, Field
from starlette.responses import Response

from orvik.core.coordinates import GroundBox
from orvik.core.errors import StructureRefused
from orvik.core.features.attitude import three_figures
from orvik.core.structure.axes import AxialStatistics
from orvik.core.structure.net_ink import NetLook
from orvik.core.structure.readings import ReadingChoice
from orvik.usecases.compile.features import keep_features
from orvik.usecases.structure.nets import AROUND, RADIUS
from orvik.web.frame.pages import page
from orvik.web.session.dependencies import TheWorkers, TheWorkspace
from orvik.web.session.jobs import fold_axis_of
from orvik.web.session.net_picture import NetPicture, net_picture
from orvik.web.session.workspace import Workspace

router = APIRouter(prefix="/p/{slug}/net")
WIDTH, HEIGHT = 2 * (RADIUS + AROUND), 2 * (RADIUS + AROUND) + 2.0
SHOWN = {"equal_area": "equal area", "equal_angle": "equal angle", "rose": "rose"}
SECTOR = 10.0
MOST_SELECTED = 50_000


class NetForm(BaseModel):
    """What the net is of and shows; switches that are off are not sent."""

    kind: Annotated[str, Field(max_length=80)] = ""
    unit: Annotated[str, Field(max_length=80)] = ""
    # All of the map, the page's ``view``, what is ``selected``, or the number of a saved view.
    where: Annotated[str, Field(max_length=20)] = ""
    shows: str = "equal_area"
    circles: bool = False
    density: bool = False
    # The numbers of the selected readings as JSON.
    ids: Annotated[str, Field(max_length=600_000)] = "[]"
    west: float = 0.0
    south: float = 0.0
    east: float = 0.0
    north: float = 0.0
    denominator: Annotated[float, Field(gt=0)] = 1.0

    @property
    def look(self) -> NetLook:
        return NetLook("equal_angle" if self.shows == "equal_angle" else "equal_area", True, self.circles, self.density)


async def net_choice(workspace: TheWorkspace, form: Annotated[NetForm, Form()]) -> tuple[NetForm, ReadingChoice]:
    """What a form asks for."""
    ids = _ids(form.ids) if form.where == "selected" else None
    window = (form.west, form.south, form.east, form.north) if form.where == "view" else None
    if form.where.isdigit():
        window = _window_of(workspace, form)
    kinds = frozenset({form.kind}) if form.kind else frozenset()
    return form, ReadingChoice(kinds, form.unit, ids, window)


def _window_of(workspace: Workspace, form: NetForm) -> GroundBox:
    """The ground that a saved view shows in a page of this size."""
    crs = workspace.project.crs
    view = next((view for view in workspace.project.views() if str(view.id) == form.where), None)
    place = view.place_in(crs, crs) if view is not None else None
    if view is None or place is None:
        raise StructureRefused("That saved view is no longer there; choose another.")
    times = view.denominator / form.denominator / 2
    wide, high = (form.east - form.west) * times, (form.north - form.south) * times
    return place[0] - wide, place[1] - high, place[0] + wide, place[1] + high


Asked = Annotated[tuple[NetForm, ReadingChoice], Depends(net_choice)]


@router.post("")
async def net(request: Request, slug: str, workspace: TheWorkspace, workers: TheWorkers, asked: Asked) -> Response:
    """The net and what it says."""
    form, choice = asked
    if form.shows not in SHOWN:
        raise StructureRefused(f"A net is shown as {', '.join(SHOWN.values())}; choose one.")
    sector = SECTOR if form.shows == "rose" else None
    found = await workers.run(net_picture, workspace.project.path, choice, form.look, sector)
    return page(
        request,
        "compile/_net.html",
        slug=slug,
        form=form,
        found=found,
        width=WIDTH,
        height=HEIGHT,
        facts=_facts(found.statistics, found.planar),
        reason=_reason(found),
        units=[unit for _, unit in workspace.project.units()],
        views=workspace.project.views(),
        shown=SHOWN,
    )


@router.post("/axis")
async def keep_axis(request: Request, workspace: TheWorkspace, workers: TheWorkers, asked: Asked) -> Response:
    """Keep the axis of the best girdle as a reading."""
    scale = workspace.project.scales.digitizing
    edit = await workers.run(fold_axis_of, workspace.project.path, asked[1], scale)
    await workspace.carry_out(keep_features, workspace.index, edit, workspace.project.revision)
    return page(request, "compile/_plane_said.html", said="Saved as a fold axis; its note says from what.", parts="")


def _ids(text: str) -> frozenset[int]:
    try:
        numbers = frozenset(int(number) for number in json.loads(text))
    except (ValueError, TypeError) as error:
        raise StructureRefused("What is selected cannot be read; select it again.") from error
    if len(numbers) > MOST_SELECTED:
        raise StructureRefused(f"A net takes {MOST_SELECTED:,} selected readings at the most; choose a kind instead.")
    return numbers


def _facts(found: AxialStatistics | None, planar: bool) -> list[tuple[str, str, str]]:
    """What the readings say together: what it is, in figures, and more words for who asks."""
    if found is None:
        return []
    (trend, plunge), (strike, dip) = found.mean, found.mean_plane
    mean = f"{three_figures(round(strike) % 360)}/{dip:.0f}" if planar else _line(trend, plunge)
    # Along a girdle there is no one direction to speak of.
    facts = [] if found.count > 1 and found.shape < 1 else [("Mean", mean, "the first eigenvector of the axes")]
    if found.cone is not None:
        facts.append(("Cone, 95 %", f"{found.cone:.1f}°", "the mean lies within it in 95 of 100 cases (Fisher)"))
        facts.append(("Fisher’s k", f"{found.fisher_k:.1f}", "the larger, the closer the readings lie together"))
    if found.count > 1:
        strike, dip = found.girdle
        facts.append(("Best girdle", f"{three_figures(round(strike) % 360)}/{dip:.0f}", "strike and dip"))
        facts.append(("Its axis", _line(*found.girdle_axis), "plunge and trend; of poles to beds, the fold axis"))
        values = ", ".join(f"{value:.2f}" for value in found.eigenvalues)
        facts.append(("Eigenvalues", values, "of the orientation tensor; they add up to 1"))
        shape = f"{min(found.shape, 99.0):.2f}"
        facts.append(("Shape K", shape, "Woodcock: below 1 a girdle, above 1 a cluster"))
    return facts


def _reason(found: NetPicture) -> str:
    """Why there is no mean, or no cone about it."""
    if found.mixed:
        return "Planes and lines have no mean together; choose a kind."
    return f"No cone: {found.statistics.reason}" if found.statistics is not None and found.statistics.reason else ""


def _line(trend: float, plunge: float) -> str:
    return f"{plunge:.0f} → {three_figures(round(trend) % 360)}"

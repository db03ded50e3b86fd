"""The column of map units: added, changed, moved and removed, in Signs and where a unit is to be chosen."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Form, Request
from pydantic import BaseModel
from starlette.responses import Response

from orvik.core.features.map_unit import MapUnit, new_colour
from orvik.usecases.units import add_unit, change_unit, move_unit, remove_unit, unit_by_id
from orvik.web.frame.pages import page
from orvik.web.session.dependencies import TheWorkspace
from orvik.web.session.workspace import Workspace

router = APIRouter(prefix="/p/{slug}/units")


class UnitForm(BaseModel):
    """A map unit as typed."""

    code: str = ""
    name: str = ""
    age: str = ""
    colour: str = "#CCCCCC"
    description: str = ""
    # What the page showed when the form was filled in; a form of another program need not say.
    revision: int | None = None

    def unit(self, position: int) -> MapUnit:
        """The unit that was typed; raises FeatureRefused where it cannot be."""
        texts = (self.code, self.name, self.age, self.colour, self.description)
        code, name, age, colour, description = (text.strip() for text in texts)
        return MapUnit(code, name, age, colour, description, position)


@router.get("")
async def get_column(
    request: Request, workspace: TheWorkspace, chosen: int | None = None, slip: bool = False
) -> Response:
    """The column as it is now; with the slip of the chosen unit only where that is asked for."""
    return _column(request, workspace, chosen, slip)


@router.post("/here")
async def post_unit_here(
    request: Request, slug: str, workspace: TheWorkspace, form: Annotated[UnitForm, Form()]
) -> Response:
    """A unit made where one is to be chosen; gives the choice with it chosen."""
    await workspace.carry_out(add_unit, form.unit(0))
    taken = form.code.strip()
    return page(request, "compile/_unit_choice.html", slug=slug, **_choice(workspace), taken=taken)


@router.get("/to-tag")
async def get_units_to_tag(request: Request, slug: str, workspace: TheWorkspace) -> Response:
    """The units that a finding's mend may tag with."""
    return page(request, "compile/_finding_unit.html", slug=slug, units=_all(workspace))


@router.get("/new")
async def get_new_unit(request: Request, slug: str, workspace: TheWorkspace) -> Response:
    values = {"chosen": None, "uses": uses(workspace), "revision": None, "new_colour": new_colour(_all(workspace))}
    return page(request, "signs/_unit.html", slug=slug, **values)


@router.get("/{unit_id}")
async def get_unit(request: Request, slug: str, workspace: TheWorkspace, unit_id: int) -> Response:
    chosen = unit_id, unit_by_id(workspace.project, unit_id)
    return page(
        request,
        "signs/_unit.html",
        slug=slug,
        chosen=chosen,
        uses=uses(workspace),
        revision=workspace.project.revision,
    )


@router.post("")
async def post_unit(request: Request, workspace: TheWorkspace, form: Annotated[UnitForm, Form()]) -> Response:
    entry = await workspace.carry_out(add_unit, form.unit(0))
    return _column(request, workspace, entry.changes[0].id)


@router.post("/{unit_id}")
async def post_changed_unit(
    request: Request, workspace: TheWorkspace, unit_id: int, form: Annotated[UnitForm, Form()]
) -> Response:
    """Change a unit; features that name it follow a new code."""
    position = unit_by_id(workspace.project, unit_id).position
    await workspace.carry_out(change_unit, unit_id, form.unit(position), form.revision)
    return _column(request, workspace, unit_id)


@router.post("/{unit_id}/move/{step}")
async def post_moved_unit(request: Request, workspace: TheWorkspace, unit_id: int, step: int) -> Response:
    """One place younger (-1) or older (1)."""
    await workspace.carry_out(move_unit, unit_id, step > 0)
    return _column(request, workspace, unit_id)


@router.delete("/{unit_id}")
async def delete_unit(request: Request, workspace: TheWorkspace, unit_id: int) -> Response:
    await workspace.carry_out(remove_unit, unit_id)
    return _column(request, workspace, None)


def uses(workspace: Workspace) -> dict[str, int]:
    """How many features name each unit."""
    return {unit.code: workspace.project.unit_use(unit.code) for _, unit in workspace.project.units()}


def _choice(workspace: Workspace) -> dict[str, Any]:
    """What a choice of units shows: those there are, and a colour for another one."""
    units = _all(workspace)
    return {"units": units, "new_colour": new_colour(units)}


def _all(workspace: Workspace) -> list[MapUnit]:
    return [unit for _, unit in workspace.project.units()]


def _column(request: Request, workspace: Workspace, chosen: int | None, slip: bool = True) -> Response:
    units = workspace.project.units()
    in_hand = next((unit for unit in units if unit[0] == chosen), units[0] if units else None)
    return page(
        request,
        "signs/_units.html",
        slug=workspace.slug,
        units=units,
        new_colour=new_colour(unit for _, unit in units),
        chosen=in_hand,
        uses=uses(workspace),
        with_slip=slip,
        revision=workspace.project.revision,
    )

"""Signs: the sign book as a plate of specimens, and the column of map units."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Form, Request
from pydantic import BaseModel
from starlette.responses import Response

from ..core.errors import FeatureRefused, NotFound
from ..core.feature import TABLES
from ..core.units import MapUnit
from ..store import rows
from ..store.journal import Change
from .pages import chest_of, page, stage_page
from .swatches import line_swatch, point_swatch
from .workspace import Workspace

router = APIRouter(prefix="/p/{slug}")


class UnitForm(BaseModel):
    """A map unit as typed."""

    code: str = ""
    name: str = ""
    age: str = ""
    colour: str = "#CCCCCC"
    description: str = ""
    # What the page showed when the form was filled in; a form of another program need not say.
    revision: int | None = None


@router.get("/signs")
async def signs(request: Request, slug: str) -> Response:
    workspace = await chest_of(request).workspace(slug)
    book = workspace.book
    families: dict[str, list[tuple[str, str, str]]] = {}
    for line in book.lines:
        families.setdefault(line.kind.capitalize(), []).append((line.label, line_swatch(line, 22), line.says))
    for point in book.points:
        drawn = point_swatch(point, f"plate-{point.label}".replace(" ", "-").replace(",", ""))
        families.setdefault(point.kind.replace("_", " ").capitalize(), []).append((point.label, drawn, point.says))
    units = workspace.project.units()
    return stage_page(
        request,
        workspace,
        "signs",
        families=families,
        units=units,
        chosen=units[0] if units else None,
        uses=_uses(workspace),
        revision=workspace.project.revision,
    )


@router.get("/units")
async def column(request: Request, slug: str, chosen: int | None = None, slip: bool = False) -> Response:
    """The column as it is now; with the slip of the chosen unit only where that is asked for."""
    return _column(request, await chest_of(request).workspace(slug), chosen, slip)


@router.post("/units/here")
async def add_unit_here(request: Request, slug: str, form: Annotated[UnitForm, Form()]) -> Response:
    """A unit made where one is to be chosen; gives the choice with it chosen."""
    workspace = await chest_of(request).workspace(slug)
    made = await _added(workspace, form)
    return page(
        request, "_unit_choice.html", slug=slug, units=[u for _, u in workspace.project.units()], taken=made.code
    )


@router.get("/units/to-tag")
async def units_to_tag(request: Request, slug: str) -> Response:
    """The units that a finding's mend may tag with."""
    workspace = await chest_of(request).workspace(slug)
    return page(request, "_finding_unit.html", slug=slug, units=[u for _, u in workspace.project.units()])


@router.get("/units/new")
async def new_unit(request: Request, slug: str) -> Response:
    workspace = await chest_of(request).workspace(slug)
    return page(request, "_unit.html", slug=slug, chosen=None, uses=_uses(workspace), revision=None)


@router.get("/units/{unit_id}")
async def unit(request: Request, slug: str, unit_id: int) -> Response:
    workspace = await chest_of(request).workspace(slug)
    return page(
        request,
        "_unit.html",
        slug=slug,
        chosen=_unit(workspace, unit_id),
        uses=_uses(workspace),
        revision=workspace.project.revision,
    )


@router.post("/units")
async def add_unit(request: Request, slug: str, form: Annotated[UnitForm, Form()]) -> Response:
    workspace = await chest_of(request).workspace(slug)
    made = await _added(workspace, form)
    row_id = next(row_id for row_id, unit in workspace.project.units() if unit.code == made.code)
    return _column(request, workspace, row_id)


async def _added(workspace: Workspace, form: UnitForm) -> MapUnit:
    last = max((u.position for _, u in workspace.project.units()), default=0)
    made = _typed(form, last + 1)
    _refuse_double(workspace, made.code, None)
    await workspace.apply(f"add unit {made.code}", [rows.unit_change(None, made)])
    return made


def _typed(form: UnitForm, position: int) -> MapUnit:
    return MapUnit(
        form.code.strip(), form.name.strip(), form.age.strip(), form.colour, form.description.strip(), position
    )


@router.post("/units/{unit_id}")
async def change_unit(request: Request, slug: str, unit_id: int, form: Annotated[UnitForm, Form()]) -> Response:
    """Change a unit; features that name it follow a new code in the same entry."""
    workspace = await chest_of(request).workspace(slug)
    _, old = _unit(workspace, unit_id)
    new = _typed(form, old.position)
    _refuse_double(workspace, new.code, unit_id)
    changes = [rows.unit_change(unit_id, new)]
    if new.code != old.code:
        changes += [
            Change(table, int(feature_id), {"map_unit": new.code})
            for table in TABLES
            for feature_id in workspace.project.ids_of_unit(table, old.code)
        ]
    if new != old:
        await workspace.apply(f"change unit {old.code}", changes, form.revision)
    return _column(request, workspace, unit_id)


@router.post("/units/{unit_id}/move/{step}")
async def move_unit(request: Request, slug: str, unit_id: int, step: int) -> Response:
    """One place younger (-1) or older (1)."""
    workspace = await chest_of(request).workspace(slug)
    units = workspace.project.units()
    place = next((i for i, (row_id, _) in enumerate(units) if row_id == unit_id), None)
    if place is None:
        raise NotFound("That unit is no longer in the project.")
    to = place + (1 if step > 0 else -1)
    if 0 <= to < len(units):
        units.insert(to, units.pop(place))
        changes = [
            Change("units", row_id, {"position": i}) for i, (row_id, u) in enumerate(units, 1) if u.position != i
        ]
        direction = "older" if step > 0 else "younger"
        await workspace.apply(f"make unit {units[to][1].code} {direction}", changes)
    return _column(request, workspace, unit_id)


@router.delete("/units/{unit_id}")
async def remove_unit(request: Request, slug: str, unit_id: int) -> Response:
    workspace = await chest_of(request).workspace(slug)
    _, old = _unit(workspace, unit_id)
    used = workspace.project.unit_use(old.code)
    if used:
        raise FeatureRefused(f"{used} features belong to {old.code}; give them another unit first.")
    await workspace.apply(f"remove unit {old.code}", [Change("units", unit_id, None)])
    return _column(request, workspace, None)


def _column(request: Request, workspace: Workspace, chosen: int | None, slip: bool = True) -> Response:
    units = workspace.project.units()
    in_hand = next((u for u in units if u[0] == chosen), units[0] if units else None)
    return page(
        request,
        "_units.html",
        slug=workspace.slug,
        units=units,
        chosen=in_hand,
        uses=_uses(workspace),
        with_slip=slip,
        revision=workspace.project.revision,
    )


def _uses(workspace: Workspace) -> dict[str, int]:
    return {unit.code: workspace.project.unit_use(unit.code) for _, unit in workspace.project.units()}


def _unit(workspace: Workspace, unit_id: int) -> tuple[int, MapUnit]:
    for row_id, unit in workspace.project.units():
        if row_id == unit_id:
            return row_id, unit
    raise NotFound("That unit is no longer in the project.")


def _refuse_double(workspace: Workspace, code: str, own: int | None) -> None:
    if any(unit.code == code and row_id != own for row_id, unit in workspace.project.units()):
        raise FeatureRefused(f"There is a unit {code} already; choose another code.")

"""The column of map units: added, changed, moved and removed, in Symbols and where a unit is to be chosen."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

from fastapi import APIRouter, File, Form, Request, UploadFile
from pydantic import BaseModel
from starlette.datastructures import FormData
from starlette.responses import PlainTextResponse, Response

from orvik.core.colour.hex import is_colour
from orvik.core.colour.text import (
    cmyk_text,
    hex_text,
    lab_text,
    parse_colour,
    still_typed,
    typed_colour,
    typed_numbers,
)
from orvik.core.errors import FeatureRefused, FileRefused
from orvik.core.features.age import Age, chart
from orvik.core.features.age_letters import CAMBRIAN, PALEOGENE, PENNSYLVANIAN, TRIASSIC
from orvik.core.features.label_text import label_text
from orvik.core.features.map_unit import HEADINGS, RANKS, MapUnit, new_colour, out_of_order
from orvik.core.features.station_table import decoded
from orvik.core.ground.coordinates import parse_quantity
from orvik.core.ink.primitives import INK
from orvik.exchange.features.unit_rows import unit_rows
from orvik.exchange.features.unit_table import COLUMNS
from orvik.exchange.untrusted.parent import DRIVERS
from orvik.usecases.symbols.unit_table import column_label, preview_table, table_of_units, take_table
from orvik.usecases.symbols.units import (
    add_unit,
    change_unit,
    colour_by_age,
    colour_in_steps,
    move_unit,
    move_unit_to,
    remove_unit,
    unit_by_id,
)
from orvik.web.frame.pages import page
from orvik.web.session.dependencies import TheProjectFolder, TheWorkers, TheWorkspace
from orvik.web.session.workspace import Workspace
from orvik.web.symbols.swatches import area_swatch
from orvik.web.uploads import laid_aside, thrown_away

router = APIRouter(prefix="/p/{slug}/units")
table = APIRouter(prefix="/p/{slug}")
LARGEST_TABLE = 4_000_000
# What columns of a table may be chosen for.
MEANT = {name: column_label(name) for name in (*COLUMNS, "ma")}
# Letters that keyboards lack, for the label.
LETTER_KEYS = (
    ("Cambrian", CAMBRIAN),
    ("Triassic", TRIASSIC),
    ("Pennsylvanian", PENNSYLVANIAN),
    ("Paleogene", PALEOGENE),
)


@table.get("/units.csv")
async def get_table(workspace: TheWorkspace) -> Response:
    """The column as a table."""
    headers = {"content-disposition": 'attachment; filename="units.csv"'}
    text = table_of_units(workspace.project)
    return Response(text.encode("utf-8-sig"), media_type="text/csv; charset=utf-8", headers=headers)


class UnitForm(BaseModel):
    """A map unit as typed. Its colour may be given in four ways; the one that was changed counts."""

    code: str = ""
    name: str = ""
    age: str = ""
    colour: str = "#CCCCCC"
    colour_was: str = ""
    colour_typed: str = ""
    pattern_colour_typed: str = ""
    hex: str = ""
    lab: str = ""
    cmyk: str = ""
    description: str = ""
    label: str = ""
    rock: str = ""
    age_from: str = ""
    age_to: str = ""
    rank: str = ""
    parent: str = ""
    heading: str = ""
    pattern: str = ""
    pattern_colour: str = ""
    pattern_opacity: str = "100"
    # What the page showed when the form was filled in; a form of another program need not say.
    revision: int | None = None

    def unit(self, position: int) -> MapUnit:
        """The unit that was typed; raises FeatureRefused where it cannot be."""
        texts = ("code", "name", "age", "description", "rock", "rank", "parent", "heading", "pattern")
        per_cent = self.pattern_opacity.strip().rstrip("% ") or "100"
        opacity = parse_quantity(per_cent, "opacity of the pattern", FeatureRefused) / 100
        colour, typed = self._colour()
        return MapUnit(
            colour=colour,
            colour_typed=typed,
            position=position,
            label=label_text(self.label.strip()),
            age_from=_age(self.age_from),
            age_to=_age(self.age_to),
            pattern_colour=self.pattern_colour if self.pattern else "",
            pattern_colour_typed=self.pattern_colour_typed if self.pattern else "",
            pattern_opacity=opacity,
            # A browser sends other line ends than a description was kept with.
            **{name: getattr(self, name).strip().replace("\r\n", "\n") for name in texts},
        )

    def _colour(self) -> tuple[str, str]:
        """The colour in six digits, and as it was typed if otherwise."""
        was = self.colour_was
        if not is_colour(was):
            return self.colour.strip(), ""
        kept = still_typed(self.colour_typed, was)
        if self.hex.strip() and self.hex.strip() != was:
            return hex_text(self.hex), ""
        for space, text, shown in (
            ("Lab", self.lab, typed_numbers(kept, "Lab") or lab_text(was)),
            ("CMYK", self.cmyk, typed_numbers(kept, "CMYK") or cmyk_text(was)),
        ):
            if text.strip() and text.strip() != shown:
                colour = parse_colour(f"{space} {text}")
                return colour, typed_colour(f"{space} {text}")
        colour = self.colour.strip().upper()
        return colour, kept if colour == was.upper() else ""


def _age(text: str) -> str:
    """An age as the chart calls it; raises FeatureRefused for what is none."""
    return Age.of(text).name if text.strip() else ""


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
    """The units that a finding's fix may tag with."""
    return page(request, "compile/_finding_unit.html", slug=slug, units=_all(workspace))


@router.get("/new")
async def get_new_unit(request: Request, slug: str, workspace: TheWorkspace) -> Response:
    return page(request, "symbols/_unit.html", slug=slug, **slip_values(workspace, None))


@router.get("/{unit_id}/uses")
async def get_uses(workspace: TheWorkspace, unit_id: int) -> Response:
    """How many features a unit has; nothing for one that is gone."""
    code = next((unit.code for number, unit in workspace.project.units() if number == unit_id), None)
    return PlainTextResponse(str(uses(workspace).get(code, 0))) if code is not None else Response(status_code=204)


@router.get("/{unit_id}")
async def get_unit(request: Request, slug: str, workspace: TheWorkspace, unit_id: int) -> Response:
    chosen = unit_id, unit_by_id(workspace.project, unit_id)
    return page(request, "symbols/_unit.html", slug=slug, **slip_values(workspace, chosen))


@router.post("/in-steps")
async def post_in_steps(
    request: Request,
    workspace: TheWorkspace,
    heading: Annotated[str, Form()] = "",
    first: Annotated[str, Form()] = "",
    last: Annotated[str, Form()] = "",
) -> Response:
    """Give the units under a heading colours in even steps."""
    await workspace.carry_out(colour_in_steps, heading, first, last)
    return _column(request, workspace, None)


@router.post("/preview")
async def post_preview(
    request: Request,
    slug: str,
    projects: TheProjectFolder,
    workspace: TheWorkspace,
    workers: TheWorkers,
    table: Annotated[UploadFile | None, File()] = None,
    text: Annotated[str, Form()] = "",
) -> Response:
    """What a table, or the features of a file, would change; nothing is kept."""
    headers = _headers(await request.form())
    data = text.encode()
    if table is not None:
        headers = {}
        data = await table.read(LARGEST_TABLE + 1)
        if Path(table.filename or "").suffix.lower() in DRIVERS or data[:2] == b"PK":
            await table.seek(0)
            token, path = await laid_aside(projects.folder, table)
            try:
                data = await workers.open_strange(unit_rows, path)
            finally:
                thrown_away(projects.folder, token)
    if len(data) > LARGEST_TABLE:
        raise FileRefused("This table is larger than 4 MB, which no column of units is; is it the right file?")
    found = preview_table(workspace.project, data, headers)
    return page(
        request,
        "symbols/_table_preview.html",
        slug=slug,
        found=found,
        text=decoded(data),
        columns=MEANT,
        said=headers,
    )


@router.post("/take")
async def post_table(request: Request, workspace: TheWorkspace, text: Annotated[str, Form()] = "") -> Response:
    """Take in the table that was shown."""
    await workspace.carry_out(take_table, text.encode(), _headers(await request.form()))
    return _column(request, workspace, None)


def _headers(form: FormData) -> dict[str, str]:
    """The columns of a table for ours, as they were chosen."""
    return {
        name.removeprefix("header-"): str(value)
        for name, value in form.multi_items()
        if name.startswith("header-") and name.removeprefix("header-") in MEANT
    }


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


@router.post("/{unit_id}/place/{place}")
async def post_placed_unit(request: Request, workspace: TheWorkspace, unit_id: int, place: int) -> Response:
    """To a place of the column, counted from 0 for the youngest."""
    await workspace.carry_out(move_unit_to, unit_id, place)
    return _column(request, workspace, unit_id)


@router.post("/{unit_id}/chart-colour")
async def post_chart_colour(request: Request, workspace: TheWorkspace, unit_id: int) -> Response:
    """Give a unit the colour of its age on the chart."""
    unit_by_id(workspace.project, unit_id)
    await workspace.carry_out(colour_by_age, [unit_id])
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


def column_values(workspace: Workspace) -> dict[str, Any]:
    """What the column shows: its units, each with its box, and those that stand against their ages."""
    units = workspace.project.units()
    disorder = out_of_order(unit for _, unit in units)
    return {
        "units": units,
        "boxes": {row_id: area_swatch(unit, workspace.book, f"column-{row_id}") for row_id, unit in units},
        "disorder": disorder,
        "misplaced": {unit.code for pair in disorder for unit in pair},
        "used_headings": list(dict.fromkeys(unit.heading for _, unit in units)),
    }


def slip_values(workspace: Workspace, chosen: tuple[int, MapUnit] | None) -> dict[str, Any]:
    """What the slip of a unit shows; of a new one where none is chosen."""
    units = workspace.project.units()
    code = chosen[1].code if chosen else ""
    return {
        "chosen": chosen,
        "swatch": area_swatch(chosen[1], workspace.book, "selected-unit") if chosen else "",
        "uses": uses(workspace),
        "revision": workspace.project.revision if chosen else None,
        "new_colour": new_colour(unit for _, unit in units),
        "ink": INK,
        "ages": [age.name for age in chart()],
        "headings": list(dict.fromkeys([*(unit.heading for _, unit in units if unit.heading), *HEADINGS])),
        "ranks": [(rank, rank or "none") for rank in RANKS],
        "parents": [("", "none"), *((u.code, f"{u.code} · {u.name}") for _, u in units if u.code != code)],
        "patterns": [("", "none"), *((p.id, p.title) for p in workspace.book.patterns.values())],
        "letters": LETTER_KEYS,
    }


def _column(request: Request, workspace: Workspace, chosen: int | None, slip: bool = True) -> Response:
    values = column_values(workspace)
    units = values["units"]
    selected = next((unit for unit in units if unit[0] == chosen), units[0] if units else None)
    return page(
        request,
        "symbols/_units.html",
        slug=workspace.slug,
        with_slip=slip,
        **values,
        **slip_values(workspace, selected),
    )

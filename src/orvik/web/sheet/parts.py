"""The selected part: placed, changed by its form, aimed, removed."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Depends, File, Form, Request, UploadFile
from starlette.responses import Response

from orvik.core.errors import OrvikError, SheetRefused
from orvik.core.ground.coordinates import parse_quantity
from orvik.core.sheet.page.part import PanelPartSettings, Part, PartSettings
from orvik.core.sheet.panels.scale_distortion import truth_of
from orvik.core.sheet.parts.fields import FIELDS
from orvik.core.sheet.parts.map_panel import LAYER_WORDS, MapPanel
from orvik.exchange.sheets.sheet_files import LARGEST_FILE, picture_or_drawing
from orvik.store.files import file_names
from orvik.store.tables.emphasis import emphasis_rows
from orvik.usecases.ground import underlay_views as underlays
from orvik.usecases.sheet.arranging import remove_parts
from orvik.usecases.sheet.labels import moved_by_hand
from orvik.usecases.sheet.parts import PartChange, add_part, change_part, give_file, panel_shown
from orvik.web.frame.pages import page
from orvik.web.session import jobs
from orvik.web.session.dependencies import TheWorkers, TheWorkspace
from orvik.web.session.workspace import Workspace
from orvik.web.uploads import name_of

router = APIRouter(prefix="/p/{slug}")

PLACE = ("x", "y", "width", "height")


async def typed_form(request: Request) -> dict[str, str]:
    """The fields of a form as texts, empty ones among them."""
    return {name: value for name, value in (await request.form()).items() if isinstance(value, str)}


TypedForm = Annotated[dict[str, str], Depends(typed_form)]


def part_change(typed: dict[str, str]) -> PartChange:
    """What was typed, as what changes of the part.

    Raises
    ------
    SheetRefused
        A place, a size or an opacity is not a number.
    """
    rest = dict(typed)
    place = {
        name: round(parse_quantity(rest.pop(name), "length in millimetres", SheetRefused), 3)
        for name in PLACE
        if name in rest
    }
    locked = rest.pop("locked", None)
    layer, opacity = rest.pop("layer", None), rest.pop("opacity", None)
    strong = None
    if layer is not None and opacity is not None:
        strong = layer, min(1.0, max(0.0, parse_quantity(opacity, "opacity", SheetRefused) / 100))
    return PartChange(place, None if locked is None else locked == "true", typed=rest, opacity=strong)


@router.post("/sheets/{sheet_id}/parts")
async def post_part(
    request: Request,
    workspace: TheWorkspace,
    sheet_id: int,
    kind: Annotated[str, Form()],
    panel: Annotated[int | None, Form()] = None,
) -> Response:
    entry = await workspace.carry_out(add_part, sheet_id, kind, panel)
    return Response(status_code=204, headers={"Orvik-Part": str(entry.changes[0].id)})


@router.get("/parts/{part_id}")
async def get_part(request: Request, workspace: TheWorkspace, part_id: int) -> Response:
    return part_slip(request, workspace, workspace.project.part(part_id))


@router.get("/parts/{part_id}/labels")
async def get_panel_labels(
    request: Request, slug: str, workspace: TheWorkspace, workers: TheWorkers, part_id: int
) -> Response:
    """Where the labels of a panel stand on its page, and those that want a look."""
    written = await workers.run(jobs.written_panel, workspace.project.path, part_id)
    values = {
        "labels": written.places,
        "to_ground": written.to_ground,
        "symbol_scale": written.symbol_scale,
        "without": [(key, f"“{text}” of {key.table[:-1]} {key.id}", None) for key, text in written.without],
        "hidden": written.hidden,
        "moved": moved_by_hand(workspace.project, part_id),
        "scope": part_id,
    }
    return page(request, "sheet/_panel_labels.html", slug=slug, **values)


@router.post("/parts/{part_id}")
async def post_changed_part(request: Request, workspace: TheWorkspace, part_id: int, typed: TypedForm) -> Response:
    await workspace.carry_out(change_part, part_id, part_change(typed))
    return part_slip(request, workspace, workspace.project.part(part_id))


@router.post("/parts/{part_id}/files/{setting}")
async def post_part_file(
    request: Request,
    workspace: TheWorkspace,
    workers: TheWorkers,
    part_id: int,
    setting: str,
    file: Annotated[UploadFile, File()],
) -> Response:
    """A picture or a drawing for a part."""
    data = await file.read(LARGEST_FILE + 1)
    kept = await workers.open_strange(picture_or_drawing, name_of(file), data)
    await workspace.carry_out(give_file, part_id, setting, kept)
    return part_slip(request, workspace, workspace.project.part(part_id))


@router.delete("/parts/{part_id}")
async def delete_part(request: Request, workspace: TheWorkspace, part_id: int) -> Response:
    await workspace.carry_out(remove_parts, [part_id])
    return Response(status_code=204)


def part_slip(request: Request, workspace: Workspace, part: Part) -> Response:
    """The form of the selected part."""
    made = part.settings
    common = PartSettings.entries()
    own = {name: declared for name, declared in made.entries().items() if name not in common}
    panels = [p for p in workspace.project.parts(part.sheet_id or 0) if isinstance(p.settings, MapPanel)]
    return page(
        request,
        "sheet/_part.html",
        slug=workspace.slug,
        part=part,
        settings=made,
        own=own,
        common=common,
        panels=panels,
        far_panels=_far_panels(workspace, part),
        palette=workspace.project.sheet(part.sheet_id or 0).layout.palette,
        files=file_names(workspace.project, "picture", "drawing"),
        text_fields=FIELDS,
        **(_panel_values(workspace, part) if isinstance(made, MapPanel) else {}),
    )


def _far_panels(workspace: Workspace, part: Part) -> list[tuple[int, str]]:
    """The panels of other sheets that a part may speak of, with the names of these."""
    if not (isinstance(part.settings, PanelPartSettings) and part.settings.reads_far):
        return []
    names = {sheet.id: sheet.name for sheet in workspace.project.sheets()}
    return [
        (other.number, f"{other.label} of {names[other.sheet_id]}")
        for other in workspace.project.all_parts()
        if isinstance(other.settings, MapPanel) and other.sheet_id != part.sheet_id
    ]


def _panel_values(workspace: Workspace, part: Part) -> dict[str, Any]:
    """What the form of a panel shows beside its settings: its layers, its system and its true scale."""
    project = workspace.project
    settings = part.settings
    assert isinstance(settings, MapPanel)
    layers = [(name, words, settings.layers.get(name, 1.0)) for name, words in LAYER_WORDS.items()]
    for row in project.sources():
        if row.kind in underlays.VIEW_KINDS:
            layers.append((f"underlay-{row.id}", row.name, settings.underlays.get(str(row.id), 0.0)))
    try:
        panel = panel_shown(project, part)
        truth = truth_of(panel)
        shown = {"crs": panel.crs, "truth": truth, "warning": truth.warning(panel.scale)}
    except OrvikError as refusal:
        shown = {"crs": None, "truth": None, "warning": refusal.sentence}
    return {"layers": layers, "emphases": [emphasis.name for _, emphasis in emphasis_rows(project)], **shown}

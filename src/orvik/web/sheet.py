"""Sheet: the page and its parts, placed by hand and by figures."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Form, Request
from pydantic import BaseModel
from starlette.responses import Response

from ..core.coordinates import parse_number
from ..core.distortion import tissot
from ..core.errors import NotFound, SheetRefused
from ..core.scale import parse_scale
from ..core.sheet.compose import LAYER_WORDS, essentials
from ..core.sheet.page import PAPERS, PART_KINDS, Part, Sheet, paper_size
from ..core.sheet.panel import aimed
from ..core.sheet.template import laid_out
from ..exchange import underlays
from ..exchange.prints import sheet_fragments, sheet_png
from ..store import rows
from ..store.journal import Change
from .pages import chest_of, page, stage_page, workers_of
from .workspace import Workspace

router = APIRouter(prefix="/p/{slug}")

SCREEN_DPI = 120.0
THUMBNAIL_DPI = 40.0
# Width and height in millimetres of a part that is newly placed.
NEW_SIZES = {
    "map_panel": (120.0, 90.0),
    "title": (160.0, 10.0),
    "explanation": (90.0, 120.0),
    "scale_bar": (85.0, 8.0),
    "north_arrow": (30.0, 24.0),
    "fraction": (30.0, 5.0),
    "credit_note": (80.0, 20.0),
    "text": (60.0, 12.0),
}


class PartForm(BaseModel):
    """A part's place and settings as typed; what is not given stays."""

    x: str | None = None
    y: str | None = None
    width: str | None = None
    height: str | None = None
    text: str | None = None
    size: str | None = None
    scale: str | None = None
    east: str | None = None
    north: str | None = None
    ground_colour: str | None = None
    layer: str | None = None
    strength: float | None = None
    locked: bool | None = None
    grid: bool | None = None


@router.get("/sheet")
async def sheet_page(request: Request, slug: str, sheet: int | None = None) -> Response:
    workspace = await chest_of(request).workspace(slug)
    project = workspace.project
    sheets = project.sheets()
    chosen = next((s for s in sheets if s.id == sheet), sheets[0] if sheets else None)
    parts = project.parts(chosen.id) if chosen and chosen.id else []
    return stage_page(
        request,
        workspace,
        "sheet",
        sheets=sheets,
        sheet=chosen,
        parts=list(reversed(parts)),
        kinds=PART_KINDS,
        papers=PAPERS,
        border=project.border(),
        essentials=essentials(parts),
    )


@router.post("/sheets")
async def add_sheet(
    request: Request,
    slug: str,
    name: Annotated[str, Form()] = "",
    paper: Annotated[str, Form()] = "A3",
    own_size: Annotated[str, Form()] = "",
    orientation: Annotated[str, Form()] = "landscape",
) -> Response:
    """A sheet from the default template; its main panel shows exactly the border."""
    workspace = await chest_of(request).workspace(slug)
    project = workspace.project
    asked = own_size if paper == "own" else paper
    label, width, height = paper_size(asked, orientation == "landscape")
    made = Sheet(name.strip(), label, width, height)
    if any(s.name == made.name for s in project.sheets()):
        raise SheetRefused(f"There is a sheet {made.name} already; choose another name.")
    border = project.border()
    if border is None:
        raise SheetRefused("The project has no sheet border yet; set it in Ground, so that the panel can show it.")
    parts = laid_out(made.name, project.name, (width, height), border, project.scales.publication, project.crs, label)
    entry = await workspace.apply(f"add sheet {made.name}", rows.sheet_changes(made, parts))
    return Response(status_code=204, headers={"HX-Redirect": f"/p/{slug}/sheet?sheet={entry.changes[0].id}"})


@router.delete("/sheets/{sheet_id}")
async def remove_sheet(request: Request, slug: str, sheet_id: int) -> Response:
    workspace = await chest_of(request).workspace(slug)
    name = workspace.project.sheet(sheet_id).name
    await workspace.apply(f"remove sheet {name}", [Change("sheets", sheet_id, None)])
    return Response(status_code=204, headers={"HX-Redirect": f"/p/{slug}/sheet"})


@router.get("/sheets/{sheet_id}/ink")
async def sheet_ink(request: Request, slug: str, sheet_id: int) -> dict[str, Any]:
    """The page for the screen: each part's frame and SVG."""
    workspace = await chest_of(request).workspace(slug)
    sheet = workspace.project.sheet(sheet_id)
    fragments = await workers_of(request).run(sheet_fragments, workspace.project.path, sheet_id, SCREEN_DPI)
    parts = [
        {
            "id": p.id,
            "label": p.label,
            "x": p.x,
            "y": p.y,
            "width": p.width,
            "height": p.height,
            "locked": p.locked,
            "svg": fragments.get(p.id or 0, ""),
        }
        for p in workspace.project.parts(sheet_id)
    ]
    return {
        "width": sheet.width,
        "height": sheet.height,
        "parts": parts,
        "revision": workspace.project.revision,
    }


@router.get("/sheets/{sheet_id}/thumbnail.png")
async def thumbnail(request: Request, slug: str, sheet_id: int) -> Response:
    path = chest_of(request).path(slug)
    data = await workers_of(request).run(sheet_png, path, sheet_id, THUMBNAIL_DPI)
    return Response(data, media_type="image/png", headers={"Cache-Control": "no-cache"})


@router.get("/sheets/{sheet_id}/parts")
async def placed(request: Request, slug: str, sheet_id: int, part: int | None = None) -> Response:
    workspace = await chest_of(request).workspace(slug)
    parts = workspace.project.parts(sheet_id)
    return page(
        request,
        "_placed.html",
        slug=slug,
        parts=list(reversed(parts)),
        chosen=part,
        essentials=essentials(parts),
        with_essentials=True,
    )


@router.post("/sheets/{sheet_id}/parts")
async def add_part(request: Request, slug: str, sheet_id: int, kind: Annotated[str, Form()]) -> Response:
    workspace = await chest_of(request).workspace(slug)
    project = workspace.project
    sheet = project.sheet(sheet_id)
    if kind not in NEW_SIZES:
        raise SheetRefused("There is no such part.")
    width, height = NEW_SIZES[kind]
    settings: dict[str, Any] = {}
    border = project.border()
    if kind == "map_panel":
        if border is None:
            raise SheetRefused("The project has no sheet border yet; set it in Ground first.")
        centre, width, height = aimed(border, project.scales.publication, project.crs)
        width, height = min(width, sheet.width - 20), min(height, sheet.height - 20)
        settings = {"scale": project.scales.publication, "centre": list(centre)}
    if kind in ("title", "text"):
        settings = {"text": "Geologic map of " + sheet.name if kind == "title" else "Text"}
    top = max((p.position for p in project.parts(sheet_id)), default=0)
    part = Part(
        kind,
        (sheet.width - width) / 2,
        (sheet.height - height) / 2,
        width,
        height,
        sheet_id=sheet_id,
        position=top + 1,
        settings=settings,
    )
    entry = await workspace.apply(f"add {part.label.lower()}", [rows.part_change(part)])
    return Response(status_code=204, headers={"Orvik-Part": str(entry.changes[0].id)})


@router.get("/parts/{part_id}")
async def part_slip(request: Request, slug: str, part_id: int) -> Response:
    workspace = await chest_of(request).workspace(slug)
    return _part_slip(request, workspace, workspace.project.part(part_id))


@router.post("/parts/{part_id}")
async def change_part(request: Request, slug: str, part_id: int, form: Annotated[PartForm, Form()]) -> Response:
    workspace = await chest_of(request).workspace(slug)
    old = workspace.project.part(part_id)
    new = _changed(old, form)
    if old.locked and new.locked:
        raise SheetRefused(f"This {old.label.lower()} is locked; unlock it first.")
    if new != old:
        await workspace.apply(f"change {old.label.lower()}", [rows.part_change(new)])
    return _part_slip(request, workspace, new)


@router.post("/parts/{part_id}/aim")
async def aim(request: Request, slug: str, part_id: int) -> Response:
    """Make a panel show exactly the border at the publication scale, keeping its upper left corner."""
    workspace = await chest_of(request).workspace(slug)
    project = workspace.project
    part = project.part(part_id)
    border = project.border()
    if border is None:
        raise SheetRefused("The project has no sheet border yet; set it in Ground first.")
    centre, width, height = aimed(border, project.scales.publication, project.crs)
    settings = dict(part.settings) | {"scale": project.scales.publication, "centre": list(centre)}
    new = part.changed(width=width, height=height, settings=settings)
    await workspace.apply("aim the panel at the border", [rows.part_change(new)])
    return _part_slip(request, workspace, new)


@router.delete("/parts/{part_id}")
async def remove_part(request: Request, slug: str, part_id: int) -> Response:
    workspace = await chest_of(request).workspace(slug)
    part = workspace.project.part(part_id)
    if part.locked:
        raise SheetRefused(f"This {part.label.lower()} is locked; unlock it first.")
    await workspace.apply(f"remove {part.label.lower()}", [Change("parts", part_id, None)])
    return page(request, "_part_empty.html")


def _changed(old: Part, form: PartForm) -> Part:
    values: dict[str, Any] = {}
    for name in ("x", "y", "width", "height"):
        typed = getattr(form, name)
        if typed is not None:
            values[name] = round(parse_number(typed, "length in millimetres"), 3)
    settings = dict(old.settings)
    if form.text is not None:
        settings["text"] = form.text.replace("\r\n", "\n")[:4000]
    if form.size is not None:
        settings["size"] = max(1.0, min(40.0, parse_number(form.size, "size")))
    if form.scale is not None:
        settings["scale"] = parse_scale(form.scale)
    if form.east is not None and form.north is not None:
        settings["centre"] = [parse_number(form.east), parse_number(form.north)]
    if form.ground_colour is not None:
        settings["ground_colour"] = form.ground_colour
    if form.grid is not None:
        settings["grid"] = form.grid
    if form.layer is not None and form.strength is not None:
        strength = min(1.0, max(0.0, form.strength / 100))
        group, _, number = form.layer.partition("-")
        if group == "underlay":
            settings["underlays"] = dict(settings.get("underlays", {})) | {number: strength}
        elif form.layer in LAYER_WORDS:
            settings["layers"] = dict(settings.get("layers", {})) | {form.layer: strength}
        else:
            raise NotFound("There is no such layer.")
    if form.locked is not None:
        values["locked"] = form.locked
    return old.changed(**values, settings=settings)


def _part_slip(request: Request, workspace: Workspace, part: Part) -> Response:
    layers = [(name, words, part.settings.get("layers", {}).get(name, 1.0)) for name, words in LAYER_WORDS.items()]
    for row in workspace.project.sources():
        if row["kind"] in underlays.KINDS:
            strength = part.settings.get("underlays", {}).get(str(row["id"]), 0.0)
            layers.append((f"underlay-{row['id']}", row["name"], strength))
    factors = None
    if part.kind == "map_panel":
        x, y = part.settings["centre"]
        crs = workspace.project.crs
        here = tissot(crs, *crs.to_geographic(float(x), float(y)))
        factors = (float(here.smallest), float(here.largest))
    return page(
        request,
        "_part.html",
        slug=workspace.slug,
        part=part,
        layers=layers,
        factors=factors,
        project=workspace.project,
    )

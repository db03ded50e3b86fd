"""Sheet: the page and its parts, placed by hand and by figures."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Form, Request
from pydantic import BaseModel
from starlette.responses import Response

from orvik.core.errors import SheetRefused
from orvik.core.ground.coordinates import parse_number, parse_quantity
from orvik.core.ground.distortion import tissot
from orvik.core.ground.scale import parse_scale
from orvik.core.sheet.compose import LAYER_WORDS, essentials, letter_size
from orvik.core.sheet.page import PART_KINDS, Part
from orvik.core.sheet.paper import families
from orvik.usecases import underlay_views as underlays
from orvik.usecases.labels import moved_by_hand
from orvik.usecases.printing import sheet_fragments, sheet_png
from orvik.usecases.sheets import PartChange, add_part, add_sheet, aim_panel, change_part, remove_part, remove_sheet
from orvik.web.frame.pages import page, stage_page
from orvik.web.session import jobs
from orvik.web.session.dependencies import TheChest, TheWorkers, TheWorkspace
from orvik.web.session.workspace import Workspace

router = APIRouter(prefix="/p/{slug}")

SCREEN_DPI = 120.0
THUMBNAIL_DPI = 40.0


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

    def change(self) -> PartChange:
        """What was typed, as what changes of the part.

        Raises
        ------
        CoordinateRefused, ScaleRefused
            A value is no number, or no scale.
        """
        sides = {"x": self.x, "y": self.y, "width": self.width, "height": self.height}
        place = {
            name: round(parse_quantity(typed, "length in millimetres", SheetRefused), 3)
            for name, typed in sides.items()
            if typed is not None
        }
        settings: dict[str, Any] = {}
        if self.text is not None:
            settings["text"] = self.text.replace("\r\n", "\n")
        if self.size is not None:
            settings["size"] = parse_quantity(self.size, "size", SheetRefused)
        if self.scale is not None:
            settings["scale"] = parse_scale(self.scale)
        if self.east is not None and self.north is not None:
            settings["centre"] = (parse_number(self.east), parse_number(self.north))
        if self.ground_colour is not None:
            settings["ground_colour"] = self.ground_colour
        if self.grid is not None:
            settings["grid"] = self.grid
        strength = None
        if self.layer is not None and self.strength is not None:
            strength = self.layer, min(1.0, max(0.0, self.strength / 100))
        return PartChange(place, self.locked, settings, strength)


@router.get("/sheet")
async def get_sheet_page(request: Request, workspace: TheWorkspace, sheet: int | None = None) -> Response:
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
        papers=families(),
        border=project.border(),
        essentials=essentials(parts),
    )


@router.post("/sheets")
async def post_sheet(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    name: Annotated[str, Form()] = "",
    paper: Annotated[str, Form()] = "A3",
    own_size: Annotated[str, Form()] = "",
    orientation: Annotated[str, Form()] = "landscape",
) -> Response:
    """A sheet from the default template; its main panel shows exactly the border."""
    if paper != "own" and own_size.strip():
        raise SheetRefused(
            f"Choose “own size” for {own_size.strip()[:30]}, or leave that field empty for {paper[:20]}."
        )
    asked = own_size if paper == "own" else paper
    entry = await workspace.carry_out(add_sheet, name, asked, orientation == "landscape")
    return Response(status_code=204, headers={"HX-Redirect": f"/p/{slug}/sheet?sheet={entry.changes[0].id}"})


@router.delete("/sheets/{sheet_id}")
async def delete_sheet(request: Request, slug: str, workspace: TheWorkspace, sheet_id: int) -> Response:
    await workspace.carry_out(remove_sheet, sheet_id)
    return Response(status_code=204, headers={"HX-Redirect": f"/p/{slug}/sheet"})


@router.get("/sheets/{sheet_id}/ink")
async def get_sheet_ink(
    request: Request, workspace: TheWorkspace, workers: TheWorkers, sheet_id: int
) -> dict[str, Any]:
    """The page for the screen: each part's frame and SVG."""
    sheet = workspace.project.sheet(sheet_id)
    fragments = await workers.run(sheet_fragments, workspace.project.path, sheet_id, SCREEN_DPI)
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
async def get_thumbnail(request: Request, chest: TheChest, slug: str, workers: TheWorkers, sheet_id: int) -> Response:
    path = chest.path(slug)
    data = await workers.run(sheet_png, path, sheet_id, THUMBNAIL_DPI)
    return Response(data, media_type="image/png", headers={"Cache-Control": "no-cache"})


@router.get("/sheets/{sheet_id}/parts")
async def get_placed(
    request: Request, slug: str, workspace: TheWorkspace, sheet_id: int, part: int | None = None
) -> Response:
    parts = workspace.project.parts(sheet_id)
    return page(
        request,
        "sheet/_placed.html",
        slug=slug,
        parts=list(reversed(parts)),
        chosen=part,
        essentials=essentials(parts),
        with_essentials=True,
    )


@router.post("/sheets/{sheet_id}/parts")
async def post_part(request: Request, workspace: TheWorkspace, sheet_id: int, kind: Annotated[str, Form()]) -> Response:
    entry = await workspace.carry_out(add_part, sheet_id, kind)
    return Response(status_code=204, headers={"Orvik-Part": str(entry.changes[0].id)})


@router.get("/parts/{part_id}")
async def get_part(request: Request, workspace: TheWorkspace, part_id: int) -> Response:
    return _part_slip(request, workspace, workspace.project.part(part_id))


@router.get("/parts/{part_id}/labels")
async def get_panel_labels(
    request: Request, slug: str, workspace: TheWorkspace, workers: TheWorkers, part_id: int
) -> Response:
    """Where the labels of a panel stand on its page, and those that want a look."""
    written = await workers.run(jobs.written_panel, workspace.project.path, part_id)
    values = {
        "labels": written.places,
        "to_ground": written.to_ground,
        "without": [(key, f"“{text}” of {key.table[:-1]} {key.id}", None) for key, text in written.without],
        "hidden": written.hidden,
        "moved": moved_by_hand(workspace.project, part_id),
        "scope": part_id,
    }
    return page(request, "sheet/_panel_labels.html", slug=slug, **values)


@router.post("/parts/{part_id}")
async def post_changed_part(
    request: Request, workspace: TheWorkspace, part_id: int, form: Annotated[PartForm, Form()]
) -> Response:
    await workspace.carry_out(change_part, part_id, form.change())
    return _part_slip(request, workspace, workspace.project.part(part_id))


@router.post("/parts/{part_id}/aim")
async def post_aim(request: Request, workspace: TheWorkspace, part_id: int) -> Response:
    """Make a panel show exactly the border at the publication scale, keeping its upper left corner."""
    await workspace.carry_out(aim_panel, part_id)
    return _part_slip(request, workspace, workspace.project.part(part_id))


@router.delete("/parts/{part_id}")
async def delete_part(request: Request, workspace: TheWorkspace, part_id: int) -> Response:
    await workspace.carry_out(remove_part, part_id)
    return page(request, "sheet/_part_empty.html")


def _part_slip(request: Request, workspace: Workspace, part: Part) -> Response:
    layers: list[tuple[str, str, float]] = []
    factors = None
    if part.kind == "map_panel":
        panel, crs = part.panel, workspace.project.crs
        layers = [(name, words, panel.layers.get(name, 1.0)) for name, words in LAYER_WORDS.items()]
        for row in workspace.project.sources():
            if row.kind in underlays.KINDS:
                layers.append((f"underlay-{row.id}", row.name, panel.underlays.get(str(row.id), 0.0)))
        here = tissot(crs, *crs.to_geographic(*panel.centre))
        factors = (float(here.smallest), float(here.largest))
    return page(
        request,
        "sheet/_part.html",
        slug=workspace.slug,
        part=part,
        layers=layers,
        letter_size=letter_size(part) if part.kind in ("title", "text") else None,
        factors=factors,
        project=workspace.project,
    )

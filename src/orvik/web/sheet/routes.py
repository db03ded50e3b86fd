"""Sheet: the page and its parts, placed by hand and by figures."""

from __future__ import annotations

import asyncio
import hashlib
from collections.abc import Sequence
from contextlib import suppress
from typing import Any
from urllib.parse import urlencode

from fastapi import APIRouter, Request
from starlette.responses import Response

from orvik.core.errors import NotFound, OrvikError
from orvik.core.ground.crs import ProjectCrs
from orvik.core.sheet.page.new_sheet import NewSheet
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.paper import families
from orvik.core.sheet.page.part import FlowSettings, PanelPartSettings, Part
from orvik.core.sheet.parts import PART_KINDS, needed
from orvik.core.sheet.parts.map_panel import NO_BORDER, MapPanel, panel_of
from orvik.core.sheet.templates import TEMPLATES
from orvik.store.files import kept_file
from orvik.store.tables.imprint import imprint_of
from orvik.usecases.sheet.sheets import add_sheet, new_sheet, remove_sheet
from orvik.usecases.sheet.templates import offered
from orvik.web.frame.pages import page, stage_page
from orvik.web.session import jobs
from orvik.web.session.dependencies import TheProjectFolder, TheWorkers, TheWorkspace
from orvik.web.session.workspace import Workspace
from orvik.web.sheet.pages import asked_paper, made_sheet
from orvik.web.sheet.parts import TypedForm

router = APIRouter(prefix="/p/{slug}")

THUMBNAIL_DPI = 40.0
SHEET_FIELDS = ("name", "paper", "own_size", "orientation", "template", "ground")


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
        **_offered(workspace),
        essentials=needed(chosen, parts, imprint_of(project)) if chosen else [],
    )


def asked_sheet(
    name: str = "",
    paper: str = "A3",
    own_size: str = "",
    orientation: str = "landscape",
    template: str = "quadrangle",
    ground: str = "",
) -> NewSheet:
    """The sheet that a form asks for; raises SheetRefused."""
    return NewSheet(name, asked_paper(paper, own_size), orientation == "landscape", template, ground)


def _offered(workspace: Workspace) -> dict[str, Any]:
    """What the form of a new sheet lets one choose from."""
    project = workspace.project
    return {
        "papers": families(),
        "templates": TEMPLATES,
        "own_templates": offered(project),
        "views": project.views(),
        "border": project.border(),
    }


@router.post("/sheets")
async def post_sheet(request: Request, slug: str, workspace: TheWorkspace, typed: TypedForm) -> Response:
    """A sheet from a template."""
    wanted = asked_sheet(**{name: text for name, text in typed.items() if name in SHEET_FIELDS})
    entry, said = await workspace.carry_out(add_sheet, wanted)
    return made_sheet(request, workspace, entry.changes[0].id, said)


@router.get("/new-sheet-form")
async def get_new_sheet_form(request: Request, slug: str, workspace: TheWorkspace) -> Response:
    """Asked for when it is opened, so that it offers what there is by then."""
    return page(request, "sheet/_new_sheet.html", slug=slug, **_offered(workspace))


@router.get("/new-sheet")
async def get_new_sheet(request: Request, slug: str, workspace: TheWorkspace) -> Response:
    """What a new sheet would be: its size, its panels, and a picture that is fetched; or why it cannot be."""
    asked = {name: text for name, text in request.query_params.items() if name in SHEET_FIELDS}
    template = TEMPLATES.get(asked.get("template", ""))
    values = {"slug": slug, "suits": template.suits if template else "", "no_border": NO_BORDER}
    try:
        made = new_sheet(workspace.project, asked_sheet(**asked | {"name": asked.get("name") or "New sheet"}))
    except OrvikError as refusal:
        return page(request, "sheet/_preview.html", **values, refusal=refusal.sentence)
    return page(
        request,
        "sheet/_preview.html",
        **values,
        refusal="",
        sheet=made.sheet,
        said=made.said,
        panels=[part for part in made.parts if isinstance(part.settings, MapPanel)],
        query=urlencode(asked),
    )


@router.get("/new-sheet.png")
async def get_new_sheet_picture(request: Request, workspace: TheWorkspace, workers: TheWorkers) -> Response:
    """A picture of a sheet that is not made yet."""
    asked = {name: text for name, text in request.query_params.items() if name in SHEET_FIELDS}
    wanted = asked_sheet(**asked | {"name": asked.get("name") or "New sheet"})
    data = await workers.run(jobs.new_sheet_picture, workspace.project.path, wanted)
    return Response(data, media_type="image/png", headers={"Cache-Control": "no-cache"})


@router.delete("/sheets/{sheet_id}")
async def delete_sheet(request: Request, slug: str, workspace: TheWorkspace, sheet_id: int) -> Response:
    await workspace.carry_out(remove_sheet, sheet_id)
    return Response(status_code=204, headers={"HX-Redirect": f"/p/{slug}/sheet"})


@router.get("/sheets/{sheet_id}/ink")
async def get_sheet_ink(workspace: TheWorkspace, sheet_id: int) -> dict[str, Any]:
    """The page for the screen: each part's frame and the key of its ink, which is fetched when that is another."""
    project = workspace.project
    sheet, parts, revision = project.sheet(sheet_id), project.parts(sheet_id), project.revision
    others = [part for part in project.all_parts() if part.sheet_id != sheet_id]
    return {
        "width": sheet.width,
        "height": sheet.height,
        "colour": sheet.layout.colour,
        "lines": sheet.lines,
        "guides": sheet.layout.guides,
        "font": sheet.layout.font,
        "parts": [
            _on_page(part, parts, project.crs) | {"key": _ink_key(part, parts, others, sheet, workspace.map_revision)}
            for part in parts
        ],
        "revision": revision,
    }


@router.get("/fonts/{checksum}.ttf")
async def get_font(workspace: TheWorkspace, checksum: str) -> Response:
    """A font file of the project; what has its checksum never changes."""
    kept = await asyncio.to_thread(kept_file, workspace.project, checksum)
    if kept is None or kept.kind != "font":
        raise NotFound("The project has no such font.")
    return Response(kept.data, media_type="font/ttf", headers={"Cache-Control": "max-age=31536000, immutable"})


@router.get("/sheets/{sheet_id}/drawn")
async def get_drawn(workspace: TheWorkspace, workers: TheWorkers, sheet_id: int, parts: str) -> dict[int, str]:
    """The SVG of parts, whose numbers are given with commas between them; that of one which is gone is left out."""
    wanted = {int(number) for number in parts.split(",") if number.isdecimal()}
    return await workers.run(jobs.sheet_fragments, workspace.project.path, sheet_id, wanted)


@router.get("/parts/{part_id}/panel-ink")
async def get_panel_ink(workspace: TheWorkspace, workers: TheWorkers, part_id: int, lettered: bool = True) -> Response:
    """The ink of a map panel, as the page reads it."""
    data = await workers.run(jobs.panel_ink, workspace.project.path, part_id, lettered)
    return Response(data, media_type="application/octet-stream", headers={"Cache-Control": "no-cache"})


def _on_page(part: Part, parts: Sequence[Part], project: ProjectCrs) -> dict[str, Any]:
    """What the page knows of a part; ``toPage`` leads from the ground of a panel to the page."""
    panel = part.settings
    place = next((p for p in parts if isinstance(panel, PanelPartSettings) and p.id == panel.panel), part)
    framed = place if panel.lies_on_panel else part
    to_page = None
    if isinstance(panel, MapPanel):
        with suppress(OrvikError):
            to_page = panel_of(part, project, None).to_page
    return {
        "id": part.id,
        "label": part.label,
        "x": framed.x,
        "y": framed.y,
        "width": framed.width,
        "height": framed.height,
        "locked": part.locked,
        "group": panel.group,
        "onPanel": panel.lies_on_panel,
        "panelId": panel.panel if isinstance(panel, PanelPartSettings) else None,
        "panel": isinstance(panel, MapPanel),
        "slow": panel.is_slow,
        "toPage": to_page,
    }


def _flows_with(part: Part, made: FlowSettings) -> bool:
    settings = part.settings
    return part.id == made.panel or (isinstance(settings, FlowSettings) and settings.panel == made.panel)


def _ink_key(part: Part, parts: Sequence[Part], others: Sequence[Part], sheet: Sheet, map_revision: int) -> str:
    """What a part's ink is made of, as a short text: while that is the same, so is the ink.

    ``others`` are the parts of all other sheets.

    Ink that is only somewhere else on the page is the same, unless it lies on a panel and keeps to the page's edges.
    """
    made = part.settings
    about: list[Part] = []
    if isinstance(made, PanelPartSettings):
        # The panel that it speaks of, and others that do: a credits names the bar, graticules keep clear.
        spoken = made.panel
        about = [
            p
            for p in parts
            if p.id == spoken or (isinstance(p.settings, PanelPartSettings) and p.settings.panel == spoken)
        ]
    if isinstance(made, MapPanel):
        # Those whose footprints it shows, and what lies over it, which its labels keep clear of.
        about = [p for p in parts if isinstance(p.settings, MapPanel) and part.id in p.settings.footprints]
        about += [p for p in parts if _lies_over(p, part)]
    placed = part if made.lies_on_panel else part.changed(x=0.0, y=0.0, position=0)
    # What is written may be set in the styles of the sheet.
    styles = sheet.layout if hasattr(made, "set_as") else None
    # Texts flow through parts of all sheets.
    flowing = [p for p in others if isinstance(made, FlowSettings) and _flows_with(p, made)]
    said = repr((map_revision, placed, about, styles, flowing))
    return hashlib.sha256(said.encode()).hexdigest()[:16]


def _lies_over(part: Part, panel: Part) -> bool:
    made = part.settings
    return isinstance(made, PanelPartSettings) and made.lies_on_panel and made.panel == panel.id


@router.get("/sheets/{sheet_id}/thumbnail.png")
async def get_thumbnail(
    request: Request, projects: TheProjectFolder, slug: str, workers: TheWorkers, sheet_id: int
) -> Response:
    path = projects.path(slug)
    data = await workers.run(jobs.sheet_png, path, sheet_id, THUMBNAIL_DPI)
    return Response(data, media_type="image/png", headers={"Cache-Control": "no-cache"})


@router.get("/sheets/{sheet_id}/parts")
async def get_placed(
    request: Request, slug: str, workspace: TheWorkspace, sheet_id: int, part: int | None = None
) -> Response:
    sheet, parts = workspace.project.sheet(sheet_id), workspace.project.parts(sheet_id)
    return page(
        request,
        "sheet/_placed.html",
        slug=slug,
        parts=list(reversed(parts)),
        chosen=part,
        essentials=needed(sheet, parts, imprint_of(workspace.project)),
        with_essentials=True,
    )

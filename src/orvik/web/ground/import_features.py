"""Ground, features imported from files: what a file holds, what its fields mean, and a preview before it is kept."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Annotated, Any

import shapely
from fastapi import APIRouter, File, Request, UploadFile
from shapely.geometry.base import BaseGeometry
from starlette.responses import Response

from orvik.core.errors import OrvikError
from orvik.core.features.feature import CERTAINTIES
from orvik.core.features.kind import SHEET_BORDER, USUAL
from orvik.core.features.table import TABLES
from orvik.core.ground.scale import spaced
from orvik.exchange.features import fields, vector
from orvik.usecases.compile import import_features
from orvik.usecases.ground import sources
from orvik.web.frame.pages import page
from orvik.web.session.dependencies import TheProjectFolder, TheWorkers, TheWorkspace
from orvik.web.session.workers import Workers
from orvik.web.session.workspace import Workspace
from orvik.web.uploads import aside, laid_aside, thrown_away

router = APIRouter(prefix="/p/{slug}/import")

# Systems that are asked for where a file does not state its own, besides the project's.
# What may be said of all features of a file that do not say it.
CONSTANTS = ("certainty", "capture_scale")
ASKED = {"EPSG:4326": "degrees, WGS 84", "EPSG:4230": "degrees, ED50", "EPSG:4267": "degrees, NAD27"}
TABLE_WORDS = {"lines": "Lines", "areas": "Areas", "points": "Points"}


@router.post("")
async def look_at(
    request: Request,
    projects: TheProjectFolder,
    workspace: TheWorkspace,
    workers: TheWorkers,
    file: Annotated[UploadFile, File()],
) -> Response:
    """A first look at a file, with a guess at what it means; nothing is kept."""
    token, path = await laid_aside(projects.folder, file)
    try:
        return await _preview(request, workspace, workers, token, path, None)
    except OrvikError:
        thrown_away(projects.folder, token)
        raise


@router.post("/{token}/preview")
async def preview(
    request: Request, projects: TheProjectFolder, workspace: TheWorkspace, workers: TheWorkers, token: str
) -> Response:
    """What the file would import by another plan."""
    return await _preview(request, workspace, workers, token, aside(projects.folder, token), await _plan(request))


@router.post("/{token}/keep")
async def keep(
    request: Request, projects: TheProjectFolder, workspace: TheWorkspace, workers: TheWorkers, token: str
) -> Response:
    """Bring the features in as one entry."""
    path = aside(projects.folder, token)
    prepared = await workers.run(import_features.prepare, workspace.project.path, path, await _plan(request))
    await workspace.carry_out(import_features.keep_prepared, prepared)
    thrown_away(projects.folder, token)
    return page(request, "ground/_imported.html", title=path.name, count=prepared.count, left=prepared.left)


@router.post("/{token}/refer")
async def refer(
    request: Request, projects: TheProjectFolder, workspace: TheWorkspace, workers: TheWorkers, token: str
) -> Response:
    """Show the file as a reference layer; its features are not compiled."""
    path = aside(projects.folder, token)
    plan = await _plan(request)
    await workers.run(sources.check_reference, path, plan.stated, workspace.project.crs)
    reference = await workers.run(sources.new_reference, workspace.project.path, path, plan.stated)
    await workspace.carry_out(sources.add_reference, reference, path.name)
    thrown_away(projects.folder, token)
    return page(request, "ground/_imported.html", title=path.name, count=0, left=0)


@router.delete("/{token}")
async def drop(request: Request, projects: TheProjectFolder, slug: str, token: str) -> Response:
    thrown_away(projects.folder, token)
    return Response("")


async def _plan(request: Request) -> vector.Plan:
    form = await request.form()
    typed = {key: str(value) for key, value in form.items()}
    return vector.Plan(
        {name: typed[f"field-{name}"] for name in fields.ATTRIBUTES if typed.get(f"field-{name}")},
        {table: typed.get(f"kind-{table}") or USUAL[table] for table in TABLES},
        typed.get("stated", "").strip(),
        {name: typed[name].strip() for name in CONSTANTS if typed.get(name, "").strip()},
        typed.get("source", "").strip()[:200],
    )


async def _preview(
    request: Request, workspace: Workspace, workers: Workers, token: str, path: Path, plan: vector.Plan | None
) -> Response:
    asked = {workspace.project.crs.text: f"{workspace.project.crs.label}, as the project", **ASKED}
    found = await workers.run(import_features.preview, workspace.project.path, path, plan, tuple(asked))
    look = found.look
    return page(
        request,
        "ground/_import.html",
        slug=workspace.slug,
        token=token,
        title=path.name,
        plan=look.plan,
        why=look.why,
        count=sum(found.counts.values()),
        counts={TABLE_WORDS[table]: number for table, number in found.counts.items()},
        new_units=found.units,
        notes=found.notes,
        columns=look.columns,
        labels=fields.LABELS,
        asks=look.asks,
        ambiguous=import_features.ambiguous_words(look.asks),
        certainties=CERTAINTIES,
        places=_answers(workspace, asked, look.middle) if look.middle else [],
        attributes=list(fields.ATTRIBUTES),
        tables=look.tables,
        words=TABLE_WORDS,
        kinds={t: sorted(workspace.book.kinds(t) - {SHEET_BORDER}) for t in TABLES},
        picture=_picture(workspace, found.shapes) if found.shapes else "",
        stated=look.stated[:60],
        left=found.left,
        left_count=found.left_count,
    )


def _answers(workspace: Workspace, asked: dict[str, str], middle: tuple[float, float]) -> list[dict[str, Any]]:
    """Where each answer to "which system?" would put a file that does not say."""
    answers = []
    for text, label in asked.items():
        away = import_features.far_from_sheet(workspace.project, text, middle)
        where = "cannot be" if away is None else f"{spaced(away / 1000)} km from the sheet" if away else "on the sheet"
        answers.append({"text": text, "label": label, "where": where})
    return answers


def _picture(workspace: Workspace, shapes: Sequence[BaseGeometry]) -> str:
    """A small drawing of what would be imported, with the sheet border."""
    border = workspace.project.border()
    everything = [*shapes] + ([border] if border is not None else [])
    west, south, east, north = shapely.total_bounds(everything)
    k = 230 / max(east - west, (north - south) * 230 / 150, 1e-9)
    tolerance = 0.4 / k

    def d(geometry: shapely.geometry.base.BaseGeometry, close: bool = False) -> str:
        pieces = []
        for part in shapely.get_parts(shapely.boundary(geometry) if geometry.geom_type == "Polygon" else geometry):
            xy = shapely.get_coordinates(shapely.simplify(part, tolerance))
            pieces.append("M" + "L".join(f"{(x - west) * k:.1f} {(north - y) * k:.1f}" for x, y in xy.tolist()))
        return "".join(pieces)

    lines = "".join(d(g) for g in shapes if g.geom_type != "Point")
    points = shapely.get_coordinates([g for g in shapes if g.geom_type == "Point"])
    dots = "".join(
        f'<circle cx="{(x - west) * k:.1f}" cy="{(north - y) * k:.1f}" r="1.6"/>' for x, y in points.tolist()
    )
    frame = f'<path class="import-border" d="{d(border)}"/>' if border is not None else ""
    return (
        f'<svg class="import-picture" viewBox="-4 -4 {(east - west) * k + 8:.0f} {(north - south) * k + 8:.0f}" '
        f'role="img" aria-label="What would be imported">{frame}<path d="{lines}"/>{dots}</svg>'
    )

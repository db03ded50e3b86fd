"""Ground, features brought in from files: what a file holds, what its fields mean, and a preview before it is kept."""

from __future__ import annotations

import asyncio
from collections import Counter
from pathlib import Path
from typing import Annotated, Any

import numpy as np
import pyproj
import shapely
from fastapi import APIRouter, File, Request, UploadFile
from pyproj.exceptions import CRSError, ProjError
from starlette.responses import Response

from ..core.errors import OrvikError
from ..core.feature import TABLES
from ..core.scale import spaced
from ..exchange import fields, intake, vector
from .pages import chest_of, page
from .uploads import aside, laid_aside, thrown_away
from .workspace import Workspace

router = APIRouter(prefix="/p/{slug}/incoming")

# Systems that are asked for where a file does not state its own, besides the project's.
ASKED = {"EPSG:4326": "degrees, WGS 84", "EPSG:4230": "degrees, ED50", "EPSG:4267": "degrees, NAD27"}
TABLE_WORDS = {"lines": "Lines", "areas": "Areas", "points": "Points"}
DRAWN = 1500


@router.post("")
async def look_at(request: Request, slug: str, file: Annotated[UploadFile, File()]) -> Response:
    """A first look at a file, with a guess at what it means; nothing is kept."""
    chest = chest_of(request)
    workspace = await chest.workspace(slug)
    token, path = await laid_aside(chest.folder, file)
    try:
        layers = await asyncio.to_thread(vector.opened, path)
    except OrvikError:
        thrown_away(chest.folder, token)
        raise
    columns = [column for layer in layers for column in layer.columns]
    meant = fields.guessed(columns)
    kinds = dict(vector.DEFAULT_KIND)
    if "inclination" in meant:
        # Points with a dip are attitudes.
        kinds["points"] = "bedding"
    plan = vector.Plan(meant, kinds)
    return await _preview(request, workspace, token, path, plan)


@router.post("/{token}/preview")
async def preview(request: Request, slug: str, token: str) -> Response:
    """What the file would bring in by another plan."""
    chest = chest_of(request)
    workspace = await chest.workspace(slug)
    return await _preview(request, workspace, token, aside(chest.folder, token), await _plan(request))


@router.post("/{token}/keep")
async def keep(request: Request, slug: str, token: str) -> Response:
    """Bring the features in as one entry."""
    chest = chest_of(request)
    workspace = await chest.workspace(slug)
    path = aside(chest.folder, token)
    plan = await _plan(request)
    reading = await asyncio.to_thread(intake.checked_reading, workspace.project, path, None, None, plan)
    await workspace.apply(
        f"bring in {path.name}", intake.feature_changes(workspace.project, reading, path.name)
    )
    thrown_away(chest.folder, token)
    return page(request, "_brought_in.html", title=path.name, count=len(reading.features))


@router.post("/{token}/refer")
async def refer(request: Request, slug: str, token: str) -> Response:
    """Show the file as a reference layer; its features are not compiled."""
    chest = chest_of(request)
    workspace = await chest.workspace(slug)
    path = aside(chest.folder, token)
    plan = await _plan(request)
    for layer in await asyncio.to_thread(vector.opened, path):
        vector.to_project(path.name, layer.geometries, layer.crs or plan.stated, workspace.project.crs)
    change = await asyncio.to_thread(intake.reference_change, workspace.project, path, plan.stated)
    await workspace.apply(f"refer to {path.name}", [change])
    thrown_away(chest.folder, token)
    return page(request, "_brought_in.html", title=path.name, count=0)


@router.delete("/{token}")
async def drop(request: Request, slug: str, token: str) -> Response:
    thrown_away(chest_of(request).folder, token)
    return Response("")


async def _plan(request: Request) -> vector.Plan:
    form = await request.form()
    typed = {key: str(value) for key, value in form.items()}
    return vector.Plan(
        {own: typed[f"field-{own}"] for own in fields.OWN if typed.get(f"field-{own}")},
        {table: typed.get(f"kind-{table}") or vector.DEFAULT_KIND[table] for table in TABLES},
        typed.get("stated", "").strip(),
    )


async def _preview(
    request: Request, workspace: Workspace, token: str, path: Path, plan: vector.Plan
) -> Response:
    layers = await asyncio.to_thread(vector.opened, path)
    unstated = any(not layer.crs for layer in layers)
    places = _answers(workspace, layers) if unstated else []
    if unstated and not plan.stated:
        near = [p for p in places if p["near"]]
        plan = vector.Plan(plan.fields, plan.kinds, near[0]["text"] if len(near) == 1 else "")
    reading, why = None, ""
    try:
        reading = await asyncio.to_thread(intake.checked_reading, workspace.project, path, None, None, plan)
    except OrvikError as refusal:
        why = refusal.sentence
    counts = Counter(f.table for f in reading.features) if reading else Counter()
    tables = Counter(
        vector.TABLE_OF.get(g.geom_type) for layer in layers for g in layer.geometries if g is not None
    )
    columns = list(dict.fromkeys(column for layer in layers for column in layer.columns))
    return page(
        request, "_incoming.html", slug=workspace.slug, token=token, title=path.name, plan=plan, why=why, reading=reading,
        counts={TABLE_WORDS[t]: n for t, n in counts.items()}, columns=columns, labels=fields.LABELS, places=places,
        own=list(fields.OWN), tables=[t for t in TABLES if tables.get(t)], words=TABLE_WORDS,
        kinds={t: sorted(workspace.book.kinds(t) - {"border"}) for t in TABLES},
        picture=_picture(workspace, reading) if reading else "",
        stated="" if unstated else layers[0].crs[:60],
    )  # fmt: skip


def _answers(workspace: Workspace, layers: list[vector.Layer]) -> list[dict[str, Any]]:
    """Where each answer to "which system?" would put a file that does not say."""
    crs, border = workspace.project.crs, workspace.project.border()
    xy = np.concatenate([shapely.get_coordinates(layer.geometries) for layer in layers if not layer.crs])
    middle = (xy.min(axis=0) + xy.max(axis=0)) / 2
    answers = []
    for text, label in {crs.text: f"{crs.label}, as the project", **ASKED}.items():
        where, near = "cannot be", False
        try:
            x, y = pyproj.Transformer.from_crs(text, crs.text, always_xy=True).transform(*middle)
            if np.isfinite([x, y]).all() and border is not None:
                away = (
                    shapely.distance(shapely.box(*border.bounds), shapely.Point(x, y)) * crs.metres_per_unit
                )
                near = bool(away < 50_000)
                where = "on the sheet" if away == 0 else f"{spaced(away / 1000)} km from the sheet"
        except (CRSError, ProjError):
            pass
        answers.append({"text": text, "label": label, "where": where, "near": near})
    return answers


def _picture(workspace: Workspace, reading: vector.Reading) -> str:
    """A small drawing of what would be brought in, with the sheet border."""
    border = workspace.project.border()
    shapes = [f.geometry for f in reading.features[:: max(1, len(reading.features) // DRAWN)]]
    everything = shapes + ([border] if border is not None else [])
    west, south, east, north = shapely.total_bounds(everything)
    k = 230 / max(east - west, (north - south) * 230 / 150, 1e-9)
    tolerance = 0.4 / k

    def d(geometry: shapely.geometry.base.BaseGeometry, close: bool = False) -> str:
        pieces = []
        for part in shapely.get_parts(
            shapely.boundary(geometry) if geometry.geom_type == "Polygon" else geometry
        ):
            xy = shapely.get_coordinates(shapely.simplify(part, tolerance))
            pieces.append(
                "M" + "L".join(f"{(x - west) * k:.1f} {(north - y) * k:.1f}" for x, y in xy.tolist())
            )
        return "".join(pieces)

    lines = "".join(d(g) for g in shapes if g.geom_type != "Point")
    points = shapely.get_coordinates([g for g in shapes if g.geom_type == "Point"])
    dots = "".join(
        f'<circle cx="{(x - west) * k:.1f}" cy="{(north - y) * k:.1f}" r="1.6"/>' for x, y in points.tolist()
    )
    frame = f'<path class="incoming-border" d="{d(border)}"/>' if border is not None else ""
    return (
        f'<svg class="incoming-picture" viewBox="-4 -4 {(east - west) * k + 8:.0f} {(north - south) * k + 8:.0f}" '
        f'role="img" aria-label="What would be brought in">{frame}<path d="{lines}"/>{dots}</svg>'
    )

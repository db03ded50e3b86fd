"""Ground: coordinate system, scales, border and underlays."""

from __future__ import annotations

import sqlite3
from dataclasses import replace
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Form, Request
from starlette.responses import Response

from ..core import distortion
from ..core.border import check_size, geographic_border, grid_border, ground_of, rectangle_of, series_corners
from ..core.edit import checked
from ..core.errors import CoordinateRefused, NotFound, ScaleRefused
from ..core.feature import Feature
from ..core.scale import Scales, parse_rungs, parse_scale, proposed_digitizing, spaced
from ..core.sheet.fitting import scale_fits
from ..core.sheet.page import PAPERS
from ..core.sheet.panel import aimed
from ..core.sheet.template import smallest_paper
from ..exchange import tiling, underlays
from ..store.journal import Change
from ..store.keeping import feature_changes
from ..store.relocation import ground as ground_in_degrees
from .home import BorderForm
from .pages import chest_of, page, stage_page
from .workspace import LAYER_NAMES, TABLE_OF, Workspace

router = APIRouter(prefix="/p/{slug}")
LARGEST_VIEW = 4096


@router.get("/ground")
async def ground(request: Request, slug: str) -> Response:
    workspace = await chest_of(request).workspace(slug)
    workspace.foresee_ink()
    return stage_page(
        request,
        workspace,
        "ground",
        **_facts(workspace),
        stack=stack_rows(workspace),
        set_aside=set_aside(workspace),
        slips=True,
    )


@router.get("/ground/facts")
async def facts(request: Request, slug: str) -> Response:
    workspace = await chest_of(request).workspace(slug)
    return page(request, "_ground_facts.html", slug=slug, project=workspace.project, **_facts(workspace))


@router.post("/scales")
async def set_scales(
    request: Request,
    slug: str,
    publication: Annotated[str, Form()],
    digitizing: Annotated[str, Form()] = "",
    rungs: Annotated[str, Form()] = "",
) -> Response:
    """Set the scales; without a digitizing scale, the one that the publication scale asks for."""
    workspace = await chest_of(request).workspace(slug)
    denominator = parse_scale(publication)
    fine = parse_scale(digitizing) if digitizing.strip() else proposed_digitizing(denominator)
    scales = Scales(denominator, fine, parse_rungs(rungs))
    values = {
        "publication_scale": scales.publication,
        "digitizing_scale": scales.digitizing,
        "rungs": ",".join(str(rung) for rung in scales.others),
    }
    await workspace.apply(f"set the scale to 1:{spaced(scales.publication)}", [Change("project", 1, values)])
    return Response(status_code=204, headers={"HX-Refresh": "true"})


@router.get("/scales/fits")
async def scales_that_fit(request: Request, slug: str, paper: str = "A3") -> Response:
    """The scales that the border allows on a paper."""
    workspace = await chest_of(request).workspace(slug)
    border = workspace.project.border()
    if border is None:
        raise ScaleRefused("Set the sheet border first; then scales can be fitted to a paper.")
    found = scale_fits(border, workspace.project.crs, paper)
    return page(request, "_scale_fits.html", slug=slug, found=found, scales=workspace.project.scales)


@router.get("/border/series")
async def series_sheet(request: Request, slug: str, step: float = 15.0) -> Response:
    """Corner values of the sheet of a series that holds the middle of the project's ground."""
    workspace = await chest_of(request).workspace(slug)
    here = ground_in_degrees(workspace.project)
    if here is None:
        raise CoordinateRefused("There is no ground yet that a sheet of the series could hold; type one corner first.")
    typed = series_corners((here[0] + here[2]) / 2, (here[1] + here[3]) / 2, step)
    return page(request, "_border_fields.html", typed=typed, in_degrees=True)


@router.post("/border")
async def set_border(request: Request, slug: str, form: Annotated[BorderForm, Form()]) -> Response:
    workspace = await chest_of(request).workspace(slug)
    project = workspace.project
    corners = (form.west, form.south, form.east, form.north)
    line = (geographic_border if form.corners == "geographic" else grid_border)(project.crs, *corners)
    check_size(line, project.crs, project.scales.publication)
    feature = Feature("lines", line, "border", capture_scale=project.scales.digitizing)
    kept = checked(feature, project.crs, workspace.book, set())
    await workspace.apply("set the sheet border", feature_changes(project, project.srs_id, [kept]))
    return page(request, "_ground_facts.html", slug=slug, project=project, **_facts(workspace))


@router.get("/stack")
async def stack(request: Request, slug: str) -> Response:
    workspace = await chest_of(request).workspace(slug)
    return stack_page(request, workspace)


@router.post("/stack/group")
async def see_group(
    request: Request, slug: str, group: Annotated[str, Form()], shown: Annotated[bool, Form()]
) -> Response:
    """Show or hide all underlays of a group."""
    workspace = await chest_of(request).workspace(slug)
    for row in stack_rows(workspace):
        if row.get("group") == group:
            await workspace.set_layer(row["layer"], replace(row["state"], shown=shown))
    return stack_page(request, workspace)


@router.post("/stack/{layer}")
async def set_layer(
    request: Request,
    slug: str,
    layer: str,
    shown: Annotated[bool | None, Form()] = None,
    locked: Annotated[bool | None, Form()] = None,
    strength: Annotated[float | None, Form()] = None,
) -> Response:
    workspace = await chest_of(request).workspace(slug)
    if layer not in {row["layer"] for row in stack_rows(workspace)}:
        raise NotFound("That layer is no longer in the stack.")
    state = workspace.layer(layer)
    if shown is not None:
        state = replace(state, shown=shown)
    if locked is not None:
        state = replace(state, locked=locked)
    if strength is not None:
        state = replace(state, strength=min(1.0, max(0.0, strength / 100)))
    await workspace.set_layer(layer, state)
    return stack_page(request, workspace)


def stack_page(request: Request, workspace: Workspace, emptied: bool = False) -> Response:
    """The stack for the page that asks; what it offers depends on the stage."""
    last = request.headers.get("HX-Current-URL", "").split("?")[0].rpartition("/")[2]
    stage = last if last in ("ground", "compile") else ""
    return page(
        request,
        "_stack.html",
        slug=workspace.slug,
        stack=stack_rows(workspace),
        stage=stage,
        slips=stage == "ground",
        emptied=emptied,
        set_aside=set_aside(workspace),
    )


def set_aside(workspace: Workspace) -> list[dict[str, Any]]:
    """Underlays that are set aside: neither shown nor deleted."""
    return [{"id": r["id"], "name": r["name"]} for r in workspace.project.sources() if r["aside"]]


def stack_rows(workspace: Workspace) -> list[dict[str, Any]]:
    """The layers of the stack from the top, as the page shows them."""
    listed: list[dict[str, Any]] = [
        {"layer": layer, "name": name, "underlay": None, "table": TABLE_OF[layer]}
        for layer, name in LAYER_NAMES.items()
    ]
    for row in reversed(workspace.project.sources()):
        if row["kind"] in underlays.KINDS and not row["aside"]:
            listed.append(
                {
                    "layer": f"underlay-{row['id']}",
                    "name": row["name"],
                    "underlay": row["id"],
                    "multiply": bool(row["multiply"]),
                    "placed": underlays.can_be_shown(row),
                    "fitted": bool(row["fit"]),
                    "relief": bool(row["relief"]),
                    "tiling": _is_tiled_now(workspace, row),
                    "group": row["grouping"],
                    "trouble": underlays.trouble_with(workspace.project.path, row),
                }
            )
    for entry in listed:
        entry["state"] = workspace.layer(entry["layer"])
    return listed


def _is_tiled_now(workspace: Workspace, source: sqlite3.Row) -> bool:
    copy = underlays.copy_of(workspace.project.path, source)
    return copy is not None and tiling.progress(copy) is not None


def _facts(workspace: Workspace) -> dict[str, Any]:
    """What the page says of the system over the border, and what paper the map would fill."""
    project = workspace.project
    border = project.border()
    if border is None:
        return {"border": None, "papers": PAPERS}
    crs, scales = project.crs, project.scales
    west, south, east, north = border.bounds
    longitude, latitude = crs.to_geographic(np.array([west, east]), np.array([south, north]))
    _, width, height = aimed(border, scales.publication, crs)
    return {
        "border": border,
        "papers": PAPERS,
        "corners": (west, south, east, north),
        "geographic": (longitude[0], latitude[0], longitude[1], latitude[1]),
        "rectangle": rectangle_of(border) is not None,
        "distortion": distortion.over(crs, ground_of(crs, border)),
        "paper": smallest_paper(width, height, "A"),
        "map_size": (width, height),
    }

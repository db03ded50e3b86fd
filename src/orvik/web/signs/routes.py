"""Signs: the sign book as a plate of specimens, beside the column of map units."""

from __future__ import annotations

from fastapi import APIRouter, Request
from starlette.responses import Response

from orvik.core.features.map_unit import new_colour
from orvik.web.frame.pages import stage_page
from orvik.web.session.dependencies import TheWorkspace
from orvik.web.signs.swatches import line_swatch, point_swatch
from orvik.web.signs.units import uses

router = APIRouter(prefix="/p/{slug}")


@router.get("/signs")
async def get_signs(request: Request, workspace: TheWorkspace) -> Response:
    book = workspace.book
    families: dict[str, list[tuple[str, str, str]]] = {}
    for line in book.lines:
        families.setdefault(line.kind.capitalize(), []).append((line.label, line_swatch(line, 22), line.meaning))
    for point in book.points:
        drawn = point_swatch(point, f"plate-{point.label}".replace(" ", "-").replace(",", ""))
        families.setdefault(point.kind.replace("_", " ").capitalize(), []).append((point.label, drawn, point.meaning))
    units = workspace.project.units()
    return stage_page(
        request,
        workspace,
        "signs",
        families=families,
        units=units,
        new_colour=new_colour(unit for _, unit in units),
        chosen=units[0] if units else None,
        uses=uses(workspace),
        revision=workspace.project.revision,
    )

"""Signs: the sign book as a plate of specimens, beside the column of map units."""

from __future__ import annotations

from fastapi import APIRouter, Request
from starlette.responses import Response

from orvik.web.frame.pages import stage_page
from orvik.web.session.dependencies import TheWorkers, TheWorkspace
from orvik.web.signs.benches import bench_values
from orvik.web.signs.plate import plate_values

router = APIRouter(prefix="/p/{slug}")


@router.get("/signs")
async def get_signs(request: Request, workspace: TheWorkspace, workers: TheWorkers) -> Response:
    values = {**bench_values(workspace, "book"), **await plate_values(workspace, workers)}
    return stage_page(request, workspace, "signs", **values)

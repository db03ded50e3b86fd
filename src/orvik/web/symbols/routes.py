"""Symbols: the symbol book as a plate of specimens, beside the column of map units."""

from __future__ import annotations

from fastapi import APIRouter, Request
from starlette.responses import Response

from orvik.web.frame.pages import stage_page
from orvik.web.session.dependencies import TheWorkers, TheWorkspace
from orvik.web.symbols.benches import bench_values
from orvik.web.symbols.plate import plate_values

router = APIRouter(prefix="/p/{slug}")


@router.get("/symbols")
async def get_symbols(request: Request, workspace: TheWorkspace, workers: TheWorkers) -> Response:
    values = {**bench_values(workspace, "book"), **await plate_values(workspace, workers)}
    return stage_page(request, workspace, "symbols", **values)

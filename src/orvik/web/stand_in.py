"""The stand-in for a map-tile service: tiles of the demo's relief, on an address of its own.

It exists so that underlays from a service are fetched by a real HTTP client, with nothing but this machine.
"""

from __future__ import annotations

from pathlib import Path

from fastapi import FastAPI
from starlette.responses import Response

from orvik.core.ground.crs import project_crs
from orvik.core.pictures.ground_view import GroundView
from orvik.core.pictures.relief import ReliefStyle
from orvik.demo.build import build
from orvik.exchange.rasters import elevation
from orvik.exchange.rasters.service import HALF, LARGEST_LEVEL, SYSTEM, TILE
from orvik.store.read_project import opened_for_reading
from orvik.usecases.ground.underlay_views import sound_copy
from orvik.web.guard import Guard

STYLE = ReliefStyle(ramp="meadow", around=True, altitude=50)


def create_service(folder: Path) -> FastAPI:
    """The service over the demo in a folder, which is made if it is not there."""
    path = build(folder)
    with opened_for_reading(path) as project:
        source = next(row for row in project.sources() if row.relief)
    file = elevation.height_file(sound_copy(path, source), source)
    crs = project_crs(SYSTEM)
    app = FastAPI(docs_url=None, redoc_url=None, openapi_url=None)
    app.add_middleware(Guard)

    @app.get("/{level}/{column}/{row}.png")
    def tile(level: int, column: int, row: int) -> Response:
        if not (0 <= level <= LARGEST_LEVEL and 0 <= column < 2**level and 0 <= row < 2**level):
            return Response(status_code=404)
        side = 2 * HALF / 2**level
        west, north = -HALF + column * side, HALF - row * side
        window = (west, north - side, west + side, north)
        data = elevation.view(file, GroundView.of_window(crs, window, TILE, TILE), STYLE)
        return Response(data, media_type="image/png") if data else Response(status_code=204)

    return app

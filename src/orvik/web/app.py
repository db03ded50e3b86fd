"""The application put together."""

from __future__ import annotations

import asyncio
import mimetypes
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import FastAPI, Request, WebSocket, params
from fastapi.exceptions import RequestValidationError
from starlette.exceptions import HTTPException
from starlette.responses import PlainTextResponse, Response
from starlette.staticfiles import StaticFiles

from orvik.core.errors import (
    CoordinateRefused,
    CrsRefused,
    FileRefused,
    FitRefused,
    NotFound,
    OrvikError,
    ProjectRefused,
    ScaleRefused,
    SheetRefused,
    Stale,
)
from orvik.core.ground import crs_search
from orvik.core.lettering import FONTS
from orvik.web import compile as compile_stage
from orvik.web import ground, guide, home, proof, sheet, symbols
from orvik.web.frame.pages import ROOMS, WEB, page
from orvik.web.guard import LOCAL_NAMES, Guard
from orvik.web.live.connection import serve
from orvik.web.live.handlers import HANDLERS
from orvik.web.session.export_jobs import ExportJobs
from orvik.web.session.project_folder import ProjectFolder
from orvik.web.session.workers import Workers

mimetypes.add_type("font/woff2", ".woff2")
mimetypes.add_type("text/javascript", ".js")

# Which part of a form a refusal belongs to.
WHERE: dict[type[OrvikError], str] = {
    CrsRefused: "crs",
    ScaleRefused: "scale",
    CoordinateRefused: "border",
    ProjectRefused: "name",
    FileRefused: "file",
    SheetRefused: "sheet",
    FitRefused: "fit",
}


# What an address of ours says that is none, by HTTP status.
NOT_HERE = {
    404: "There is nothing at this address; it may have been removed or renamed.",
    405: "This address does not do that; go back and load the page again.",
}
ROUTERS = [router for stage in (home, guide, ground, compile_stage, symbols, sheet, proof) for router in stage.ROUTERS]


async def _made_ready(workers: Workers) -> None:
    # What fails here fails again where it is asked for, and is told there.
    await asyncio.gather(asyncio.to_thread(crs_search.warm), workers.warm(), return_exceptions=True)


def create_app(folder: Path, names: frozenset[str] = LOCAL_NAMES, warm: bool = False) -> FastAPI:
    """The application over a folder of projects.

    Parameters
    ----------
    folder
        Where the project files lie; made if it is not there.
    names
        Host names that it answers to.
    warm
        Whether processes and lists are made ready before anybody asks for them, so that the first answer is quick.
    """

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        workers = Workers()
        app.state.workers = workers
        app.state.projects = ProjectFolder(folder, workers)
        app.state.export_jobs = ExportJobs(folder)
        ready = asyncio.create_task(_made_ready(workers)) if warm else None
        try:
            yield
        finally:
            if ready is not None:
                ready.cancel()
                await asyncio.wait([ready])
            app.state.projects.close()
            app.state.export_jobs.close()
            workers.close()

    app = FastAPI(lifespan=lifespan, docs_url=None, redoc_url=None, openapi_url=None)
    app.add_middleware(Guard, names=names)
    for room in ("vendor", *ROOMS):
        folder_of_room = WEB / room if room == "vendor" else WEB / room / "static"
        if folder_of_room.is_dir():
            app.mount(f"/static/{room}", StaticFiles(directory=folder_of_room), name=f"static-{room}")
    app.mount("/fonts", StaticFiles(directory=FONTS), name="fonts")
    for router in ROUTERS:
        app.include_router(router)

    @app.websocket("/p/{slug}/live")
    async def connect(socket: WebSocket, slug: str) -> None:
        try:
            workspace = await app.state.projects.workspace(slug)
        except OrvikError as refusal:
            await socket.accept()
            await socket.close(1008, refusal.sentence[:120])
            return
        await serve(socket, workspace, HANDLERS)

    @app.exception_handler(OrvikError)
    async def refused(request: Request, refusal: OrvikError) -> Response:
        status = 404 if isinstance(refusal, NotFound) else 409 if isinstance(refusal, Stale) else 422
        if "hx-request" in request.headers or request.method != "GET":
            where = {"Orvik-Where": WHERE.get(type(refusal), "form")}
            return PlainTextResponse(refusal.sentence, status, where)
        response = page(request, "frame/refused.html", sentence=refusal.sentence)
        response.status_code = status
        return response

    @app.exception_handler(RequestValidationError)
    async def unreadable(request: Request, error: RequestValidationError) -> Response:
        names = list(dict.fromkeys(str(e["loc"][-1]) for e in error.errors()))
        words = f"What was sent cannot be read ({', '.join(names)[:120]}); load the page again."
        dependant = getattr(request.scope.get("route"), "dependant", None)
        fields = dependant.body_params if dependant is not None else []
        if set(names) <= {field.name for field in fields if isinstance(field.field_info, params.File)}:
            # A browser leaves out a file where none is chosen.
            words = "Choose a file first."
        # Nothing else of the kind is ever sent by a form of ours; what is wrong is named by its field.
        return PlainTextResponse(words, 422, {"Orvik-Where": "form"})

    @app.exception_handler(HTTPException)
    async def elsewhere(request: Request, error: HTTPException) -> Response:
        words = NOT_HERE.get(error.status_code, "That cannot be done here; go back and load the page again.")
        if "hx-request" in request.headers or request.method not in ("GET", "HEAD"):
            return PlainTextResponse(words, error.status_code, {"Orvik-Where": "form", **(error.headers or {})})
        response = page(request, "frame/refused.html", sentence=words)
        response.status_code = error.status_code
        return response

    return app

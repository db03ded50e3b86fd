"""What handlers ask for: the plan chest, the workers, and the project that an address names."""

from __future__ import annotations

from typing import Annotated, cast

from fastapi import Depends, Request

from orvik.web.session.chest import Chest
from orvik.web.session.put_outs import PutOuts
from orvik.web.session.workers import Workers
from orvik.web.session.workspace import Workspace


def chest_of(request: Request) -> Chest:
    """The plan chest of this application."""
    return cast(Chest, request.app.state.chest)


def workers_of(request: Request) -> Workers:
    """The worker processes of this application."""
    return cast(Workers, request.app.state.workers)


def put_outs_of(request: Request) -> PutOuts:
    """What this application puts out."""
    return cast(PutOuts, request.app.state.put_outs)


async def workspace_of(request: Request, slug: str) -> Workspace:
    """The project that an address names, opened at its first use; raises NotFound."""
    return await chest_of(request).workspace(slug)


TheChest = Annotated[Chest, Depends(chest_of)]
ThePutOuts = Annotated[PutOuts, Depends(put_outs_of)]
TheWorkers = Annotated[Workers, Depends(workers_of)]
TheWorkspace = Annotated[Workspace, Depends(workspace_of)]

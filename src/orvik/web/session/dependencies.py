"""What handlers ask for: the plan chest, the workers, and the project that an address names."""

from __future__ import annotations

from typing import Annotated, cast

from fastapi import Depends, Request

from orvik.web.session.chest import Chest
from orvik.web.session.workers import Workers
from orvik.web.session.workspace import Workspace


def chest_of(request: Request) -> Chest:
    """The plan chest of this application."""
    return cast(Chest, request.app.state.chest)


def workers_of(request: Request) -> Workers:
    """The worker processes of this application."""
    return cast(Workers, request.app.state.workers)


async def workspace_of(request: Request, slug: str) -> Workspace:
    """The project that an address names, opened at its first use; raises NotFound."""
    return await chest_of(request).workspace(slug)


TheChest = Annotated[Chest, Depends(chest_of)]
TheWorkers = Annotated[Workers, Depends(workers_of)]
TheWorkspace = Annotated[Workspace, Depends(workspace_of)]

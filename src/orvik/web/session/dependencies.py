"""What handlers ask for: the project folder, the workers, and the project that an address names."""

from __future__ import annotations

from typing import Annotated, cast

from fastapi import Depends, Request

from orvik.core.errors import NotFound
from orvik.web.session.export_jobs import ExportJobs
from orvik.web.session.project_folder import ProjectFolder
from orvik.web.session.space import Space
from orvik.web.session.workers import Workers
from orvik.web.session.workspace import Workspace


def project_folder_of(request: Request) -> ProjectFolder:
    """The project folder of this application."""
    return cast(ProjectFolder, request.app.state.projects)


def workers_of(request: Request) -> Workers:
    """The worker processes of this application."""
    return cast(Workers, request.app.state.workers)


def export_jobs_of(request: Request) -> ExportJobs:
    """What this application exports."""
    return cast(ExportJobs, request.app.state.export_jobs)


async def workspace_of(request: Request, slug: str) -> Workspace:
    """The project that an address names, opened at its first use; raises NotFound."""
    return await project_folder_of(request).workspace(slug)


async def space_of(request: Request, slug: str) -> Space:
    """What an address speaks of: the map of a project, or the section that it names; raises NotFound."""
    workspace = await workspace_of(request, slug)
    named = str(request.path_params.get("section", ""))
    if not named:
        return workspace
    section = workspace.sections.get(int(named)) if named.isdecimal() and len(named) < 16 else None
    if section is None:
        raise NotFound("This section is not open any more; open it again.")
    return section


TheProjectFolder = Annotated[ProjectFolder, Depends(project_folder_of)]
TheExportJobs = Annotated[ExportJobs, Depends(export_jobs_of)]
TheWorkers = Annotated[Workers, Depends(workers_of)]
TheWorkspace = Annotated[Workspace, Depends(workspace_of)]
TheSpace = Annotated[Space, Depends(space_of)]

"""What handlers ask for: the project folder, the workers, and the project that an address names."""

from __future__ import annotations

from typing import Annotated, cast

from fastapi import Depends, Request

from orvik.web.session.export_jobs import ExportJobs
from orvik.web.session.project_folder import ProjectFolder
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


TheProjectFolder = Annotated[ProjectFolder, Depends(project_folder_of)]
TheExportJobs = Annotated[ExportJobs, Depends(export_jobs_of)]
TheWorkers = Annotated[Workers, Depends(workers_of)]
TheWorkspace = Annotated[Workspace, Depends(workspace_of)]

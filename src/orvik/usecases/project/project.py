"""A project as a whole: made, its scales set, moved into another coordinate system."""

from __future__ import annotations

from pathlib import Path

from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.scale import Scales, spaced
from orvik.store.creation import create
from orvik.store.journal import Change, Entry
from orvik.store.project import Project, opened_for_writing
from orvik.usecases.compile.features import feature_changes
from orvik.usecases.ground.border import Corners, border_of
from orvik.usecases.project.relocation import relocation


def create_project(path: Path, name: str, crs: ProjectCrs, scales: Scales, corners: Corners | None = None) -> None:
    """Make a project file, with its border where corners are given; nothing is made if these are refused.

    Raises
    ------
    ProjectRefused
        The file exists or cannot be written, or the name cannot be.
    CoordinateRefused
        The corners make no border.
    """
    border = border_of(corners, crs, scales) if corners is not None else None
    create(path, name, crs, scales)
    if border is not None:
        with opened_for_writing(path) as project:
            project.apply("set the sheet border", feature_changes(project, project.srs_id, [border]))


def set_scales(project: Project, scales: Scales) -> Entry:
    """Set the publication and the digitizing scale and the other rungs of the ladder."""
    values = {
        "publication_scale": scales.publication,
        "digitizing_scale": scales.digitizing,
        "rungs": ",".join(str(rung) for rung in scales.others),
    }
    label = f"set the scale to 1:{spaced(scales.publication)}"
    return project.apply(label, [Change("project", 1, values)])


def change_system(project: Project, target: ProjectCrs) -> Entry:
    """Move the whole project into another system; what is half drawn is forgotten.

    Raises
    ------
    CrsRefused
        There is no way to the system, or it cannot show all of the map.
    """
    plan = relocation(project, target)
    project.forget_drafts()
    return project.apply(f"change the coordinate system to {target.label}", plan.changes)

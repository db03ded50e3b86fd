"""What an underlay of a project shows in a window: a picture, a scan by its fit, relief, or a tile service."""

from __future__ import annotations

from pathlib import Path

from orvik.core.errors import CoordinateRefused, FileRefused
from orvik.core.pictures.relief import ReliefStyle
from orvik.core.pictures.source import Source
from orvik.exchange import elevation, raster, raster_files, reference, service, tiling
from orvik.store.project import Project

KINDS = ("underlay", "service", "reference")


def can_be_shown(source: Source) -> bool:
    """Whether an underlay can be seen: not one set aside, nor a scan that waits to be georeferenced."""
    if source.aside or source.kind not in KINDS:
        return False
    return source.kind != "underlay" or bool(source.transform)


def copy_of(project: Path, source: Source) -> Path | None:
    """The copy of an underlay beside its project; None for a service, and where its name leads elsewhere."""
    if source.kind == "service":
        return None
    try:
        return raster_files.beside(project, source.file)
    except FileRefused:
        return None


def trouble_with(project: Path, source: Source) -> str:
    """What is wrong with the copy of an underlay: empty, ``missing`` or ``altered``."""
    if source.kind not in KINDS or not source.checksum:
        return ""
    copy = copy_of(project, source)
    return "missing" if copy is None else raster.trouble_with(copy, source.checksum)


def view(
    project: Project, source: Source, window: tuple[float, float, float, float], width: int, height: int
) -> bytes | None:
    """A window of an underlay as PNG with transparency; None where it shows nothing.

    Parameters
    ----------
    source
        Its row in the project file.
    window
        West, south, east and north in project coordinates.
    """
    if source.kind == "service":
        cache = raster.files_folder(project.path) / "tiles"
        return service.view(service.checked_address(source.file), cache, project.crs, window, width, height)
    path = raster_files.beside(project.path, source.file)
    if source.kind == "reference":
        return reference.view(path, source.crs, project.crs, window, width, height, source.colour)
    path = tiling.best(path)
    if source.relief:
        style = ReliefStyle.of_json(source.relief)
        return elevation.view(path, source.crs, source.transform, project.crs, window, width, height, style)
    return raster.view(path, source.crs, source.transform, project.crs, window, width, height)


def height_at(project: Project, x: float, y: float) -> float | None:
    """The height in metres at a place, by the uppermost grid of heights that knows it."""
    try:
        project.crs.check_place(x, y)
    except CoordinateRefused:
        return None
    for source in reversed(project.sources()):
        if source.relief and source.transform:
            path = tiling.best(raster_files.beside(project.path, source.file))
            found = elevation.height_at(path, source.crs, source.transform, project.crs, x, y)
            if found is not None:
                return found
    return None

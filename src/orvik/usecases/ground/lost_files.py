"""Copies of underlays that lie beside the project no longer, because its file was renamed without their folder."""

from __future__ import annotations

from pathlib import Path

from orvik.core.errors import FileRefused
from orvik.exchange.rasters import raster
from orvik.store.project import Project
from orvik.usecases.ground.underlay_views import VIEW_KINDS, trouble_with


def missing_files(project: Project) -> dict[str, str]:
    """The checksums of files that are not where they should be, by name."""
    return {
        source.file: source.checksum
        for source in project.sources()
        if source.kind in VIEW_KINDS and source.checksum and trouble_with(project.path, source) == "missing"
    }


def folder_of_old_name(project: Project) -> Path | None:
    """A folder of another name beside the project that holds what it misses; None where there is none.

    Where several do, the one with the fewest other files is the likeliest.
    """
    wanted = missing_files(project)
    if not wanted:
        return None
    mine = raster.files_folder(project.path)
    found = [
        folder
        for folder in project.path.parent.glob("*.files")
        if folder != mine and folder.is_dir() and all((folder / name).is_file() for name in wanted)
    ]
    return min(found, key=lambda folder: (sum(1 for _ in folder.iterdir()), folder.name)) if found else None


def take_files(project: Project, folder_name: str) -> int:
    """Copy what the project misses from a folder beside it; gives how many files. That folder stays as it is.

    Raises
    ------
    FileRefused
        The folder is not there, or a file in it is another one.
    """
    folder = folder_of_old_name(project)
    if folder is None or folder.name != folder_name:
        raise FileRefused(f"{folder_name[:60]} no longer holds what is missing; choose the files one by one.")
    wanted = missing_files(project)
    for name, checksum in wanted.items():
        raster.restored(project.path, name, checksum, folder / name)
    return len(wanted)

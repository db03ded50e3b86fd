"""Jobs of the press: what worker processes carry out of its plates and its profile."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from orvik.store.read_project import opened_for_reading

if TYPE_CHECKING:
    from orvik.core.sheet.page.sheet_file import KeptFile


def plate_png(path: Path, sheet_id: int, plate: str) -> bytes:
    """A plate of the press of a sheet, or all of them together, as a PNG."""
    from orvik.usecases.export.press_run import plate_of

    with opened_for_reading(path) as project, project.snapshot():
        return plate_of(project, sheet_id, plate)


def press_profile(name: str, data: bytes) -> KeptFile:
    """The profile of a press to be kept with a project; raises FileRefused where it is none."""
    from orvik.usecases.export.press_run import profile_of

    return profile_of(name, data)

"""The press that a project is printed on: its profile, a file of the project."""

from __future__ import annotations

from orvik.core.sheet.page.sheet_file import KeptFile
from orvik.store.files import file_names
from orvik.store.journal import Entry
from orvik.store.project import Project
from orvik.store.reader import Reader
from orvik.store.tables.imprint import imprint_change, imprint_of

LARGEST_PROFILE = 20_000_000


def give_profile(project: Project, kept: KeptFile) -> Entry | None:
    """Have a project printed on another press; None where it is that one already."""
    old = imprint_of(project)
    if old.profile == kept.checksum:
        return None
    change = imprint_change(old.changed({"profile": kept.checksum}))
    return project.apply(f"set the press profile {kept.name[:60]}", [change], files=[kept])


def press_name(project: Reader) -> str:
    """What the profile of the project's press is called; empty where none is chosen."""
    checksum = imprint_of(project).profile
    return file_names(project, "profile").get(checksum, "") if checksum else ""

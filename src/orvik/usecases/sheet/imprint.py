"""The imprint of a project: what is said of its map wherever it is printed."""

from __future__ import annotations

from collections.abc import Mapping

from orvik.store.journal import Entry
from orvik.store.project import Project
from orvik.store.tables.imprint import imprint_change, imprint_of


def set_imprint(project: Project, typed: Mapping[str, str]) -> Entry | None:
    """Set what was typed of an imprint; None where nothing is new.

    Raises
    ------
    SheetRefused
        A value cannot be read, or there is no such entry.
    """
    old = imprint_of(project)
    new = old.changed(old.typed(typed))
    if new == old:
        return None
    named = next(name for name in old.entries() if getattr(old, name) != getattr(new, name))
    label = f"set the {old.entries()[named].label.split(',')[0].lower()} of the map"
    return project.apply(label, [imprint_change(new)])

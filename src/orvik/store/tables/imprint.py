"""The imprint in the project file: what is said of its map wherever it is printed."""

from __future__ import annotations

from orvik.core.errors import SheetRefused
from orvik.core.sheet.page.imprint import Imprint
from orvik.store.journal import Change
from orvik.store.reader import Fault, Reader


def imprint_of(project: Reader) -> Imprint:
    """The imprint of a project; an empty one where it cannot be read, which ``row_faults`` tells."""
    try:
        return Imprint.of_json(project.imprint_text)
    except SheetRefused:
        return Imprint()


def row_faults(project: Reader) -> list[Fault]:
    """What is wrong with the imprint, if it cannot be read."""
    try:
        Imprint.of_json(project.imprint_text)
    except SheetRefused as refusal:
        return [Fault("project", 1, refusal.sentence)]
    return []


def imprint_change(imprint: Imprint) -> Change:
    """The change that keeps an imprint."""
    return Change("project", 1, {"imprint": imprint.json})

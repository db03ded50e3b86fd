"""What one click on a finding of a sheet does."""

from __future__ import annotations

from orvik.core.errors import FindingRefused
from orvik.core.findings.finding import Finding
from orvik.core.sheet.parts.explanation.explanation import Explanation
from orvik.store.journal import Entry
from orvik.store.project import Project
from orvik.usecases.sheet.explanations import RowChange, change_row, remove_row
from orvik.usecases.sheet.parts import PartChange, add_part, change_part

# The kinds of mend that are of a sheet.
SHEET_MENDS = frozenset({"row_in", "row_out", "add", "onto_page", "set"})


def mend_sheet(project: Project, sheet_id: int, finding: Finding) -> Entry | None:
    """Mend a finding of a sheet; None where nothing changes.

    Raises
    ------
    FindingRefused
        It has no mend at one click.
    OrvikError
        The part is locked, gone, or cannot be so.
    """
    mend = finding.mend
    if mend is None:
        raise FindingRefused("There is no mend at one click for this; take the part in hand and change it.")
    if mend.kind == "add":
        return add_part(project, sheet_id, mend.key)
    part = project.part(finding.parts[0])
    if mend.kind == "row_in":
        return change_row(project, part.id or 0, mend.key, RowChange(hidden=False))
    if mend.kind == "row_out":
        settings = part.settings
        if isinstance(settings, Explanation) and mend.key in settings.edits.get("added", ()):
            return remove_row(project, part.id or 0, mend.key)
        return change_row(project, part.id or 0, mend.key, RowChange(hidden=True))
    if mend.kind == "onto_page":
        return change_part(project, part.id or 0, PartChange(place={k: float(v) for k, v in mend.values.items()}))
    return change_part(project, part.id or 0, PartChange(typed=mend.values))

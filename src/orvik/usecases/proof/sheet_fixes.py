"""What one click on a finding of a sheet does."""

from __future__ import annotations

from orvik.core.errors import FindingRefused
from orvik.core.findings.finding import Finding
from orvik.core.sheet.parts.explanation.explanation import Explanation
from orvik.store.journal import Entry
from orvik.store.project import Project
from orvik.usecases.sheet.explanations import RowChange, change_row, remove_row
from orvik.usecases.sheet.following import follow
from orvik.usecases.sheet.parts import PartChange, add_part, change_part

# The kinds of fix that are of a sheet.
SHEET_FIXES = frozenset({"row_in", "row_out", "add", "onto_page", "set", "follow", "print_layer"})


def fix_sheet(project: Project, sheet_id: int, finding: Finding) -> Entry | None:
    """Fix a finding of a sheet; None where nothing changes.

    Raises
    ------
    FindingRefused
        It has no fix at one click.
    OrvikError
        The part is locked, gone, or cannot be so.
    """
    fix = finding.fix
    if fix is None:
        raise FindingRefused("There is no fix at one click for this; select the part and change it.")
    if fix.kind == "add":
        return add_part(project, sheet_id, fix.key)
    if fix.kind == "follow":
        return follow(project, sheet_id)[0]
    part = project.part(finding.parts[0])
    if fix.kind == "row_in":
        return change_row(project, part.number, fix.key, RowChange(hidden=False))
    if fix.kind == "row_out":
        settings = part.settings
        if isinstance(settings, Explanation) and fix.key in settings.edits.added:
            return remove_row(project, part.number, fix.key)
        return change_row(project, part.number, fix.key, RowChange(hidden=True))
    if fix.kind == "print_layer":
        return change_part(project, part.number, PartChange(opacity=(fix.key, 1.0)))
    if fix.kind == "onto_page":
        return change_part(project, part.number, PartChange(place={k: float(v) for k, v in fix.values.items()}))
    return change_part(project, part.number, PartChange(typed=fix.values))

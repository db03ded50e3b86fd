"""What one click on a finding does, whatever it is of."""

from __future__ import annotations

from orvik.core.findings.finding import Finding
from orvik.core.geometry.snapping import SnapIndex
from orvik.store.journal import Entry
from orvik.store.project import Project
from orvik.usecases.compile.fixing import fix_map
from orvik.usecases.proof.project_texts import rewrite
from orvik.usecases.proof.sheet_fixes import SHEET_FIXES, fix_sheet


def fix_finding(
    project: Project, index: SnapIndex, finding: Finding, sheet: int | None, seen: int, unit: str | None = None
) -> Entry | None:
    """Fix a finding of a map, of a sheet or of a text; None where nothing changes.

    Parameters
    ----------
    sheet
        The sheet that was proofed, if one was.
    seen
        The revision that it was told at.
    unit
        The unit of a tag that the fix adds.

    Raises
    ------
    OrvikError
        It has no fix at one click, or what it speaks of has changed, is locked or gone.
    """
    kind = finding.fix.kind if finding.fix is not None else ""
    if kind == "rewrite":
        return rewrite(project, finding)
    if kind in SHEET_FIXES and sheet is not None:
        return fix_sheet(project, sheet, finding)
    return fix_map(project, index, finding, seen, unit)

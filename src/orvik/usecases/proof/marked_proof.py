"""The proof of a sheet on paper: the sheet with numbered marks, and a checklist to sign, as one PDF."""

from __future__ import annotations

from datetime import date
from pathlib import Path

from orvik.core.findings.marks import PAGE, checklist, marks_ink
from orvik.core.sheet.page.day import day_words
from orvik.press import pdf
from orvik.press.pdf_standard import About
from orvik.store.read_project import LONG_SNAPSHOT_SECONDS, opened_for_reading
from orvik.usecases.proof.accepting import judged_findings
from orvik.usecases.proof.proof import all_findings
from orvik.usecases.sheet.composing import PRINT_DPI, composed


def marked_proof(path: Path, sheet_id: int) -> bytes:
    """The PDF of a sheet's proof; raises OrvikError where the sheet cannot be composed."""
    with opened_for_reading(path) as project, project.snapshot(LONG_SNAPSHOT_SECONDS):
        judged = judged_findings(project, all_findings(project, sheet_id))
        made = composed(project, sheet_id, PRINT_DPI)
        sheet = made.sheet
        title = f"Proof of {sheet.name}, {project.name}"
        said = f"revision {project.revision}, {day_words(date.today())}"
        marked = pdf.Page([*made.groups, marks_ink(judged.open, sheet)], sheet.width, sheet.height)
        pages = [pdf.Page(items, *PAGE) for items in checklist(title, said, judged)]
        return pdf.pages_pdf([marked, *pages], About(title, subject=said))

"""From a project file to its finished sheet: what is composed, painted as PDF, picture or SVG."""

from __future__ import annotations

import os
from collections.abc import Collection, Sequence
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

from orvik.core.ground.scale import spaced
from orvik.core.sheet.output.compose import Composition, compose
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.part import Part, largest, numbered
from orvik.core.sheet.page.sheet_file import Drawn, KeptFile
from orvik.core.sheet.parts.credits import CreditNote
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.exchange.sheets.sheet_files import shown as shown_file
from orvik.press import pdf, svg
from orvik.press.pdf_standard import About
from orvik.press.picture_file import page_png
from orvik.store.read_project import ReadProject, opened_for_reading
from orvik.store.tables.imprint import imprint_of
from orvik.usecases.sheet.composing import PRINT_DPI, composed, context, from_corner
from orvik.usecases.sheet.viewports import viewports_of


def sheet_pdf(path: Path, sheet_id: int, dpi: float = PRINT_DPI) -> bytes:
    """The PDF of a sheet of a project file, its pictures with so many dots per inch."""
    with opened_for_reading(path) as project:
        return _pdf_of(project, composed(project, sheet_id, dpi))


def sheet_png(path: Path, sheet_id: int, dpi: float) -> bytes:
    """A PNG of a sheet, made from its PDF."""
    return page_png(sheet_pdf(path, sheet_id, dpi), dpi)


def unmade_png(
    project: ReadProject, sheet: Sheet, parts: Sequence[Part], files: Sequence[KeptFile], dpi: float
) -> bytes:
    """A PNG of a sheet that is kept nowhere, whose parts have the numbers that they speak of one another by."""
    around = context(project, dpi, whole=False)
    coming = {kept.checksum: kept for kept in files}

    def shown(checksum: str) -> Drawn | None:
        return shown_file(coming[checksum]) if checksum in coming else around.files(checksum)

    made = compose(sheet, numbered(parts), replace(around, files=shown))
    return page_png(pdf.page_pdf(made.groups, sheet.width, sheet.height, sheet.name), dpi)


def sheet_fragments(path: Path, sheet_id: int, only: Collection[int]) -> dict[int, str]:
    """SVG of some parts of a sheet for the page on the screen, by part id.

    In millimetres from a part's own corner; what lies on a panel is in millimetres on the page.
    """
    with opened_for_reading(path) as project, project.snapshot():
        parts = {f"part-{part.id}": part for part in project.parts(sheet_id)}
        made = compose(project.sheet(sheet_id), list(parts.values()), context(project, whole=False), only)
        placed = [
            group if parts[group.name].settings.lies_on_panel else from_corner(group, parts[group.name])
            for group in made.groups
        ]
        return {parts[g.name].number: svg.fragment(g.items, g.name) for g in placed}


def _pdf_of(project: ReadProject, made: Composition) -> bytes:
    sheet = made.sheet
    page = pdf.Page(made.groups, sheet.width, sheet.height, viewports_of(made))
    return pdf.pages_pdf([page], about(project, sheet))


def about(project: ReadProject, sheet: Sheet) -> About:
    """What a file says of its sheet: the scale of its largest panel, the author of its credits or of the imprint."""
    parts = project.parts(sheet.number)
    main = largest(parts, MapPanel)
    note = largest(parts, CreditNote)
    author = note.settings.author if note is not None and isinstance(note.settings, CreditNote) else ""
    if not author or "{" in author:
        author = imprint_of(project).authors
    said = ""
    if main is not None and isinstance(main.settings, MapPanel):
        system = main.settings.crs_in(project.crs).label
        said = f"True scale of {main.label}: 1:{spaced(main.settings.scale)} at 100 %, {system}"
    return About(f"{sheet.name}, {project.name}", author, said, _made_at(project))


def _made_at(project: ReadProject) -> datetime | None:
    """When the project was changed last, so that the same project gives the same file; or as SOURCE_DATE_EPOCH says."""
    outside = os.environ.get("SOURCE_DATE_EPOCH", "")
    if outside.isdecimal():
        return datetime.fromtimestamp(int(outside), UTC)
    at = project.saved_at
    return datetime.fromisoformat(at) if at else None

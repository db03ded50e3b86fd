"""Sheets: made from the default template, and removed."""

from __future__ import annotations

from datetime import date

from orvik.core.errors import SheetRefused
from orvik.core.sheet.page import Sheet
from orvik.core.sheet.paper import paper_size
from orvik.core.sheet.parts.map_panel import NO_BORDER
from orvik.core.sheet.template import laid_out
from orvik.store import rows
from orvik.store.journal import Change, Entry
from orvik.store.project import Project


def add_sheet(project: Project, name: str, paper: str, landscape: bool) -> Entry:
    """A sheet from the default template; its main panel shows exactly the border, at the publication scale.

    Parameters
    ----------
    paper
        A name such as ``A3``, or millimetres as ``300x400``.

    Raises
    ------
    SheetRefused
        The name is taken or empty, there is no border, or the paper is none or too small.
    """
    label, width, height = paper_size(paper, landscape)
    sheet = Sheet(name.strip(), label, width, height)
    if any(other.name == sheet.name for other in project.sheets()):
        raise SheetRefused(f"There is a sheet {sheet.name} already; choose another name.")
    border = project.border()
    if border is None:
        raise SheetRefused(NO_BORDER)
    scale = project.scales.publication
    parts = laid_out(sheet.name, project.name, (width, height), border, scale, project.crs, date.today(), label)
    return project.apply(f"add sheet {sheet.name}", rows.sheet_changes(sheet, parts))


def remove_sheet(project: Project, sheet_id: int) -> Entry:
    """Remove a sheet with its parts."""
    return project.apply(f"remove sheet {project.sheet(sheet_id).name}", [Change("sheets", sheet_id, None)])

"""What is asked of section lines in the project file."""

from __future__ import annotations

import sqlite3

from orvik.core.structure.section.carried import FoldAxis
from orvik.core.structure.section.section import Section
from orvik.store import rows
from orvik.store.journal import Change
from orvik.store.reader import Fault, Reader


def sections(project: Reader) -> list[Section]:
    """What is asked of section lines, by the number of the line; rows that hold nothing of the sort are left out."""
    return [_section(row) for row in project.section_settings() if not rows.refusals(_section, row)]


def row_faults(project: Reader) -> list[Fault]:
    """Rows that hold no section, each with what is wrong with it."""
    return [
        Fault("section_settings", row["id"], why)
        for row in project.section_settings()
        for why in rows.refusals(_section, row)
    ]


def section_change(kept: Section, number: int | None) -> Change:
    """The change that keeps what is asked of a section line, in a row of its own or one that is there."""
    values = {name: getattr(kept, name) for name in ("line_id", "exaggeration", "base", "corridor")}
    axis = {"axis_trend": kept.axis and kept.axis.trend, "axis_plunge": kept.axis and kept.axis.plunge}
    return Change("section_settings", number, values | axis)


def _section(row: sqlite3.Row) -> Section:
    given = row["axis_trend"] is not None and row["axis_plunge"] is not None
    axis = FoldAxis(float(row["axis_trend"]), float(row["axis_plunge"])) if given else None
    base = None if row["base"] is None else float(row["base"])
    asked = Section(row["line_id"], float(row["exaggeration"]), base, float(row["corridor"]), axis, row["id"])
    return asked.checked()

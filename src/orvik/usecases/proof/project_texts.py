"""What is said of the texts that a project holds beside its sheets, and how they are put right."""

from __future__ import annotations

from dataclasses import replace

from orvik.core.errors import FindingRefused
from orvik.core.features.feature import Features
from orvik.core.findings.finding import Finding
from orvik.core.findings.texts.known_names import named_places, names_of
from orvik.core.findings.texts.project_texts import texts_of_project
from orvik.core.findings.texts.reading import Known, read
from orvik.core.sheet.page.day import known_day
from orvik.store.journal import Entry
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from orvik.store.tables.imprint import imprint_change, imprint_of
from orvik.store.tables.neighbours import neighbours
from orvik.usecases.symbols.units import change_unit


def read_texts(project: ReadProject, points: Features) -> list[Finding]:
    """What there is to say of the descriptions of units and of the imprint."""
    units, imprint = project.units_by_code(), imprint_of(project)
    sheets, beside = [sheet.name for sheet in project.sheets()], neighbours(project)
    known = Known(
        units=units,
        imprint=imprint,
        names=names_of(units.values(), project.name, sheets, beside, imprint, named_places(points)),
        published=known_day(imprint.day),
        neighbours={n.sheet_number: n.name for n in beside if n.sheet_number},
    )
    return read(list(texts_of_project(units, imprint)), known)


def rewrite(project: Project, finding: Finding) -> Entry | None:
    """Write the text of a unit or of the imprint as the fix of a finding has it; None where nothing changes.

    Raises
    ------
    FindingRefused
        It has no such fix.
    """
    fix = finding.fix
    if fix is None or fix.kind != "rewrite":
        raise FindingRefused("There is no fix at one click for this; write the text anew.")
    if fix.unit:
        for number, unit in project.units():
            if unit.code == fix.unit:
                return change_unit(project, number, replace(unit, description=fix.values["description"]))
        raise FindingRefused(f"Unit {fix.unit} is no longer there; look at the list as it is now.")
    held = imprint_of(project).changed(dict(fix.values))
    return project.apply("change the imprint", [imprint_change(held)])

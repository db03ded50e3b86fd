"""All findings of a map and of a sheet, in order."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

import numpy as np

from orvik.core.errors import CrsRefused, FileRefused, FitRefused
from orvik.core.faces.plan import Plan
from orvik.core.findings.areas.unformed import unformed
from orvik.core.findings.column import column
from orvik.core.findings.finding import Finding
from orvik.core.findings.lines.senseless import senseless
from orvik.core.findings.points.stations import doubled_stations
from orvik.core.findings.rules import RULES
from orvik.core.findings.survey import ORDER, Survey
from orvik.core.findings.unwritten import unwritten
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import area_words, on_sheet
from orvik.core.pictures.georeferencing import ControlSet, fit
from orvik.core.symbols.symbol import Ornament, Sign
from orvik.store.project import Project
from orvik.store.reader import Reader
from orvik.store.symbol_book import sign_book_of
from orvik.usecases.compile.survey import survey_of
from orvik.usecases.ground.underlay_views import KINDS, sound_copy
from orvik.usecases.proof.sheet_findings import findings_of_sheet
from orvik.usecases.sheet.labels import labels_without_room
from orvik.usecases.symbols.meeting_colours import colour_report

# The least difference of colours that are told apart with some care.
LEAST_DIFFERENCE = 3.0
# A picture that is placed no better than this, in millimetres on the sheet, is told of.
MISFIT_MM = 0.5


def map_findings(project: Project, survey: Survey, plan: Plan) -> list[Finding]:
    """The findings of the map: those of its features, of what forming would take, and of what else there is."""
    taken = takes_ground(plan, project.crs.metres_per_unit)
    return [*survey.findings, *taken, *_without_sense(project, survey), *_of_the_rest(project)]


def _without_sense(project: Reader, survey: Survey) -> list[Finding]:
    """Lines that are too short for what says their sense, at the publication scale."""
    lines = survey.features["lines"]
    book = sign_book_of(project)
    sided = {
        kind for kind in set(lines.columns["kind"]) if any(_once(s) for s in book.by_kind.get(("lines", kind), ()))
    }
    rows = np.flatnonzero([kind in sided for kind in lines.columns["kind"]])
    if not len(rows):
        return []
    some = lines.select(np.isin(np.arange(len(lines)), rows))
    once = {i: ornaments for i, sign in enumerate(book.signs_of(some)) if (ornaments := _once(sign))}
    return senseless(some, once, 1000 * project.crs.metres_per_unit / project.scales.publication)


def _once(sign: Sign) -> tuple[Ornament, ...]:
    return tuple(ornament for ornament in sign.ornaments if ornament.place == "once")


def takes_ground(plan: Plan, metres_per_unit: float) -> Iterator[Finding]:
    """Faces whose tags say another unit than areas in them, with how much ground that is."""
    for taking in plan.takings:
        size = area_words(taking.area * metres_per_unit**2)
        message = (
            f"The tag in this face says {taking.unit}, and {size} of it are {taking.of}; form units to let the tag "
            "have it, or draw the contact between them."
        )
        units = (taking.unit, taking.of)
        facts = (f"{taking.area:.2f}",)
        yield Finding("takes_ground", "error", message, taking.at, units=units, facts=facts)


def _of_the_rest(project: Project) -> Iterator[Finding]:
    yield from column(unit for _, unit in project.units())
    scale, metres = project.scales.publication, project.crs.metres_per_unit
    yield from doubled_stations(project.stations(), scale, metres)
    yield from _misfits(project)
    yield from _lost_files(project)


def _misfits(project: Reader) -> Iterator[Finding]:
    """Pictures whose control points say that they lie no better than half a millimetre on the sheet."""
    for source in project.sources():
        if not source.fit or source.aside:
            continue
        try:
            asked = ControlSet.of_json(source.fit)
            found = fit(asked.points, asked.kind)
            metres = found.rms * project_crs(source.crs).metres_per_unit
        except (FitRefused, CrsRefused, ValueError):
            continue
        off = on_sheet(metres, project.scales.publication)
        if off > MISFIT_MM:
            message = f"{source.name} lies {metres:.0f} m off its control points ({off:.1f} mm on the sheet)."
            facts = (f"{off:.1f}", source.checksum)
            yield Finding("misfit", "warning", message, None, about=f"source {source.id}", facts=facts)


def _lost_files(project: Project) -> Iterator[Finding]:
    """Underlays whose file is not there, or is another than was brought in: neither is shown nor printed."""
    for source in project.sources():
        if source.aside or source.kind not in KINDS or source.kind == "service":
            continue
        try:
            sound_copy(project.path, source)
        except FileRefused as refusal:
            yield Finding("lost_file", "error", refusal.sentence, None, about=f"source {source.id}")


def alike(project: Project) -> Iterator[Finding]:
    """Units that touch and whose colours are hardly told apart; apart from the rest, because it takes its time."""
    report = colour_report(project, LEAST_DIFFERENCE)
    for pair in report.bad:
        message = (
            f"{pair.one} and {pair.other} touch, and their colours can hardly be told apart "
            f"(ΔE {pair.least:.1f} as printed, for every kind of sight)."
        )
        yield Finding("alike", "warning", message, pair.at, units=(pair.one, pair.other), about="colours")


def without_room(project: Reader) -> list[Finding]:
    """Labels that find no room at the publication scale."""
    return unwritten(labels_without_room(project), project.scales.publication)


def all_findings(
    project: Project, sheet_id: int | None = None, labels: Callable[[Project], list[Finding]] = without_room
) -> list[Finding]:
    """All findings of a project, with those of a sheet: errors first, then in the order of the rules.

    Parameters
    ----------
    labels
        What gives the labels without room at the publication scale, where no sheet is asked for, which has its own.
    """
    survey = survey_of(project)
    plan = survey.plan()
    found = [*map_findings(project, survey, plan), *alike(project)]
    if sheet_id is not None:
        found += unformed(plan)
        return in_order(findings_of_sheet(project, sheet_id, found))
    return in_order([*found, *labels(project)])


def in_order(findings: Sequence[Finding]) -> list[Finding]:
    """Errors first, then group by group and rule by rule."""
    order = {name: i for i, name in enumerate(RULES)}
    return sorted(findings, key=lambda f: (ORDER[f.severity], order[f.rule], f.features, f.parts, f.at or (), f.about))

"""All findings of a map and of a sheet, in order."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

import numpy as np

from orvik.core.errors import FileRefused
from orvik.core.faces.plan import FormingPlan
from orvik.core.features.table import TABLES
from orvik.core.findings.areas.takings import takes_ground
from orvik.core.findings.areas.unformed import unformed
from orvik.core.findings.column import column
from orvik.core.findings.finding import Finding
from orvik.core.findings.lines.senseless import senseless
from orvik.core.findings.lines.unseen import unseen
from orvik.core.findings.page import colours
from orvik.core.findings.points.stations import doubled_stations, unlogged
from orvik.core.findings.rule import SPOILS
from orvik.core.findings.rules import RULES
from orvik.core.findings.sources import fits, uses
from orvik.core.findings.survey import ORDER, Survey
from orvik.core.findings.underlays import lost_file, misfits
from orvik.core.findings.units.ages import ages
from orvik.core.findings.units.doubles import doubles
from orvik.core.findings.units.labels import labels
from orvik.core.findings.units.use import use
from orvik.core.findings.unwritten import unwritten
from orvik.core.symbols.symbol import Ornament, Symbol
from orvik.store.read_project import ReadProject
from orvik.store.reader import Reader
from orvik.store.tables.symbol_book import symbol_book_of
from orvik.usecases.compile.stations import ticked
from orvik.usecases.compile.survey import survey_of
from orvik.usecases.ground.underlay_views import VIEW_KINDS, extent_of, sound_copy
from orvik.usecases.proof.joins import misfits_of
from orvik.usecases.proof.project_texts import read_texts
from orvik.usecases.proof.sheet_findings import findings_of_sheet
from orvik.usecases.sheet.labels import labels_without_room
from orvik.usecases.structure.map_heights import HeightsFollower
from orvik.usecases.symbols.meeting_colours import colour_report

# The least difference of colours that are told apart with some care.
LEAST_DIFFERENCE = 3.0


def map_findings(project: ReadProject, survey: Survey, plan: FormingPlan) -> list[Finding]:
    """The findings of the map: those of its features, of what forming would take, and of what else there is."""
    taken = takes_ground(plan, project.crs.metres_per_unit)
    joins = misfits_of(project, survey.features)
    texts = read_texts(project, survey.features["points"])
    lines = [*_without_sense(project, survey), *_unseen(project, survey)]
    units, sources = _of_units(project, survey), _of_sources(project, survey)
    rest = _of_the_rest(project, survey)
    return [*survey.findings, *taken, *lines, *joins, *units, *rest, *texts, *sources]


def _without_sense(project: Reader, survey: Survey) -> list[Finding]:
    """Lines that are too short for what says their sense, at the publication scale."""
    lines = survey.features["lines"]
    book = symbol_book_of(project)
    sided = {
        kind for kind in set(lines.columns["kind"]) if any(_once(s) for s in book.by_kind.get(("lines", kind), ()))
    }
    rows = np.flatnonzero([kind in sided for kind in lines.columns["kind"]])
    if not len(rows):
        return []
    some = lines.select(np.isin(np.arange(len(lines)), rows))
    once = {i: ornaments for i, symbol in enumerate(book.symbols_of(some)) if (ornaments := _once(symbol))}
    return senseless(some, once, 1000 * project.crs.metres_per_unit / project.scales.publication)


def _unseen(project: Reader, survey: Survey) -> list[Finding]:
    """Lines too short for the dashes that say how certain they are, at the publication scale."""
    lines = survey.features["lines"]
    rows = [i for i, certainty in enumerate(lines.columns["certainty"]) if certainty not in ("", "certain")]
    symbols = symbol_book_of(project).symbols_of(lines.select(np.isin(np.arange(len(lines)), rows)))
    dashed = {row: s for row, s in zip(rows, symbols, strict=True) if any(style.dash for style in s.strokes)}
    return unseen(lines, dashed, 1000 * project.crs.metres_per_unit / project.scales.publication)


def _of_units(project: Reader, survey: Survey) -> list[Finding]:
    """What is to be said of the column, by itself and against the map."""
    units = [unit for _, unit in project.units()]
    used = {unit for table in TABLES for unit in survey.features[table].columns["map_unit"] if unit}
    used |= {unit for band in survey.features["lines"].columns["band"] if band for unit in band.cut_by}
    patterns = {name: pattern.title for name, pattern in symbol_book_of(project).patterns.items()}
    return [*column(units), *labels(units), *doubles(units), *ages(units), *use(units, used, patterns)]


def _once(symbol: Symbol) -> tuple[Ornament, ...]:
    return tuple(ornament for ornament in symbol.ornaments if ornament.place == "once")


def _of_sources(project: ReadProject, survey: Survey) -> list[Finding]:
    """What features say that they were taken from, against what the pictures show."""
    sources = project.sources()
    named = {n for table in TABLES for n in survey.features[table].columns["source_id"] if n is not None}
    extents = {s.id or 0: extent for s in sources if s.id in named and (extent := extent_of(project, s)) is not None}
    scales, metres = project.scales, project.crs.metres_per_unit
    return uses(sources, survey.features, scales, metres, extents, survey.frame)


def _of_the_rest(project: ReadProject, survey: Survey) -> Iterator[Finding]:
    scale, metres = project.scales.publication, project.crs.metres_per_unit
    yield from doubled_stations(project.stations(), scale, metres)
    yield from unlogged([row.station for row in ticked(project, survey.features["points"]) if row.point is None])
    yield from misfits(project.sources(), scale)
    yield from fits(project.sources())
    yield from _lost_files(project)


def _lost_files(project: ReadProject) -> Iterator[Finding]:
    for source in project.sources():
        if source.aside or source.kind not in VIEW_KINDS or source.kind == "service":
            continue
        try:
            sound_copy(project.path, source)
        except FileRefused as refusal:
            yield lost_file(source, refusal.sentence)


def alike(project: ReadProject) -> Iterator[Finding]:
    """Units that touch and whose colours are hardly told apart; apart from the rest, because it takes its time."""
    for pair in colour_report(project, LEAST_DIFFERENCE).bad:
        yield colours.alike(pair.one, pair.other, pair.least, pair.at)


def without_room(project: Reader) -> list[Finding]:
    """Labels that find no room at the publication scale."""
    return unwritten(labels_without_room(project), project.scales.publication)


def all_findings(
    project: ReadProject, sheet_id: int | None = None, labels: Callable[[ReadProject], list[Finding]] = without_room
) -> list[Finding]:
    """All findings of a project, with those of a sheet, in order.

    Parameters
    ----------
    labels
        What gives the labels without room at the publication scale, where no sheet is asked for, which has its own.
    """
    survey = survey_of(project, HeightsFollower())
    plan = survey.plan()
    found = [*map_findings(project, survey, plan), *alike(project)]
    if sheet_id is not None:
        found += unformed(plan)
        return in_order(findings_of_sheet(project, sheet_id, found))
    return in_order([*found, *labels(project)])


def in_order(findings: Sequence[Finding]) -> list[Finding]:
    """Errors first; then what spoils the truth of the map, its reading, its look; then rule by rule."""
    order = {name: (SPOILS.index(rule.spoils), i) for i, (name, rule) in enumerate(RULES.items())}
    return sorted(findings, key=lambda f: (ORDER[f.severity], order[f.rule], f.features, f.parts, f.at or (), f.about))

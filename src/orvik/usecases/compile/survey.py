"""The findings of a project file: what they ask of it, and a survey that is kept up with its journal."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence

from orvik.core.features.feature import Features
from orvik.core.features.kind import BOUNDING
from orvik.core.features.table import TABLES, Table
from orvik.core.findings.single import PrintedText
from orvik.core.findings.survey import Survey, SurveyContext
from orvik.core.structure.map_heights import MapHeights
from orvik.store.read_project import ReadProject
from orvik.store.reader import Fault, Reader
from orvik.store.tables import (
    acceptances,
    emphasis,
    imprint,
    labels,
    margin_notes,
    neighbours,
    sections,
    symbol_book,
    symbol_rules,
)
from orvik.store.tables.symbol_book import custom_kinds, symbol_book_of

# After so many changed rows it is quicker to begin anew.
MOST_FOLLOWED = 3000


# Gives the heights that the map of a project stands on; None where it has none.
HeightsOf = Callable[[ReadProject], MapHeights | None]


def no_heights(_: ReadProject) -> None:
    """Of a survey that is not asked what heights have to do with."""
    return


def setting_of(project: ReadProject, faults: Sequence[Fault], heights: MapHeights | None) -> SurveyContext:
    """What a survey takes from the project beside its features."""
    book = symbol_book_of(project)
    noted = {(s.table, s.kind) for s in book.symbols if any(caption.of == "note" for caption in s.captions)}
    return SurveyContext(
        project.units_by_code(),
        project.scales,
        project.crs.metres_per_unit,
        BOUNDING,
        {table: frozenset(book.kinds(table)) for table in TABLES},
        tuple((fault.table, fault.id, fault.why) for fault in faults),
        tuple(printed_texts(project)),
        {table: frozenset(kind for of, kind in noted if of == table) for table in TABLES},
        heights,
    )


def printed_texts(project: Reader) -> Iterator[PrintedText]:
    """Texts of the map that are printed, on it or in explanations, beside the notes of features.

    What stands on a sheet is looked at as ink, with the sheet.
    """
    yield PrintedText("The name of the project", project.name)
    for _, unit in project.units():
        for what, text in (
            ("code", unit.code),
            ("name", unit.name),
            ("age", unit.printed_age),
            ("label", unit.printed_label),
            ("heading", unit.heading),
            ("description", unit.description),
        ):
            yield PrintedText(f"The {what} of unit {unit.code}", text)
    for _, kind in custom_kinds(project):
        words = " ".join(label for _, label, _ in kind.variants())
        yield PrintedText(f"The name of the kind {kind.label}", words)


def all_faults(project: ReadProject, read: Mapping[Table, Features]) -> list[Fault]:
    """Rows of every table that hold nothing that can be shown; ``read`` as ``Reader.faults`` has it."""
    return [
        *project.faults(read),
        *symbol_book.row_faults(project),
        *labels.row_faults(project),
        *symbol_rules.row_faults(project),
        *emphasis.row_faults(project),
        *sections.row_faults(project),
        *neighbours.row_faults(project),
        *imprint.row_faults(project),
        *acceptances.row_faults(project),
        *margin_notes.row_faults(project),
    ]


def survey_of(project: ReadProject, heights_of: HeightsOf = no_heights) -> Survey:
    """A whole survey of a project as it is."""
    features = project.all_features()
    return Survey(features, setting_of(project, all_faults(project, features), heights_of(project)))


class SurveyFollower:
    """A survey that is kept up with the journal of one project."""

    def __init__(self, heights_of: HeightsOf = no_heights) -> None:
        self._heights_of = heights_of
        self.survey: Survey | None = None
        self.revision = -1
        self._crs = ""
        self._faults: list[Fault] = []

    def follow(self, project: ReadProject) -> Survey:
        """The survey at the revision of a snapshot of the project."""
        changed = project.changed_since(self.revision) if self.survey is not None else None
        if self.survey is None or changed is None or len(changed) > MOST_FOLLOWED or project.crs.text != self._crs:
            features = project.all_features()
            self._faults = all_faults(project, features)
            self.survey = Survey(features, setting_of(project, self._faults, self._heights_of(project)))
        elif changed:
            # A row that was at fault and has been edited is sound now, or gone.
            self._faults = [fault for fault in self._faults if (fault.table, fault.id) not in changed]
            kept, deleted = [], []
            for table in TABLES:
                ids = {number for name, number in changed if name == table}
                there = project.whole(table, sorted(ids))
                kept += list(there.values())
                deleted += [(table, number) for number in ids - set(there)]
            self.survey.update(kept, deleted, setting_of(project, self._faults, self._heights_of(project)))
        self.revision, self._crs = project.revision, project.crs.text
        return self.survey

"""The survey of a project file: begun, kept up with its journal, and carried out as an entry."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import shapely

from ..core.band import FAULTS
from ..core.bands import covered
from ..core.edit import checked
from ..core.errors import FeatureRefused
from ..core.feature import TABLES, Feature
from ..core.forming import Plan, fits
from ..core.survey import Setting, Survey
from . import rows
from .books import book_of, own_kinds
from .journal import Change
from .project import Project
from .reading import Fault, Reader

# After so many changed rows it is quicker to begin anew.
MANY = 3000


def setting_of(project: Project, faults: Sequence[Fault]) -> Setting:
    """What a survey takes from the project beside its features."""
    book = book_of(project)
    readings = frozenset(kind for kind in book.kinds("points") if book.needs_reading("points", kind))
    return Setting(
        project.units_by_code(),
        project.scales,
        project.crs.metres_per_unit,
        book.bounding,
        readings,
        {table: frozenset(book.kinds(table)) for table in TABLES},
        tuple((fault.table, fault.id, fault.why) for fault in faults),
        tuple(printed_texts(project)),
    )


def printed_texts(project: Reader) -> Iterator[tuple[str, str]]:
    """Texts that sheets print: what each is, and the text."""
    yield "The name of the project", project.name
    for _, unit in project.units():
        for what, text in (("code", unit.code), ("name", unit.name), ("age", unit.age)):
            yield f"The {what} of unit {unit.code}", text
    for _, kind in own_kinds(project):
        yield f"The name of the kind {kind.label}", " ".join(label for _, label, _ in kind.variants())
    for sheet in project.sheets():
        for part in project.parts(sheet.id or 0):
            yield f"The {part.label.lower()} of sheet {sheet.name}", str(part.settings.get("text", ""))


def survey_of(project: Project) -> Survey:
    """A whole survey of a project as it is."""
    return Survey(project.all_features(), setting_of(project, project.faults()))


class Follower:
    """A survey that is kept up with the journal of one project."""

    def __init__(self) -> None:
        self.survey: Survey | None = None
        self.revision = -1
        self._crs = ""
        self._faults: list[Fault] = []

    def follow(self, project: Project) -> Survey:
        """The survey at the revision of a snapshot of the project."""
        changed = project.changed_since(self.revision) if self.survey is not None else None
        if self.survey is None or changed is None or len(changed) > MANY or project.crs.text != self._crs:
            self._faults = project.faults()
            self.survey = Survey(project.all_features(), setting_of(project, self._faults))
        elif changed:
            # A row that was at fault and has been edited is sound now, or gone.
            self._faults = [fault for fault in self._faults if (fault.table, fault.id) not in changed]
            put, gone = [], []
            for table in TABLES:
                ids = {number for name, number in changed if name == table}
                there = project.whole(table, sorted(ids))
                put += list(there.values())
                gone += [(table, number) for number in ids - set(there)]
            self.survey.update(put, gone, setting_of(project, self._faults))
        self.revision, self._crs = project.revision, project.crs.text
        return self.survey


def plan_changes(project: Project, plan: Plan) -> list[Change]:
    """The changes that carry out a plan, bands that units then lie over among them.

    Every area passes the rules that all features pass.

    Raises
    ------
    FeatureRefused
        The areas would not make a sound coverage; nothing is changed.
    """
    book, codes = book_of(project), set(project.units_by_code())
    areas = [checked(area, project.crs, book, codes) for area in plan.put]
    geometries = [a.geometry for a in areas]
    whole = len(areas) - plan.cut
    if not fits(geometries[:whole], geometries[whole:]):
        raise FeatureRefused("The faces do not fit together without gap or overlap; look at the findings first.")
    return [
        *(Change("areas", number, None) for number in plan.gone),
        *(rows.feature_change(area, project.srs_id) for area in areas),
        *(rows.feature_change(band, project.srs_id) for band in _bands_below(project, plan)),
    ]


def _bands_below(project: Project, plan: Plan) -> list[Feature]:
    """Bands that other units lie over once a plan is carried out."""
    lines = project.features("lines")
    cut = [
        int(i) for i, band in zip(lines.ids, lines.columns["band"], strict=True) if band and set(band.cut_by) - {FAULTS}
    ]
    if not cut:
        return []
    columns = project.features("areas").patched([a for a in plan.put if a.id is not None], plan.gone)
    geometries = [*columns.geometries, *(a.geometry for a in plan.put if a.id is None)]
    units = [*columns.columns["map_unit"], *(a.map_unit for a in plan.put if a.id is None)]
    tree = shapely.STRtree(geometries)
    changed = []
    for line in project.whole("lines", cut).values():
        over = [
            Feature("areas", geometries[i], "unit_area", map_unit=units[i])
            for i in tree.query(line.geometry, predicate="intersects").tolist()
        ]
        now = covered(line, over)
        if now != line:
            changed.append(now)
    return changed


def form_units(project: Project) -> Plan:
    """Build unit areas from linework and tags, in one entry."""
    survey = survey_of(project)
    plan = survey.plan(project.whole("areas", project.features("areas").ids.tolist()))
    changes = plan_changes(project, plan)
    if changes:
        project.apply("form units", changes)
    return plan

"""Forming units: what that would change, and carrying it out as one entry."""

from __future__ import annotations

from dataclasses import dataclass

import shapely

from orvik.core.drawing.validity import checked
from orvik.core.errors import FeatureRefused
from orvik.core.faces.concealment import covered
from orvik.core.faces.forming import is_coverage
from orvik.core.faces.plan import FormingPlan
from orvik.core.features.band import FAULTS
from orvik.core.features.feature import Feature
from orvik.core.features.kind import UNIT_AREA
from orvik.core.features.table import TABLES
from orvik.core.ground.scale import area_words
from orvik.store import rows
from orvik.store.changeable import Changeable
from orvik.store.journal import Change
from orvik.store.tables.symbol_book import symbol_book_of
from orvik.usecases.compile.layers import may_touch, refuse_locked
from orvik.usecases.compile.survey import survey_of


@dataclass(frozen=True)
class FormingReport:
    """What forming units would do.

    Attributes
    ----------
    plan, taking
        Without and with the ground that tagged faces would take from other units; the same where there is none.
    revision
        The one that this is true at.
    faces, untagged
        How many there are in all, and without a tag.
    """

    plan: FormingPlan
    revision: int
    faces: int
    untagged: int
    taking: FormingPlan | None = None


def taken_words(plan: FormingPlan, metres_per_unit: float) -> list[str]:
    """What tagged faces would take, in words: for each pair of units how much, in how many faces."""
    sums: dict[tuple[str, str], tuple[float, int]] = {}
    for taking in plan.takings:
        area, count = sums.get((taking.unit, taking.of), (0.0, 0))
        sums[taking.unit, taking.of] = area + taking.area, count + 1
    return [
        f"{unit} takes {area_words(area * metres_per_unit**2)} from {of}" + (f" in {count} faces" if count > 1 else "")
        for (unit, of), (area, count) in sorted(sums.items(), key=lambda row: -row[1][0])
    ]


@dataclass(frozen=True)
class Formed:
    """How many areas are new, changed or gone since units were formed, and how many bands follow them."""

    new: int = 0
    changed: int = 0
    deleted: int = 0
    bands: int = 0


def carry_out_forming(project: Changeable, report: FormingReport, take: bool = False) -> Formed | None:
    """Form units as reported, in one entry; None where nothing changes.

    Bands that give way are lines; where these are locked they stay as they are.

    Parameters
    ----------
    take
        Whether tagged faces have the ground of other units that the report has told of.

    Raises
    ------
    FeatureRefused
        The areas are locked, or would not make a sound coverage.
    Stale
        Something has changed since the report.
    """
    stack = project.stack()
    refuse_locked(stack, "areas")
    locked = {table for table in TABLES if not may_touch(stack, table)}
    plan = report.taking if take and report.taking is not None else report.plan
    changes = [change for change in plan_changes(project, plan) if change.table not in locked]
    if not changes:
        return None
    project.apply("form units", changes, report.revision)
    new = sum(1 for area in plan.kept if area.id is None)
    bands = sum(1 for change in changes if change.table == "lines")
    return Formed(new, len(plan.kept) - new, len(plan.deleted), bands)


def form_units(project: Changeable, take: bool = False) -> FormingPlan:
    """Build unit areas from linework and tags, in one entry.

    ``take`` lets tagged faces have the ground of other units; without it these faces stay as they are.
    """
    survey = survey_of(project)
    plan = survey.plan(project.whole("areas", project.features("areas").ids.tolist()), take)
    changes = plan_changes(project, plan)
    if changes:
        project.apply("form units", changes)
    return plan


def plan_changes(project: Changeable, plan: FormingPlan) -> list[Change]:
    """The changes that carry out a plan, bands that units then lie over among them.

    Every area passes the rules that all features pass.

    Raises
    ------
    FeatureRefused
        The areas would not make a sound coverage; nothing is changed.
    """
    book, codes = symbol_book_of(project), set(project.units_by_code())
    areas = [checked(area, project.crs, book, codes) for area in plan.kept]
    geometries = [a.geometry for a in areas]
    whole = len(areas) - plan.cut
    if not is_coverage(geometries[:whole], geometries[whole:]):
        raise FeatureRefused("The faces do not fit together without gap or overlap; look at the findings first.")
    return [
        *(Change("areas", number, None) for number in plan.deleted),
        *rows.feature_changes(areas, project.srs_id),
        *rows.feature_changes(_bands_below(project, plan), project.srs_id),
    ]


def _bands_below(project: Changeable, plan: FormingPlan) -> list[Feature]:
    """Bands that other units lie over once a plan is carried out."""
    lines = project.features("lines")
    cut = [
        int(i) for i, band in zip(lines.ids, lines.columns["band"], strict=True) if band and set(band.cut_by) - {FAULTS}
    ]
    if not cut:
        return []
    columns = project.features("areas").patched([a for a in plan.kept if a.id is not None], plan.deleted)
    geometries = [*columns.geometries, *(a.geometry for a in plan.kept if a.id is None)]
    units = [*columns.columns["map_unit"], *(a.map_unit for a in plan.kept if a.id is None)]
    tree = shapely.STRtree(geometries)
    changed = []
    for line in project.whole("lines", cut).values():
        over = [
            Feature("areas", geometries[i], UNIT_AREA, map_unit=units[i])
            for i in tree.query(line.geometry, predicate="intersects").tolist()
        ]
        now = covered(line, over)
        if now != line:
            changed.append(now)
    return changed

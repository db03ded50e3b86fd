"""Map units: added, changed, moved in the column, removed."""

from __future__ import annotations

from dataclasses import replace

from orvik.core.errors import FeatureRefused, NotFound
from orvik.core.features.feature import TABLES
from orvik.core.features.map_unit import MapUnit
from orvik.store import rows
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.reader import Reader


def unit_by_id(project: Reader, unit_id: int) -> MapUnit:
    """A unit by the id of its row; raises NotFound."""
    for row_id, unit in project.units():
        if row_id == unit_id:
            return unit
    raise NotFound("That unit is no longer in the project.")


def add_unit(project: Project, unit: MapUnit) -> Entry:
    """Add a unit below all others; raises FeatureRefused where there is one of the same code."""
    last = max((other.position for _, other in project.units()), default=0)
    _refuse_double(project, unit.code, None)
    return project.apply(f"add unit {unit.code}", [rows.unit_change(None, replace(unit, position=last + 1))])


def change_unit(project: Project, unit_id: int, new: MapUnit, seen: int | None = None) -> Entry | None:
    """Change a unit; features that name it follow a new code in the same entry. None where nothing changes."""
    old = unit_by_id(project, unit_id)
    _refuse_double(project, new.code, unit_id)
    if new == old:
        return None
    changes = [rows.unit_change(unit_id, new)]
    if new.code != old.code:
        changes += [
            Change(table, feature_id, {"map_unit": new.code})
            for table in TABLES
            for feature_id in project.ids_of_unit(table, old.code)
        ]
    return project.apply(f"change unit {old.code}", changes, seen)


def move_unit(project: Project, unit_id: int, older: bool) -> Entry | None:
    """Move a unit one place in the column; None at its end."""
    unit_by_id(project, unit_id)
    column = project.units()
    place = next(i for i, (row_id, _) in enumerate(column) if row_id == unit_id)
    to = place + (1 if older else -1)
    if not 0 <= to < len(column):
        return None
    column.insert(to, column.pop(place))
    changes = [
        Change("units", row_id, {"position": i}) for i, (row_id, unit) in enumerate(column, 1) if unit.position != i
    ]
    return project.apply(f"make unit {column[to][1].code} {'older' if older else 'younger'}", changes)


def remove_unit(project: Project, unit_id: int) -> Entry:
    """Remove a unit that no feature belongs to; raises FeatureRefused."""
    unit = unit_by_id(project, unit_id)
    used = project.unit_use(unit.code)
    if used:
        raise FeatureRefused(f"{used} features belong to {unit.code}; give them another unit first.")
    return project.apply(f"remove unit {unit.code}", [Change("units", unit_id, None)])


def _refuse_double(project: Reader, code: str, row: int | None) -> None:
    if any(unit.code == code and row_id != row for row_id, unit in project.units()):
        raise FeatureRefused(f"There is a unit {code} already; choose another code.")

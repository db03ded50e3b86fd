"""Map units: added, changed, moved in the column, removed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from difflib import get_close_matches

from orvik.core.colour.hex import ramp
from orvik.core.colour.text import hex_text
from orvik.core.errors import FeatureRefused, NotFound
from orvik.core.features.age import chart_colour, written_ends
from orvik.core.features.map_unit import MapUnit, check_parents
from orvik.core.features.table import SECTION_TABLES, TABLES
from orvik.core.symbols.emphasis import UNIT
from orvik.core.symbols.symbol_book import SymbolBook
from orvik.store import rows
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.reader import Reader
from orvik.store.tables.emphasis import emphasis_change, emphasis_rows
from orvik.store.tables.symbol_book import symbol_book_of
from orvik.store.tables.symbol_rules import rule_change, rule_rows


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
    _refuse_stray(project, unit, unit.code)
    return project.apply(f"add unit {unit.code}", [rows.unit_change(None, replace(unit, position=last + 1))])


def change_unit(project: Project, unit_id: int, new: MapUnit, seen: int | None = None) -> Entry | None:
    """Change a unit; all that names it follows a new code in the same entry. None where nothing changes."""
    old = unit_by_id(project, unit_id)
    _refuse_double(project, new.code, unit_id)
    _refuse_stray(project, new, old.code)
    if new == old:
        return None
    changes = [rows.unit_change(unit_id, new)]
    if new.code != old.code:
        changes += [
            Change(table, feature_id, {"map_unit": new.code})
            for table in TABLES
            for feature_id in project.ids_of_unit(table, old.code)
        ]
        changes += [
            Change(SECTION_TABLES[table], feature_id, {"map_unit": new.code})
            for table in TABLES
            for feature_id in project.drawn_of_unit(table, old.code)
        ]
        changes += [
            Change("units", row_id, {"parent": new.code})
            for row_id, unit in project.units()
            if unit.parent == old.code and row_id != unit_id
        ]
        changes += _followed(project, old.code, new.code)
    return project.apply(f"change unit {old.code}", changes, seen)


def _followed(project: Reader, old: str, new: str) -> list[Change]:
    """The changes of emphases, conditional symbols and parts of sheets that name a unit by its code."""
    emphases = [
        emphasis_change(row_id, emphasis.renamed(UNIT + old, UNIT + new), position)
        for position, (row_id, emphasis) in enumerate(emphasis_rows(project), 1)
        if UNIT + old in emphasis.ranks
    ]
    rules = [
        rule_change(row_id, rule.with_unit(old, new), position)
        for position, (row_id, rule) in enumerate(rule_rows(project), 1)
        if rule.with_unit(old, new) != rule
    ]
    parts = [
        rows.part_change(part.changed(settings=part.settings.changed(changed)))
        for sheet in project.sheets()
        for part in project.parts(sheet.number)
        if (changed := part.settings.recoded(old, new))
    ]
    return emphases + rules + parts


def move_unit(project: Project, unit_id: int, older: bool) -> Entry | None:
    """Move a unit one place in the column; None at its end."""
    place = _place(project, unit_id)
    return move_unit_to(project, unit_id, place + (1 if older else -1))


def move_unit_to(project: Project, unit_id: int, to: int) -> Entry | None:
    """Move a unit to a place of the column, counted from 0 for the youngest; None where it stands there.

    A place beyond the column is none.
    """
    place = _place(project, unit_id)
    column = project.units()
    if not 0 <= to < len(column) or to == place:
        return None
    column.insert(to, column.pop(place))
    changes = [
        Change("units", row_id, {"position": i}) for i, (row_id, unit) in enumerate(column, 1) if unit.position != i
    ]
    return project.apply(f"make unit {column[to][1].code} {'older' if to > place else 'younger'}", changes)


def colour_by_age(project: Project, unit_ids: Sequence[int]) -> Entry | None:
    """Give units the colour of their age on the chart; None where they have it.

    Raises
    ------
    FeatureRefused
        None of them has an age that the chart knows.
    """
    units = {row_id: unit for row_id, unit in project.units() if row_id in set(unit_ids)}
    changes, known = [], 0
    for row_id, unit in units.items():
        ends = (unit.age_from, unit.age_to) if unit.age_from else written_ends(unit.age)
        if ends is None:
            continue
        known += 1
        colour = chart_colour(*ends)
        if colour != unit.colour.upper():
            changes.append(Change("units", row_id, {"colour": colour}))
    if not known:
        raise FeatureRefused("None of these units has an age of the chart; give them one first.")
    return project.apply("colour by age", changes) if changes else None


def colour_in_steps(project: Project, heading: str, first: str, last: str) -> Entry:
    """Give the units under a heading colours in even steps from the youngest to the oldest.

    Raises
    ------
    FeatureRefused
        Fewer than two units stand under it, or a colour is none.
    """
    units = [(row_id, unit) for row_id, unit in project.units() if unit.heading == heading]
    if len(units) < 2:
        where = f"under “{heading}”" if heading else "without a heading"
        raise FeatureRefused(f"Steps need two units or more {where}.")
    colours = ramp(hex_text(first), hex_text(last), len(units))
    changes = [Change("units", row_id, {"colour": colour}) for (row_id, _), colour in zip(units, colours, strict=True)]
    return project.apply(f"colour {heading or 'units'} in steps", changes)


def _place(project: Reader, unit_id: int) -> int:
    unit_by_id(project, unit_id)
    return next(i for i, (row_id, _) in enumerate(project.units()) if row_id == unit_id)


def remove_unit(project: Project, unit_id: int) -> Entry:
    """Remove a unit that no feature belongs to; raises FeatureRefused."""
    unit = unit_by_id(project, unit_id)
    used = project.unit_use(unit.code)
    if used:
        raise FeatureRefused(f"{used} features belong to {unit.code}; give them another unit first.")
    parts = [other.code for _, other in project.units() if other.parent == unit.code]
    if parts:
        raise FeatureRefused(f"{', '.join(parts)} are part of {unit.code}; remove them from it first.")
    return project.apply(f"remove unit {unit.code}", [Change("units", unit_id, None)])


def _refuse_stray(project: Reader, unit: MapUnit, code: str) -> None:
    """What a unit names must be there: the unit that it is part of, and its pattern."""
    others = {other.code: other for _, other in project.units() if other.code != code}
    # Units that are part of it follow its new code in the same entry.
    followed = {c: replace(u, parent=unit.code) if u.parent == code else u for c, u in others.items()}
    check_parents(followed | {unit.code: unit}, unit.code)
    refuse_unknown_pattern(symbol_book_of(project), unit)


def refuse_unknown_pattern(book: SymbolBook, unit: MapUnit) -> None:
    """Raise FeatureRefused for a unit whose pattern the symbol book does not hold: it would be printed without one."""
    if unit.pattern and book.pattern(unit.pattern) is None:
        near = get_close_matches(unit.pattern.lower(), book.patterns, 3, 0.6)
        hint = f" Is it {', '.join(near)}?" if near else " Choose one of the list."
        raise FeatureRefused(f"The symbol book has no pattern “{unit.pattern[:40]}”.{hint}")


def _refuse_double(project: Reader, code: str, row: int | None) -> None:
    if any(unit.code == code and row_id != row for row_id, unit in project.units()):
        raise FeatureRefused(f"There is a unit {code} already; choose another code.")

"""Map units out to a table and in from one, with what would change shown before."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from orvik.core.errors import FeatureRefused
from orvik.core.features.map_unit import MapUnit, check_parents
from orvik.exchange.features.unit_table import COLUMNS, ReadRow, columns_meant, read, shown, written
from orvik.store import rows
from orvik.store.journal import Entry
from orvik.store.project import Project
from orvik.store.reader import Reader
from orvik.store.tables.symbol_book import symbol_book_of
from orvik.usecases.symbols.units import refuse_unknown_pattern


@dataclass(frozen=True)
class TablePreview:
    """What a table would do: units that are new, what changes in others, rows that are refused, and how many stay.

    Attributes
    ----------
    head
        The columns of the table.
    meant
        Which of them stands for each of ours.
    why
        Why nothing of it can be read; empty where it can.
    """

    new: tuple[MapUnit, ...]
    changed: tuple[tuple[str, str, str, str], ...]
    refused: tuple[ReadRow, ...]
    same: int
    head: tuple[str, ...] = ()
    meant: Mapping[str, str] = field(default_factory=dict)
    why: str = ""


def column_label(name: str) -> str:
    """What a column is called.

    >>> column_label("age_from"), column_label("ma")
    ('age from', 'age in Ma')
    """
    return "age in Ma" if name == "ma" else name.replace("_", " ")


def table_of_units(project: Reader) -> str:
    """The units of a project as CSV, youngest first."""
    return written(unit for _, unit in project.units())


def preview_table(project: Reader, data: bytes, headers: Mapping[str, str] | None = None) -> TablePreview:
    """What taking a table in would do; raises FileRefused for what is none.

    Parameters
    ----------
    headers
        The columns of the table for ours, where somebody has said it.
    """
    there = {unit.code: unit for _, unit in project.units()}
    head, meant = columns_meant(data, headers)
    if "code" not in meant:
        why = "Say which column holds the codes of units."
        return TablePreview((), (), (), 0, tuple(head), meant, why)
    found = _checked(project, read(data, there.values(), headers), there)
    new, changed, same = [], [], 0
    for row in found:
        if row.unit is None:
            continue
        old = there.get(row.code)
        if old is None:
            new.append(row.unit)
            continue
        differences = [
            (row.code, column_label(name), shown(old, name), shown(row.unit, name))
            for name in COLUMNS
            if getattr(old, name) != getattr(row.unit, name)
        ]
        changed += differences
        same += not differences
    refused = tuple(row for row in found if row.unit is None)
    return TablePreview(tuple(new), tuple(changed), refused, same, tuple(head), meant)


def take_table(project: Project, data: bytes, headers: Mapping[str, str] | None = None) -> Entry | None:
    """Take a table in, in one entry; None where it changes nothing.

    Units that are new stand below the others; where the table has all units, the order is that of the table.

    Parameters
    ----------
    headers
        The columns of the table for ours, where they are called otherwise.

    Raises
    ------
    FeatureRefused
        A row cannot be taken; then none is.
    """
    column = project.units()
    there = {unit.code: unit for _, unit in column}
    found = _checked(project, read(data, there.values(), headers), there)
    wrong = next((row for row in found if row.unit is None), None)
    if wrong is not None:
        raise FeatureRefused(f"Row {wrong.line}: {wrong.refusal} Nothing was imported.")
    units = {row.code: row.unit for row in found if row.unit is not None}
    order = list(units) if set(there) <= set(units) else [*there, *(code for code in units if code not in there)]
    ids = {unit.code: row_id for row_id, unit in column}
    changes = []
    for position, code in enumerate(order, 1):
        new = replace(units.get(code) or there[code], position=position)
        if new != there.get(code):
            changes.append(rows.unit_change(ids.get(code), new))
    return project.apply(f"import a table of {len(units)} units", changes) if changes else None


def _checked(project: Reader, found: list[ReadRow], there: Mapping[str, MapUnit]) -> list[ReadRow]:
    """Rows of which something that they name is missing are refused, each with its own reason."""
    book = symbol_book_of(project)
    all_units = dict(there) | {row.code: row.unit for row in found if row.unit is not None}
    out = []
    for row in found:
        try:
            if row.unit is not None:
                refuse_unknown_pattern(book, row.unit)
                check_parents(all_units, row.code)
            out.append(row)
        except FeatureRefused as refusal:
            out.append(ReadRow(row.line, row.code, None, refusal.sentence))
    return out

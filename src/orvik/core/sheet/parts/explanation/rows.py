"""The rows of an explanation: what a panel really shows, and what hands have made of the list."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from orvik.core.features.age import chart
from orvik.core.features.map_unit import MapUnit
from orvik.core.sheet.panels.printed_units import printed_unit
from orvik.core.sheet.parts.explanation.row_edits import RowEdits
from orvik.core.symbols.specimen import Form
from orvik.core.symbols.symbol import Symbol

HEADINGS = {"none": "none", "own": "those of the unit column", "age": "periods", "parent": "the units they are part of"}


@dataclass(frozen=True)
class ExplanationRow:
    """One row.

    Attributes
    ----------
    key
        ``unit CODE``, ``symbol ID``, ``layer ID`` or ``text NUMBER``: what hands have done to it is kept by that.
        Further forms of a symbol have theirs behind its id: ``symbol ID, questionable``.
    shows
        The unit or symbol whose specimen stands beside its name; None for a text.
    form
        How the features look that a symbol stands for.
    heading
        What stands above it and those that follow with the same.
    joined
        Of a row for a whole kind: the symbols that its specimen shows side by side, in the forms that it shows.
    covers
        Of such a row: the keys that the rows of its symbols have where each has one of its own.
    """

    key: str
    shows: MapUnit | Symbol | None
    name: str
    age: str = ""
    text: str = ""
    heading: str = ""
    form: Form | None = None
    joined: tuple[tuple[Symbol, Form], ...] = ()
    covers: tuple[str, ...] = ()

    @property
    def explains(self) -> frozenset[str]:
        """The keys of all that it explains."""
        return frozenset(self.covers or (self.key,))

    @property
    def is_unit(self) -> bool:
        return isinstance(self.shows, MapUnit)


def unit_key(code: str) -> str:
    """The key of the row of a unit."""
    return f"unit {code}"


def unit_row(
    unit: MapUnit, units: Mapping[str, MapUnit], opacities: Mapping[str, float], headings: str
) -> ExplanationRow:
    """The row of a unit."""
    printed = printed_unit(unit, opacities)
    heading = {"own": unit.heading, "age": period_of(unit), "parent": _parent(unit, units)}.get(headings, "")
    return ExplanationRow(unit_key(unit.code), printed, unit.name, unit.printed_age, unit.description, heading)


def symbol_row(symbol: Symbol) -> ExplanationRow:
    """The row of a symbol that is added by hand, as all that it can show."""
    return ExplanationRow(f"symbol {symbol.id}", symbol, symbol.title)


def symbol_rows(symbol: Symbol, forms: Sequence[Form]) -> list[ExplanationRow]:
    """The rows of a symbol, one for each form that its features have; the first in no doubt has the symbol's name."""
    plain = [form for form in forms if not form.questionable]
    out = []
    for form in forms:
        said = [] if form in plain[:1] else _said(form, symbol, [*plain[:1], *forms][0])
        words = ", ".join(said)
        key, name = (
            (f"symbol {symbol.id}, {words}", f"{symbol.title}, {words}")
            if said
            else (f"symbol {symbol.id}", symbol.title)
        )
        out.append(ExplanationRow(key, symbol, name, form=form))
    return out


def _said(form: Form, symbol: Symbol, first: Form) -> list[str]:
    """What tells a form from the first one, in words."""
    said = []
    if form.band != first.band:
        said.append("drawn to scale" if form.band else "too narrow to be drawn to scale")
    if form.dips != first.dips:
        said.append("with its dip" if form.dips else "without its dip")
    if form.plunges != first.plunges:
        said.append("plunging" if form.plunges else "without plunge")
    return [*said, "questionable"] if form.questionable else said


def period_of(unit: MapUnit) -> str:
    """The period that holds all of a unit's age; where none does, the era or the eon."""
    held = unit.span
    if held is None:
        return ""
    for rank in ("period", "era", "eon", "super-eon"):
        for age in chart():
            if age.rank == rank and age.younger <= held.younger and held.older <= age.older:
                return age.name
    return ""


def edited(
    rows: Sequence[ExplanationRow],
    edits: RowEdits,
    fixed: bool,
    others: Mapping[str, ExplanationRow],
) -> list[ExplanationRow]:
    """Rows as hands have left them; one that comes new stands after the one that it follows on the map.

    Parameters
    ----------
    fixed
        Whether nothing comes new.
    others
        Rows that may be added, by key.
    """
    known = edits.known
    there = {row.key: row for row in rows}
    kept = [row for row in rows if not (fixed and known is not None and row.key not in known)]
    for key in edits.added:
        if key not in there:
            added = others.get(key) or (ExplanationRow(key, None, "") if key.startswith("text ") else None)
            if added is not None:
                kept.append(added)
    out = []
    for row in _ordered(kept, edits.order):
        edit = edits.row(row.key)
        if not edit.hidden:
            out.append(replace(row, **edit.words))
    return out


def new_keys(rows: Sequence[ExplanationRow], edits: RowEdits) -> list[str]:
    """The rows that have come since the list was last looked at: nothing of what they explain was known then."""
    if edits.known is None:
        return []
    known = set(edits.known)
    return [row.key for row in rows if known.isdisjoint(row.explains | {row.key})]


def _ordered(rows: Sequence[ExplanationRow], order: Sequence[str]) -> list[ExplanationRow]:
    """Rows in an order; one that it does not hold stands after the row before it."""
    if not order:
        return list(rows)
    by_key = {row.key: row for row in rows}
    out = [by_key[key] for key in order if key in by_key]
    placed = {row.key for row in out}
    before: str | None = None
    for row in rows:
        if row.key not in placed:
            at = next((i + 1 for i, other in enumerate(out) if other.key == before), 0)
            out.insert(at, row)
            placed.add(row.key)
        before = row.key
    return out


def _parent(unit: MapUnit, units: Mapping[str, MapUnit]) -> str:
    return units[unit.parent].name if unit.parent in units else ""

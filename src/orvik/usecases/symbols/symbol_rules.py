"""Conditional symbols: made, changed, put in order, taken away, and counted before and after."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from orvik.core.errors import NotFound, SymbolRefused
from orvik.core.features.feature import Features
from orvik.core.features.kind import UNIT_AREA
from orvik.core.features.table import TABLES, Table
from orvik.core.ground.scale import spaced
from orvik.core.symbols.conditional import checked_look, conditional_symbols, with_rules
from orvik.core.symbols.portrayal.line_ink import part_symbols
from orvik.core.symbols.symbol import Symbol
from orvik.core.symbols.symbol_book import SymbolBook
from orvik.core.symbols.symbol_rule import SymbolRule
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.reader import Reader
from orvik.store.tables.symbol_book import drawn_symbols, symbol_book_of
from orvik.store.tables.symbol_rules import rule_change, rule_rows
from orvik.usecases.sheet.panels import panels_of

MOST_RULES = 100


def add_rule(project: Project, rule: SymbolRule) -> Entry:
    """A new conditional symbol, after those that are there; raises SymbolRefused where it cannot be so."""
    there = rule_rows(project)
    if len(there) >= MOST_RULES:
        raise SymbolRefused(f"A project has {MOST_RULES} conditional symbols at the most; remove one first.")
    _checked(project, rule)
    return project.apply(f"set {_name(project, rule)} on condition", [rule_change(None, rule, len(there) + 1)])


def change_rule(project: Project, number: int, rule: SymbolRule) -> Entry | None:
    """Change a conditional symbol; None where nothing changes."""
    old, position = _found(project, number)
    if old == rule:
        return None
    _checked(project, rule)
    return project.apply(f"change {_name(project, rule)} on condition", [rule_change(number, rule, position)])


def move_rule(project: Project, number: int, up: bool) -> Entry | None:
    """Have a conditional symbol asked for earlier, or later; None at the end of the list."""
    rows = rule_rows(project)
    place = _found(project, number)[1] - 1
    other = place + (-1 if up else 1)
    if not 0 <= other < len(rows):
        return None
    rows[place], rows[other] = rows[other], rows[place]
    changes = [rule_change(row_id, rule, position) for position, (row_id, rule) in enumerate(rows, 1)]
    return project.apply("put conditional symbols in another order", changes)


def remove_rule(project: Project, number: int) -> Entry:
    """Take a conditional symbol away; features look again as their kind does."""
    rule, _ = _found(project, number)
    return project.apply(f"remove {_name(project, rule)} on condition", [Change("symbol_rules", number, None)])


def _checked(project: Reader, rule: SymbolRule) -> None:
    checked_look(symbol_book_of(project), rule, {symbol.name: symbol for _, symbol in drawn_symbols(project)})
    codes = project.units_by_code()
    for test in rule.tests:
        if test.attribute == "map_unit" and test.comparison in ("is", "is not") and test.value not in codes:
            raise SymbolRefused(f"There is no unit “{test.value[:20]}”; type the code of one of the column.")


def _found(project: Reader, number: int) -> tuple[SymbolRule, int]:
    for position, (row_id, rule) in enumerate(rule_rows(project), 1):
        if row_id == number:
            return rule, position
    raise NotFound("That conditional symbol is gone; choose another one.")


def _name(project: Reader, rule: SymbolRule) -> str:
    return symbol_book_of(project).kind_title(rule.table, rule.kind)


@dataclass(frozen=True)
class RuleCount:
    """How many features a conditional symbol is about.

    Attributes
    ----------
    of
        The features of its kind.
    holds
        Those of which, or of a part of which, the condition holds.
    takes
        Those that are drawn so: an earlier condition may have them, or the look may have nothing for them.
    """

    of: int
    holds: int
    takes: int


@dataclass(frozen=True)
class RuleLine:
    """A conditional symbol as the list shows it: its number, what it gives, how many, and where it is in force."""

    number: int
    rule: SymbolRule
    kind_title: str
    before: Symbol | None
    after: Symbol | None
    count: RuleCount
    places: tuple[str, ...]


def rule_lines(project: Reader) -> list[RuleLine]:
    """All conditional symbols of a project, in their order."""
    return [_line(project, number, rule) for number, rule in rule_rows(project)]


def previewed(project: Reader, rule: SymbolRule, number: int | None = None) -> RuleLine:
    """What a conditional symbol would do if it were kept, in the place of another one or after all.

    Raises
    ------
    SymbolRefused
        It could not be kept.
    """
    _checked(project, rule)
    rows = rule_rows(project)
    if number is None:
        rows.append((0, rule))
    else:
        rows = [(row_id, rule if row_id == number else old) for row_id, old in rows]
    return _line(project, number or 0, rule, rows)


def _line(
    project: Reader, number: int, rule: SymbolRule, rows: Sequence[tuple[int, SymbolRule]] | None = None
) -> RuleLine:
    drawn = {symbol.name: symbol for _, symbol in drawn_symbols(project)}
    plain = replace(symbol_book_of(project), conditional=())
    scale = _scale_in_force(project, rule)
    book = with_rules(plain, rows if rows is not None else rule_rows(project), drawn, scale).at(scale)
    bases = plain.by_kind.get((rule.table, rule.kind), ())
    by_usual = conditional_symbols(plain, rule, drawn, number)
    made = [symbol for symbols in by_usual.values() for symbol in symbols]
    wanted = rule.certainty or "certain"
    return RuleLine(
        number,
        rule,
        plain.kind_title(rule.table, rule.kind),
        next((symbol for symbol in bases if symbol.certainty in ("", wanted)), bases[0] if bases else None),
        next((symbol for symbol in made if symbol.certainty in ("", wanted)), made[0] if made else None),
        _count(project.features(rule.table), rule, book, {symbol.id for symbol in made}),
        tuple(_places(project, rule)),
    )


def _scale_in_force(project: Reader, rule: SymbolRule) -> int:
    publication = project.scales.publication
    return publication if rule.in_force(publication) else rule.finest or rule.coarsest or publication


def _count(features: Features, rule: SymbolRule, book: SymbolBook, made: set[str]) -> RuleCount:
    found = features.select(np.array([kind == rule.kind for kind in features.columns["kind"]], dtype=bool))
    holding = 0
    for row in range(len(found)):
        feature = found.feature(row)
        values = {**vars(feature), **feature.fields}
        parts = {feature.certainty, *(stretch.certainty for stretch in feature.stretches if stretch.side == "line")}
        holding += any(rule.holds(certainty, values) for certainty in parts)
    if rule.table == "lines":
        symbols: list[set[str]] = [set() for _ in range(len(found))]
        for i, symbol in part_symbols(found, book):
            symbols[i].add(symbol.id)
    else:
        symbols = [{symbol.id} for symbol in book.symbols_of(found)]
    taking = sum(bool(ids & made) for ids in symbols)
    return RuleCount(len(found), holding, taking)


def _places(project: Reader, rule: SymbolRule) -> list[str]:
    """Where it is in force: where the map is compiled, and on which panels."""
    out = ["while compiling"] if rule.look != "none" and rule.in_force(project.scales.publication) else []
    for panel in panels_of(project):
        scale = round(panel.settings.scale * panel.settings.symbol_scale)
        if rule.in_force(scale):
            out.append(f"{panel.sheet.name}, 1:{spaced(panel.settings.scale)}")
    return out


def kinds_in_reach(project: Reader) -> list[tuple[Table, str, str, int]]:
    """The kinds that can have conditional symbols, with title and how many there are; those in use first."""
    book = symbol_book_of(project)
    counts = {(table, kind): n for table in TABLES for kind, n in project.kind_counts(table)}
    found = [
        (table, kind, book.kind_title(table, kind), counts.get((table, kind), 0))
        for (table, kind), symbols in book.by_kind.items()
        if kind != UNIT_AREA and not all(symbol.aid for symbol in symbols)
    ]
    return sorted(found, key=lambda one: (-bool(one[3]), one[2]))

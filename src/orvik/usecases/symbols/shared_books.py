"""Symbol books given out to other projects and imported from them."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace

from orvik.core.errors import SymbolRefused
from orvik.core.features.custom_kind import CustomKind
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.conditional import checked_look
from orvik.core.symbols.custom_symbols import with_custom
from orvik.core.symbols.drawn_symbol import DrawnSymbol
from orvik.core.symbols.joined_kinds import JOINED
from orvik.core.symbols.shared_book import Difference, SharedBook, differences
from orvik.core.symbols.symbol_rule import SymbolRule
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.reader import Reader
from orvik.store.tables.emphasis import emphasis_change, emphasis_rows
from orvik.store.tables.symbol_book import custom_kinds, drawn_change, drawn_symbols, kind_change, symbol_book_of
from orvik.store.tables.symbol_rules import rule_change, rule_rows
from orvik.usecases.compile.kinds import lost_values


def book_of(project: Reader) -> SharedBook:
    """What a project has made for itself, to be given out."""
    return SharedBook(
        project.name,
        tuple(symbol for _, symbol in drawn_symbols(project)),
        tuple(kind for _, kind in custom_kinds(project)),
        tuple(emphasis for _, emphasis in emphasis_rows(project)),
        tuple(rule for _, rule in rule_rows(project)),
    )


@dataclass(frozen=True)
class Taken:
    """What was taken in of a book: the entry of the journal, or None, and in sentences what was left out and why."""

    entry: Entry | None
    left: tuple[str, ...] = ()


def import_book(project: Project, given: SharedBook, keys: Collection[str]) -> Taken:
    """Take entries of a book in, each in the place of the one of its name; what cannot be is left out by name.

    What an entry takes the place of keeps what it was for: a symbol keeps its family, a kind what features of it have
    filled in. Of two drawn symbols that a symbol of the book would wear, it wears the one that is taken in.

    Parameters
    ----------
    keys
        Of the differences that are wanted.

    Raises
    ------
    SymbolRefused
        Nothing of what is wanted can be taken.
    """
    found, _ = differences(given, book_of(project))
    # Conditions come last: they may need what is taken in with them.
    wanted = sorted((d for d in found if d.key in keys), key=lambda d: isinstance(d.given, SymbolRule))
    taken: list[Difference] = []
    left: list[str] = []
    for difference in wanted:
        try:
            _check(project, difference, [one.given for one in taken])
        except SymbolRefused as refusal:
            left.append(f"“{difference.title}” is left out: {refusal.sentence}")
            continue
        taken.append(difference)
    if left and not taken:
        raise SymbolRefused(left[0])
    if not taken:
        return Taken(None)
    changes = [_change(project, difference, number) for number, difference in enumerate(taken, 1)]
    changes += _undressed(project, [one.given for one in taken])
    label = f"import {len(taken)} of the symbol book {given.name}"[:120]
    return Taken(project.apply(label, changes), tuple(left))


def _check(project: Project, difference: Difference, taken: Sequence[object]) -> None:
    """Whether an entry can be kept here, beside what is taken in before it."""
    entry, old = difference.given, difference.there
    if isinstance(entry, SymbolRule):
        _check_rule(project, entry, taken)
    elif isinstance(entry, DrawnSymbol):
        if isinstance(old, DrawnSymbol) and old.family != entry.family:
            raise SymbolRefused(f"It is drawn for {entry.family} there and for {old.family} here; rename one of them.")
        by_id = {symbol.id: symbol for symbol in standard().symbols}
        claimed = {worn for one in taken if isinstance(one, DrawnSymbol) for worn in one.worn_by}
        for worn in entry.worn_by:
            if worn in claimed:
                title = by_id[worn].title if worn in by_id else worn
                raise SymbolRefused(f"{title} is drawn with another symbol of this book already; it can take one.")
            if worn in by_id:
                entry.check_side(by_id[worn])
    elif isinstance(entry, CustomKind):
        if isinstance(old, CustomKind) and old.table != entry.table:
            raise SymbolRefused(f"It is a kind of {old.table} here and of {entry.table} there; rename one of them.")
        if old is None and (entry.name in JOINED or symbol_book_of(project).table_of(entry.name) is not None):
            raise SymbolRefused("It has the name of a kind of the standard; rename it.")
        if isinstance(old, CustomKind):
            lost = lost_values(project, entry)
            fields = {f.name for f in old.fields} - {f.name for f in entry.fields}
            if (lost or fields) and project.kind_use(old.table, old.name):
                what = f"“{lost[0].value}” as {lost[0].field}" if lost else sorted(fields)[0]
                raise SymbolRefused(f"Features have {what} filled in, for which it has no place; change these first.")


def _undressed(project: Reader, taken: Sequence[object]) -> list[Change]:
    """The changes that take looks off symbols of the book which wear another one now."""
    names = {one.name for one in taken if isinstance(one, DrawnSymbol)}
    claimed = {worn for one in taken if isinstance(one, DrawnSymbol) for worn in one.worn_by}
    changes = []
    for place, (row_id, symbol) in enumerate(drawn_symbols(project), 1):
        kept = tuple(worn for worn in symbol.worn_by if worn not in claimed)
        if symbol.name not in names and kept != symbol.worn_by:
            changes.append(drawn_change(row_id, replace(symbol, worn_by=kept), place))
    return changes


def _check_rule(project: Reader, rule: SymbolRule, taken: Sequence[object]) -> None:
    """Whether a conditional symbol can be kept here, beside all else that is taken in."""
    kinds = [entry for entry in taken if isinstance(entry, CustomKind)]
    drawn = {symbol.name: symbol for _, symbol in drawn_symbols(project)}
    drawn |= {entry.name: entry for entry in taken if isinstance(entry, DrawnSymbol)}
    held = [kind for _, kind in custom_kinds(project) if kind.name not in {one.name for one in kinds}]
    checked_look(with_custom(standard(), [*held, *kinds]), rule, drawn)
    codes = set(project.units_by_code())
    for test in rule.tests:
        if test.attribute == "map_unit" and test.comparison == "is" and test.value not in codes:
            raise SymbolRefused(f"It asks for the unit {test.value}, which this project does not have; add that first.")


def _change(project: Project, difference: Difference, number: int) -> Change:
    entry = difference.given
    if isinstance(entry, DrawnSymbol):
        held = {symbol.name: row_id for row_id, symbol in drawn_symbols(project)}
        return drawn_change(held.get(entry.name), entry, len(held) + number)
    if isinstance(entry, CustomKind):
        rows_of = {kind.name: row_id for row_id, kind in custom_kinds(project)}
        return kind_change(rows_of.get(entry.name), replace(entry, position=len(rows_of) + number))
    if isinstance(entry, SymbolRule):
        there = [(row_id, rule) for row_id, rule in rule_rows(project)]
        row_id = next((row_id for row_id, rule in there if rule is difference.there or rule == difference.there), None)
        return rule_change(row_id, entry, len(there) + number)
    emphases = {emphasis.name: row_id for row_id, emphasis in emphasis_rows(project)}
    return emphasis_change(emphases.get(entry.name), entry, len(emphases) + number)

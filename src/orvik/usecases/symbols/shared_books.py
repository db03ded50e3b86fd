"""Sign books given out to other projects and taken in from them."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace

from orvik.core.errors import SignRefused
from orvik.core.features.own_kind import OwnKind
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.conditional import checked_look
from orvik.core.symbols.custom_symbols import with_own
from orvik.core.symbols.drawn_symbol import DrawnSign
from orvik.core.symbols.joined_kinds import JOINED
from orvik.core.symbols.shared_book import Difference, GivenBook, differences
from orvik.core.symbols.symbol_rule import SignRule
from orvik.store.emphasis import theme_change, theme_rows
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.reader import Reader
from orvik.store.symbol_book import drawn_change, drawn_signs, kind_change, own_kinds, sign_book_of
from orvik.store.symbol_rules import rule_change, rule_rows
from orvik.usecases.compile.kinds import lost_values


def book_of(project: Reader) -> GivenBook:
    """What a project has made for itself, to be given out."""
    return GivenBook(
        project.name,
        tuple(sign for _, sign in drawn_signs(project)),
        tuple(kind for _, kind in own_kinds(project)),
        tuple(theme for _, theme in theme_rows(project)),
        tuple(rule for _, rule in rule_rows(project)),
    )


@dataclass(frozen=True)
class Taken:
    """What was taken in of a book: the entry of the journal, or None, and in sentences what was left out and why."""

    entry: Entry | None
    left: tuple[str, ...] = ()


def take_in(project: Project, given: GivenBook, keys: Collection[str]) -> Taken:
    """Take entries of a book in, each in the place of the one of its name; what cannot be is left out by name.

    What an entry takes the place of keeps what it was for: a sign keeps its family, a kind what features of it have
    filled in. Of two drawn signs that a sign of the book would wear, it wears the one that is taken in.

    Parameters
    ----------
    keys
        Of the differences that are wanted.

    Raises
    ------
    SignRefused
        Nothing of what is wanted can be taken.
    """
    found, _ = differences(given, book_of(project))
    # Conditions come last: they may need what is taken in with them.
    wanted = sorted((d for d in found if d.key in keys), key=lambda d: isinstance(d.given, SignRule))
    taken: list[Difference] = []
    left: list[str] = []
    for difference in wanted:
        try:
            _check(project, difference, [one.given for one in taken])
        except SignRefused as refusal:
            left.append(f"“{difference.title}” is left out: {refusal.sentence}")
            continue
        taken.append(difference)
    if left and not taken:
        raise SignRefused(left[0])
    if not taken:
        return Taken(None)
    changes = [_change(project, difference, number) for number, difference in enumerate(taken, 1)]
    changes += _undressed(project, [one.given for one in taken])
    label = f"import {len(taken)} of the sign book {given.name}"[:120]
    return Taken(project.apply(label, changes), tuple(left))


def _check(project: Project, difference: Difference, taken: Sequence[object]) -> None:
    """Whether an entry can be kept here, beside what is taken in before it."""
    entry, old = difference.given, difference.there
    if isinstance(entry, SignRule):
        _check_rule(project, entry, taken)
    elif isinstance(entry, DrawnSign):
        if isinstance(old, DrawnSign) and old.family != entry.family:
            raise SignRefused(f"It is drawn for {entry.family} there and for {old.family} here; rename one of them.")
        by_id = {sign.id: sign for sign in standard().signs}
        claimed = {worn for one in taken if isinstance(one, DrawnSign) for worn in one.worn_by}
        for worn in entry.worn_by:
            if worn in claimed:
                title = by_id[worn].title if worn in by_id else worn
                raise SignRefused(f"{title} wears another sign of this book already; it can wear one.")
            if worn in by_id:
                entry.check_side(by_id[worn])
    elif isinstance(entry, OwnKind):
        if isinstance(old, OwnKind) and old.table != entry.table:
            raise SignRefused(f"It is a kind of {old.table} here and of {entry.table} there; rename one of them.")
        if old is None and (entry.name in JOINED or sign_book_of(project).table_of(entry.name) is not None):
            raise SignRefused("It has the name of a kind of the standard; rename it.")
        if isinstance(old, OwnKind):
            lost = lost_values(project, entry)
            fields = {f.name for f in old.fields} - {f.name for f in entry.fields}
            if (lost or fields) and project.kind_use(old.table, old.name):
                what = f"“{lost[0].value}” as {lost[0].field}" if lost else sorted(fields)[0]
                raise SignRefused(f"Features have {what} filled in, for which it has no place; change these first.")


def _undressed(project: Reader, taken: Sequence[object]) -> list[Change]:
    """The changes that take looks off signs of the book which wear another one now."""
    names = {one.name for one in taken if isinstance(one, DrawnSign)}
    claimed = {worn for one in taken if isinstance(one, DrawnSign) for worn in one.worn_by}
    changes = []
    for place, (row_id, sign) in enumerate(drawn_signs(project), 1):
        kept = tuple(worn for worn in sign.worn_by if worn not in claimed)
        if sign.name not in names and kept != sign.worn_by:
            changes.append(drawn_change(row_id, replace(sign, worn_by=kept), place))
    return changes


def _check_rule(project: Reader, rule: SignRule, taken: Sequence[object]) -> None:
    """Whether a sign on condition can be kept here, beside all else that is taken in."""
    kinds = [entry for entry in taken if isinstance(entry, OwnKind)]
    drawn = {sign.name: sign for _, sign in drawn_signs(project)}
    drawn |= {entry.name: entry for entry in taken if isinstance(entry, DrawnSign)}
    held = [kind for _, kind in own_kinds(project) if kind.name not in {one.name for one in kinds}]
    checked_look(with_own(standard(), [*held, *kinds]), rule, drawn)
    codes = set(project.units_by_code())
    for test in rule.tests:
        if test.attribute == "map_unit" and test.comparison == "is" and test.value not in codes:
            raise SignRefused(f"It asks for the unit {test.value}, which this project does not have; add that first.")


def _change(project: Project, difference: Difference, number: int) -> Change:
    entry = difference.given
    if isinstance(entry, DrawnSign):
        held = {sign.name: row_id for row_id, sign in drawn_signs(project)}
        return drawn_change(held.get(entry.name), entry, len(held) + number)
    if isinstance(entry, OwnKind):
        rows_of = {kind.name: row_id for row_id, kind in own_kinds(project)}
        return kind_change(rows_of.get(entry.name), replace(entry, position=len(rows_of) + number))
    if isinstance(entry, SignRule):
        there = [(row_id, rule) for row_id, rule in rule_rows(project)]
        row_id = next((row_id for row_id, rule in there if rule is difference.there or rule == difference.there), None)
        return rule_change(row_id, entry, len(there) + number)
    themes = {theme.name: row_id for row_id, theme in theme_rows(project)}
    return theme_change(themes.get(entry.name), entry, len(themes) + number)

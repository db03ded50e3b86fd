"""Sign books given out to other projects and taken in from them."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from orvik.core.errors import SignRefused
from orvik.core.features.own_kind import OwnKind
from orvik.core.signs.book_file import standard
from orvik.core.signs.conditional import checked_look
from orvik.core.signs.drawn_sign import DrawnSign
from orvik.core.signs.given_book import Difference, GivenBook, differences
from orvik.core.signs.own_signs import with_own
from orvik.core.signs.sign_rule import SignRule
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.reader import Reader
from orvik.store.sign_book import drawn_change, drawn_signs, kind_change, own_kinds, sign_book_of
from orvik.store.sign_rules import rule_change, rule_rows
from orvik.store.themes import theme_change, theme_rows


def book_of(project: Reader) -> GivenBook:
    """What a project has made for itself, to be given out."""
    return GivenBook(
        project.name,
        tuple(sign for _, sign in drawn_signs(project)),
        tuple(kind for _, kind in own_kinds(project)),
        tuple(theme for _, theme in theme_rows(project)),
        tuple(rule for _, rule in rule_rows(project)),
    )


def take_in(project: Project, given: GivenBook, keys: Collection[str]) -> Entry | None:
    """Take entries of a book in, each in the place of the one of its name; None where nothing is taken.

    Parameters
    ----------
    keys
        Of the differences that are wanted.

    Raises
    ------
    SignRefused
        A kind of this name has features of another sort here, or is one of the standard; or a sign on condition
        needs a kind or a drawn sign that is neither here nor taken in with it.
    """
    found, _ = differences(given, book_of(project))
    wanted = [difference for difference in found if difference.key in keys]
    if not wanted:
        return None
    entries = [difference.given for difference in wanted]
    for entry in entries:
        if isinstance(entry, SignRule):
            _check_rule(project, entry, entries)
    changes = [_change(project, difference, number) for number, difference in enumerate(wanted, 1)]
    return project.apply(f"take in {len(wanted)} of the sign book {given.name}"[:120], changes)


def _check_rule(project: Reader, rule: SignRule, taken: Sequence[object]) -> None:
    """Whether a sign on condition can be kept here, beside all else that is taken in."""
    kinds = [entry for entry in taken if isinstance(entry, OwnKind)]
    drawn = {sign.name: sign for _, sign in drawn_signs(project)}
    drawn |= {entry.name: entry for entry in taken if isinstance(entry, DrawnSign)}
    held = [kind for _, kind in own_kinds(project) if kind.name not in {one.name for one in kinds}]
    try:
        checked_look(with_own(standard(), [*held, *kinds]), rule, drawn)
    except SignRefused as refusal:
        raise SignRefused(f"“{rule.name}” cannot be taken in: {refusal.sentence}") from refusal


def _change(project: Project, difference: Difference, number: int) -> Change:
    entry = difference.given
    if isinstance(entry, DrawnSign):
        held = {sign.name: row_id for row_id, sign in drawn_signs(project)}
        return drawn_change(held.get(entry.name), entry, len(held) + number)
    if isinstance(entry, OwnKind):
        rows_of = {kind.name: (row_id, kind) for row_id, kind in own_kinds(project)}
        row_id, old = rows_of.get(entry.name, (None, None))
        if old is not None and old.table != entry.table:
            raise SignRefused(f"{entry.label} is a kind of {old.table} here and of {entry.table} there; leave it out.")
        if old is None and sign_book_of(project).table_of(entry.name) is not None:
            raise SignRefused(f"{entry.label} has the name of a kind of the standard; leave it out.")
        return kind_change(row_id, entry)
    if isinstance(entry, SignRule):
        rules = {rule.name: row_id for row_id, rule in rule_rows(project)}
        return rule_change(rules.get(entry.name), entry, len(rules) + number)
    themes = {theme.name: row_id for row_id, theme in theme_rows(project)}
    return theme_change(themes.get(entry.name), entry, len(themes) + number)

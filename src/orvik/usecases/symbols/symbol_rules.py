"""Signs on condition: made, changed, put in order, taken away, and counted before and after."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from orvik.core.errors import NotFound, SignRefused
from orvik.core.features.feature import TABLES, Features, Table
from orvik.core.features.kind import UNIT_AREA
from orvik.core.ground.scale import spaced
from orvik.core.symbols.conditional import checked_look, conditional_signs, with_rules
from orvik.core.symbols.portrayal.line_ink import part_signs
from orvik.core.symbols.symbol import Sign
from orvik.core.symbols.symbol_book import SignBook
from orvik.core.symbols.symbol_rule import SignRule
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.reader import Reader
from orvik.store.symbol_book import drawn_signs, sign_book_of
from orvik.store.symbol_rules import rule_change, rule_rows
from orvik.usecases.sheet.panels import panels_of

MOST = 100


def add_rule(project: Project, rule: SignRule) -> Entry:
    """A new sign on condition, after those that are there; raises SignRefused where it cannot be so."""
    there = rule_rows(project)
    if len(there) >= MOST:
        raise SignRefused(f"A project has {MOST} signs on condition at the most; take one away first.")
    _checked(project, rule)
    return project.apply(f"set {_name(project, rule)} on condition", [rule_change(None, rule, len(there) + 1)])


def change_rule(project: Project, number: int, rule: SignRule) -> Entry | None:
    """Change a sign on condition; None where nothing changes."""
    old, position = _found(project, number)
    if old == rule:
        return None
    _checked(project, rule)
    return project.apply(f"change {_name(project, rule)} on condition", [rule_change(number, rule, position)])


def move_rule(project: Project, number: int, up: bool) -> Entry | None:
    """Have a sign on condition asked for earlier, or later; None at the end of the list."""
    rows = rule_rows(project)
    place = _found(project, number)[1] - 1
    other = place + (-1 if up else 1)
    if not 0 <= other < len(rows):
        return None
    rows[place], rows[other] = rows[other], rows[place]
    changes = [rule_change(row_id, rule, position) for position, (row_id, rule) in enumerate(rows, 1)]
    return project.apply("put signs on condition in another order", changes)


def remove_rule(project: Project, number: int) -> Entry:
    """Take a sign on condition away; features look again as their kind does."""
    rule, _ = _found(project, number)
    return project.apply(f"take away {_name(project, rule)} on condition", [Change("sign_rules", number, None)])


def _checked(project: Reader, rule: SignRule) -> None:
    checked_look(sign_book_of(project), rule, {sign.name: sign for _, sign in drawn_signs(project)})
    codes = project.units_by_code()
    for test in rule.tests:
        if test.attribute == "map_unit" and test.comparison in ("is", "is not") and test.value not in codes:
            raise SignRefused(f"There is no unit “{test.value[:20]}”; give the code of one of the column.")


def _found(project: Reader, number: int) -> tuple[SignRule, int]:
    for position, (row_id, rule) in enumerate(rule_rows(project), 1):
        if row_id == number:
            return rule, position
    raise NotFound("That sign on condition is gone; choose another one.")


def _name(project: Reader, rule: SignRule) -> str:
    return sign_book_of(project).kind_title(rule.table, rule.kind)


@dataclass(frozen=True)
class RuleCount:
    """How many features a sign on condition is about.

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
    """A sign on condition as the list shows it: its number, what it gives, how many, and where it is in force."""

    number: int
    rule: SignRule
    kind_title: str
    before: Sign | None
    after: Sign | None
    count: RuleCount
    places: tuple[str, ...]


def rule_lines(project: Reader) -> list[RuleLine]:
    """All signs on condition of a project, in their order."""
    return [_line(project, number, rule) for number, rule in rule_rows(project)]


def previewed(project: Reader, rule: SignRule, number: int | None = None) -> RuleLine:
    """What a sign on condition would do if it were kept, in the place of another one or after all.

    Raises
    ------
    SignRefused
        It could not be kept.
    """
    _checked(project, rule)
    rows = rule_rows(project)
    if number is None:
        rows.append((0, rule))
    else:
        rows = [(row_id, rule if row_id == number else old) for row_id, old in rows]
    return _line(project, number or 0, rule, rows)


def _line(project: Reader, number: int, rule: SignRule, rows: Sequence[tuple[int, SignRule]] | None = None) -> RuleLine:
    drawn = {sign.name: sign for _, sign in drawn_signs(project)}
    plain = replace(sign_book_of(project), conditional=())
    scale = _scale_in_force(project, rule)
    book = with_rules(plain, rows if rows is not None else rule_rows(project), drawn, scale).at(scale)
    bases = plain.by_kind.get((rule.table, rule.kind), ())
    by_usual = conditional_signs(plain, rule, drawn, number)
    made = [sign for signs in by_usual.values() for sign in signs]
    wanted = rule.certainty or "certain"
    return RuleLine(
        number,
        rule,
        plain.kind_title(rule.table, rule.kind),
        next((sign for sign in bases if sign.certainty in ("", wanted)), bases[0] if bases else None),
        next((sign for sign in made if sign.certainty in ("", wanted)), made[0] if made else None),
        _count(project.features(rule.table), rule, book, {sign.id for sign in made}),
        tuple(_places(project, rule)),
    )


def _scale_in_force(project: Reader, rule: SignRule) -> int:
    publication = project.scales.publication
    return publication if rule.in_force(publication) else rule.finest or rule.coarsest or publication


def _count(features: Features, rule: SignRule, book: SignBook, made: set[str]) -> RuleCount:
    found = features.select(np.array([kind == rule.kind for kind in features.columns["kind"]], dtype=bool))
    holding = 0
    for row in range(len(found)):
        feature = found.feature(row)
        values = {**vars(feature), **feature.fields}
        parts = {feature.certainty, *(stretch.certainty for stretch in feature.stretches if stretch.side == "line")}
        holding += any(rule.holds(certainty, values) for certainty in parts)
    if rule.table == "lines":
        signs: list[set[str]] = [set() for _ in range(len(found))]
        for i, sign in part_signs(found, book):
            signs[i].add(sign.id)
    else:
        signs = [{sign.id} for sign in book.signs_of(found)]
    taking = sum(bool(ids & made) for ids in signs)
    return RuleCount(len(found), holding, taking)


def _places(project: Reader, rule: SignRule) -> list[str]:
    """Where it is in force: where the map is compiled, and on which panels."""
    out = ["while compiling"] if rule.look != "none" and rule.in_force(project.scales.publication) else []
    for panel in panels_of(project):
        scale = round(panel.settings.scale * panel.settings.sign_scale)
        if rule.in_force(scale):
            out.append(f"{panel.sheet.name}, 1:{spaced(panel.settings.scale)}")
    return out


def kinds_in_reach(project: Reader) -> list[tuple[Table, str, str, int]]:
    """The kinds that can have signs on condition, with title and how many there are; those in use first."""
    book = sign_book_of(project)
    counts = {(table, kind): n for table in TABLES for kind, n in project.kind_counts(table)}
    found = [
        (table, kind, book.kind_title(table, kind), counts.get((table, kind), 0))
        for (table, kind), signs in book.by_kind.items()
        if kind != UNIT_AREA and not all(sign.aid for sign in signs)
    ]
    return sorted(found, key=lambda one: (-bool(one[3]), one[2]))

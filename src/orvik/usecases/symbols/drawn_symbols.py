"""Signs that a project draws for itself: begun, changed, worn by signs of the book, taken away."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import cast

from slugify import slugify

from orvik.core.errors import NotFound, SignRefused
from orvik.core.features.feature import Table
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.drawn_symbol import DrawnFamily, DrawnSign, new_sign, pattern_like, sign_like
from orvik.core.symbols.symbol import Sign
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.reader import Reader
from orvik.store.symbol_book import drawn_change, drawn_signs, sign_book_of
from orvik.store.symbol_rules import rule_rows

MOST = 200


def begin_sign(project: Project, family: DrawnFamily, title: str, like: str = "") -> Entry:
    """A new sign to draw; without a title it is numbered.

    Parameters
    ----------
    like
        The id of a sign or of a pattern of the book whose look it begins with; its family is that one's.

    Raises
    ------
    SignRefused
        There is one of this name, there are too many, or there is nothing that it could begin like.
    """
    there = [sign for _, sign in drawn_signs(project)]
    if len(there) >= MOST:
        raise SignRefused(f"A project draws {MOST} signs at the most; take one away first.")
    title = " ".join(title.split()) or f"Sign {len(there) + 1}"
    name = slugify(title, separator="_", max_length=40) or f"sign_{len(there) + 1}"
    if any(sign.name == name or sign.title == title for sign in there):
        raise SignRefused(f"There is a sign “{title}” already; give this one another name.")
    sign = _like(project, name, title, like) if like else new_sign(name, family, title)
    return project.apply(f"begin sign {title}", [drawn_change(None, sign, len(there) + 1)])


def _like(project: Reader, name: str, title: str, like: str) -> DrawnSign:
    book = sign_book_of(project)
    pattern = book.pattern(like)
    if pattern is not None:
        return pattern_like(name, title, pattern)
    found = next((sign for sign in book.signs if sign.id == like), None)
    if found is None:
        raise SignRefused("The sign book has no such sign to begin with; choose another one.")
    return sign_like(name, title, found)


def drawn_sign(project: Reader, name: str) -> DrawnSign:
    """A drawn sign by its name; raises NotFound where there is none."""
    return _found(project, name)[1]


def _found(project: Reader, name: str) -> tuple[int, DrawnSign, int]:
    for position, (row_id, sign) in enumerate(drawn_signs(project), 1):
        if sign.name == name:
            return row_id, sign, position
    raise NotFound(f"There is no sign “{name[:30]}” any more; choose another one.")


def change_sign(project: Project, name: str, change: Callable[[DrawnSign], DrawnSign]) -> Entry | None:
    """Change a sign; None where nothing changes.

    Parameters
    ----------
    change
        What makes the new sign from the one that is kept, so that no hand's change is lost to another's.
    """
    row_id, old, position = _found(project, name)
    sign = change(old)
    if old == sign:
        return None
    if sign.ornaments != old.ornaments:
        for one in standard().signs:
            if one.id in sign.worn_by:
                sign.check_side(one)
    return project.apply(f"draw {sign.title}", [drawn_change(row_id, sign, position)])


def remove_sign(project: Project, name: str) -> Entry:
    """Take a drawn sign away; what wore it looks again as the book has it.

    Raises
    ------
    SignRefused
        A unit is filled with it, or something looks like it on condition.
    """
    row_id, sign, _ = _found(project, name)
    if any(rule.look == "drawn" and rule.worn == name for _, rule in rule_rows(project)):
        raise SignRefused("Something looks like this on condition; give that another look first.")
    units = [unit.code for _, unit in project.units() if unit.pattern == sign.pattern_id]
    if sign.family == "patterns" and units:
        raise SignRefused(f"Unit {units[0]} is filled with this pattern; give it another one first.")
    return project.apply(f"take away sign {sign.title}", [Change("signs", row_id, None)])


def put_on(project: Project, name: str, sign_id: str) -> Entry | None:
    """Have a sign of the book wear a drawn one; one that it wore before is taken off. None where it wears it.

    Raises
    ------
    SignRefused
        The book has no such sign, or it is of another table.
    """
    row_id, drawn, position = _found(project, name)
    sign = _wearable(project, drawn).get(sign_id)
    if sign is None:
        raise SignRefused("This look cannot be put on that; choose one of the same sort.")
    if sign_id in drawn.worn_by:
        return None
    drawn.check_side(next((one for one in standard().signs if one.id == sign_id), sign))
    changes = [drawn_change(row_id, replace(drawn, worn_by=(*drawn.worn_by, sign_id)), position)]
    for place, (other_id, other) in enumerate(drawn_signs(project), 1):
        if other.name != name and sign_id in other.worn_by:
            kept = tuple(one for one in other.worn_by if one != sign_id)
            changes.append(drawn_change(other_id, replace(other, worn_by=kept), place))
    return project.apply(f"put {drawn.title} on {sign.title}", changes)


def take_off(project: Project, name: str, sign_id: str) -> Entry | None:
    """Let a sign look as the book has it; None where it does not wear this."""
    row_id, drawn, position = _found(project, name)
    if sign_id not in drawn.worn_by:
        return None
    kept = tuple(one for one in drawn.worn_by if one != sign_id)
    return project.apply(f"take {drawn.title} off", [drawn_change(row_id, replace(drawn, worn_by=kept), position)])


def _wearable(project: Reader, drawn: DrawnSign) -> Mapping[str, Sign]:
    return {sign.id: sign for sign in sign_book_of(project).signs if sign.table == drawn.family}


def wearable(project: Reader, drawn: DrawnSign) -> list[tuple[Sign, int]]:
    """The signs that a look can be put on, with how many features take each; those in use first."""
    if drawn.family == "patterns":
        return []
    counts = Counter(sign.id for sign in sign_book_of(project).signs_of(project.features(drawn.family)))
    found = [(sign, counts[sign.id]) for sign in _wearable(project, drawn).values()]
    return sorted(found, key=lambda pair: (-bool(pair[1]), pair[0].title))


def features_wearing(project: Reader) -> dict[str, int]:
    """How many features look like each drawn sign, by its name."""
    book, drawn = sign_book_of(project), [sign for _, sign in drawn_signs(project)]
    out = dict.fromkeys((sign.name for sign in drawn), 0)
    worn = {worn: sign.name for sign in drawn for worn in sign.worn_by}
    for one in book.conditional:
        if one.rule.look == "drawn":
            worn |= {sign.id: one.rule.worn for sign in one.signs}
    for table in {sign.family for sign in drawn} - {"patterns"}:
        for sign in book.signs_of(project.features(cast(Table, table))):
            if sign.id in worn:
                out[worn[sign.id]] += 1
    patterns = {sign.pattern_id: sign.name for sign in drawn if sign.family == "patterns"}
    if patterns:
        of_unit = {unit.code: patterns[unit.pattern] for _, unit in project.units() if unit.pattern in patterns}
        for code in project.features("areas").columns["map_unit"]:
            if code in of_unit:
                out[of_unit[code]] += 1
    return out

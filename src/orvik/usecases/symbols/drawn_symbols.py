"""Symbols that a project draws for itself: begun, changed, worn by symbols of the book, taken away."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import cast

from slugify import slugify

from orvik.core.errors import NotFound, SymbolRefused
from orvik.core.features.table import Table
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.drawn_symbol import DrawnFamily, DrawnSymbol, new_symbol, pattern_like, symbol_like
from orvik.core.symbols.symbol import Symbol
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.reader import Reader
from orvik.store.tables.symbol_book import drawn_change, drawn_symbols, symbol_book_of
from orvik.store.tables.symbol_rules import rule_rows

MOST_DRAWN_SYMBOLS = 200


def begin_symbol(project: Project, family: DrawnFamily, title: str, like: str = "") -> Entry:
    """A new symbol to draw; without a title it is numbered.

    Parameters
    ----------
    like
        The id of a symbol or of a pattern of the book whose look it begins with; its family is that one's.

    Raises
    ------
    SymbolRefused
        There is one of this name, there are too many, or there is nothing that it could begin like.
    """
    there = [symbol for _, symbol in drawn_symbols(project)]
    if len(there) >= MOST_DRAWN_SYMBOLS:
        raise SymbolRefused(f"A project draws {MOST_DRAWN_SYMBOLS} symbols at the most; remove one first.")
    title = " ".join(title.split()) or f"Symbol {len(there) + 1}"
    name = slugify(title, separator="_", max_length=40) or f"symbol_{len(there) + 1}"
    if any(symbol.name == name or symbol.title == title for symbol in there):
        raise SymbolRefused(f"There is a symbol “{title}” already; give this one another name.")
    symbol = _like(project, name, title, like) if like else new_symbol(name, family, title)
    return project.apply(f"begin symbol {title}", [drawn_change(None, symbol, len(there) + 1)])


def _like(project: Reader, name: str, title: str, like: str) -> DrawnSymbol:
    book = symbol_book_of(project)
    pattern = book.pattern(like)
    if pattern is not None:
        return pattern_like(name, title, pattern)
    found = next((symbol for symbol in book.symbols if symbol.id == like), None)
    if found is None:
        raise SymbolRefused("The symbol book has no such symbol to begin with; choose another one.")
    return symbol_like(name, title, found)


def drawn_symbol(project: Reader, name: str) -> DrawnSymbol:
    """A drawn symbol by its name; raises NotFound where there is none."""
    return _found(project, name)[1]


def _found(project: Reader, name: str) -> tuple[int, DrawnSymbol, int]:
    for position, (row_id, symbol) in enumerate(drawn_symbols(project), 1):
        if symbol.name == name:
            return row_id, symbol, position
    raise NotFound(f"There is no symbol “{name[:30]}” any more; choose another one.")


def change_symbol(project: Project, name: str, change: Callable[[DrawnSymbol], DrawnSymbol]) -> Entry | None:
    """Change a symbol; None where nothing changes.

    Parameters
    ----------
    change
        What makes the new symbol from the one that is kept, so that no hand's change is lost to another's.
    """
    row_id, old, position = _found(project, name)
    symbol = change(old)
    if old == symbol:
        return None
    if symbol.ornaments != old.ornaments:
        for one in standard().symbols:
            if one.id in symbol.worn_by:
                symbol.check_side(one)
    return project.apply(f"draw {symbol.title}", [drawn_change(row_id, symbol, position)])


def remove_symbol(project: Project, name: str) -> Entry:
    """Take a drawn symbol away; what wore it looks again as the book has it.

    Raises
    ------
    SymbolRefused
        A unit is filled with it, or something looks like it on condition.
    """
    row_id, symbol, _ = _found(project, name)
    if any(rule.look == "drawn" and rule.worn == name for _, rule in rule_rows(project)):
        raise SymbolRefused("Something looks like this on condition; give that another look first.")
    units = [unit.code for _, unit in project.units() if unit.pattern == symbol.pattern_id]
    if symbol.family == "patterns" and units:
        raise SymbolRefused(f"Unit {units[0]} is filled with this pattern; give it another one first.")
    return project.apply(f"remove symbol {symbol.title}", [Change("symbols", row_id, None)])


def put_on(project: Project, name: str, symbol_id: str) -> Entry | None:
    """Have a symbol of the book wear a drawn one; one that it wore before is taken off. None where it wears it.

    Raises
    ------
    SymbolRefused
        The book has no such symbol, or it is of another table.
    """
    row_id, drawn, position = _found(project, name)
    symbol = _wearable(project, drawn).get(symbol_id)
    if symbol is None:
        raise SymbolRefused("This look cannot be put on that; choose one of the same sort.")
    if symbol_id in drawn.worn_by:
        return None
    drawn.check_side(next((one for one in standard().symbols if one.id == symbol_id), symbol))
    changes = [drawn_change(row_id, replace(drawn, worn_by=(*drawn.worn_by, symbol_id)), position)]
    for place, (other_id, other) in enumerate(drawn_symbols(project), 1):
        if other.name != name and symbol_id in other.worn_by:
            kept = tuple(one for one in other.worn_by if one != symbol_id)
            changes.append(drawn_change(other_id, replace(other, worn_by=kept), place))
    return project.apply(f"put {drawn.title} on {symbol.title}", changes)


def take_off(project: Project, name: str, symbol_id: str) -> Entry | None:
    """Let a symbol look as the book has it; None where it does not wear this."""
    row_id, drawn, position = _found(project, name)
    if symbol_id not in drawn.worn_by:
        return None
    kept = tuple(one for one in drawn.worn_by if one != symbol_id)
    return project.apply(f"stop using {drawn.title}", [drawn_change(row_id, replace(drawn, worn_by=kept), position)])


def _wearable(project: Reader, drawn: DrawnSymbol) -> Mapping[str, Symbol]:
    return {symbol.id: symbol for symbol in symbol_book_of(project).symbols if symbol.table == drawn.family}


def wearable(project: Reader, drawn: DrawnSymbol) -> list[tuple[Symbol, int]]:
    """The symbols that a look can be put on, with how many features take each; those in use first."""
    if drawn.family == "patterns":
        return []
    counts = Counter(symbol.id for symbol in symbol_book_of(project).symbols_of(project.features(drawn.family)))
    found = [(symbol, counts[symbol.id]) for symbol in _wearable(project, drawn).values()]
    return sorted(found, key=lambda pair: (-bool(pair[1]), pair[0].title))


def features_wearing(project: Reader) -> dict[str, int]:
    """How many features look like each drawn symbol, by its name."""
    book, drawn = symbol_book_of(project), [symbol for _, symbol in drawn_symbols(project)]
    out = dict.fromkeys((symbol.name for symbol in drawn), 0)
    worn = {worn: symbol.name for symbol in drawn for worn in symbol.worn_by}
    for one in book.conditional:
        if one.rule.look == "drawn":
            worn |= {symbol.id: one.rule.worn for symbol in one.symbols}
    for table in {symbol.family for symbol in drawn} - {"patterns"}:
        for symbol in book.symbols_of(project.features(cast(Table, table))):
            if symbol.id in worn:
                out[worn[symbol.id]] += 1
    patterns = {symbol.pattern_id: symbol.name for symbol in drawn if symbol.family == "patterns"}
    if patterns:
        of_unit = {unit.code: patterns[unit.pattern] for _, unit in project.units() if unit.pattern in patterns}
        for code in project.features("areas").columns["map_unit"]:
            if code in of_unit:
                out[of_unit[code]] += 1
    return out

"""The pen tray: pens put in and taken out, and the keys that select them."""

from __future__ import annotations

from dataclasses import replace

from orvik.core.errors import FeatureRefused, SymbolMissing
from orvik.core.features.feature import CERTAINTIES
from orvik.core.features.kind import kind_words
from orvik.core.features.table import Table
from orvik.core.symbols.book_file import pen_of
from orvik.core.symbols.pen import Pen
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.tables.symbol_book import pen_change, symbol_book_of, tray_of

# What is held with a figure to choose a pen of each table.
HELD: dict[Table, str] = {"lines": "", "points": "Shift+", "areas": "Alt+"}
FIGURES = "123456789"


def put_in_tray(project: Project, kind: str, certainty: str = "certain") -> Entry | None:
    """Put a pen into the tray, with the first key that is free; None where it is there already.

    Raises
    ------
    SymbolMissing
        The symbol book has no such kind, or no such certainty of it.
    """
    book = symbol_book_of(project)
    table = book.table_of(kind)
    symbols = book.by_kind.get((table, kind), ()) if table else ()
    if table is None or certainty not in CERTAINTIES:
        raise SymbolMissing(f"The symbol book has no kind “{kind[:40]}” of certainty “{certainty[:20]}”.")
    if table == "lines" and certainty not in {symbol.certainty for symbol in symbols}:
        raise SymbolMissing(f"The symbol book has no {kind_words(kind)} that is {certainty}.")
    if kind in book.custom_kinds:
        raise SymbolMissing("The pens of custom kinds are always in the tray.")
    tray = tray_of(project, book)
    pen = pen_of(book, table, kind, certainty, "")
    if any(other.name == pen.name for _, other in tray):
        return None
    # Those of custom kinds count, too: what a hand has learnt stays.
    taken = {other.key for other in book.pens}
    pen = replace(pen, key=next((k for k in keys_of(table) if k not in taken), ""))
    changes = [*_rows(tray), pen_change(None, pen, len(tray) + 1)]
    return project.apply(f"put {pen.label} into the tray", changes)


def take_from_tray(project: Project, name: str) -> Entry:
    """Choose a pen out of the tray; raises SymbolMissing where it is not there."""
    tray = tray_of(project, symbol_book_of(project))
    pen = _pen(tray, name)
    if len(tray) == 1:
        raise FeatureRefused("This is the last pen of the tray; put another one in first.")
    kept = [(row, other) for row, other in tray if other.name != name]
    gone = [Change("pens", row, None) for row, other in tray if other.name == name and row is not None]
    return project.apply(f"remove {pen.label} from the tray", [*_rows(kept), *gone])


def set_key(project: Project, name: str, key: str) -> Entry | None:
    """Give a pen a key; the pen that had it gets the other's. None where nothing changes.

    Parameters
    ----------
    key
        A figure as it is pressed, with what is held: ``5``, ``Shift+2``; empty for none.

    Raises
    ------
    FeatureRefused
        The key is not one for pens of this table.
    """
    tray = tray_of(project, symbol_book_of(project))
    pen = _pen(tray, name)
    if key and key not in keys_of(pen.table):
        raise FeatureRefused(
            f"“{key[:12]}” takes no pen of this sort; choose {HELD[pen.table]}1 to {HELD[pen.table]}9."
        )
    if key == pen.key:
        return None
    keys = {other.name: pen.key if key and other.key == key else other.key for _, other in tray} | {name: key}
    new = [(row, replace(other, key=keys[other.name])) for row, other in tray]
    changes = [
        pen_change(row, other, i)
        for i, (row, other) in enumerate(new, 1)
        if row is None or keys[other.name] != tray[i - 1][1].key
    ]
    return project.apply(f"key {key or 'none'} for {pen.label}", changes)


def keys_of(table: Table) -> list[str]:
    """The keys that pens of a table may have."""
    return [f"{HELD[table]}{figure}" for figure in FIGURES]


def _pen(tray: list[tuple[int | None, Pen]], name: str) -> Pen:
    for _, pen in tray:
        if pen.name == name:
            return pen
    raise SymbolMissing(f"There is no pen “{name[:60]}” in the tray.")


def _rows(tray: list[tuple[int | None, Pen]]) -> list[Change]:
    """What the tray that the symbol book comes with takes to be the project's own."""
    return [pen_change(None, pen, i) for i, (row, pen) in enumerate(tray, 1) if row is None]

"""The symbol book of a project: the standard one, with the kinds that the project has made for itself."""

from __future__ import annotations

import sqlite3
from dataclasses import replace

from orvik.core.features.custom_kind import CustomKind
from orvik.core.symbols.book_file import pen_of, standard
from orvik.core.symbols.conditional import with_rules
from orvik.core.symbols.custom_symbols import with_custom
from orvik.core.symbols.drawn_symbol import DrawnSymbol, with_drawn
from orvik.core.symbols.pen import Pen
from orvik.core.symbols.symbol_book import SymbolBook
from orvik.store import rows
from orvik.store.journal import Change
from orvik.store.reader import Fault, Reader
from orvik.store.tables.symbol_rules import rule_rows


def symbol_book_of(project: Reader) -> SymbolBook:
    """All symbols and pens of a project, with those on condition that are in force where it is compiled."""
    book = standard()
    tray = tuple(pen for _, pen in tray_of(project, book))
    whole = with_custom(replace(book, pens=tray), [kind for _, kind in custom_kinds(project)])
    drawn = {symbol.name: symbol for _, symbol in drawn_symbols(project)}
    dressed = with_drawn(whole, list(drawn.values()))
    return with_rules(dressed, rule_rows(project), drawn, project.scales.publication)


def drawn_symbols(project: Reader) -> list[tuple[int, DrawnSymbol]]:
    """The symbols that a project has drawn for itself, with their row ids; a row that holds none is left out."""
    return [(row["id"], _drawn(row)) for row in project.symbols() if not rows.refusals(_drawn, row)]


def row_faults(project: Reader) -> list[Fault]:
    """Rows that hold no drawn symbol and no kind of the project's own, each with what is wrong with it."""
    symbols = [Fault("symbols", row["id"], why) for row in project.symbols() for why in rows.refusals(_drawn, row)]
    kinds = [Fault("kinds", row["id"], why) for row in project.kinds() for why in rows.refusals(_custom_kind, row)]
    return symbols + kinds


def _drawn(row: sqlite3.Row) -> DrawnSymbol:
    return DrawnSymbol.of(row["name"], row["family"], row["title"], row["body"])


def drawn_change(row_id: int | None, symbol: DrawnSymbol, position: int) -> Change:
    """The change that keeps a drawn symbol, new or changed."""
    values = {
        "name": symbol.name,
        "family": symbol.family,
        "title": symbol.title,
        "body": symbol.body,
        "position": position,
    }
    return Change("symbols", row_id, values)


def tray_of(project: Reader, book: SymbolBook) -> list[tuple[int | None, Pen]]:
    """The pens of a project's tray beside those of its custom kinds, with their row ids.

    As long as a project has put none there, those that the symbol book comes with, which have no rows.
    """
    rows_of = project.pens()
    if not rows_of:
        return [(None, pen) for pen in book.pens]
    out: list[tuple[int | None, Pen]] = []
    for row in rows_of:
        table = book.table_of(row["kind"])
        if table is not None:
            out.append((row["id"], pen_of(book, table, row["kind"], row["certainty"], row["key"])))
    return out


def pen_change(row_id: int | None, pen: Pen, position: int) -> Change:
    """The change that keeps a pen, new or changed."""
    values = {"kind": pen.kind, "certainty": pen.certainty, "key": pen.key, "position": position}
    return Change("pens", row_id, values)


def custom_kinds(project: Reader) -> list[tuple[int, CustomKind]]:
    """The kinds that a project has made for itself, with their row ids."""
    return [(row["id"], _custom_kind(row)) for row in project.kinds() if not rows.refusals(_custom_kind, row)]


def _custom_kind(row: sqlite3.Row) -> CustomKind:
    return CustomKind.of(row["name"], row["label"], row["family"], row["symbol"], row["fields"], row["position"])


def kind_change(row_id: int | None, kind: CustomKind) -> Change:
    """The change that keeps a kind, new or changed."""
    values = {
        "name": kind.name,
        "label": kind.label,
        "family": kind.table,
        "symbol": kind.symbol_text,
        "fields": kind.fields_text,
        "position": kind.position,
    }
    return Change("kinds", row_id, values)

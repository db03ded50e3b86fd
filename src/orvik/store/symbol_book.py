"""The sign book of a project: the standard one, with the kinds that the project has made for itself."""

from __future__ import annotations

import sqlite3
from dataclasses import replace

from orvik.core.features.own_kind import OwnKind
from orvik.core.symbols.book_file import pen_of, standard
from orvik.core.symbols.conditional import with_rules
from orvik.core.symbols.custom_symbols import with_own
from orvik.core.symbols.drawn_symbol import DrawnSign, with_drawn
from orvik.core.symbols.pen import Pen
from orvik.core.symbols.symbol_book import SignBook
from orvik.store import rows
from orvik.store.journal import Change
from orvik.store.reader import Fault, Reader
from orvik.store.symbol_rules import rule_rows


def sign_book_of(project: Reader) -> SignBook:
    """All signs and pens of a project, with those on condition that are in force where it is compiled."""
    book = standard()
    tray = tuple(pen for _, pen in tray_of(project, book))
    whole = with_own(replace(book, pens=tray), [kind for _, kind in own_kinds(project)])
    drawn = {sign.name: sign for _, sign in drawn_signs(project)}
    dressed = with_drawn(whole, list(drawn.values()))
    return with_rules(dressed, rule_rows(project), drawn, project.scales.publication)


def drawn_signs(project: Reader) -> list[tuple[int, DrawnSign]]:
    """The signs that a project has drawn for itself, with their row ids; a row that holds none is left out."""
    return [(row["id"], _drawn(row)) for row in project.signs() if not rows.refusals(_drawn, row)]


def row_faults(project: Reader) -> list[Fault]:
    """Rows that hold no drawn sign and no kind of the project's own, each with what is wrong with it."""
    signs = [Fault("signs", row["id"], why) for row in project.signs() for why in rows.refusals(_drawn, row)]
    kinds = [Fault("kinds", row["id"], why) for row in project.kinds() for why in rows.refusals(_own_kind, row)]
    return signs + kinds


def _drawn(row: sqlite3.Row) -> DrawnSign:
    return DrawnSign.of(row["name"], row["family"], row["title"], row["body"])


def drawn_change(row_id: int | None, sign: DrawnSign, position: int) -> Change:
    """The change that keeps a drawn sign, new or changed."""
    values = {
        "name": sign.name,
        "family": sign.family,
        "title": sign.title,
        "body": sign.body,
        "position": position,
    }
    return Change("signs", row_id, values)


def tray_of(project: Reader, book: SignBook) -> list[tuple[int | None, Pen]]:
    """The pens of a project's tray beside those of its own kinds, with their row ids.

    As long as a project has put none there, those that the sign book comes with, which have no rows.
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


def own_kinds(project: Reader) -> list[tuple[int, OwnKind]]:
    """The kinds that a project has made for itself, with their row ids."""
    return [(row["id"], _own_kind(row)) for row in project.kinds() if not rows.refusals(_own_kind, row)]


def _own_kind(row: sqlite3.Row) -> OwnKind:
    return OwnKind.of(row["name"], row["label"], row["family"], row["sign"], row["fields"], row["position"])


def kind_change(row_id: int | None, kind: OwnKind) -> Change:
    """The change that keeps a kind, new or changed."""
    values = {
        "name": kind.name,
        "label": kind.label,
        "family": kind.table,
        "sign": kind.sign_text,
        "fields": kind.fields_text,
        "position": kind.position,
    }
    return Change("kinds", row_id, values)

"""The sign book of a project: the standard one, with the kinds that the project has made for itself."""

from __future__ import annotations

import sqlite3

from orvik.core.features.own_kind import OwnKind
from orvik.core.signs import catalogue
from orvik.core.signs.catalogue import SignBook
from orvik.core.signs.own_signs import with_own
from orvik.store import rows
from orvik.store.journal import Change
from orvik.store.reader import Reader


def sign_book_of(project: Reader) -> SignBook:
    """All signs and pens of a project."""
    return with_own(catalogue.standard(), [kind for _, kind in own_kinds(project)])


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

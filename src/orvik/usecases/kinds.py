"""Own kinds: made, changed, removed."""

from __future__ import annotations

from dataclasses import replace

from orvik.core.errors import FeatureRefused, NotFound
from orvik.core.features.feature import TABLES
from orvik.core.features.own_kind import OwnKind
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.reader import Reader
from orvik.store.sign_book import kind_change, own_kinds, sign_book_of


def kind_by_name(project: Reader, name: str) -> tuple[int, OwnKind]:
    """The row id and the kind of a name; raises NotFound."""
    for row_id, kind in own_kinds(project):
        if kind.name == name:
            return row_id, kind
    raise NotFound("That kind is no longer in the project.")


def add_kind(project: Project, kind: OwnKind) -> Entry:
    """Make a kind, below those that are there; raises FeatureRefused where its name is taken."""
    book = sign_book_of(project)
    if any(kind.name in book.kinds(table) for table in TABLES):
        raise FeatureRefused(f"There is a kind {kind.label} already; choose another name.")
    last = replace(kind, position=len(own_kinds(project)) + 1)
    return project.apply(f"make kind {kind.label}", [kind_change(None, last)])


def change_kind(project: Project, kind: OwnKind) -> Entry | None:
    """Change the kind of the same name; features of it keep the fields that they have. None where nothing changes."""
    row_id, old = kind_by_name(project, kind.name)
    new = replace(kind, table=old.table, position=old.position)
    lost = {f.name for f in old.fields} - {f.name for f in new.fields}
    if lost and project.kind_use(old.table, old.name):
        raise FeatureRefused(
            f"Features of this kind have {sorted(lost)[0]} filled in; keep the field, or delete them first."
        )
    return project.apply(f"change kind {old.label}", [kind_change(row_id, new)]) if new != old else None


def remove_kind(project: Project, name: str) -> Entry:
    """Remove a kind that nothing is of; raises FeatureRefused."""
    row_id, old = kind_by_name(project, name)
    used = project.kind_use(old.table, old.name)
    if used:
        raise FeatureRefused(f"{used} features are of this kind; delete them or give them another first.")
    return project.apply(f"remove kind {old.label}", [Change("kinds", row_id, None)])

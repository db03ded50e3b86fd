"""Custom kinds: made, changed, removed."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, replace

from orvik.core.errors import FeatureRefused, NotFound
from orvik.core.features.custom_kind import CustomKind
from orvik.core.features.feature import Feature
from orvik.core.features.table import SECTION_TABLES, TABLES
from orvik.core.symbols.joined_kinds import JOINED
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.reader import Reader
from orvik.store.tables.symbol_book import custom_kinds, kind_change, symbol_book_of


def kind_by_name(project: Reader, name: str) -> tuple[int, CustomKind]:
    """The row id and the kind of a name; raises NotFound."""
    for row_id, kind in custom_kinds(project):
        if kind.name == name:
            return row_id, kind
    raise NotFound("That kind is no longer in the project.")


def add_kind(project: Project, kind: CustomKind) -> Entry:
    """Make a kind, below those that are there; raises FeatureRefused where its name is taken."""
    book = symbol_book_of(project)
    if kind.name in JOINED:
        (meant, *_) = book.by_kind["points", JOINED[kind.name]]
        raise FeatureRefused(f"{kind.label} is {meant.title} in the symbol book; use that, or choose another name.")
    if any(kind.name in book.kinds(table) for table in TABLES):
        raise FeatureRefused(f"There is a kind {kind.label} already; choose another name.")
    last = replace(kind, position=len(custom_kinds(project)) + 1)
    return project.apply(f"make kind {kind.label}", [kind_change(None, last)])


@dataclass(frozen=True)
class LostValue:
    """A value of a list that features have, and that the list would have no longer.

    Attributes
    ----------
    count
        How many features have it.
    likely
        The value that stands in its place in the new list, where that is a new one; else empty.
    """

    field: str
    value: str
    count: int
    likely: str = ""


def lost_values(project: Reader, kind: CustomKind) -> list[LostValue]:
    """What features of the kind of this name have filled in from lists, and a change would take out of these."""
    _, old = kind_by_name(project, kind.name)
    new = {f.name: f for f in kind.fields}
    counts = Counter(
        (name, str(value))
        for feature in [*_of_kind(project, old), *project.drawn_of_kind(old.table, old.name)]
        for name, value in feature.fields.items()
        if value not in (None, "")
    )
    lost = []
    for field in old.fields:
        now = new.get(field.name)
        if field.kind != "choice" or now is None or now.kind != "choice":
            continue
        before, after = [c.value for c in field.choices], [c.value for c in now.choices]
        for value in before:
            if value not in after and counts[field.name, value]:
                there = after[before.index(value)] if len(before) == len(after) else ""
                likely = there if there not in before else ""
                lost.append(LostValue(field.name, value, counts[field.name, value], likely))
    return lost


def change_kind(
    project: Project, kind: CustomKind, become: Mapping[tuple[str, str], str] | None = None
) -> Entry | None:
    """Change the kind of the same name, with what features of it have filled in. None where nothing changes.

    Parameters
    ----------
    become
        By field and value what values become that lists have no longer; empty for nothing.

    Raises
    ------
    FeatureRefused
        Features have something filled in for which the kind would have no place.
    """
    become = become or {}
    row_id, old = kind_by_name(project, kind.name)
    new = replace(kind, table=old.table, position=old.position)
    lost = {f.name for f in old.fields} - {f.name for f in new.fields}
    if lost and project.kind_use(old.table, old.name):
        raise FeatureRefused(
            f"Features of this kind have {sorted(lost)[0]} filled in; keep the field, or delete them first."
        )
    unsaid = [one for one in lost_values(project, new) if (one.field, one.value) not in become]
    if unsaid:
        one = unsaid[0]
        many = f"{one.count} features have" if one.count > 1 else "A feature has"
        raise FeatureRefused(f"{many} “{one.value}” as {one.field}; say what that becomes.")
    changes = [kind_change(row_id, new)] if new != old else []
    faults: Counter[str] = Counter()
    on_map = [(old.table, feature) for feature in _of_kind(project, old)]
    drawn = [(SECTION_TABLES[old.table], f) for f in project.drawn_of_kind(old.table, old.name)]
    for table, feature in [*on_map, *drawn]:
        fields = {n: become.get((n, str(v)), v) for n, v in feature.fields.items()}
        fields = {n: v for n, v in fields.items() if v != ""}
        for field in new.fields:
            # What is missing is no reason to stop: it is asked for when the feature is changed next.
            if field.name in fields:
                try:
                    fields[field.name] = replace(field, required=False).checked(fields[field.name])
                except FeatureRefused:
                    faults[f"{field.name} is to be a {field.kind}, and {fields[field.name]} is not"] += 1
        if fields != dict(feature.fields):
            text = json.dumps(fields, ensure_ascii=False, sort_keys=True) if fields else ""
            changes.append(Change(table, feature.id, {"fields": text}))
    if faults:
        words, count = faults.most_common(1)[0]
        raise FeatureRefused(f"{words} ({count} feature{'s' if count > 1 else ''}); change what is filled in first.")
    return project.apply(f"change kind {old.label}", changes) if changes else None


def _of_kind(project: Reader, kind: CustomKind) -> list[Feature]:
    columns = project.features(kind.table)
    ids = [int(i) for i, name in zip(columns.ids, columns.columns["kind"], strict=True) if name == kind.name]
    return list(project.whole(kind.table, ids).values())


def remove_kind(project: Project, name: str) -> Entry:
    """Remove a kind that nothing is of; raises FeatureRefused."""
    row_id, old = kind_by_name(project, name)
    used = project.kind_use(old.table, old.name)
    if used:
        raise FeatureRefused(f"{used} features are of this kind; delete them or give them another first.")
    return project.apply(f"remove kind {old.label}", [Change("kinds", row_id, None)])

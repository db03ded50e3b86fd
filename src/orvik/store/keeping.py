"""The changes that keep features, with the rules that hold between them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from ..core.errors import FeatureRefused
from ..core.feature import Feature, Table
from . import rows
from .journal import Change, Made
from .reading import Reader


def feature_changes(
    project: Reader,
    srs_id: int,
    put: Sequence[Feature],
    gone: Iterable[tuple[Table, int]] = (),
    also: Sequence[Change] = (),
) -> list[Change]:
    """Changes that keep features and delete others, as one entry.

    A project has one sheet border: a new one takes the place of the one that was there.

    Parameters
    ----------
    put
        Features that have passed ``edit.checked``.
    also
        Changes of other tables; ``Made(k)`` in them is the id of the feature ``put[k]``.

    Raises
    ------
    FeatureRefused
        More than one new border.
    """
    changes = [Change(table, number, None) for table, number in gone]
    borders = [f for f in put if f.table == "lines" and f.kind == "border"]
    if len(borders) > 1:
        raise FeatureRefused(f"A project has one sheet border, and here are {len(borders)}; leave all but one out.")
    if borders:
        going = {c.id for c in changes if c.table == "lines"} | {borders[0].id}
        changes += [Change("lines", old, None) for old in project.border_ids() if old not in going]
    before = len(changes)
    changes += [rows.feature_change(f, srs_id) for f in put]
    return [*changes, *(_shifted(change, before) for change in also)]


def _shifted(change: Change, by: int) -> Change:
    values = {n: Made(v.change + by) if isinstance(v, Made) else v for n, v in (change.values or {}).items()}
    return replace(change, values=values if change.values is not None else None)

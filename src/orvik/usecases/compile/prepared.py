"""What a worker has made ready to be kept as one entry."""

from __future__ import annotations

import pickle
from collections.abc import Sequence
from dataclasses import dataclass

from orvik.store.journal import Change, Entry
from orvik.store.project import Project

# So many changes are pickled at a time.
CHUNK = 200


@dataclass(frozen=True)
class Prepared:
    """Changes that a worker has made, pickled a few at a time.

    Pickled in one piece they would hold up whoever points at the map while they are read.

    Attributes
    ----------
    label
        What the entry is called.
    count, left
        How many features come in, and how many rows are left out.
    seen
        The revision that the changes were made at.
    """

    label: str
    count: int
    left: int
    chunks: tuple[bytes, ...]
    seen: int

    @classmethod
    def of(cls, label: str, count: int, left: int, changes: Sequence[Change], seen: int) -> Prepared:
        """Changes made ready."""
        chunks = tuple(pickle.dumps(changes[i : i + CHUNK]) for i in range(0, len(changes), CHUNK))
        return cls(label, count, left, chunks, seen)


def keep_prepared(project: Project, prepared: Prepared) -> Entry:
    """Keep what a worker has prepared, as one entry; raises Stale where a row of it was changed meanwhile."""
    changes = [change for chunk in prepared.chunks for change in pickle.loads(chunk)]
    return project.apply(prepared.label, changes, prepared.seen)

"""Which feature a piece of ink is of, as one number among all tables."""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from typing import TypeVar

import numpy as np

from orvik.core.arrays import Ints
from orvik.core.features.feature import Features
from orvik.core.features.table import TABLES, Table


def key_of(table: Table, feature_id: int) -> int:
    """One number for a feature among all tables, as ink carries it."""
    return feature_id * len(TABLES) + TABLES.index(table)


def keys_of(features: Features, rows: Ints) -> Ints:
    """The numbers of some rows."""
    out: Ints = features.ids[rows] * len(TABLES) + TABLES.index(features.table)
    return out


T = TypeVar("T", bound=Hashable)


def rows_by(values: Sequence[T]) -> dict[T, Ints]:
    """Row numbers by their value, in order of first appearance."""
    groups: dict[T, list[int]] = {}
    for i, value in enumerate(values):
        groups.setdefault(value, []).append(i)
    return {value: np.array(rows, dtype=np.int64) for value, rows in groups.items()}

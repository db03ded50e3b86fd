"""Rows of tables as a file would hold them, for what reads their fields."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

import numpy as np
import shapely

from orvik.core.symbols.book_file import standard
from orvik.exchange.features.vector import known_of
from orvik.exchange.mappings.columns import Column, columns_of
from orvik.exchange.mappings.mapping import FieldMapping, Known, RowReader
from orvik.exchange.untrusted.parent import Layer

STANDARD: Known = known_of(standard(), ("Qt", "Kp"))


def layer_of(rows: Sequence[Mapping[str, Any]], columns: Sequence[str] = ()) -> Layer:
    names = list(columns) or list(dict.fromkeys(name for row in rows for name in row))
    geometries = np.array([shapely.Point(i, i) for i in range(len(rows))], dtype=object)
    return Layer("table", geometries, names, [dict(row) for row in rows], "EPSG:32628")


def fields_called(*names: str) -> tuple[Column, ...]:
    """Fields that hold something, whatever that is."""
    return columns_of([layer_of([dict.fromkeys(names, "1")], names)])


def fields_of(*rows: Mapping[str, Any]) -> tuple[Column, ...]:
    return columns_of([layer_of(rows)])


def read_row(
    row: Mapping[str, Any],
    fields: Mapping[str, str | Iterable[str]],
    default: str = "bedding",
    table: str = "points",
    **values: Mapping[str, str],
) -> dict[str, Any]:
    """What a row says by a mapping."""
    held = {name: (c,) if isinstance(c, str) else tuple(c) for name, c in fields.items()}
    reader = RowReader(FieldMapping(held, values=values), held, STANDARD)
    return reader.attributes(row, table, default)  # type: ignore[arg-type]

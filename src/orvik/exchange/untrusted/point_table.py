"""Tables of points: places in two columns, or shapes in one column of well-known text (OGC 06-103r4)."""

from __future__ import annotations

import csv
import io
import re
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from orvik.core.errors import CoordinateRefused, FileRefused
from orvik.core.features.station_table import COLUMNS, decoded, plain_name
from orvik.core.ground.coordinates import parse_angle, parse_number

# Most coordinates are no more than this, and need no closer look.
_PLAIN = re.compile(r"-?[0-9]{1,12}\.[0-9]{1,2}|-?[0-9]{1,12}")
SHAPES = ("wkt", "geom", "geometry", "shape", "thegeom")


@dataclass(frozen=True)
class PointTable:
    """A table's rows with their geometries; None where a row has none, ``unsound`` where it cannot be read."""

    geometries: Any
    columns: list[str]
    values: list[dict[str, Any]]
    unsound: frozenset[int]


def read(data: bytes, shown: str, most: int) -> PointTable:
    """The rows of a table, whatever its encoding, its separators and the marks of its decimals.

    Raises
    ------
    FileRefused
        There is no table, it has no columns for places, or more rows than ``most``.
    """
    text = decoded(data).lstrip("\ufeff").replace("\0", "")
    first = text.splitlines()[0] if text.strip() else ""
    delimiter = max(",;\t|", key=first.count)
    try:
        rows = [
            r for r in csv.reader(io.StringIO(text, newline=None), delimiter=delimiter) if any(v.strip() for v in r)
        ]
    except csv.Error as error:
        raise FileRefused(f"{shown} cannot be read as a table ({error}); write it anew as CSV.") from error
    if len(rows) < 2:
        raise FileRefused(f"{shown} holds no features; a table needs a row of column names and a row for each point.")
    if len(rows) > most:
        raise FileRefused(f"{shown} has more than {most:,} rows; import it in parts.")
    names = [name.strip() or f"column {i + 1}" for i, name in enumerate(rows[0])]
    ragged = next((i for i, row in enumerate(rows) if any(cell.strip() for cell in row[len(names) :])), None)
    if ragged is not None:
        # Its cells would stand under the wrong names.
        raise FileRefused(
            f"{shown} has more cells in row {ragged} than columns have names; a text that holds “{delimiter}” needs "
            "quotation marks around it."
        )
    plain = [plain_name(name) for name in names]
    shape = next((plain.index(name) for name in SHAPES if name in plain), None)
    east, north = (_found(plain, (*COLUMNS[a], *COLUMNS[b])) for a, b in (("x", "longitude"), ("y", "latitude")))
    if shape is None and (east is None or north is None):
        raise FileRefused(
            f"{shown} has no columns for x and y; name them so, or easting and northing, or longitude and latitude."
        )
    geometries = np.empty(len(rows) - 1, dtype=object)
    placed: list[int] = []
    places: list[tuple[float, float]] = []
    unsound = set()
    values = []
    for i, row in enumerate(rows[1:]):
        row = [*row, *[""] * (len(names) - len(row))]
        values.append({name: (row[k].strip() or None) for k, name in enumerate(names)})
        try:
            if shape is not None:
                geometries[i] = shapely.from_wkt(row[shape]) if row[shape].strip() else None
            elif row[east or 0].strip() or row[north or 0].strip():
                places.append((_place(row[east or 0], "longitude"), _place(row[north or 0], "latitude")))
                placed.append(i)
        except (CoordinateRefused, shapely.GEOSException):
            unsound.add(i)
    geometries[placed] = shapely.points(np.array(places, dtype=float).reshape(-1, 2))
    return PointTable(geometries, names, values, frozenset(unsound))


def _found(plain: list[str], called: tuple[str, ...]) -> int | None:
    return next((plain.index(name) for name in called if name in plain), None)


def _place(text: str, axis: str) -> float:
    """A coordinate as plain digits, or an angle in degrees, minutes and seconds."""
    if _PLAIN.fullmatch(text):
        return float(text)
    try:
        return parse_number(text)
    except CoordinateRefused:
        return parse_angle(text, axis)

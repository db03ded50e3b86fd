"""Features listed by what they say: their numbers, filtered and in an order."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass

from orvik.core.features.table import Table
from orvik.core.wording import either_case
from orvik.store.reader import Reader


@dataclass(frozen=True)
class Wanted:
    """Which features are listed. What is empty says nothing.

    Attributes
    ----------
    kind, certainty
        As features hold them.
    unit
        The code of a map unit; ``NO_UNIT`` for those that belong to none.
    found
        Any of these holds, where there are any.
    """

    kind: str = ""
    certainty: str = ""
    unit: str = ""
    found: tuple[Found, ...] = ()


@dataclass(frozen=True)
class Found:
    """What a text that is looked for may be in.

    Attributes
    ----------
    column
        A column of the table; ``station`` for the name of the station that a point logs.
    text
        What the column holds somewhere.
    values
        Or what it is, one of them.
    """

    column: str
    text: str = ""
    values: tuple[str | int | float, ...] = ()


@dataclass(frozen=True)
class Order:
    """What features are listed by.

    Attributes
    ----------
    columns
        Of the table, the first one first; ``station`` for the name of the station.
    field
        Or a field of a kind of the project's own.
    ranks
        Or the values of the first column in the order that is wanted; what is not among them comes last.
    """

    columns: tuple[str, ...] = ("id",)
    field: str = ""
    ranks: tuple[str | int, ...] = ()
    descending: bool = False


NO_UNIT = "-"
_COLUMNS = frozenset(
    {"id", "kind", "certainty", "questionable", "map_unit", "azimuth", "inclination"}
    | {"capture_scale", "source_id", "note", "fields", "station"}
)
_STATION = "(SELECT min(name) FROM stations WHERE point_id = f.id)"


class ListingReader(Reader):
    """A project of which features can be listed."""

    def listed_ids(self, table: Table, wanted: Wanted, order: Order) -> list[int]:
        """The numbers of the features of a table that are wanted, in an order; those alike by number."""
        values: list[str | int | float] = []
        ranked = ""
        first = _column(order.columns[0])
        if order.ranks:
            ranked = "LEFT JOIN (SELECT key AS place, value FROM json_each(?)) r ON r.value = " + first
            values.append(json.dumps(order.ranks, ensure_ascii=False))
        where = []
        for name, value in (("kind", wanted.kind), ("certainty", wanted.certainty)):
            if value:
                where.append(f"f.{name} = ?")
                values.append(value)
        if wanted.unit == NO_UNIT:
            where.append("f.map_unit IS NULL")
        elif wanted.unit:
            where.append("f.map_unit = ?")
            values.append(wanted.unit)
        if wanted.found:
            any_of = []
            for found in wanted.found:
                clause, held = _found(found)
                any_of.append(clause)
                values += held
            where.append(f"({' OR '.join(any_of)})")
        way = "DESC" if order.descending else "ASC"
        if order.ranks:
            by = [f"r.place IS NULL, r.place {way}"]
        elif order.field:
            by = [f"json_extract(nullif(f.fields, ''), ?) {way}, f.id {way}"]
            values.append(f"$.{json.dumps(order.field, ensure_ascii=False)}")
        else:
            # What may be empty comes last; a number never is, and rows lie in its order.
            by = [
                f"{'' if name == 'id' else f'{_column(name)} IS NULL, '}{_column(name)} {way}" for name in order.columns
            ]
        sql = (
            f"SELECT f.id FROM {table} f {ranked} {'WHERE ' + ' AND '.join(where) if where else ''} "
            f"ORDER BY {', '.join(by)}{'' if order.columns[-1] == 'id' and not order.ranks else f', f.id {way}'}"
        )
        with self._lock:
            return [number for (number,) in self._connection.execute(sql, tuple(values))]

    def station_names(self, points: Sequence[int]) -> dict[int, str]:
        """The names of the stations that some points log."""
        marks = ", ".join("?" * len(points))
        sql = f"SELECT point_id, min(name) AS name FROM stations WHERE point_id IN ({marks}) GROUP BY point_id"
        return {row["point_id"]: row["name"] for row in self._select(sql, tuple(points))}

    def has_stations(self) -> bool:
        """Whether any point logs a station of the notebook."""
        return bool(self._select("SELECT 1 FROM stations WHERE point_id IS NOT NULL LIMIT 1"))


def _column(name: str) -> str:
    if name not in _COLUMNS:
        raise ValueError(f"no column {name}")
    return f"{_STATION} COLLATE NOCASE" if name == "station" else f"f.{name}"


def _found(found: Found) -> tuple[str, list[str | int | float]]:
    column = _STATION if found.column == "station" else _column(found.column)
    if found.values:
        return f"{column} IN ({', '.join('?' * len(found.values))})", list(found.values)
    # SQLite knows capitals of plain letters only.
    written = either_case(found.text)
    escaped = [text.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") for text in written]
    clause = " OR ".join(f"{column} LIKE ? ESCAPE '\\'" for _ in escaped)
    return f"({clause})", [f"%{text}%" for text in escaped]

"""Features: what a map is made of, one by one and in bulk."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from shapely.geometry.base import BaseGeometry

from orvik.core.arrays import Flags, Ints, Objects
from orvik.core.features.band import Band
from orvik.core.features.kind import kind_words
from orvik.core.features.stretch import Stretch
from orvik.core.features.table import TABLES, FeatureKey, Table
from orvik.core.stored import Stored

GEOMETRY_TYPES: dict[Table, str] = {"lines": "LINESTRING", "areas": "POLYGON", "points": "POINT"}
_SHARED = (
    *("kind", "certainty", "questionable", "map_unit", "azimuth", "inclination", "capture_scale", "source_id"),
    *("note", "fields"),
)
# The attributes that work on all features at once needs.
COLUMNS: dict[Table, tuple[str, ...]] = {
    "lines": (*_SHARED, "stretches", "band"),
    "areas": _SHARED,
    "points": _SHARED,
}
CERTAINTIES = ("certain", "approximate", "inferred", "concealed")


@dataclass(frozen=True)
class Feature(Stored):
    """One feature of the map; ``id`` is None until it is kept.

    ``azimuth`` and ``inclination`` are degrees, right-hand rule, from true north; ``capture_scale`` is
    the coarsest scale denominator at which any of its vertices was drawn.

    ``knots`` are the vertices that a smooth line was drawn through; the others follow from them.
    ``fields`` holds the values of a kind of one's own.
    """

    table: Table
    geometry: BaseGeometry
    kind: str
    id: int | None = None
    certainty: str = "certain"
    questionable: bool = False
    map_unit: str | None = None
    azimuth: float | None = None
    inclination: float | None = None
    capture_scale: int | None = None
    source_id: int | None = None
    note: str = ""
    stretches: tuple[Stretch, ...] = ()
    knots: tuple[int, ...] = ()
    band: Band | None = None
    fields: Mapping[str, Any] = field(default_factory=dict)

    @property
    def key(self) -> FeatureKey:
        """Its table and number; raises ValueError as long as it is not stored."""
        return self.table, self.number

    @property
    def edge(self) -> BaseGeometry:
        """What can be followed, crossed and met: the rings of an area, else the feature itself."""
        return self.geometry.boundary if self.table == "areas" else self.geometry

    def changed(self, **values: Any) -> Feature:
        """The same feature with other values."""
        return replace(self, **values)

    @property
    def name(self) -> str:
        """How a feature is called in sentences: ``contact 118``."""
        return f"{kind_words(self.kind)} {self.id}" if self.id else kind_words(self.kind)


@dataclass(frozen=True)
class Features:
    """The features of one table as columns, in order of id; for work on all of them at once."""

    table: Table
    ids: Ints
    geometries: Objects
    columns: dict[str, list[Any]] = field(default_factory=dict)

    def __len__(self) -> int:
        return len(self.ids)

    def column(self, name: str) -> Objects:
        """One attribute column as an object array."""
        out = np.empty(len(self.ids), dtype=object)
        out[:] = self.columns[name]
        return out

    def feature(self, row: int) -> Feature:
        """One of them, with the attributes that the columns hold."""
        values = {name: column[row] for name, column in self.columns.items()}
        return Feature(self.table, self.geometries[row], id=int(self.ids[row]), **values)

    def select(self, keep: Flags) -> Features:
        """The features for which ``keep`` is true."""
        rows = np.flatnonzero(keep)
        columns = {name: [values[i] for i in rows] for name, values in self.columns.items()}
        return Features(self.table, self.ids[rows], self.geometries[rows], columns)

    def patched(self, kept: Sequence[Feature], deleted: Iterable[int]) -> Features:
        """The columns after an edit: features added or changed, and the ids of those that are gone."""
        there = [f for f in kept if f.id is not None]
        there.sort(key=lambda f: f.number)
        wanted = np.array([f.id for f in there], dtype=np.int64)
        rows = np.searchsorted(self.ids, wanted)
        known = np.zeros(len(wanted), dtype=bool)
        inside = rows < len(self.ids)
        known[inside] = self.ids[rows[inside]] == wanted[inside]
        ids, geometries = self.ids, self.geometries.copy()
        columns = {name: list(values) for name, values in self.columns.items()}
        fresh = Features.of(self.table, there)
        for i in np.flatnonzero(known).tolist():
            geometries[rows[i]] = there[i].geometry
            for name, values in columns.items():
                values[rows[i]] = fresh.columns[name][i]
        new = np.flatnonzero(~known)
        if len(new):
            ids = np.insert(ids, rows[new], wanted[new])
            geometries = np.insert(geometries, rows[new], fresh.geometries[new])
            for name, values in columns.items():
                for shift, i in enumerate(new.tolist()):
                    values.insert(int(rows[i]) + shift, fresh.columns[name][i])
        dropped = np.flatnonzero(np.isin(ids, np.array(sorted(deleted), dtype=np.int64)))
        if len(dropped):
            ids, geometries = np.delete(ids, dropped), np.delete(geometries, dropped)
            for values in columns.values():
                for row in reversed(dropped.tolist()):
                    del values[row]
        return Features(self.table, ids, geometries, columns)

    @staticmethod
    def of(table: Table, features: Sequence[Feature]) -> Features:
        """Columns from single features, which must have been kept."""
        geometries = np.empty(len(features), dtype=object)
        geometries[:] = [f.geometry for f in features]
        return Features(
            table,
            np.array([f.id for f in features], dtype=np.int64),
            geometries,
            {name: [getattr(f, name) for f in features] for name in COLUMNS[table]},
        )


def no_features() -> dict[Table, Features]:
    """The tables of a map on which nothing is."""
    return {table: Features.of(table, []) for table in TABLES}

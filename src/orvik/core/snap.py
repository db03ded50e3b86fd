"""Snapping: what the ring holds. An index over all linework that follows every edit.

The order in which ties are broken is fixed: an end or a vertex before an edge; the nearest first; at one
place an end before a vertex, lines before areas before points, and then the lower number.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from .feature import TABLES, Feature, Features, Table

# A tier is frozen when it holds this many features, so that keeping up with an edit stays cheap.
TIER = 1000


@dataclass(frozen=True)
class Switches:
    """What the ring may hold."""

    vertex: bool = True
    edge: bool = True
    end: bool = True


@dataclass(frozen=True)
class Target:
    """A place held by the ring, with the feature it belongs to. Coordinates are bit-equal to it."""

    what: str
    table: Table
    id: int
    kind: str
    x: float
    y: float

    @property
    def label(self) -> str:
        """What the ring says: ``end of contact 118``."""
        return f"{self.what} of {self.kind.replace('_', ' ')} {self.id}"


class _Tier:
    """Paths of some features: lines, the rings of areas, and points as paths of one vertex."""

    def __init__(self, parts: Iterable[Features]) -> None:
        geometries: list[NDArray[np.object_]] = []
        owners: list[NDArray[np.int64]] = []
        kinds: list[str] = []
        polygons: list[NDArray[np.object_]] = []
        polygon_owners: list[NDArray[np.int64]] = []
        for features in parts:
            keys = features.ids * len(TABLES) + TABLES.index(features.table)
            names = features.columns["kind"]
            if features.table == "areas":
                rings, owner = shapely.get_rings(features.geometries, return_index=True)
                geometries.append(_as_lines(rings))
                owners.append(keys[owner])
                kinds.extend(names[i] for i in owner)
                polygons.append(features.geometries)
                polygon_owners.append(keys)
            else:
                geometries.append(features.geometries)
                owners.append(keys)
                kinds.extend(names)
        paths = np.concatenate(geometries) if geometries else np.empty(0, dtype=object)
        self.owner = np.concatenate(owners) if owners else np.empty(0, dtype=np.int64)
        self.kinds = kinds
        self.xy = shapely.get_coordinates(paths)
        counts = shapely.get_num_coordinates(paths) if len(paths) else np.zeros(0, dtype=np.int64)
        self.starts = np.concatenate([[0], np.cumsum(counts)]).tolist()
        self.tree = shapely.STRtree(paths)
        self.polygon_owner = np.concatenate(polygon_owners) if polygon_owners else np.empty(0, dtype=np.int64)
        self.polygons = np.concatenate(polygons) if polygons else np.empty(0, dtype=object)
        self.polygon_tree = shapely.STRtree(self.polygons)


def _as_lines(rings: NDArray[np.object_]) -> NDArray[np.object_]:
    indices = np.repeat(np.arange(len(rings)), shapely.get_num_coordinates(rings))
    lines = np.empty(len(rings), dtype=object)
    lines[:] = shapely.linestrings(shapely.get_coordinates(rings), indices=indices)
    return lines


class SnapIndex:
    """All features of a project, ready to be snapped to and picked."""

    def __init__(self, features: Mapping[Table, Features]) -> None:
        self._tiers = [_Tier(features.values())]
        self._recent: dict[int, Feature] = {}
        # In which tier a feature's present form is; those not named are in the first one.
        self._home: dict[int, int] = {}

    def update(self, put: Iterable[Feature], gone: Iterable[tuple[Table, int]]) -> None:
        """Take over features added or changed, and drop those that are gone."""
        for table, feature_id in gone:
            key = feature_id * len(TABLES) + TABLES.index(table)
            self._home[key] = -1
            self._recent.pop(key, None)
        put = list(put)
        if len(self._recent) >= TIER:
            self._recent = {}
        if put and not self._recent:
            self._tiers.append(_Tier([]))
        number = len(self._tiers) - 1
        for feature in put:
            if feature.id is None:
                raise ValueError("only kept features can be indexed")
            key = feature.id * len(TABLES) + TABLES.index(feature.table)
            self._home[key] = number
            self._recent[key] = feature
        if number == 0:
            return
        by_table = [[f for f in self._recent.values() if f.table == table] for table in TABLES]
        self._tiers[number] = _Tier(Features.of(fs[0].table, fs) for fs in by_table if fs)

    def snap(
        self,
        x: float,
        y: float,
        radius: float,
        switches: Switches,
        tables: frozenset[Table] = frozenset(TABLES),
    ) -> Target | None:
        """What the ring holds at a pointer.

        Parameters
        ----------
        x, y
            Pointer in project coordinates.
        radius
            Ring radius in project units.
        switches
            What may be held.
        tables
            Tables whose features may be held, such as those of the layers in sight.
        """
        point = shapely.points(x, y)
        best: tuple[float, int, int, int] | None = None
        held: tuple[float, float] = (x, y)
        kind = ""
        edge: tuple[float, int, float, float, str] | None = None
        for number, tier in enumerate(self._tiers):
            for i in tier.tree.query(point, predicate="dwithin", distance=radius):
                key = int(tier.owner[i])
                if self._home.get(key, 0) != number:
                    continue
                table = TABLES[key % len(TABLES)]
                if table not in tables:
                    continue
                start, stop = tier.starts[i], tier.starts[i + 1]
                path = tier.xy[start:stop]
                dx, dy = path[:, 0] - x, path[:, 1] - y
                squared = dx * dx + dy * dy
                open_line = table == "lines" and len(path) > 1 and not _closed(path)
                if open_line and switches.end:
                    for j in (0, len(path) - 1):
                        rank = (float(squared[j]), 0, TABLES.index(table), key)
                        if rank[0] <= radius * radius and (best is None or rank < best):
                            best, held, kind = rank, (float(path[j, 0]), float(path[j, 1])), tier.kinds[i]
                if switches.vertex:
                    inner = squared[1:-1] if open_line else squared
                    if len(inner):
                        j = int(np.argmin(inner)) + (1 if open_line else 0)
                        rank = (float(squared[j]), 1, TABLES.index(table), key)
                        if rank[0] <= radius * radius and (best is None or rank < best):
                            best, held, kind = rank, (float(path[j, 0]), float(path[j, 1])), tier.kinds[i]
                if switches.edge and len(path) > 1 and best is None:
                    gap, foot_x, foot_y = _foot(path, dx, dy, x, y)
                    if gap <= radius and (edge is None or (gap, key) < edge[:2]):
                        edge = (gap, key, foot_x, foot_y, tier.kinds[i])
        if best is not None:
            what = "end" if best[1] == 0 else "vertex"
            return _target(what, best[3], kind, held)
        if edge is not None:
            return _target("edge", edge[1], edge[4], (edge[2], edge[3]))
        return None

    def pick(
        self, x: float, y: float, radius: float, tables: frozenset[Table] = frozenset(TABLES)
    ) -> tuple[Table, int] | None:
        """The feature meant by a click: the nearest point in reach, else line, else the area below."""
        point = shapely.points(x, y)
        best: tuple[int, float, int] | None = None
        for number, tier in enumerate(self._tiers):
            for i in tier.tree.query(point, predicate="dwithin", distance=radius):
                key = int(tier.owner[i])
                table = TABLES[key % len(TABLES)]
                if self._home.get(key, 0) != number or table == "areas" or table not in tables:
                    continue
                path = tier.xy[tier.starts[i] : tier.starts[i + 1]]
                gap = _foot(path, path[:, 0] - x, path[:, 1] - y, x, y)[0]
                rank = (0 if table == "points" else 1, gap, key)
                best = rank if best is None or rank < best else best
            if "areas" in tables:
                for i in tier.polygon_tree.query(point, predicate="intersects"):
                    key = int(tier.polygon_owner[i])
                    if self._home.get(key, 0) == number:
                        # Of areas that lie over one another the smallest is meant.
                        rank = (2, float(tier.polygons[i].area), key)
                        best = rank if best is None or rank < best else best
        return (TABLES[best[2] % len(TABLES)], best[2] // len(TABLES)) if best else None


def _closed(path: NDArray[np.float64]) -> bool:
    return bool(path[0, 0] == path[-1, 0] and path[0, 1] == path[-1, 1])


def _target(what: str, key: int, kind: str, place: tuple[float, float]) -> Target:
    return Target(what, TABLES[key % len(TABLES)], key // len(TABLES), kind, place[0], place[1])


def _foot(
    path: NDArray[np.float64], dx: NDArray[np.float64], dy: NDArray[np.float64], x: float, y: float
) -> tuple[float, float, float]:
    """Distance to a path and the nearest place on it; ``dx``, ``dy`` are its vertices from the pointer."""
    if len(path) == 1:
        return float(np.hypot(dx[0], dy[0])), float(path[0, 0]), float(path[0, 1])
    sx, sy = dx[1:] - dx[:-1], dy[1:] - dy[:-1]
    length = sx * sx + sy * sy
    t = -(dx[:-1] * sx + dy[:-1] * sy) / np.where(length > 0, length, 1.0)
    t = np.clip(t, 0.0, 1.0)
    fx, fy = dx[:-1] + t * sx, dy[:-1] + t * sy
    squared = fx * fx + fy * fy
    j = int(np.argmin(squared))
    if t[j] == 0.0 or t[j] == 1.0:
        vertex = path[j + int(t[j])]
        return float(np.sqrt(squared[j])), float(vertex[0]), float(vertex[1])
    return float(np.sqrt(squared[j])), x + float(fx[j]), y + float(fy[j])

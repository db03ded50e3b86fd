"""Snapping: what the ring holds. An index over all linework that follows every edit.

The order in which ties are broken is fixed. An end or a vertex is held before a crossing, a crossing before
the middle of an edge, that before any place of an edge, and an edge before the extension of a line. Of one
sort the nearest is held; at one place an end before a vertex, lines before areas before points, and then the
lower number.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from orvik.core.arrays import Floats, Ints, Objects
from orvik.core.features.feature import Feature, Features
from orvik.core.features.kind import kind_words
from orvik.core.features.table import TABLES, FeatureKey, Table

# A tier is frozen when it holds this many features, so that keeping up with an edit stays cheap.
TIER = 1000
# How many rings away from the end of a line its extension is held.
EXTENSION_RINGS = 8.0
# Places so near to an edge are on it: the rounding of a foot, in project units.
TOUCH = 1e-6


@dataclass(frozen=True)
class Switches:
    """What the ring may hold."""

    vertex: bool = True
    edge: bool = True
    end: bool = True
    crossing: bool = False
    middle: bool = False
    extension: bool = False


@dataclass(frozen=True)
class Target:
    """A place held by the ring, with the feature it belongs to. Coordinates are bit-equal to it.

    A crossing belongs to a second feature, too.
    """

    what: str
    table: Table
    id: int
    kind: str
    x: float
    y: float
    other: tuple[Table, int, str] | None = None

    @property
    def label(self) -> str:
        """What the ring says: ``end of contact 118``."""
        name = f"{kind_words(self.kind)} {self.id}" if self.id else kind_words(self.kind)
        if self.other is not None:
            return f"crossing of {name} and {kind_words(self.other[2])} {self.other[1]}"
        return f"{self.what} of {name}"


class _Tier:
    """Paths of some features: lines, the rings of areas, and points as paths of one vertex."""

    def __init__(self, parts: Iterable[Features]) -> None:
        geometries: list[Objects] = []
        owners: list[Ints] = []
        kinds: list[str] = []
        polygons: list[Objects] = []
        polygon_owners: list[Ints] = []
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


def _as_lines(rings: Objects) -> Objects:
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

    def update(self, kept: Iterable[Feature], deleted: Iterable[FeatureKey]) -> None:
        """Take over features added or changed, and drop those that are gone."""
        for table, feature_id in deleted:
            key = feature_id * len(TABLES) + TABLES.index(table)
            self._home[key] = -1
            self._recent.pop(key, None)
        kept = list(kept)
        if len(self._recent) >= TIER:
            self._recent = {}
        if kept and not self._recent:
            self._tiers.append(_Tier([]))
        number = len(self._tiers) - 1
        for feature in kept:
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
        near = self._near(x, y, radius, tables)
        held = _vertex(near, radius, switches)
        if held is None and switches.crossing:
            held = _crossing(near, x, y, radius)
        if held is None and switches.middle:
            held = _middle(near, x, y, radius)
        if held is None and switches.edge:
            held = _edge(near, x, y, radius)
        if held is None and switches.extension:
            held = _extension(self._near(x, y, radius * EXTENSION_RINGS, tables), x, y, radius)
        return held

    def _near(self, x: float, y: float, radius: float, tables: frozenset[Table]) -> list[_Path]:
        """The paths within reach of the pointer."""
        point = shapely.points(x, y)
        found = []
        for number, tier in enumerate(self._tiers):
            for i in tier.tree.query(point, predicate="dwithin", distance=radius):
                key = int(tier.owner[i])
                table = TABLES[key % len(TABLES)]
                if self._home.get(key, 0) == number and table in tables:
                    path = tier.xy[tier.starts[i] : tier.starts[i + 1]]
                    found.append(_Path(key, table, tier.kinds[i], path, path[:, 0] - x, path[:, 1] - y))
        return found

    def touching(self, x: float, y: float, reach: float = TOUCH) -> list[FeatureKey]:
        """Every feature with an edge or a vertex at a place."""
        keys = {path.key for path in self._near(x, y, reach, frozenset(TABLES))}
        return [(TABLES[key % len(TABLES)], key // len(TABLES)) for key in sorted(keys)]

    def beside(self, geometry: BaseGeometry, tables: frozenset[Table], reach: float = TOUCH) -> list[FeatureKey]:
        """Every feature with an edge or a vertex within reach of a geometry, itself among them."""
        keys: set[int] = set()
        for number, tier in enumerate(self._tiers):
            hits = tier.owner[tier.tree.query(geometry, predicate="dwithin", distance=reach)]
            keys |= {key for key in hits.tolist() if self._home.get(key, 0) == number}
        named = [(TABLES[key % len(TABLES)], key // len(TABLES)) for key in sorted(keys)]
        return [(table, number) for table, number in named if table in tables]

    def within(
        self, bounds: tuple[float, float, float, float], tables: frozenset[Table], whole: bool = False
    ) -> list[FeatureKey]:
        """Every feature that a box touches, or that lies wholly in it."""
        box = shapely.box(*bounds)
        keys: set[int] = set()
        outside: set[int] = set()
        for number, tier in enumerate(self._tiers):
            hits = tier.tree.query(box, predicate="intersects")
            keys |= {int(tier.owner[i]) for i in hits if self._home.get(int(tier.owner[i]), 0) == number}
            if whole:
                inside = set(tier.tree.query(box, predicate="covers").tolist())
                outside |= {int(tier.owner[i]) for i in hits if int(i) not in inside}
            hits = tier.polygon_tree.query(box, predicate="intersects")
            over = {int(tier.polygon_owner[i]) for i in hits if self._home.get(int(tier.polygon_owner[i]), 0) == number}
            keys |= over
            if whole:
                # A box may cover the hole of an area and nothing else of it.
                covered = tier.polygon_tree.query(box, predicate="covers")
                outside |= over - set(tier.polygon_owner[covered].tolist())
        keys = keys - outside if whole else keys
        return [
            (TABLES[key % len(TABLES)], key // len(TABLES))
            for key in sorted(keys)
            if TABLES[key % len(TABLES)] in tables
        ]

    def pick(
        self, x: float, y: float, radius: float, tables: frozenset[Table] = frozenset(TABLES)
    ) -> FeatureKey | None:
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


@dataclass(frozen=True)
class _Path:
    """A path near the pointer; ``dx`` and ``dy`` are its vertices from there."""

    key: int
    table: Table
    kind: str
    xy: Floats
    dx: Floats
    dy: Floats

    def target(self, what: str, x: float, y: float) -> Target:
        return Target(what, self.table, self.key // len(TABLES), self.kind, x, y)


def _vertex(near: list[_Path], radius: float, switches: Switches) -> Target | None:
    best: tuple[float, int, int, int] | None = None
    held: Target | None = None
    for path in near:
        squared = path.dx * path.dx + path.dy * path.dy
        order = TABLES.index(path.table)
        open_line = path.table == "lines" and len(path.xy) > 1 and not _closed(path.xy)
        places: list[tuple[int, int]] = []
        if open_line and switches.end:
            places += [(0, 0), (0, len(squared) - 1)]
        if switches.vertex:
            inner = squared[1:-1] if open_line else squared
            if len(inner):
                places.append((1, int(np.argmin(inner)) + (1 if open_line else 0)))
        for sort, j in places:
            rank = (float(squared[j]), sort, order, path.key)
            if rank[0] <= radius * radius and (best is None or rank < best):
                best = rank
                held = path.target("vertex" if sort else "end", float(path.xy[j, 0]), float(path.xy[j, 1]))
    return held


def _edge(near: list[_Path], x: float, y: float, radius: float) -> Target | None:
    best: tuple[float, int] | None = None
    held: Target | None = None
    for path in near:
        if len(path.xy) < 2:
            continue
        gap, foot_x, foot_y = _foot(path.xy, path.dx, path.dy, x, y)
        if gap <= radius and (best is None or (gap, path.key) < best):
            best, held = (gap, path.key), path.target("edge", foot_x, foot_y)
    return held


def _middle(near: list[_Path], x: float, y: float, radius: float) -> Target | None:
    """The middle of an edge between two vertices."""
    best: tuple[float, int] | None = None
    held: Target | None = None
    for path in near:
        if len(path.xy) < 2:
            continue
        middles = (path.xy[1:] + path.xy[:-1]) / 2
        gaps = np.hypot(middles[:, 0] - x, middles[:, 1] - y)
        j = int(np.argmin(gaps))
        if gaps[j] <= radius and (best is None or (float(gaps[j]), path.key) < best):
            best = (float(gaps[j]), path.key)
            held = path.target("middle", float(middles[j, 0]), float(middles[j, 1]))
    return held


def _crossing(near: list[_Path], x: float, y: float, radius: float) -> Target | None:
    """Where two lines or edges cross within the ring; vertices in common are held as such before."""
    pieces = [(path, piece) for path in near if len(path.xy) > 1 for piece in _pieces(path, radius)]
    best: tuple[float, int, int] | None = None
    held: Target | None = None
    for n, (one, (a, b)) in enumerate(pieces):
        for two, (c, d) in pieces[n + 1 :]:
            if one.key == two.key:
                continue
            place = _meeting(a, b, c, d)
            if place is None:
                continue
            gap = float(np.hypot(place[0] - x, place[1] - y))
            first, second = (one, two) if one.key < two.key else (two, one)
            rank = (gap, first.key, second.key)
            if gap <= radius and (best is None or rank < best):
                best = rank
                target = first.target("crossing", float(place[0]), float(place[1]))
                held = replace(target, other=(second.table, second.key // len(TABLES), second.kind))
    return held


def _pieces(path: _Path, radius: float) -> list[tuple[Floats, Floats]]:
    """The segments of a path that come within the ring."""
    low_x, high_x = np.minimum(path.dx[1:], path.dx[:-1]), np.maximum(path.dx[1:], path.dx[:-1])
    low_y, high_y = np.minimum(path.dy[1:], path.dy[:-1]), np.maximum(path.dy[1:], path.dy[:-1])
    rows = np.flatnonzero((low_x <= radius) & (high_x >= -radius) & (low_y <= radius) & (high_y >= -radius))
    return [(path.xy[i], path.xy[i + 1]) for i in rows[:40]]


def _meeting(a: Floats, b: Floats, c: Floats, d: Floats) -> Floats | None:
    """Where two segments cross."""
    r, s = b - a, d - c
    across = r[0] * s[1] - r[1] * s[0]
    if across == 0:
        return None
    q = c - a
    t = (q[0] * s[1] - q[1] * s[0]) / across
    u = (q[0] * r[1] - q[1] * r[0]) / across
    return a + t * r if 0 <= t <= 1 and 0 <= u <= 1 else None


def _extension(near: list[_Path], x: float, y: float, radius: float) -> Target | None:
    """Straight on from the end of a line, up to ``EXTENSION_RINGS`` times the ring away from it."""
    best: tuple[float, int] | None = None
    held: Target | None = None
    for path in near:
        if path.table != "lines" or len(path.xy) < 2 or _closed(path.xy):
            continue
        for end, before in ((path.xy[0], path.xy[1]), (path.xy[-1], path.xy[-2])):
            course = end - before
            course = course / max(float(np.hypot(*course)), 1e-12)
            along = float((x - end[0]) * course[0] + (y - end[1]) * course[1])
            if not 0 < along <= radius * EXTENSION_RINGS:
                continue
            foot = end + along * course
            gap = float(np.hypot(foot[0] - x, foot[1] - y))
            if gap <= radius and (best is None or (gap, path.key) < best):
                best, held = (gap, path.key), path.target("extension", float(foot[0]), float(foot[1]))
    return held


def _closed(path: Floats) -> bool:
    return bool(path[0, 0] == path[-1, 0] and path[0, 1] == path[-1, 1])


def _foot(path: Floats, dx: Floats, dy: Floats, x: float, y: float) -> tuple[float, float, float]:
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

"""Form units: faces from the linework, a unit for each from the tags, and what that changes in the areas.

Faces are built from everything that bounds units, without what is concealed. Within the sheet border they
tile it. How few of them are built again after an edit is the matter of ``refacing``.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import cast

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from orvik.core.arrays import Flags, Geometries, Ints
from orvik.core.features.feature import Feature, Features
from orvik.core.features.kind import UNIT_AREA, UNIT_TAG
from orvik.core.features.stretch import certainties, runs
from orvik.core.geometry.nodes import NODE, same_edge, with_common_nodes
from orvik.core.geometry.touching import with_ends_met

# An area that holds less than this share of a face is not the one that was there before.
HALF = 0.5
# How much ground overlaps may cover in all, as a share of the ground: the rounding of a sum.
ROUNDING = 1e-9
# Ground, in square project units, that is no area: lines all but on one another leave such between them.
SPECK = 2e-3


@dataclass(frozen=True)
class Pieces:
    """The parts of lines that bound units, in no order; ``owners`` are the ids of the lines."""

    lines: Geometries
    owners: Ints

    def patched(self, changed: Ints, now: Pieces) -> Pieces:
        """The pieces after an edit of some lines, with the pieces that these have now."""
        keep = ~np.isin(self.owners, changed)
        return Pieces(np.concatenate([self.lines[keep], now.lines]), np.concatenate([self.owners[keep], now.owners]))


@dataclass(frozen=True)
class Faces:
    """Faces of the linework with what the tags say of each.

    ``units`` holds the codes of all tags within a face; ``tags`` the ids of these points.
    """

    polygons: Geometries
    units: list[tuple[str, ...]] = field(default_factory=list)
    tags: list[tuple[int, ...]] = field(default_factory=list)

    def __len__(self) -> int:
        return len(self.polygons)

    def unit(self, i: int) -> str | None:
        """The unit of a face; None where its tags say nothing or do not agree."""
        return self.units[i][0] if len(self.units[i]) == 1 else None


@dataclass(frozen=True)
class Plan:
    """What forming units does to the areas: those added or changed, and the ids of those that go.

    The last ``cut`` of ``kept`` have no face; they only give way to those that have.
    """

    kept: tuple[Feature, ...]
    deleted: tuple[int, ...]
    formed: int
    cut: int = 0


def pieces_of(lines: Features, bounding: frozenset[str]) -> Pieces:
    """The parts of lines that bound units: all but what is concealed, of the kinds that bound."""
    kinds, whole = lines.columns["kind"], lines.columns["certainty"]
    stretched = lines.columns["stretches"]
    plain = np.array(
        [k in bounding and not s and c != "concealed" for k, c, s in zip(kinds, whole, stretched, strict=True)],
        dtype=bool,
    )
    geometries, owners = [lines.geometries[plain]], [lines.ids[plain]]
    for i, stretches in enumerate(stretched):
        if not stretches or kinds[i] not in bounding:
            continue
        parts = seen_parts(lines.geometries[i], whole[i], stretches)
        made = np.empty(len(parts), dtype=object)
        made[:] = parts
        geometries.append(made)
        owners.append(np.full(len(parts), lines.ids[i]))
    return Pieces(np.concatenate(geometries), np.concatenate(owners))


def seen_parts(line: shapely.LineString, certainty: str, stretches: tuple[object, ...]) -> list[shapely.LineString]:
    """The parts of a line that are not concealed."""
    xy = shapely.get_coordinates(line)
    by_segment = certainties(certainty, stretches, len(xy) - 1)  # type: ignore[arg-type]
    return [shapely.LineString(xy[a : b + 1]) for a, b, value in runs(by_segment) if value != "concealed"]


def faces_of(pieces: Geometries, frame: shapely.Polygon | None) -> Geometries:
    """The faces between lines, noded where they meet; within the frame where there is one.

    >>> square = np.array([shapely.LinearRing([(0, 0), (4, 0), (4, 4), (0, 4)]), shapely.LineString([(0, 2), (4, 2)])])
    >>> [face.area for face in faces_of(square, None)]
    [8.0, 8.0]

    Parameters
    ----------
    pieces
        Linestrings in any order.
    frame
        The ground within the sheet border.
    """
    if not len(pieces):
        return np.empty(0, dtype=object)
    polygons = polygonized(pieces)
    if frame is not None and len(polygons):
        shapely.prepare(frame)
        polygons = polygons[shapely.contains(frame, shapely.point_on_surface(polygons))]
    return polygons


def polygonized(pieces: Geometries, apart: Geometries | None = None) -> Geometries:
    """The polygons between lines; ``apart`` are closed lines that meet none of the others, which need no noding."""
    if len(pieces):
        pieces = with_ends_met(pieces)
        noded: BaseGeometry
        try:
            noded = cast(BaseGeometry, shapely.node(shapely.multilinestrings(pieces)))
        except shapely.GEOSException:
            # Lines that run along one another within the rounding of their vertices never come to rest when
            # noded pair by pair. Overlay snaps what is so near; it is slower, so it is not the first choice.
            noded = shapely.union_all(pieces)
        pieces = shapely.get_parts(noded)
    if apart is not None:
        pieces = np.concatenate([pieces, apart])
    polygons: Geometries = shapely.get_parts(shapely.polygonize(pieces))
    return oriented(polygons)


def oriented(polygons: Geometries) -> Geometries:
    """Polygons with outer rings counter-clockwise and holes clockwise (OGC 06-103r4, 6.1.11.1)."""
    out: Geometries = np.asarray(shapely.orient_polygons(polygons), dtype=object)
    return out


def tagged(polygons: Geometries, tags: Features) -> Faces:
    """Faces with the units of the tags that stand in each. A tag exactly on a line counts on both sides."""
    units: list[tuple[str, ...]] = [()] * len(polygons)
    holders: list[tuple[int, ...]] = [()] * len(polygons)
    codes = tags.columns["map_unit"]
    rows = np.flatnonzero([k == UNIT_TAG and bool(u) for k, u in zip(tags.columns["kind"], codes, strict=True)])
    if len(polygons) and len(rows):
        faces, points = shapely.STRtree(tags.geometries[rows]).query(polygons, predicate="intersects")
        for point, face in zip(rows[points].tolist(), faces.tolist(), strict=True):
            code = str(codes[point])
            holders[face] += (int(tags.ids[point]),)
            if code not in units[face]:
                units[face] += (code,)
    return Faces(polygons, units, holders)


def plan(
    faces: Faces,
    areas: Features,
    capture_scale: int | None,
    full: dict[int, Feature] | None = None,
    standing: Sequence[int] = (),
) -> Plan:
    """What to do to the areas so that every face has one.

    An area that has the very same edge stays as it is, but for its unit. Otherwise the area that shares most
    ground with a face keeps its number and attributes and takes the face's edge. A face whose tags say
    nothing, or do not agree, keeps the unit of the area that was there, and stays open where there was none.
    Other areas give way where they lie over faces that are formed.

    Parameters
    ----------
    areas
        The unit areas that lie on the faces or beside them.
    capture_scale
        The scale denominator that new areas take.
    full
        Whole features by id, where attributes beyond the columns are to be kept.
    standing
        Ids of areas that belong to other faces. They only get nodes where others end on their edge.
    """
    rows = np.array([k == UNIT_AREA for k in areas.columns["kind"]], dtype=bool)
    areas = areas.select(rows)
    old = {int(i): _feature(areas, row, full) for row, i in enumerate(areas.ids)}
    free = areas.select(~np.isin(areas.ids, np.array(standing, dtype=np.int64)))
    same = matched(faces.polygons, free.geometries)
    best = _most_shared(faces.polygons, free.geometries, set(same), set(same.values()))
    specks = shapely.area(faces.polygons) < SPECK
    formed: list[Feature] = []
    covered: list[int] = []
    for i, polygon in enumerate(faces.polygons):
        row, unit = same.get(i, best.get(i)), faces.unit(i)
        if (row is None and unit is None) or specks[i]:
            continue
        covered.append(i)
        if row is None:
            formed.append(Feature("areas", polygon, UNIT_AREA, map_unit=unit, capture_scale=capture_scale))
            continue
        was = old[int(free.ids[row])]
        keeps = i in same or same_edge(polygon, was.geometry)
        now = was.changed(map_unit=unit or was.map_unit, geometry=was.geometry if keeps else polygon)
        formed.append(was if now == was else now)
    used = {*same.values(), *best.values()}
    left = np.array([row not in used for row in range(len(free))], dtype=bool)
    trimmed, deleted = _given_way(free, left, old, faces.polygons[covered] if covered else faces.polygons[:0])
    if trimmed:
        names = {f.id for f in (*formed, *trimmed)} | set(deleted)
        others = [f for number, f in old.items() if number not in names]
        trimmed, neighbours = with_common_nodes(trimmed, [*formed, *others])
        formed = neighbours
    kept = [f for f in (*formed, *trimmed) if f.id is None or f is not old[f.id]]
    return Plan(tuple(kept), tuple(deleted), len(covered), len(trimmed))


def _feature(areas: Features, row: int, full: dict[int, Feature] | None) -> Feature:
    number = int(areas.ids[row])
    if full and number in full:
        return full[number]
    values = {name: values[row] for name, values in areas.columns.items()}
    values["questionable"] = bool(values["questionable"])
    return Feature("areas", areas.geometries[row], id=number, **values)


def matched(polygons: Geometries, areas: Geometries) -> dict[int, int]:
    """Faces whose edge an area has to the last bit, however it is written down."""
    found: dict[int, int] = {}
    if not len(polygons) or not len(areas):
        return found
    boxes, others = ([b.tobytes() for b in shapely.bounds(g)] for g in (polygons, areas))
    both = set(boxes).intersection(others)
    of_areas = [row for row, box in enumerate(others) if box in both]
    of_faces = [i for i, box in enumerate(boxes) if box in both]
    keys: dict[bytes, int] = {}
    for row, wkb in zip(of_areas, shapely.to_wkb(shapely.normalize(areas[of_areas])), strict=True):
        keys.setdefault(wkb, row)
    for i, wkb in zip(of_faces, shapely.to_wkb(shapely.normalize(polygons[of_faces])), strict=True):
        if wkb in keys:
            found[i] = keys.pop(wkb)
    return found


def _most_shared(polygons: Geometries, areas: Geometries, matched: set[int], taken: set[int]) -> dict[int, int]:
    """For faces without the same area: the free area that shares most ground, where that is half of the face."""
    free = np.array([i for i in range(len(polygons)) if i not in matched], dtype=np.int64)
    if not len(free) or not len(areas):
        return {}
    faces, rows = shapely.STRtree(areas).query(polygons[free], predicate="intersects")
    open_rows = np.array([int(r) not in taken for r in rows], dtype=bool)
    faces, rows = faces[open_rows], rows[open_rows]
    if not len(faces):
        return {}
    common = shapely.area(shapely.intersection(polygons[free[faces]], areas[rows]))
    least = HALF * shapely.area(polygons[free[faces]])
    found: dict[int, int] = {}
    used: set[int] = set()
    for at in np.argsort(-common, kind="stable"):
        face, row = int(free[faces[at]]), int(rows[at])
        if common[at] >= least[at] and face not in found and row not in used:
            found[face] = row
            used.add(row)
    return found


def _given_way(
    areas: Features, left: Flags, old: dict[int, Feature], formed: Geometries
) -> tuple[list[Feature], list[int]]:
    """Areas without a face of their own, less the ground that faces now cover."""
    kept: list[Feature] = []
    deleted: list[int] = []
    rows = np.flatnonzero(left)
    if not len(rows) or not len(formed):
        return kept, deleted
    tree = shapely.STRtree(formed)
    for row in rows:
        geometry = areas.geometries[row]
        over = tree.query(geometry, predicate="intersects")
        common = shapely.intersection(formed[over], geometry)
        if not len(over) or float(shapely.area(common).sum()) <= 1e-9 * geometry.area:
            continue
        feature = old[int(areas.ids[row])]
        rest = [
            p
            for p in shapely.get_parts(shapely.difference(geometry, shapely.union_all(formed[over])))
            if p.geom_type == "Polygon" and p.area > max(SPECK, 1e-6 * geometry.area)
        ]
        if not rest:
            deleted.append(int(areas.ids[row]))
            continue
        rest.sort(key=lambda p: -p.area)
        kept.append(feature.changed(geometry=rest[0]))
        kept += [feature.changed(geometry=p, id=None) for p in rest[1:]]
    return kept, deleted


def is_coverage(formed: Sequence[BaseGeometry], cut: Sequence[BaseGeometry]) -> bool:
    """Whether formed areas make a sound coverage, and each one that was cut makes one with those around it.

    Areas that were cut may lie over one another, as they did before; that is told as a finding.
    """
    if not _sound(formed):
        return False
    tree = shapely.STRtree(formed)
    return all(
        _sound([rest, *(formed[i] for i in tree.query(rest, predicate="dwithin", distance=NODE).tolist())])
        for rest in cut
    )


def _sound(areas: Sequence[BaseGeometry]) -> bool:
    sound, over = proven(areas)
    return sound and over <= ROUNDING * sum(a.area for a in areas)


def proven(areas: Iterable[BaseGeometry]) -> tuple[bool, float]:
    """Whether areas make a valid coverage, and by how much their sum differs from the ground they cover.

    Coverage validity alone does not see a gap; the balance of areas alone does not see edges that part by
    less than its rounding. The sum of the holes that the areas leave is no error by itself.
    """
    polygons = np.array(list(areas), dtype=object)
    if not len(polygons):
        return True, 0.0
    valid = bool(shapely.coverage_is_valid(polygons))
    union = shapely.union_all(polygons)
    return valid and bool(shapely.is_valid(polygons).all()), float(shapely.area(polygons).sum() - union.area)

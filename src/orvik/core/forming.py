"""Form units: faces from the linework, a unit for each from the tags, and what that changes in the areas.

Faces are built from everything that bounds units, without what is concealed. Within the sheet border they
tile it, so that after an edit only the faces that the edited lines touch are built again.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from .feature import Feature, Features
from .stretch import certainties, runs

Geometries = NDArray[np.object_]
Ints = NDArray[np.int64]
# An area that holds less than this share of a face is not the one that was there before.
HALF = 0.5
# Nodes so near to one another, in project units, are one: ten thousand times the rounding of coordinates.
NODE = 1e-6
# Above this share of all vertices in the faces that an edit touches, all are built again.
WIDE = 0.25


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
    """What forming units does to the areas: those added or changed, and the ids of those that go."""

    put: tuple[Feature, ...]
    gone: tuple[int, ...]
    formed: int


def pieces_of(lines: Features, bounding: frozenset[str]) -> Geometries:
    """The parts of lines that bound units: all but what is concealed, of the kinds that bound."""
    kinds, whole = lines.columns["kind"], lines.columns["certainty"]
    stretched = lines.columns["stretches"]
    plain = np.array(
        [k in bounding and not s and c != "concealed" for k, c, s in zip(kinds, whole, stretched, strict=True)],
        dtype=bool,
    )
    geometries = [lines.geometries[plain]]
    for i, stretches in enumerate(stretched):
        if not stretches or kinds[i] not in bounding:
            continue
        parts = seen_parts(lines.geometries[i], whole[i], stretches)
        made = np.empty(len(parts), dtype=object)
        made[:] = parts
        geometries.append(made)
    return np.concatenate(geometries)


def seen_parts(line: shapely.LineString, certainty: str, stretches: tuple[object, ...]) -> list[shapely.LineString]:
    """The parts of a line that are not concealed."""
    xy = shapely.get_coordinates(line)
    told = certainties(certainty, stretches, len(xy) - 1)  # type: ignore[arg-type]
    return [shapely.LineString(xy[a : b + 1]) for a, b, value in runs(told) if value != "concealed"]


def faces_of(pieces: Geometries, frame: shapely.Polygon | None) -> Geometries:
    """The faces between lines, noded where they meet; within the frame where there is one.

    Parameters
    ----------
    pieces
        Linestrings in any order.
    frame
        The ground within the sheet border.
    """
    if not len(pieces):
        return np.empty(0, dtype=object)
    noded = shapely.node(shapely.multilinestrings(pieces))
    polygons: Geometries = shapely.get_parts(shapely.polygonize(shapely.get_parts(noded)))
    if frame is not None and len(polygons):
        shapely.prepare(frame)
        polygons = polygons[shapely.contains(frame, shapely.point_on_surface(polygons))]
    return polygons


def refaced(
    old: Geometries, pieces: Geometries, touched: Geometries, frame: shapely.Polygon | None
) -> tuple[NDArray[np.bool_], Geometries]:
    """Build again only the faces that an edit can have changed.

    Parameters
    ----------
    old
        The faces before the edit.
    pieces
        All pieces as they are now.
    touched
        The pieces that have changed, as they were and as they are.
    frame
        The ground within the sheet border, which is as it was.

    Returns
    -------
    keep, new
        Which of the old faces still stand, and the faces in place of the others.
    """
    keep = np.ones(len(old), dtype=bool)
    if not len(touched):
        return keep, np.empty(0, dtype=object)
    hit: Ints = np.unique(shapely.STRtree(old).query(touched, predicate="dwithin", distance=NODE)[1])
    region = old[hit]
    if frame is None and not _covers(region, touched):
        # Outside all faces the whole linework may close a new one.
        return np.zeros(len(old), dtype=bool), faces_of(pieces, None)
    keep[hit] = False
    if not len(region):
        return keep, np.empty(0, dtype=object)
    if int(shapely.get_num_coordinates(region).sum()) > WIDE * int(shapely.get_num_coordinates(pieces).sum()):
        # One face around almost everything: to begin anew is quicker.
        return np.zeros(len(old), dtype=bool), faces_of(pieces, frame)
    near = np.unique(shapely.STRtree(pieces).query(region, predicate="dwithin", distance=NODE)[1])
    built = faces_of(pieces[near], None)
    if not len(built):
        return keep, built
    places = shapely.point_on_surface(built)
    within = np.unique(shapely.STRtree(region).query(places, predicate="intersects")[0])
    return keep, _same_nodes(built[within], region)


def _same_nodes(built: Geometries, region: Geometries) -> Geometries:
    """Faces whose nodes are to the last bit those that were there, so that neighbours do not part.

    Where two lines cross is computed from all lines at hand; with others beside them its last bits may differ.
    """
    was = np.unique(shapely.get_coordinates(region), axis=0)
    now = np.unique(shapely.get_coordinates(built), axis=0)
    if not len(built):
        return built
    spots: Any = shapely.points(was)
    tree = shapely.STRtree(spots)
    new, old = tree.query(shapely.points(now), predicate="dwithin", distance=NODE)
    moved = {
        tuple(now[a]): was[b] for a, b in zip(new.tolist(), old.tolist(), strict=True) if (now[a] != was[b]).any()
    }
    exact = {tuple(now[a]) for a, b in zip(new.tolist(), old.tolist(), strict=True) if (now[a] == was[b]).all()}
    moved = {place: target for place, target in moved.items() if place not in exact}
    if not moved:
        return built

    def settle(xy: NDArray[np.float64]) -> NDArray[np.float64]:
        return np.array([moved.get((x, y), (x, y)) for x, y in xy.tolist()])

    settled: Geometries = shapely.transform(built, settle)
    return settled


def _covers(region: Geometries, touched: Geometries) -> bool:
    if not len(region):
        return False
    ground = shapely.buffer(shapely.union_all(region), 1e-6)
    return bool(shapely.covers(ground, shapely.union_all(touched)))


def tagged(polygons: Geometries, tags: Features) -> Faces:
    """Faces with the units of the tags that stand in each. A tag exactly on a line counts on both sides."""
    units: list[tuple[str, ...]] = [()] * len(polygons)
    holders: list[tuple[int, ...]] = [()] * len(polygons)
    codes = tags.columns["map_unit"]
    rows = np.flatnonzero(
        [k == "unit_tag" and bool(u) for k, u in zip(tags.columns["kind"], codes, strict=True)]
    )
    if len(polygons) and len(rows):
        faces, points = shapely.STRtree(tags.geometries[rows]).query(polygons, predicate="intersects")
        for point, face in zip(rows[points].tolist(), faces.tolist(), strict=True):
            code = str(codes[point])
            holders[face] += (int(tags.ids[point]),)
            if code not in units[face]:
                units[face] += (code,)
    return Faces(polygons, units, holders)


def plan(faces: Faces, areas: Features, capture_scale: int | None, full: dict[int, Feature] | None = None) -> Plan:
    """What to do to the areas so that every face has one.

    An area that has the very same edge stays as it is, but for its unit. Otherwise the area that shares most
    ground with a face keeps its number and attributes and takes the face's edge. A face whose tags say
    nothing, or do not agree, keeps the unit of the area that was there, and stays open where there was none.
    Other areas give way where they lie over faces that are formed.

    Parameters
    ----------
    areas
        The unit areas that lie on the faces.
    capture_scale
        The scale denominator that new areas take.
    full
        Whole features by id, where attributes beyond the columns are to be kept.
    """
    rows = np.array([k == "unit_area" for k in areas.columns["kind"]], dtype=bool)
    areas = areas.select(rows)
    old = {int(i): _feature(areas, row, full) for row, i in enumerate(areas.ids)}
    put: list[Feature] = []
    same = _matched(faces.polygons, areas.geometries)
    taken = set(same.values())
    best = _most_shared(faces.polygons, areas.geometries, set(same), taken)
    covered: list[int] = []
    for i, polygon in enumerate(faces.polygons):
        row = same.get(i, best.get(i))
        unit = faces.unit(i)
        if row is None and unit is None:
            continue
        covered.append(i)
        if row is None:
            put.append(Feature("areas", polygon, "unit_area", map_unit=unit, capture_scale=capture_scale))
            continue
        was = old[int(areas.ids[row])]
        now = was.changed(map_unit=unit or was.map_unit)
        if i not in same:
            now = now.changed(geometry=polygon)
        if now != was:
            put.append(now)
    used = taken | set(best.values())
    left = np.array([row not in used for row in range(len(areas))], dtype=bool)
    trimmed, gone = _given_way(areas, left, old, faces.polygons[covered] if covered else faces.polygons[:0])
    return Plan(tuple(put + trimmed), tuple(gone), len(covered))


def _feature(areas: Features, row: int, full: dict[int, Feature] | None) -> Feature:
    number = int(areas.ids[row])
    if full and number in full:
        return full[number]
    values = {name: values[row] for name, values in areas.columns.items()}
    values["questionable"] = bool(values["questionable"])
    return Feature("areas", areas.geometries[row], id=number, **values)


def _matched(polygons: Geometries, areas: Geometries) -> dict[int, int]:
    """Faces whose edge an area has to the last bit, however it is written down."""
    if not len(polygons) or not len(areas):
        return {}
    keys: dict[bytes, int] = {}
    for row, wkb in enumerate(shapely.to_wkb(shapely.normalize(areas))):
        keys.setdefault(wkb, row)
    found = {}
    for i, wkb in enumerate(shapely.to_wkb(shapely.normalize(polygons))):
        if wkb in keys:
            found[i] = keys.pop(wkb)
    return found


def _most_shared(
    polygons: Geometries, areas: Geometries, matched: set[int], taken: set[int]
) -> dict[int, int]:
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
    areas: Features, left: NDArray[np.bool_], old: dict[int, Feature], formed: Geometries
) -> tuple[list[Feature], list[int]]:
    """Areas without a face of their own, less the ground that faces now cover."""
    put: list[Feature] = []
    gone: list[int] = []
    rows = np.flatnonzero(left)
    if not len(rows) or not len(formed):
        return put, gone
    tree = shapely.STRtree(formed)
    for row in rows:
        geometry = areas.geometries[row]
        over = tree.query(geometry, predicate="intersects")
        common = shapely.intersection(formed[over], geometry)
        if not len(over) or float(shapely.area(common).sum()) <= 1e-9 * geometry.area:
            continue
        feature = old[int(areas.ids[row])]
        rest = [
            p for p in shapely.get_parts(shapely.difference(geometry, shapely.union_all(formed[over])))
            if p.geom_type == "Polygon" and p.area > 1e-6 * geometry.area
        ]  # fmt: skip
        if not rest:
            gone.append(int(areas.ids[row]))
            continue
        rest.sort(key=lambda p: -p.area)
        put.append(feature.changed(geometry=rest[0]))
        put += [feature.changed(geometry=p, id=None) for p in rest[1:]]
    return put, gone


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

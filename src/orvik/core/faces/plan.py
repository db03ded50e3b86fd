"""What forming units does to the areas: every face gets one, and no unit loses ground without a word.

A face takes the unit of its tags. Where areas of other units lie in it, that would take their ground: such faces are
held until somebody has been shown how much it is and where. A face without a tag takes the unit that covers all of it;
where several units share it, or one has only a part, areas stay what they are and are only cut where lines run.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import chain

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from orvik.core.arrays import Flags, Floats, Geometries, Ints
from orvik.core.faces.forming import SPECK, Faces, oriented
from orvik.core.features.feature import Feature, Features
from orvik.core.features.kind import UNIT_AREA
from orvik.core.geometry.checksum import checksum_of_all
from orvik.core.geometry.nodes import NODE, parted_at_arms, same_edge, with_common_nodes

# Ground along edges that are the same but for their rounding, in square units for each unit of length.
ROUNDING = 1e-4

# Gives the denominators of the coarsest scales that the edges of areas were captured at; None where it is not known.
ScalesOf = Callable[[Geometries], Sequence[int | None]]


@dataclass(frozen=True)
class Taking:
    """Ground of one unit that a face of another would take: how much, in square units, and where."""

    unit: str
    of: str
    area: float
    at: tuple[float, float]


@dataclass(frozen=True)
class FormingPlan:
    """What forming units does to the areas: those added or changed, and the ids of those that go.

    The last ``cut`` of ``kept`` have no face of their own; they only give way to those that have, or are cut by lines.
    ``takings`` is the ground that units would lose: it is taken where that was asked for, and else not. ``at`` is a
    place in the largest area that is added, changed or goes; None where none is.
    """

    kept: tuple[Feature, ...]
    deleted: tuple[int, ...]
    formed: int
    cut: int = 0
    takings: tuple[Taking, ...] = ()
    at: tuple[float, float] | None = None

    @property
    def count(self) -> int:
        """How many areas are added, changed or go."""
        return len(self.kept) + len(self.deleted)

    @property
    def checksum(self) -> str:
        """Over what it would change: areas with their units, and those that go."""
        areas = np.empty(len(self.kept), dtype=object)
        areas[:] = [feature.geometry for feature in self.kept]
        names = [f"{feature.id} {feature.map_unit}" for feature in self.kept]
        return f"{checksum_of_all(areas, names)} {','.join(map(str, sorted(self.deleted)))}"


@dataclass
class _Decided:
    """What becomes of faces: the unit of each that is formed, and those whose areas are only cut by lines."""

    units: dict[int, str | None] = field(default_factory=dict)
    divided: set[int] = field(default_factory=set)
    takings: list[Taking] = field(default_factory=list)


def plan(
    faces: Faces,
    areas: Features,
    scales: ScalesOf,
    full: dict[int, Feature] | None = None,
    standing: Sequence[int] = (),
    take: bool = False,
    sliver: float = 0.0,
    doubted: Collection[int] = (),
) -> FormingPlan:
    """What to do to the areas so that every face has one.

    An area that has the very same edge stays as it is, but for its unit. Otherwise the area of its unit that shares
    most ground with a face lends it its attributes, and to the one that it shares most with its number, too.

    Parameters
    ----------
    areas
        The unit areas that lie on the faces or beside them.
    scales
        Gives the scale denominators that new areas were captured at, by their edges.
    full
        Whole features by id, where attributes beyond the columns are to be kept.
    standing
        Ids of areas that belong to other faces. They only get nodes where others end on their edge.
    take
        Whether tagged faces take the ground of other units that lies in them.
    sliver
        Pieces narrower than this, in project units, stay with the area that a line would cut them from.
    doubted
        Ids of tags whose unit is questionable: of a face that has no others it is questionable, too.
    """
    rows = np.array([k == UNIT_AREA for k in areas.columns["kind"]], dtype=bool)
    areas = areas.select(rows)
    old = {int(i): _feature(areas, row, full) for row, i in enumerate(areas.ids)}
    free = areas.select(~np.isin(areas.ids, np.array(standing, dtype=np.int64)))
    same = matched(faces.polygons, free.geometries)
    shares = _Shares.of(faces.polygons, free.geometries, same)
    units = list(free.columns["map_unit"])
    decided = _decided(faces, free, units, same, shares, take)
    formed, keepers = _formed(faces, free, units, old, same, shares, decided, scales, frozenset(doubted))
    trimmed, deleted = _cut_by_lines(faces.polygons, free, old, set(same.values()), keepers, shares, decided, sliver)
    names = {f.id for f in (*formed, *trimmed)} | set(deleted)
    # Areas that stay get a node where a new one ends on their edge.
    trimmed += [f for number, f in old.items() if number not in names]
    if trimmed and any(f.id is None or f is not old[f.id] for f in (*formed, *trimmed)):
        trimmed, formed = with_common_nodes(trimmed, formed)
    kept = [f for f in formed if f.id is None or f is not old[f.id]]
    cut = [f for f in trimmed if f.id is None or f is not old[f.id]]
    changed = [*(f.geometry for f in (*kept, *cut)), *(old[number].geometry for number in deleted)]
    at = _within_largest(changed)
    return FormingPlan((*kept, *cut), tuple(deleted), len(decided.units), len(cut), tuple(decided.takings), at)


def _within_largest(areas: Sequence[BaseGeometry]) -> tuple[float, float] | None:
    """A place inside the largest of some areas, the first of those that are as large."""
    whole = [area for area in areas if not area.is_empty]
    if not whole:
        return None
    place = max(whole, key=lambda area: area.area).representative_point()
    return place.x, place.y


def edge_scales(lines: Features, bounding: frozenset[str], polygons: Geometries) -> list[int | None]:
    """The coarsest scale that the lines along the edges of areas were captured at; None where one does not say it."""
    rows = np.array([kind in bounding for kind in lines.columns["kind"]], dtype=bool)
    scales = [scale for scale, bounds in zip(lines.columns["capture_scale"], rows, strict=True) if bounds]
    if len(set(scales)) <= 1:
        return [scales[0] if scales else None] * len(polygons)
    xy, ring = shapely.get_coordinates(shapely.get_rings(polygons), return_index=True)
    _, owner = shapely.get_rings(polygons, return_index=True)
    inner = ring[1:] == ring[:-1]
    middles = shapely.points(((xy[1:] + xy[:-1]) / 2)[inner])
    of = owner[ring[1:][inner]]
    hits, along = shapely.STRtree(lines.geometries[rows]).query(middles, predicate="dwithin", distance=NODE)
    found: list[set[int | None]] = [set() for _ in range(len(polygons))]
    for area, line in set(zip(of[hits].tolist(), along.tolist(), strict=True)):
        found[area].add(scales[line])
    return [None if not held or None in held else max(s for s in held if s is not None) for held in found]


@dataclass(frozen=True)
class _Shares:
    """Which faces and areas share ground, and how much: faces that are an area to the last bit are none of them.

    ``thin`` are pairs of a face and a row that share no more than the rounding of their edges, and yet some: that is
    nobody's loss, but where the face is formed, the area has to give way to it.
    """

    faces: Ints
    rows: Ints
    common: Floats
    thin: tuple[tuple[int, int], ...] = ()

    @staticmethod
    def of(polygons: Geometries, areas: Geometries, same: Mapping[int, int]) -> _Shares:
        """All pairs that share more than their rounding."""
        open_faces = np.setdiff1d(np.arange(len(polygons)), np.array(list(same), dtype=np.int64))
        open_rows = np.setdiff1d(np.arange(len(areas)), np.array(list(same.values()), dtype=np.int64))
        if not len(open_faces) or not len(open_rows):
            none = np.empty(0, dtype=np.int64)
            return _Shares(none, none, np.empty(0))
        hits, others = shapely.STRtree(areas[open_rows]).query(polygons[open_faces], predicate="intersects")
        faces, rows = open_faces[hits], open_rows[others]
        common = shapely.area(shapely.intersection(polygons[faces], areas[rows]))
        length = np.minimum(shapely.length(polygons[faces]), shapely.length(areas[rows]))
        keep = common > rounding(length)
        # Edges that were computed apart from one another part by the last bit of a coordinate.
        last_bit = np.spacing(np.abs(shapely.total_bounds(polygons)).max())
        thin = ~keep & (common > last_bit * length)
        pairs = tuple(zip(faces[thin].tolist(), rows[thin].tolist(), strict=True))
        return _Shares(faces[keep], rows[keep], common[keep], pairs)

    def by_face(self) -> dict[int, list[tuple[int, float]]]:
        """For each face the areas that it shares ground with, the most shared first."""
        out: dict[int, list[tuple[int, float]]] = defaultdict(list)
        for at in np.argsort(-self.common, kind="stable").tolist():
            out[int(self.faces[at])].append((int(self.rows[at]), float(self.common[at])))
        return out


def unit_shares(polygon: BaseGeometry, areas: Features, tree: shapely.STRtree) -> dict[str, float]:
    """How much ground each unit has in a face, by code, in square units; what is no more than rounding is none."""
    out: dict[str, list[BaseGeometry]] = defaultdict(list)
    for row in tree.query(polygon, predicate="intersects").tolist():
        unit = areas.columns["map_unit"][row]
        if areas.columns["kind"][row] == UNIT_AREA and unit:
            out[str(unit)].append(areas.geometries[row])
    shares = {unit: float(shapely.intersection(polygon, shapely.union_all(held)).area) for unit, held in out.items()}
    least = float(rounding(polygon.length))
    return {unit: area for unit, area in shares.items() if area > least}


def rounding(length: Floats | float) -> Floats:
    """Ground along an edge of a length that is nothing but its rounding, in square units."""
    return np.asarray(SPECK + ROUNDING * np.asarray(length, dtype=float))


def _decided(
    faces: Faces, free: Features, units: list[str | None], same: Mapping[int, int], shares: _Shares, take: bool
) -> _Decided:
    out = _Decided()
    by_face = shares.by_face()
    specks = shapely.area(faces.polygons) < SPECK
    slack = rounding(shapely.length(faces.polygons))
    for i, polygon in enumerate(faces.polygons):
        if specks[i]:
            continue
        tag = faces.unit(i)
        if i in same:
            there = units[same[i]]
            foreign = {there: float(polygon.area)} if tag and there and tag != there else {}
        else:
            there = _whole_unit(polygon, by_face.get(i, []), free.geometries, units, float(slack[i]))
            foreign = _of_others(tag, by_face.get(i, []), units) if tag else {}
        if foreign and tag:
            place = shapely.get_coordinates(shapely.point_on_surface(polygon))[0]
            at = (float(place[0]), float(place[1]))
            out.takings += [Taking(tag, str(unit), area, at) for unit, area in sorted(foreign.items())]
        if tag and (not foreign or take):
            out.units[i] = tag
        elif i in same or (not tag and there is not None):
            out.units[i] = there
        elif i in by_face:
            out.divided.add(i)
    return out


def _whole_unit(
    polygon: BaseGeometry, shared: list[tuple[int, float]], areas: Geometries, units: list[str | None], slack: float
) -> str | None:
    """The unit that alone covers all of a face; None where several do, or one only a part."""
    there = {units[row] for row, _ in shared}
    if len(there) != 1 or None in there:
        return None
    if sum(area for _, area in shared) < polygon.area - slack:
        return None
    bare = shapely.difference(polygon, shapely.union_all(areas[[row for row, _ in shared]]))
    return there.pop() if float(shapely.area(bare)) <= slack else None


def _of_others(tag: str, shared: list[tuple[int, float]], units: list[str | None]) -> dict[str, float]:
    """How much ground other units than that of the tag have in a face."""
    out: dict[str, float] = defaultdict(float)
    for row, area in shared:
        unit = units[row]
        if unit is not None and unit != tag:
            out[unit] += area
    return out


def _formed(
    faces: Faces,
    free: Features,
    units: list[str | None],
    old: Mapping[int, Feature],
    same: Mapping[int, int],
    shares: _Shares,
    decided: _Decided,
    scales: ScalesOf,
    doubted: frozenset[int],
) -> tuple[list[Feature], set[int]]:
    """The areas of faces that have a unit, and the rows of areas whose number one of them has."""
    by_face = shares.by_face()
    parents: dict[int, tuple[int, float]] = {}
    for i, unit in decided.units.items():
        if i not in same:
            mine = [(row, area) for row, area in by_face.get(i, []) if units[row] in (unit, None)]
            mine.sort(key=lambda pair: (units[pair[0]] is None, -pair[1]))
            if mine:
                parents[i] = mine[0]
    heirs: dict[int, int] = {}
    for i, (row, area) in parents.items():
        if row not in heirs or area > parents[heirs[row]][1]:
            heirs[row] = i
    new = [i for i in decided.units if i not in same and i not in parents]
    captured = dict(zip(new, scales(faces.polygons[new]), strict=True)) if new else {}
    formed: list[Feature] = []
    for i, unit in decided.units.items():
        polygon = faces.polygons[i]
        parent = same[i] if i in same else parents[i][0] if i in parents else None
        doubt = bool(faces.tags[i]) and doubted.issuperset(faces.tags[i])
        if parent is None:
            scale = captured[i]
            formed.append(Feature("areas", polygon, UNIT_AREA, map_unit=unit, capture_scale=scale, questionable=doubt))
            continue
        was = old[int(free.ids[parent])]
        # What a hand has said of an area stays: a tag adds its doubt, and takes none away.
        doubt |= was.questionable
        if i not in same and heirs[parent] != i:
            formed.append(was.changed(id=None, map_unit=unit, geometry=polygon, questionable=doubt))
            continue
        keeps = i in same or same_edge(polygon, was.geometry)
        if keeps and (unit or was.map_unit) == was.map_unit and doubt == was.questionable:
            # Nothing is new: on a map that is formed this is nearly every one.
            formed.append(was)
            continue
        geometry = was.geometry if keeps else polygon
        formed.append(was.changed(map_unit=unit or was.map_unit, geometry=geometry, questionable=doubt))
    return formed, set(heirs)


def _cut_by_lines(
    polygons: Geometries,
    free: Features,
    old: Mapping[int, Feature],
    matched_rows: set[int],
    keepers: set[int],
    shares: _Shares,
    decided: _Decided,
    sliver: float,
) -> tuple[list[Feature], list[int]]:
    """What is left of areas beside the faces that are formed: a piece in each face that stays divided, and beyond."""
    faces_of_row: dict[int, list[int]] = defaultdict(list)
    shared: dict[int, float] = defaultdict(float)
    for face, row, common in zip(shares.faces.tolist(), shares.rows.tolist(), shares.common.tolist(), strict=True):
        faces_of_row[row].append(face)
        shared[row] += common
    for face, row in shares.thin:
        if face in decided.units:
            faces_of_row[row].append(face)
    areas, slack = shapely.area(free.geometries), rounding(shapely.length(free.geometries))
    kept: list[Feature] = []
    deleted: list[int] = []
    cut = {
        row: touched
        for row, touched in faces_of_row.items()
        if row not in matched_rows
        and (len(touched) > 1 or any(i in decided.units for i in touched) or shared[row] < areas[row] - slack[row])
    }
    alike = _with_nodes_in_common([old[int(free.ids[row])] for row in cut], polygons, sorted(set(chain(*cut.values()))))
    for (row, touched), area in zip(cut.items(), alike.areas, strict=True):
        formed = [i for i in touched if i in decided.units]
        was = old[int(free.ids[row])]
        lying = np.array([alike.faces[i] for i in touched], dtype=object)
        pieces = _pieces(area, lying, np.array([i in decided.units for i in touched]), sliver)
        pieces = [piece for piece in pieces if piece.area > float(rounding(piece.length))]
        if len(pieces) == 1 and (not formed or same_edge(was.geometry, pieces[0])):
            # What a line would cut off is no more than a sliver, or nothing.
            continue
        pieces.sort(key=lambda piece: -piece.area)
        if row in keepers:
            kept += [was.changed(geometry=piece, id=None) for piece in pieces]
            continue
        if not pieces:
            deleted.append(int(free.ids[row]))
            continue
        kept.append(was.changed(geometry=pieces[0]))
        kept += [was.changed(geometry=piece, id=None) for piece in pieces[1:]]
    return kept, deleted


@dataclass(frozen=True)
class _Alike:
    """Areas and faces in which edges that run along one another have the same vertices."""

    areas: list[BaseGeometry]
    faces: dict[int, BaseGeometry]


def _with_nodes_in_common(areas: Sequence[Feature], polygons: Geometries, faces: Sequence[int]) -> _Alike:
    held = [Feature("areas", polygons[i], UNIT_AREA) for i in faces]
    if not areas or not held:
        return _Alike([a.geometry for a in areas], dict(zip(faces, polygons[list(faces)], strict=True)))
    one, other = with_common_nodes(areas, held)
    return _Alike([a.geometry for a in one], {i: f.geometry for i, f in zip(faces, other, strict=True)})


def _pieces(area: BaseGeometry, faces: Geometries, formed: Flags, sliver: float) -> list[shapely.Polygon]:
    """An area in pieces, one for each face that is not formed and one beyond all of them."""
    beyond = shapely.difference(area, shapely.union_all(faces))
    parts = shapely.get_parts([*shapely.intersection(area, faces[~formed]), beyond])
    pieces = [part for part in parts.tolist() if isinstance(part, shapely.Polygon) and not part.is_empty]
    if sliver and len(pieces) > 1:
        pieces = _with_slivers(pieces, sliver)
    bodies = [body for piece in pieces for body in parted_at_arms(piece)]
    return list(oriented(np.array(bodies, dtype=object)))


def _with_slivers(pieces: list[shapely.Polygon], sliver: float) -> list[shapely.Polygon]:
    """Pieces in which those too narrow to be seen stay with the larger one beside them."""
    pieces = sorted(pieces, key=lambda piece: -piece.area)
    narrow = [2 * piece.area < sliver * piece.length for piece in pieces]
    out = [piece for piece, thin in zip(pieces, narrow, strict=True) if not thin]
    if not out:
        return pieces
    for thin in (piece for piece, is_thin in zip(pieces, narrow, strict=True) if is_thin):
        at = max(range(len(out)), key=lambda i: shapely.length(shapely.intersection(out[i].boundary, thin.boundary)))
        both = shapely.union(out[at], thin)
        if isinstance(both, shapely.Polygon):
            out[at] = both
        else:
            out.append(thin)
    return out


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

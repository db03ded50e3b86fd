"""Linework out of areas: each boundary once, from junction to junction, with the same two areas along it.

Areas that other programs have made overlap a little and leave gaps. What is narrower than a tolerance is closed; what
is wider is told with its place, and left without an owner, so that nobody's ground is given away in silence. Where a
boundary runs along a line that is there already, such as a fault, that line is the boundary.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, cast

import numpy as np
import shapely

from orvik.core.arrays import Flags, Floats, Ints, Objects, object_array
from orvik.core.coordinates import GroundXY
from orvik.core.faces.slits import SAME, is_narrow, slits_of

# Two edges of a gap are as long as each other from this share on.
ALIKE = 0.8
# On the outer side of an edge lies nothing; and ground that no area has, or more than one.
OUTSIDE, NOBODY = -1, -2
# A boundary runs along a line if it stays within the tolerance of it for so many times the tolerance: else it crosses.
ALONG = 5.0
# So far pieces go on beyond a line that they are to meet.
BEYOND = 1e-4


@dataclass(frozen=True)
class Boundary:
    """A line of the linework, with the areas on its two sides by their place in the list, ``OUTSIDE`` or ``NOBODY``."""

    line: shapely.LineString
    left: int
    right: int

    @property
    def outer(self) -> bool:
        """Whether nothing lies on one of its sides."""
        return OUTSIDE in (self.left, self.right)


@dataclass(frozen=True)
class Misfit:
    """A gap, or an overlap of two areas, that is wider than the tolerance.

    Attributes
    ----------
    area
        In square project units.
    between
        The areas by their place in the list; those that overlap, or those around a gap.
    """

    kind: Literal["gap", "overlap"]
    area: float
    at: GroundXY
    between: tuple[int, ...]


@dataclass(frozen=True)
class Linework:
    """What areas become.

    Attributes
    ----------
    boundaries
        Lines that are not there already.
    lost, gained
        How much ground areas have given away and got where narrow gaps and overlaps were closed and boundaries were
        laid on lines that are there, in square units; what wide overlaps hold is in none of the two.
    vanished
        The areas of which nothing is left, by their place in the list, where no misfit speaks of them.
    along
        The length of the boundaries that are lines which are there already, in project units.
    """

    boundaries: tuple[Boundary, ...]
    misfits: tuple[Misfit, ...] = ()
    lost: float = 0.0
    gained: float = 0.0
    vanished: tuple[int, ...] = ()
    along: float = 0.0


def linework_of(areas: Sequence[shapely.Polygon], there: Sequence[shapely.LineString], tolerance: float) -> Linework:
    """The linework of areas.

    Parameters
    ----------
    areas
        Sound polygons in any order.
    there
        Lines that may be boundaries already: faults, a shoreline.
    tolerance
        In project units; gaps and overlaps narrower than this are closed, and boundaries so near to a line that is
        there run along it.
    """
    given = object_array(areas)
    cleaned, overlaps = _fitted(given, tolerance)
    grounds = [cleaned, overlaps, slits_of(cleaned, overlaps, tolerance)]
    edges = _noded(grounds, object_array([]))
    faces = _polygons(edges)
    owners = _owners(faces, cleaned)
    thin = _narrow_gaps(faces, owners, overlaps, tolerance)
    misfits = [
        _misfit(faces[i], given, cleaned, tolerance) for i in np.flatnonzero((owners == NOBODY) & ~thin).tolist()
    ]
    lines = object_array(there)
    if len(lines):
        # Only lines near the boundaries matter.
        near = shapely.STRtree(edges).query(lines, predicate="dwithin", distance=tolerance)[0]
        lines = lines[np.unique(near)]
    held = np.zeros(len(edges), dtype=bool)
    if len(lines):
        edges = _noded(grounds, lines)
        held = _on(edges, lines)
        more = _connectors(edges[~held], lines, tolerance)
        if len(more):
            edges = _noded(grounds, np.concatenate([lines, more]))
            held = _on(edges, lines)
        faces = _polygons(edges)
        owners = _owners(faces, cleaned)
        thin = _narrow_gaps(faces, owners, overlaps, tolerance)
        if len(more):
            narrow = is_narrow(faces, tolerance)
            # An area that is narrow as a whole, such as a dyke along a fault, is no sliver of another.
            of_more = np.isin(owners, owners[~narrow])
            thin |= narrow & of_more & _touching_held(faces, edges[held])
    left, right = _sides(edges, faces)
    owner = _absorbed(owners, thin, edges, held, left, right)
    sides = [np.where(side < 0, OUTSIDE, owner[side]) for side in (left, right)]
    parting = sides[0] != sides[1]
    boundaries = _chained(edges, sides[0], sides[1], parting & ~held, held)
    lost, gained = _traded(given, overlaps, faces, owner)
    told = {who for misfit in misfits for who in misfit.between} | set(owner.tolist())
    vanished = tuple(who for who in range(len(given)) if who not in told)
    along = float(shapely.length(edges[parting & held]).sum())
    return Linework(tuple(boundaries), tuple(misfits), lost, gained, vanished, along)


def _fitted(areas: Objects, tolerance: float) -> tuple[Objects, Objects]:
    """Areas with the same vertices along common edges, and the ground of overlaps that are wider than the tolerance.

    What fits is left as it is, to the last digit.
    """
    overlaps = _overlaps(areas, tolerance)
    if len(overlaps):
        common = shapely.union_all(overlaps)
        shapely.prepare(common)
        cut = areas.copy()
        meets = np.flatnonzero(shapely.intersects(common, areas))
        cut[meets] = shapely.difference(areas[meets], common)
        areas = cut
    whole = object_array([*areas, *overlaps])
    if shapely.coverage_is_valid(whole) and not _thin_gaps(whole, tolerance):
        return areas, overlaps
    fitted = shapely.coverage_clean(whole, gap_width=tolerance)  # type: ignore[attr-defined]
    return fitted[: len(areas)], fitted[len(areas) :]


def _overlaps(areas: Objects, tolerance: float) -> Objects:
    """Ground that two areas share, wider than the tolerance, as polygons."""
    one, two = shapely.STRtree(areas).query(areas, predicate="intersects")
    pairs = one < two
    one, two = one[pairs], two[pairs]
    inside = shapely.relate_pattern(areas[one], areas[two], "T********")
    common = shapely.intersection(areas[one[inside]], areas[two[inside]])
    parts = shapely.get_parts(shapely.get_parts(common))
    parts = parts[shapely.get_type_id(parts) == 3]
    wide = parts[~is_narrow(parts, tolerance)]
    if not len(wide):
        return object_array([])
    # Where three lie over one another, the ground they share is there once.
    merged = shapely.get_parts(shapely.union_all(wide))
    return cast(Objects, merged[shapely.get_type_id(merged) == 3])


def _thin_gaps(areas: Objects, tolerance: float) -> bool:
    """Whether areas leave gaps between them that are narrower than the tolerance."""
    whole = shapely.get_parts(shapely.coverage_union_all(areas))
    holes = [hole for polygon in whole for hole in polygon.interiors]
    return bool(holes) and bool(is_narrow(shapely.polygons(holes), tolerance).any())


def _noded(grounds: Sequence[Objects], lines: Objects) -> Objects:
    """The edges of grounds and lines, each once, broken wherever they meet; whole where there are no lines."""
    rings = shapely.boundary(np.concatenate(grounds))
    noded = shapely.union_all(np.concatenate([rings, lines]))
    return shapely.get_parts(noded if len(lines) else shapely.line_merge(noded))


def _polygons(edges: Objects) -> Objects:
    faces = shapely.get_parts(shapely.polygonize(edges))
    return np.asarray(shapely.orient_polygons(faces), dtype=object)


def _owners(faces: Objects, areas: Objects) -> Ints:
    """The area that each face is ground of; ``NOBODY`` where there is none."""
    owners: Ints = np.full(len(faces), NOBODY, dtype=np.int64)
    if len(faces):
        face, area = shapely.STRtree(areas).query(shapely.point_on_surface(faces), predicate="within")
        # What is left of overlaps belongs to the first of them.
        for i, j in zip(face[::-1].tolist(), area[::-1].tolist(), strict=True):
            owners[i] = j
    return owners


def _narrow_gaps(faces: Objects, owners: Ints, overlaps: Objects, tolerance: float) -> Flags:
    """Which faces are gaps between areas that are narrower than the tolerance."""
    gaps: Flags = (owners == NOBODY) & is_narrow(faces, tolerance) & ~_inside(faces, overlaps)
    return gaps


def _inside(faces: Objects, grounds: Objects) -> Flags:
    out: Flags = np.zeros(len(faces), dtype=bool)
    if len(faces) and len(grounds):
        out[shapely.STRtree(grounds).query(shapely.point_on_surface(faces), predicate="within")[0]] = True
    return out


def _on(edges: Objects, lines: Objects) -> Flags:
    """Which of noded edges are parts of some lines: their middles lie on one."""
    out: Flags = np.zeros(len(edges), dtype=bool)
    if len(edges):
        middles = shapely.line_interpolate_point(edges, 0.5, normalized=True)
        close = shapely.STRtree(lines).query(middles, predicate="dwithin", distance=SAME)[0]
        out[close] = True
    return out


def _connectors(edges: Objects, lines: Objects, tolerance: float) -> Objects:
    """Short pieces between boundaries and the lines that they run along, where they begin and cease to do so."""
    ribbons = shapely.buffer(lines, tolerance)
    edge, line = shapely.STRtree(edges).query(ribbons, predicate="intersects")[::-1]
    parts, pair = shapely.get_parts(shapely.intersection(edges[edge], ribbons[line]), return_index=True)
    along = shapely.length(parts) >= ALONG * tolerance
    if not along.any():
        return object_array([])
    beside = lines[line[pair[along]]]
    ends = shapely.points([xy for one in lines for xy in (one.coords[0], one.coords[-1])])
    which, near = shapely.STRtree(edges).query_nearest(ends, max_distance=tolerance, all_matches=False)
    feet: list[Objects] = [shapely.shortest_line(shapely.get_point(parts[along], end), beside) for end in (0, -1)]
    feet.append(shapely.shortest_line(ends[which], edges[near]))
    # Where a third area begins beside the line, its boundary goes on to it.
    places, number = _nodes(edges)
    met = np.bincount(number.ravel(), minlength=len(places)) > 2
    corners: Objects = np.asarray(shapely.points(places[met]), dtype=object)
    at, to = shapely.STRtree(lines).query(corners, predicate="dwithin", distance=tolerance)
    feet.append(shapely.shortest_line(corners[at], lines[to]))
    found = np.concatenate(feet)
    return _crossing(found[shapely.length(found) > SAME], shapely.get_coordinates([*edges, *lines]))


def _crossing(pieces: Objects, vertices: Floats) -> Objects:
    """Straight pieces a little longer where they end between vertices: by its figures no place lies on a line."""
    places = [shapely.get_coordinates(shapely.get_point(pieces, which)) for which in (0, -1)]
    way = (places[1] - places[0]) / shapely.length(pieces)[:, None] * BEYOND
    corners = np.unique(vertices @ (1, 1j))
    loose = [~np.isin(place @ (1, 1j), corners)[:, None] for place in places]
    longer = np.stack([places[0] - way * loose[0], places[1] + way * loose[1]], axis=1)
    return np.asarray(shapely.linestrings(longer), dtype=object)


def _touching_held(faces: Objects, held: Objects) -> Flags:
    """Which faces have an edge along a line that is there."""
    out: Flags = np.zeros(len(faces), dtype=bool)
    if len(held):
        middles = shapely.line_interpolate_point(held, 0.5, normalized=True)
        out[shapely.STRtree(middles).query(faces, predicate="dwithin", distance=SAME)[0]] = True
    return out


def _sides(edges: Objects, faces: Objects) -> tuple[Ints, Ints]:
    """The face on the left and on the right of each edge, −1 where there is none; both from its first segment."""
    rings, of = shapely.get_rings(faces, return_index=True)
    xy, ring = shapely.get_coordinates(rings, return_index=True)
    same = ring[1:] == ring[:-1]
    # Outer rings run counter-clockwise and holes clockwise, so the face lies to the left of each segment.
    segments = np.hstack([xy[:-1][same], xy[1:][same]])
    face: Ints = of[ring[1:][same]]
    coordinates, owner = shapely.get_coordinates(edges, return_index=True)
    begin = np.flatnonzero(np.diff(owner, prepend=-1))
    first = np.hstack([coordinates[begin], coordinates[begin + 1]])
    return _looked_up(segments, face, first), _looked_up(segments, face, first[:, [2, 3, 0, 1]])


def _looked_up(segments: Floats, face: Ints, wanted: Floats) -> Ints:
    """The face of each segment wanted, by its four coordinates; −1 where none has it."""
    # Places by numbers, and segments by two of them: numbers are sorted in no time.
    both = np.vstack([segments, wanted])
    places = np.concatenate([both[:, :2] @ (1, 1j), both[:, 2:] @ (1, 1j)])
    _, number = np.unique(places, return_inverse=True)
    keys = number[: len(both)] * (int(number.max(initial=0)) + 1) + number[len(both) :]
    known, asked = keys[: len(segments)], keys[len(segments) :]
    order = np.argsort(known)
    if not len(order):
        return np.full(len(asked), -1, dtype=np.int64)
    at = order[np.minimum(np.searchsorted(known, asked, sorter=order), len(order) - 1)]
    found: Ints = np.where(known[at] == asked, face[at], -1)
    return found


def _absorbed(owners: Ints, thin: Flags, edges: Objects, held: Flags, left: Ints, right: Ints) -> Ints:
    """The owners once thin ground belongs to the neighbour along most of its edge that is not there already."""
    out = owners.copy()
    lengths = shapely.length(edges)
    around: dict[int, dict[int, float]] = defaultdict(lambda: defaultdict(float))
    for i in np.flatnonzero(~held & (left >= 0) & (right >= 0) & (left != right)).tolist():
        one, two, length = int(left[i]), int(right[i]), float(lengths[i])
        if thin[one]:
            around[one][two] += length
        if thin[two]:
            around[two][one] += length
    waiting = {int(i) for i in np.flatnonzero(thin)}
    while waiting:
        done = set()
        for i in waiting:
            ready = [(length, int(out[j])) for j, length in around[i].items() if j not in waiting]
            if ready:
                longest = max(length for length, _ in ready)
                # Of two that are as good, the first everywhere: the boundary does not change sides along a slit.
                out[i] = min(owner for length, owner in ready if length > ALIKE * longest)
                done.add(i)
        if not done:
            break
        waiting -= done
    # A slit that runs beside no area but within a hair of one is no ground to close.
    out[sorted(waiting)] = OUTSIDE
    return out


def _chained(edges: Objects, left: Ints, right: Ints, wanted: Flags, held: Flags) -> list[Boundary]:
    """Edges put together from junction to junction: where more than two edges meet, or a line that is there."""
    rows = np.flatnonzero(wanted)
    places, node = _nodes(edges)
    at: dict[int, list[int]] = defaultdict(list)
    met: Ints = np.zeros(len(places), dtype=np.int64)
    for i in np.flatnonzero(held).tolist():
        met[node[i]] += 3
    for i in rows.tolist():
        for end in node[i].tolist():
            met[end] += 1
            at[end].append(i)
    used: set[int] = set()
    out: list[Boundary] = []

    def walk(start: int, begin: int) -> list[tuple[int, bool]]:
        """Edges from one on, each with whether it is taken as it runs, until a junction."""
        chain, here, edge = [], begin, start
        while True:
            used.add(edge)
            forward = int(node[edge, 0]) == here
            chain.append((edge, forward))
            here = int(node[edge, 1] if forward else node[edge, 0])
            following = [i for i in at[here] if i not in used]
            if met[here] != 2 or len(following) != 1:
                return chain
            edge = following[0]

    junctions = [i for i in rows.tolist() if (met[node[i]] != 2).any()]
    for i in [*junctions, *rows.tolist()]:
        if i in used:
            continue
        begin = int(node[i, 0]) if met[node[i, 0]] != 2 or met[node[i, 1]] == 2 else int(node[i, 1])
        chain = walk(i, begin)
        path = np.concatenate(
            [_run(edges[e], forward)[:-1] for e, forward in chain] + [_run(edges[chain[-1][0]], chain[-1][1])[-1:]]
        )
        first, forward = chain[0]
        sides = (int(left[first]), int(right[first]))
        out.append(Boundary(shapely.LineString(path), *(sides if forward else sides[::-1])))
    return out


def _nodes(edges: Objects) -> tuple[Floats, Ints]:
    """The places where edges end, each once, and the numbers of the two of each edge."""
    ends = np.stack([shapely.get_coordinates(shapely.get_point(edges, which)) for which in (0, -1)], axis=1)
    places, number = np.unique(ends.reshape(-1, 2) @ (1, 1j), return_inverse=True)
    return np.column_stack([places.real, places.imag]), number.reshape(-1, 2)


def _run(edge: shapely.LineString, forward: bool) -> Floats:
    xy: Floats = shapely.get_coordinates(edge)
    return xy if forward else xy[::-1]


def _traded(given: Objects, overlaps: Objects, faces: Objects, owner: Ints) -> tuple[float, float]:
    """How much ground areas have lost and gained beside what wide overlaps hold, in square units."""
    by_owner: dict[int, list[shapely.Polygon]] = defaultdict(list)
    for who, face in zip(owner.tolist(), faces.tolist(), strict=True):
        by_owner[who].append(face)
    common = shapely.union_all(overlaps)
    lost = gained = 0.0
    for who, area in enumerate(given):
        held = by_owner.get(who, [])
        if len(held) == 1 and shapely.equals_identical(shapely.normalize(area), shapely.normalize(held[0])):
            continue
        was = shapely.difference(area, common) if len(overlaps) else area
        # On a grid: without one, slivers among the faces are dropped or counted twice.
        now = shapely.union_all(held, grid_size=SAME)
        lost += float(shapely.area(shapely.difference(was, now, grid_size=SAME)))
        gained += float(shapely.area(shapely.difference(now, was, grid_size=SAME)))
    return lost, gained


def _misfit(face: shapely.Polygon, given: Objects, areas: Objects, tolerance: float) -> Misfit:
    place = shapely.point_on_surface(face)
    within = np.flatnonzero(shapely.intersects(given, place))
    at = (float(place.x), float(place.y))
    if len(within) > 1:
        return Misfit("overlap", float(face.area), at, tuple(within.tolist()))
    beside = np.flatnonzero(shapely.dwithin(areas, face, tolerance / 1000))
    return Misfit("gap", float(face.area), at, tuple(beside.tolist()))

"""What the faces on both sides of a contact, and the tags within a face, say against each other."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import shapely

from orvik.core.arrays import Flags, Floats, Ints, Objects
from orvik.core.faces.plan import unit_shares
from orvik.core.features.kind import SHEET_BORDER, SHORE, kind_of
from orvik.core.findings.finding import CheckInput, Finding, Fix
from orvik.core.findings.rule import rule
from orvik.core.geometry.checksum import checksum
from orvik.core.geometry.edges import Codes, edge_codes, found_in, vertex_codes
from orvik.core.geometry.holding import holders
from orvik.core.geometry.nodes import NODE
from orvik.core.ground.scale import figures

rule(
    "sliver",
    "warning",
    "linework",
    "A face is too small or too narrow to be seen on the sheet",
    why="it is printed as a blot, and is most often two lines meant as one",
    spoils="finish",
)
rule(
    "untagged",
    "error",
    "linework",
    "No unit tag stands in a face",
    why="the ground has no unit, and is printed bare",
)
rule(
    "undivided",
    "warning",
    "linework",
    "Areas of several units lie in one face, with no contact between them",
    why="two rocks lie side by side with no contact between them",
)
rule(
    "two_tags",
    "error",
    "linework",
    "Tags of several units stand in one face",
    features=(
        "kind",
        "map_unit",
    ),
    why="the same ground is said to be two rocks",
)
rule(
    "same_unit",
    "warning",
    "linework",
    "One unit lies on both sides of a contact",
    features=("kind",),
    why="a contact divides nothing, or one of its sides has a wrong unit",
    spoils="finish",
)
rule(
    "order",
    "warning",
    "linework",
    "Beds dip from a younger unit to an older one",
    "law of superposition",
    features=(
        "kind",
        "azimuth",
        "inclination",
    ),
    why="beds that dip so would lie under what they are older than",
)

# A face is a sliver below this mean width or this area on the sheet.
SLIVER_MM = 0.3
SLIVER_MM2 = 0.25
# Of the rim of the sea so much may be something else than shoreline and border.
SEA_SHARE = 0.05
# A face of which one unit covers so much has that unit.
COVERED = 1 - 1e-6
# How many places of a contact are looked at on both sides.
SAMPLES = 5
# Readings this far from a contact on the sheet speak of the beds that meet there.
READING_MM = 15.0
ALONG_DEGREES = 35.0


def faces(ground: CheckInput, rows: Ints | None = None) -> list[Finding]:
    """Faces with no tag or with two that do not agree, and slivers."""
    chosen = np.arange(len(ground.faces)) if rows is None else rows
    if not len(chosen):
        return []
    polygons = ground.faces.polygons[chosen]
    places = shapely.get_coordinates(shapely.point_on_surface(polygons))
    mm = 1000 * ground.metres_per_unit / ground.scales.publication
    areas = shapely.area(polygons) * mm * mm
    widths = 2 * areas / np.maximum(shapely.length(polygons) * mm, 1e-12)
    sea = _sea(ground, polygons)
    found = []
    for i, row in enumerate(chosen.tolist()):
        place = (float(places[i, 0]), float(places[i, 1]))
        units, tags = ground.faces.units[row], ground.faces.tags[row]
        if areas[i] < SLIVER_MM2 or widths[i] < SLIVER_MM:
            found.append(
                Finding(
                    "sliver",
                    "warning",
                    f"This face is {figures(float(areas[i]), 2)} mm² on the sheet and "
                    f"{figures(float(widths[i]), 2)} mm wide: too small to be seen.",
                    place,
                    facts=(checksum(polygons[i]),),
                )
            )
        elif not units and not sea[i]:
            there = unit_shares(polygons[i], ground.areas, ground.area_tree)
            area = float(polygons[i].area)
            found += [
                replace(finding, facts=(checksum(polygons[i]), *finding.facts))
                for finding in _untagged(place, there, ground.area_words(area), area)
            ]
        if len(units) > 1:
            found.append(
                Finding(
                    "two_tags",
                    "error",
                    f"Tags of {' and '.join(units)} stand in one face; "
                    "a contact is missing between them, or one is wrong.",
                    place,
                    tuple(("points", t) for t in tags),
                    facts=(checksum(polygons[i]), *units),
                )
            )
    return found


def _untagged(place: tuple[float, float], there: Mapping[str, float], size: str, area: float) -> list[Finding]:
    """What is said of a face without a tag: one that one unit covers needs none, one of several units no tag helps."""
    if len(there) > 1:
        codes = ", ".join(sorted(there, key=lambda code: -there[code])[:6]) + (" …" if len(there) > 6 else "")
        message = f"{len(there)} units lie in this face of {size} ({codes}): contacts between them are missing."
        shares = tuple(f"{code} {there[code] / area:.3f}" for code in sorted(there))
        return [Finding("undivided", "warning", message, place, units=tuple(sorted(there)), facts=shares)]
    (unit,) = there or (None,)
    if unit is not None and there[unit] >= COVERED * area:
        return []
    message = f"No unit tag stands in this face of {size}; say which unit it is."
    fix = Fix("tag", f"Tag it {unit}" if unit else "Tag it", place, unit=unit)
    return [Finding("untagged", "error", message, place, (), fix)]


def _sea(ground: CheckInput, polygons: Objects) -> Flags:
    """Faces between the shoreline and the border and hardly anything else: the sea, which needs no tag."""
    kinds = ground.lines.columns["kind"]
    out = np.zeros(len(polygons), dtype=bool)
    shores = [i for i, k in enumerate(kinds) if k == SHORE]
    if not shores or ground.frame is None:
        return out
    borders = np.array([k == SHEET_BORDER for k in kinds], dtype=bool)
    others = [
        i
        for i, k in enumerate(kinds)
        if k in ground.bounding
        and k not in (SHORE, SHEET_BORDER)
        and ground.lines.columns["certainty"][i] != "concealed"
    ]
    edge = shapely.union_all(ground.lines.geometries[borders])
    coast = shapely.union_all(ground.lines.geometries[shores])
    tree = shapely.STRtree(ground.lines.geometries[others])
    shapely.prepare([edge, coast])
    for i, polygon in enumerate(polygons):
        if not shapely.dwithin(edge, polygon, NODE) or not shapely.dwithin(coast, polygon, NODE):
            continue
        xy, ring = shapely.get_coordinates(shapely.get_rings(polygon), return_index=True)
        same = ring[1:] == ring[:-1]
        middles = ((xy[1:] + xy[:-1]) / 2)[same]
        lengths = np.hypot(*(xy[1:] - xy[:-1])[same].T)
        # Edges that got a vertex where another line ends lie within rounding of the line, not on it.
        along = np.unique(tree.query(shapely.points(middles), predicate="dwithin", distance=NODE)[0])
        out[i] = float(lengths[along].sum()) <= SEA_SHARE * float(lengths.sum())
    return out


def contacts(ground: CheckInput, rows: Ints | None = None) -> list[Finding]:
    """Contacts with one unit on both sides, and those that the beds beside them speak against."""
    lines = ground.lines
    kinds, certainty = lines.columns["kind"], lines.columns["certainty"]
    chosen = [
        r
        for r in (range(len(lines)) if rows is None else rows.tolist())
        if kind_of(kinds[r]).parts_units and certainty[r] != "concealed"
    ]
    if not chosen or not len(ground.faces):
        return []
    # Of a few lines, the faces beside them alone.
    beside = np.arange(len(ground.faces))
    if rows is not None:
        beside = np.unique(ground.face_tree.query(lines.geometries[chosen], predicate="dwithin", distance=NODE)[1])
    left, right, at, course = _both_sides(ground, chosen, beside)
    codes = {code: i for i, code in enumerate(sorted({u for units in ground.faces.units for u in units}))}
    of_face = np.array([codes.get(ground.faces.unit(i) or "", -1) for i in range(len(ground.faces))] + [-1])
    one, two = of_face[left], of_face[right]
    # One face on both sides is a loose end, which is told as such.
    known = (left >= 0) & (right >= 0) & (left != right) & (one >= 0) & (two >= 0)
    same = known & (one == two)
    alike = 2 * same.sum(axis=1) > known.sum(axis=1)
    names = list(codes)
    found = []
    for i in np.flatnonzero(alike).tolist():
        at_same = int(np.argmax(same[i]))
        found.append(
            Finding(
                "same_unit",
                "warning",
                f"{names[one[i, at_same]]} lies on both sides of {ground.line_name(chosen[i])}.",
                (float(at[i, at_same, 0]), float(at[i, at_same, 1])),
                (("lines", int(lines.ids[chosen[i]])),),
                facts=(names[one[i, at_same]],),
            )
        )
    position = np.array([ground.units[name].position if name in ground.units else -1 for name in names] + [-1])
    asks = known & ~alike[:, None] & (position[one] >= 0) & (position[two] >= 0) & (position[one] != position[two])
    of, k = np.nonzero(asks)
    sides = _Sides(np.array(chosen, dtype=np.int64)[of], at[of, k], course[of, k], one[of, k], two[of, k])
    return [*found, *_against_the_beds(ground, sides, names)]


@dataclass(frozen=True)
class _Sides:
    """Places of contacts, row by row: the line, the place and the course in degrees, the units left and right."""

    rows: Ints
    at: Floats
    course: Floats
    left: Ints
    right: Ints


def _both_sides(ground: CheckInput, rows: list[int], faces: Ints) -> tuple[Ints, Ints, Floats, Floats]:
    """Faces to the left and right of some places of each line, with their places and courses in degrees.

    ``faces`` are the rows of those that have edges along these lines, at least.
    """
    xy, line = shapely.get_coordinates(ground.lines.geometries[rows], return_index=True)
    inner = line[1:] == line[:-1]
    start, step, of = xy[:-1][inner], np.diff(xy, axis=0)[inner], line[:-1][inner]
    # The segments of each line, the longest first; of these some, evenly from the longest to the shortest.
    # In one number, line and length, whose bits sort as it does: far quicker than sorting by one and then the other.
    length = np.hypot(*step.T).astype(np.float32).view(np.uint32).astype(np.int64)
    order = np.argsort((of << 32) - length, kind="stable")
    first = np.searchsorted(of, np.arange(len(rows)))
    count = np.bincount(of, minlength=len(rows))
    ranks = (np.linspace(0, 1, SAMPLES)[None, :] * (count - 1)[:, None] + 1e-9).astype(np.int64)
    picks = order[first[:, None] + ranks]
    places = start[picks] + step[picks] / 2
    course = np.arctan2(step[picks][..., 0], step[picks][..., 1])
    # Far below what a hand draws, and above the rounding of coordinates in the millions.
    aside = 1e-3 / ground.metres_per_unit
    normal = np.stack([-np.cos(course), np.sin(course)], axis=2) * aside
    begin, end = (ends[inner][picks].reshape(-1, 2) for ends in (xy[:-1], xy[1:]))
    held = _left_of(ground.edges_of_faces(faces), np.vstack([begin, end]), np.vstack([end, begin]))
    # What other lines have cut is not an edge of a face as it stands.
    rest = np.flatnonzero(held < 0)
    beside = np.concatenate([places + normal, places - normal]).reshape(-1, 2)
    spots: Any = shapely.points(beside[rest])
    hit, face = holders(spots, ground.face_tree)
    held[rest[hit]] = face
    left, right = held.reshape(2, len(rows), SAMPLES)
    return left, right, places, np.degrees(course)


def _left_of(edges: tuple[Codes, Floats, Ints], start: Floats, end: Floats) -> Ints:
    """The face of which an edge is a part, and which lies to its left; -1 where it is an edge of none."""
    held = np.full(len(start), -1, dtype=np.int64)
    codes, xy, face = edges
    if not len(codes):
        return held
    hit, row = found_in(edge_codes(vertex_codes(start), vertex_codes(end)), codes)
    same = ((xy[row] == start[hit]) & (xy[(row + 1) % len(xy)] == end[hit])).all(axis=1)
    held[hit[same]] = face[row[same]]
    return held


def _against_the_beds(ground: CheckInput, sides: _Sides, names: list[str]) -> list[Finding]:
    """Contacts against whose order the beds beside them speak, each told once.

    Beds that lie right way up grow younger down their dip (the law of superposition, common practice): on the ground
    towards the side on which it rises over them, which is the other one where it falls more steeply than they dip.
    Only readings that run along the contact count, and only where both sides have one and all dip to one side.
    """
    if not len(sides.rows) or not len(ground.bedding):
        return []
    reach = ground.units_on_ground(READING_MM)
    which, near = ground.bedding_tree.query(shapely.points(sides.at), predicate="dwithin", distance=reach)
    columns = ground.points.columns
    dip = np.array([columns["inclination"][r] for r in ground.bedding.tolist()], dtype=float)
    strike = np.array([columns["azimuth"][r] for r in ground.bedding.tolist()], dtype=float)
    apart = strike[near] - sides.course[which]
    keep = (np.abs((apart + 90) % 180 - 90) <= ALONG_DEGREES) & (dip[near] >= 5) & (dip[near] <= 85)
    which, near = which[keep], near[keep]
    # Right of the contact's direction is where a strike along it dips to; there the ground falls, too.
    falls = np.zeros(len(which))
    if ground.heights is not None:
        falls = np.nan_to_num(ground.heights.falls(sides.at, sides.course + 90.0), nan=0.0)[which]
    way = np.tan(np.radians(dip[near])) * np.cos(np.radians(apart[keep])) > falls
    of, unit = _units_at(ground, near, names)
    which, way, near = which[of], way[of], near[of]
    count = len(sides.rows)
    # How many beds dip to the right and to the left, on each of both sides.
    tally = {
        (side, to): np.bincount(which[(unit == own[which]) & (way == to)], minlength=count)
        for side, own in (("left", sides.left), ("right", sides.right))
        for to in (True, False)
    }
    on_left, on_right = (tally[side, True] + tally[side, False] > 0 for side in ("left", "right"))
    to_right = tally["left", True] + tally["right", True]
    to_left = tally["left", False] + tally["right", False]
    speaks = on_left & on_right & ((to_right == 0) | (to_left == 0))
    found: dict[int, Finding] = {}
    # The readings of each place, one after the other.
    by_place = np.argsort(which, kind="stable")
    begins = np.searchsorted(which[by_place], np.arange(count + 1))
    for number in np.flatnonzero(speaks).tolist():
        row = int(sides.rows[number])
        left, right = (ground.units[names[int(side[number])]] for side in (sides.left, sides.right))
        down, up = (right, left) if to_right[number] else (left, right)
        if row in found or down.position < up.position:
            continue
        words = (
            f"{ground.line_name(row).capitalize()}: the beds dip from the younger {up.code} to the older "
            f"{down.code}. They are overturned, a fault is missing, or the column is the wrong way round."
        )
        at = (float(sides.at[number, 0]), float(sides.at[number, 1]))
        mine = near[by_place[begins[number] : begins[number + 1]]]
        read = np.unique(ground.points.ids[ground.bedding[mine]]).tolist()
        found[row] = Finding(
            "order",
            "warning",
            words,
            at,
            (("lines", int(ground.lines.ids[row])),),
            facts=(up.code, down.code),
            beside=tuple(("points", reading) for reading in read),
        )
    return list(found.values())


def _units_at(ground: CheckInput, near: Ints, names: list[str]) -> tuple[Ints, Ints]:
    """The units of the faces that readings stand in: for each which of ``near`` it is, and the number of the unit.

    A reading on the edge of faces stands in all of them.
    """
    numbers = {name: i for i, name in enumerate(names)}
    chosen, back = np.unique(near, return_inverse=True)
    spots = ground.points.geometries[ground.bedding[chosen]]
    hit, face = holders(spots, ground.face_tree)
    unit = np.array([numbers.get(ground.faces.unit(i) or "", -1) for i in face.tolist()], dtype=np.int64)
    pairs = np.unique(np.column_stack([hit, unit])[unit >= 0].reshape(-1, 2), axis=0)
    first = np.searchsorted(pairs[:, 0], back)
    count = np.searchsorted(pairs[:, 0], back, side="right") - first
    of = np.repeat(np.arange(len(near)), count)
    at = np.repeat(first, count) + np.arange(len(of)) - np.repeat(np.cumsum(count) - count, count)
    return of, pairs[at, 1]

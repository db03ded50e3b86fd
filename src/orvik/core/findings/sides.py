"""What the faces on both sides of a contact, and the tags within a face, say against each other."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from orvik.core.arrays import Flags, Floats, Ints, Objects
from orvik.core.features.feature import FeatureKey
from orvik.core.features.kind import SHEET_BORDER, SHORE, UNIT_AREA, kind_of
from orvik.core.features.map_unit import MapUnit
from orvik.core.findings.finding import Finding, Ground, Mend
from orvik.core.geometry.nodes import NODE
from orvik.core.ground.scale import spaced

# A face is a sliver below this mean width or this area on the sheet.
SLIVER_MM = 0.3
SLIVER_MM2 = 0.25
# Of the rim of the sea so much may be something else than shoreline and border.
SEA_SHARE = 0.05
# How many places of a contact are looked at on both sides.
SAMPLES = 5
# Readings this far from a contact on the sheet speak of the beds that meet there.
READING_MM = 15.0
ALONG_DEGREES = 35.0


def faces(ground: Ground, rows: Ints | None = None) -> list[Finding]:
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
                    f"This face is {areas[i]:.2g} mm² on the sheet and {widths[i]:.2g} mm wide: too small to be seen.",
                    place,
                    (),
                )
            )
        elif not units and not sea[i]:
            there = _unit_there(ground, place)
            found.append(
                Finding(
                    "untagged",
                    "error",
                    f"No unit tag stands in this face of {_hectares(ground, float(areas[i]))}; say which unit it is.",
                    place,
                    (),
                    Mend("tag", f"Tag it {there}" if there else "Tag it", place, unit=there),
                )
            )
        if len(units) > 1:
            found.append(
                Finding(
                    "two_tags",
                    "error",
                    f"Tags of {' and '.join(units)} stand in one face; "
                    "a contact is missing between them, or one is wrong.",
                    place,
                    tuple(("points", t) for t in tags),
                )
            )
    return found


def _unit_there(ground: Ground, place: tuple[float, float]) -> str | None:
    """The unit of the area that lies at a place."""
    for row in ground.area_tree.query(shapely.Point(place), predicate="intersects").tolist():
        if ground.areas.columns["kind"][row] == UNIT_AREA and ground.areas.columns["map_unit"][row]:
            return str(ground.areas.columns["map_unit"][row])
    return None


def _hectares(ground: Ground, mm2: float) -> str:
    square_metres = mm2 * (ground.scales.publication / 1000) ** 2
    return f"{spaced(square_metres / 10_000, 1)} ha"


def _sea(ground: Ground, polygons: Objects) -> Flags:
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


def contacts(ground: Ground, rows: Ints | None = None) -> list[Finding]:
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
    left, right, at, course = _both_sides(ground, chosen)
    found = []
    asked: list[_Side] = []
    for i, row in enumerate(chosen):
        both = [
            (ground.faces.unit(a), ground.faces.unit(b), k)
            for k, (a, b) in enumerate(zip(left[i].tolist(), right[i].tolist(), strict=True))
            # One face on both sides is a loose end, which is told as such.
            if a >= 0 and b >= 0 and a != b
        ]
        both = [(a, b, k) for a, b, k in both if a and b]
        if not both:
            continue
        same = [(a, k) for a, b, k in both if a == b]
        if len(same) * 2 > len(both):
            unit, k = same[0]
            found.append(
                Finding(
                    "same_unit",
                    "warning",
                    f"{unit} lies on both sides of {ground.line_name(row)}.",
                    (float(at[i, k, 0]), float(at[i, k, 1])),
                    (("lines", int(lines.ids[row])),),
                )
            )
            continue
        for a, b, k in both:
            one, two = ground.units.get(str(a)), ground.units.get(str(b))
            if one is not None and two is not None and one.position != two.position:
                asked.append(_Side(row, one, two, (float(at[i, k, 0]), float(at[i, k, 1])), float(course[i, k])))
    return [*found, *_against_the_beds(ground, asked)]


@dataclass(frozen=True)
class _Side:
    """A place of a contact, its course in degrees, and the units to its left and its right."""

    row: int
    left: MapUnit
    right: MapUnit
    at: tuple[float, float]
    course: float


def _both_sides(ground: Ground, rows: list[int]) -> tuple[Ints, Ints, Floats, Floats]:
    """Faces to the left and right of some places of each line, with their places and courses in degrees."""
    places = np.zeros((len(rows), SAMPLES, 2))
    course = np.zeros((len(rows), SAMPLES))
    for i, row in enumerate(rows):
        xy = shapely.get_coordinates(ground.lines.geometries[row])
        steps = np.diff(xy, axis=0)
        order = np.argsort(-np.hypot(*steps.T), kind="stable")
        picks = order[np.linspace(0, len(order) - 1, SAMPLES).astype(int)]
        places[i] = (xy[picks] + xy[picks + 1]) / 2
        course[i] = np.arctan2(steps[picks, 0], steps[picks, 1])
    # Far below what a hand draws, and above the rounding of coordinates in the millions.
    aside = 1e-3 / ground.metres_per_unit
    normal = np.stack([-np.cos(course), np.sin(course)], axis=2) * aside
    sides = []
    for sign in (1, -1):
        to_side = (places + sign * normal).reshape(-1, 2)
        hit, face = _within(ground, to_side)
        held = np.full(len(to_side), -1, dtype=np.int64)
        held[hit] = face
        sides.append(held.reshape(len(rows), SAMPLES))
    return sides[0], sides[1], places, np.degrees(course)


def _within(ground: Ground, xy: Floats) -> tuple[Ints, Ints]:
    """Which places are in which faces. A face that asks for its places is quicker than many places that ask."""
    spots: Any = shapely.points(xy)
    if len(xy) * 4 > len(ground.faces):
        face, hit = shapely.STRtree(spots).query(ground.faces.polygons, predicate="intersects")
        return hit, face
    hit, face = ground.face_tree.query(spots, predicate="intersects")
    return hit, face


def _against_the_beds(ground: Ground, asked: list[_Side]) -> list[Finding]:
    """Contacts against whose order the beds beside them speak, each told once.

    Beds that lie right way up grow younger down their dip (the law of superposition, common practice). Only
    readings that run along the contact count, and only where both sides have one and all dip to one side.
    """
    if not asked or not len(ground.bedding):
        return []
    places = shapely.points([side.at for side in asked])
    reach = ground.units_on_ground(READING_MM)
    which, near = ground.bedding_tree.query(places, predicate="dwithin", distance=reach)
    rows = ground.bedding[near]
    columns = ground.points.columns
    dip = np.array([columns["inclination"][r] for r in rows.tolist()], dtype=float)
    strike = np.array([columns["azimuth"][r] for r in rows.tolist()], dtype=float)
    course = np.array([side.course for side in asked])[which]
    along = np.abs((strike - course + 90) % 180 - 90) <= ALONG_DEGREES
    keep = along & (dip >= 5) & (dip <= 85)
    which, rows = which[keep], rows[keep]
    # Right of the contact's direction is where a strike along it dips to.
    way = np.where(np.cos(np.radians(strike - course)[keep]) > 0, 1, -1)
    units = _units_at(ground, rows)
    dips: dict[int, tuple[set[int], set[int]]] = {}
    for side, row, to in zip(which.tolist(), rows.tolist(), way.tolist(), strict=True):
        left, right = dips.setdefault(side, (set(), set()))
        held = units.get(row, ())
        if asked[side].left.code in held:
            left.add(to)
        if asked[side].right.code in held:
            right.add(to)
    found: dict[int, Finding] = {}
    for number in sorted(dips):
        (left, right), side = dips[number], asked[number]
        if side.row in found or not left or len(left | right) != 1 or not right:
            continue
        down, up = (side.right, side.left) if left == {1} else (side.left, side.right)
        if down.position < up.position:
            continue
        words = (
            f"{ground.line_name(side.row).capitalize()}: the beds dip from the younger {up.code} to the older "
            f"{down.code}. They are overturned, a fault is missing, or the column is the wrong way round."
        )
        me: tuple[FeatureKey, ...] = (("lines", int(ground.lines.ids[side.row])),)
        found[side.row] = Finding("order", "warning", words, side.at, me)
    return list(found.values())


def _units_at(ground: Ground, rows: Ints) -> dict[int, set[str]]:
    """The units of the faces that points stand in, by their rows."""
    chosen = np.unique(rows)
    hit, face = ground.face_tree.query(ground.points.geometries[chosen], predicate="intersects")
    out: dict[int, set[str]] = {}
    for point, found in zip(chosen[hit].tolist(), face.tolist(), strict=True):
        unit = ground.faces.unit(found)
        if unit:
            out.setdefault(point, set()).add(unit)
    return out

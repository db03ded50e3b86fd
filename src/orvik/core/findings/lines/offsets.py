"""What faults do to what they cut: offsets that jump, contacts that run across, blocks against the ages."""

from __future__ import annotations

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.features.kind import kind_of
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.table import FeatureKey
from orvik.core.findings.finding import CheckInput, Finding
from orvik.core.findings.lines.fault_sides import Boundary, FaultSides, fault_sides
from orvik.core.findings.rule import Reach, looks_at, rule
from orvik.core.ground.scale import figures

rule(
    "offset",
    "warning",
    "linework",
    "The offset of contacts along a fault jumps at one of them, or one is not offset where others are",
    "law of cross-cutting relations",
    features=("kind",),
    why="one slip moves all that is older by about as much",
)
rule(
    "block_against_ages",
    "warning",
    "linework",
    "The block that went down shows older rock than the one beside it, or the upper plate younger rock",
    "law of superposition",
    features=("kind",),
    why="a wrong side turns the story of the fault about",
)
rule(
    "slip_against_offsets",
    "warning",
    "linework",
    "Contacts are offset to the other side than a strike-slip fault says",
    features=("kind",),
    why="arrows and offsets tell opposite stories",
)

# An offset, square to the contact, jumps that differs by so many millimetres on the sheet and such a share.
JUMP_MM, JUMP_SHARE = 5.5, 1.0
# So many other contacts along the fault must say alike; they do within so many millimetres or such a share.
OTHERS, ALIKE_MM, ALIKE_SHARE = 3, 3.5, 0.5
MOST_ALIKE = 0.7
# The course of a contact is read over so many millimetres on the sheet.
COURSE_MM = 10.0
# A contact that is offset by less runs across.
ACROSS_MM, OFFSET_MM = 0.6, 3.0
# Of the length along which units differ across a fault so much must be against it, and so long at least.
AGAINST, CONTRAST_MM = 0.75, 8.0


# Contacts and units count that meet the fault or lie beside it, each as a whole; units by areas and by tags.
@looks_at("lines", "areas", "points", reach=Reach(lambda kind: kind.runs_through, 1.0))
def offsets(ground: CheckInput) -> list[Finding]:
    """All that is said of the offsets along faults."""
    out: list[Finding] = []
    for sides in fault_sides(ground):
        matched = _matched(sides)
        out += _jumps(ground, sides, matched)
        out += _slip(ground, sides, matched)
        out += _blocks(ground, sides)
    return out


_Matched = list[tuple[Boundary, Boundary]]


def _matched(sides: FaultSides) -> _Matched:
    """Boundaries of the same two units in the same order on both sides: the longest run of them in order."""
    left, right = sides.boundaries("left"), sides.boundaries("right")
    if not left or not right:
        return []
    size = np.zeros((len(left) + 1, len(right) + 1), dtype=int)
    for i in range(len(left) - 1, -1, -1):
        for j in range(len(right) - 1, -1, -1):
            same = (left[i].before, left[i].behind) == (right[j].before, right[j].behind)
            size[i, j] = max(size[i + 1, j], size[i, j + 1], size[i + 1, j + 1] + 1 if same else 0)
    out: _Matched = []
    i = j = 0
    while i < len(left) and j < len(right):
        same = (left[i].before, left[i].behind) == (right[j].before, right[j].behind)
        if same and size[i, j] == size[i + 1, j + 1] + 1:
            out.append((left[i], right[j]))
            i, j = i + 1, j + 1
        elif size[i + 1, j] >= size[i, j + 1]:
            i += 1
        else:
            j += 1
    return out


def _rock(ground: CheckInput, one: Boundary) -> bool:
    """Whether both units of a boundary are rock that a fault cuts, and no cover that lies over it."""
    held = [ground.units.get(unit) for unit in (one.before, one.behind)]
    return not any(unit is not None and unit.is_deposit for unit in held)


def _jumps(ground: CheckInput, sides: FaultSides, matched: _Matched) -> list[Finding]:
    mm = 1000 * ground.metres_per_unit / ground.scales.publication
    rock = [(one, two) for one, two in matched if _rock(ground, one)]
    apart = np.array([(two.at - one.at) * mm * _across(ground, sides, one, two) for one, two in rock])
    ways = np.array([_age_way(ground, one) for one, _ in rock])
    out = []
    for i, (one, two) in enumerate(rock):
        middle, alike = _usual(np.delete(apart, i), np.delete(ways, i), float(ways[i]))
        if alike < OTHERS:
            continue
        off = abs(float(apart[i]) - middle)
        across = abs(apart[i]) < ACROSS_MM and abs(middle) > OFFSET_MM
        if not across and off <= max(JUMP_MM, JUMP_SHARE * abs(middle)):
            continue
        units = f"between {one.before} and {one.behind}"
        fault = ground.line_name(sides.row)
        usual, own = figures(abs(middle), 2), figures(abs(float(apart[i])), 2)
        if across:
            message = (
                f"The contact {units} runs across {fault} without offset, where {alike} others are offset by about "
                f"{usual} mm on the sheet."
            )
        else:
            other_way = " the other way" if apart[i] * middle < 0 else ""
            message = (
                f"The contact {units} is offset by {own} mm on the sheet{other_way} along {fault}, where {alike} "
                f"others are {f'offset by about {usual} mm' if abs(middle) >= ACROSS_MM else 'not offset'}."
            )
        course = ground.lines.geometries[sides.row]
        place = course.interpolate((one.at + two.at) / 2)
        keys: list[FeatureKey] = [("lines", int(ground.lines.ids[sides.row]))]
        rows = [_contact_row(ground, sides.row, boundary) for boundary in (one, two)]
        keys += [("lines", int(ground.lines.ids[row])) for row in rows if row is not None]
        at = (float(place.x), float(place.y))
        out.append(Finding("offset", "warning", message, at, tuple(dict.fromkeys(keys)), facts=(units,)))
    return out


def _across(ground: CheckInput, sides: FaultSides, one: Boundary, two: Boundary) -> float:
    """The sine of the angle between a contact and the fault: cut at a sharp angle, it is offset further along it."""
    course, over = ground.lines.geometries[sides.row], ground.units_on_ground(COURSE_MM)
    found = []
    for boundary in (one, two):
        number = _contact_row(ground, sides.row, boundary)
        if number is None:
            continue
        place, line = course.interpolate(boundary.at), ground.lines.geometries[number]
        long = min(over, line.length)
        ahead = line.interpolate(long if line.project(place) < line.length / 2 else line.length - long)
        a, b = course.interpolate(max(boundary.at - over / 4, 0.0)), course.interpolate(boundary.at + over / 4)
        way, its = np.array([b.x - a.x, b.y - a.y]), np.array([ahead.x - place.x, ahead.y - place.y])
        size = float(np.hypot(*way) * np.hypot(*its))
        if size > 0:
            found.append(abs(float(way[0] * its[1] - way[1] * its[0])) / size)
    return float(np.mean(found)) if found else 1.0


def _age_way(ground: CheckInput, one: Boundary) -> float:
    """1 where the rock gets younger along the fault, -1 where it gets older, 0 where that is not known."""
    before, behind = ground.units.get(one.before), ground.units.get(one.behind)
    younger = _younger(before, behind) if before is not None and behind is not None else None
    return 0.0 if younger is None else 1.0 if younger is behind else -1.0


def _usual(apart: Floats, ways: Floats, way: float) -> tuple[float, int]:
    """The offset that others suggest for a contact, and how many of them agree.

    Blocks that moved along the fault offset all contacts to one side; those that moved up or down offset to one side
    what gets younger along it, and to the other what gets older. What agrees better is what happened.
    """
    if not len(apart):
        return 0.0, 0
    found = []
    for turned in (apart, apart * ways * way if way else None):
        if turned is None:
            continue
        middle = float(np.median(turned))
        alike = np.abs(turned - middle) <= max(ALIKE_MM, ALIKE_SHARE * abs(middle))
        found.append((-float(alike.mean()), float(np.abs(turned - middle).mean()), middle, int(alike.sum())))
    share, _, middle, count = min(found)
    return (middle, count) if -share >= MOST_ALIKE else (0.0, 0)


def _contact_row(ground: CheckInput, fault: int, boundary: Boundary) -> int | None:
    """The row of the line that ends on a fault at a boundary."""
    place = ground.lines.geometries[fault].interpolate(boundary.at)
    rows = ground.line_tree.query(place, predicate="dwithin", distance=0.01).tolist()
    return min((row for row in rows if row != fault), default=None)


def _slip(ground: CheckInput, sides: FaultSides, matched: _Matched) -> list[Finding]:
    """A strike-slip fault whose offsets all go to the other side: seen from the left, the right side went ahead."""
    slip = kind_of(str(ground.lines.columns["kind"][sides.row])).slip
    mm = 1000 * ground.metres_per_unit / ground.scales.publication
    apart = np.array([(two.at - one.at) * mm for one, two in matched if _rock(ground, one)])
    clear = apart[np.abs(apart) > OFFSET_MM]
    if not slip or len(clear) < OTHERS:
        return []
    # Looking across from the left side, ahead along the line lies to the left.
    against = clear < 0 if slip == "left" else clear > 0
    if not against.all():
        return []
    other = "left" if slip == "right" else "right"
    name = ground.line_name(sides.row).capitalize()
    message = (
        f"{name} says {slip}-lateral, and all {len(clear)} contacts that it cuts are offset to the {other}, by "
        f"{figures(float(np.median(np.abs(clear))), 2)} mm on the sheet in the middle."
    )
    return [_of_fault(ground, "slip_against_offsets", sides.row, message)]


def _blocks(ground: CheckInput, sides: FaultSides) -> list[Finding]:
    """A dip-slip fault along which the block that it says went down shows the older rock for most of its length."""
    right_side = kind_of(str(ground.lines.columns["kind"][sides.row])).right_side
    if not right_side:
        return []
    mm = 1000 * ground.metres_per_unit / ground.scales.publication
    younger_right = older_right = 0.0
    pair = ("", "")
    longest = 0.0
    for one in sides.left:
        for two in sides.right:
            long = (min(one.end, two.end) - max(one.begin, two.begin)) * mm
            left, right = ground.units.get(one.unit), ground.units.get(two.unit)
            if long <= 0 or left is None or right is None or left.is_deposit or right.is_deposit:
                continue
            younger = _younger(left, right)
            if younger is None:
                continue
            if younger is right:
                younger_right += long
            else:
                older_right += long
            if long > longest:
                pair, longest = (left.code, right.code), long
    agrees, against = (younger_right, older_right) if right_side == "down" else (older_right, younger_right)
    if agrees + against < CONTRAST_MM or against < AGAINST * (agrees + against):
        return []
    name = ground.line_name(sides.row).capitalize()
    share = round(100 * against / (agrees + against))
    if right_side == "down":
        what = f"shows older rock on the side that it says went down ({pair[1]} against {pair[0]})"
    else:
        what = f"shows younger rock in the block that it says went up ({pair[1]} against {pair[0]})"
    message = f"{name} {what} along {share} % of its length; is its symbol on the wrong side?"
    return [_of_fault(ground, "block_against_ages", sides.row, message)]


def _younger(one: MapUnit, two: MapUnit) -> MapUnit | None:
    """The younger of two units: by their ages, or by the column where one is not dated; None for one age."""
    if one.span is not None and two.span is not None:
        if one.span.older <= two.span.younger:
            return one
        return two if two.span.older <= one.span.younger else None
    if one.heading != two.heading or one.position == two.position:
        return None
    return one if one.position < two.position else two


def _of_fault(ground: CheckInput, rule_name: str, row: int, message: str) -> Finding:
    middle = shapely.line_interpolate_point(ground.lines.geometries[row], 0.5, normalized=True)
    key: FeatureKey = ("lines", int(ground.lines.ids[row]))
    return Finding(rule_name, "warning", message, (float(middle.x), float(middle.y)), (key,))

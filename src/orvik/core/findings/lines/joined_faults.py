"""Faults that go on in one another, and change side or sense where they do."""

from __future__ import annotations

import math
from collections import defaultdict

import numpy as np
import shapely

from orvik.core.features.kind import Kind, kind_of
from orvik.core.features.table import FeatureKey
from orvik.core.findings.finding import CheckInput, Finding
from orvik.core.findings.lines.fault_sides import is_fault
from orvik.core.findings.rule import looks_at, rule

rule(
    "side_changes",
    "warning",
    "linework",
    "A fault changes its sense, or the side of its teeth or balls, where one line goes on in the next",
    features=("kind",),
    why="one fault would go down on both sides",
)

# Two faults go on in one another whose courses differ by less than so many degrees where they meet.
STRAIGHT = 40.0
# A course is read over so much of a line, in millimetres on the sheet.
OVER_MM = 1.0


@looks_at("lines")
def side_changes(ground: CheckInput) -> list[Finding]:
    """Each place where a fault goes on in another one that says another sense, or the other side."""
    rows = np.flatnonzero(is_fault(ground.lines))
    ends: dict[tuple[float, float], list[tuple[int, int]]] = defaultdict(list)
    for row in rows.tolist():
        xy = shapely.get_coordinates(ground.lines.geometries[row])
        for end in (0, -1):
            ends[(round(float(xy[end][0]), 2), round(float(xy[end][1]), 2))].append((row, end))
    over = ground.units_on_ground(OVER_MM)
    out = []
    for place, held in ends.items():
        if len(held) != 2 or held[0][0] == held[1][0]:
            continue
        (one, a), (two, b) = held
        turn = abs((_course(ground, one, a, over) - _course(ground, two, b, over)) % 360.0 - 180.0)
        first, second = (kind_of(str(ground.lines.columns["kind"][row])) for row in (one, two))
        if turn > STRAIGHT:
            continue
        why = _against(first, second, same_end=a == b)
        if why:
            names = ground.line_name(one).capitalize(), ground.line_name(two)
            message = f"{names[0]} goes on in {names[1]}, which {why}."
            keys: tuple[FeatureKey, ...] = tuple(("lines", int(ground.lines.ids[row])) for row in (one, two))
            out.append(Finding("side_changes", "warning", message, place, keys))
    return out


def _course(ground: CheckInput, row: int, end: int, over: float) -> float:
    """The direction in which a line leaves its end, in degrees."""
    line = ground.lines.geometries[row]
    here = line.interpolate(0.0 if end == 0 else line.length)
    there = line.interpolate(min(over, line.length) if end == 0 else max(line.length - over, 0.0))
    return math.degrees(math.atan2(there.x - here.x, there.y - here.y))


def _against(one: Kind, two: Kind, same_end: bool) -> str:
    """Why two faults cannot be one; empty where they can.

    Parameters
    ----------
    same_end
        Whether both begin or both end where they meet, so that the right of one is the left of the other.
    """
    if one.slip and two.slip and one.slip != two.slip:
        return f"slipped to the other side ({two.slip}-lateral)"
    if not one.right_side or not two.right_side:
        return ""
    down = [(kind.right_side == "down") != turned for kind, turned in ((one, False), (two, same_end))]
    if one.name == two.name and same_end:
        return "carries its symbol on the other side"
    if down[0] != down[1]:
        return "says that the other block went down"
    return ""

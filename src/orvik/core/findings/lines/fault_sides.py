"""The units along both sides of each fault, and where contacts meet it."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import shapely

from orvik.core.features.feature import Features
from orvik.core.features.kind import kind_of
from orvik.core.findings.finding import CheckInput
from orvik.core.geometry.nodes import NODE

# Units are read so many millimetres on the sheet beside the fault.
BESIDE_MM = 0.15
# Pieces between two contacts that are shorter than this, in millimetres on the sheet, are not read.
SHORT_MM = 0.3


@dataclass(frozen=True)
class SideUnit:
    """The unit along a part of one side of a fault, from one distance along it to another, in project units."""

    begin: float
    end: float
    unit: str


@dataclass(frozen=True)
class Boundary:
    """Where two units meet at a side of a fault: the distance along it, and the units before and behind."""

    at: float
    before: str
    behind: str


@dataclass(frozen=True)
class FaultSides:
    """A fault by its row of the lines, with what lies to its left and to its right."""

    row: int
    left: tuple[SideUnit, ...]
    right: tuple[SideUnit, ...]

    def boundaries(self, side: str) -> list[Boundary]:
        """Where units meet along a side, in the order of the line."""
        held = self.left if side == "left" else self.right
        return [
            Boundary(one.end, one.unit, two.unit)
            for one, two in pairwise(held)
            if one.unit and two.unit and one.unit != two.unit and abs(one.end - two.begin) < 1e-6
        ]


def is_fault(lines: Features) -> np.ndarray:
    """Which lines are faults: they bound units, and contacts end on them."""
    kinds = {kind: kind_of(kind).runs_through for kind in set(lines.columns["kind"])}
    return np.array([kinds[kind] for kind in lines.columns["kind"]], dtype=bool)


def fault_sides(ground: CheckInput) -> list[FaultSides]:
    """All faults with the units along them; nothing where no units are."""
    lines = ground.lines
    faults = np.flatnonzero(is_fault(lines))
    if not len(faults) or not len(ground.areas):
        return []
    courses = lines.geometries[faults]
    bounding = np.flatnonzero(ground.is_bounding())
    held = lines.geometries[bounding]
    ends = np.concatenate([shapely.get_point(held, 0), shapely.get_point(held, -1)])
    hits, of = shapely.STRtree(courses).query(ends, predicate="dwithin", distance=NODE)
    cuts: dict[int, set[float]] = {}
    for hit, fault in zip(hits.tolist(), of.tolist(), strict=True):
        cuts.setdefault(fault, set()).add(round(float(courses[fault].project(ends[hit])), 3))
    short = ground.units_on_ground(SHORT_MM)
    pieces: list[tuple[int, float, float]] = []
    for number, course in enumerate(courses):
        at = sorted({0.0, float(course.length), *cuts.get(number, ())})
        pieces += [(number, a, b) for a, b in pairwise(at) if b - a > short]
    if not pieces:
        return []
    owners = np.array([number for number, _, _ in pieces])
    middles = np.array([(a + b) / 2 for _, a, b in pieces])
    units = {side: _units(ground, courses[owners], middles, sign) for side, sign in (("left", 1.0), ("right", -1.0))}
    by: dict[int, list[int]] = {}
    for i, (number, _, _) in enumerate(pieces):
        by.setdefault(number, []).append(i)
    return [
        FaultSides(int(faults[number]), *(_joined([(*pieces[i][1:], units[side][i]) for i in rows]) for side in units))
        for number, rows in by.items()
    ]


def _units(ground: CheckInput, courses: np.ndarray, at: np.ndarray, sign: float) -> list[str]:
    """The unit beside each course, to its left for a positive sign; empty where there is none."""
    step = ground.units_on_ground(BESIDE_MM)
    here = shapely.get_coordinates(shapely.line_interpolate_point(courses, at))
    before = shapely.get_coordinates(shapely.line_interpolate_point(courses, np.maximum(at - step, 0.0)))
    behind = shapely.get_coordinates(shapely.line_interpolate_point(courses, at + step))
    way = behind - before
    way /= np.maximum(np.hypot(*way.T), 1e-12)[:, None]
    beside = here + sign * step * np.column_stack([-way[:, 1], way[:, 0]])
    return ground.units_at(beside)


def _joined(pieces: list[tuple[float, float, str]]) -> tuple[SideUnit, ...]:
    """Pieces of one side, with those of one unit that follow one another as one."""
    out: list[SideUnit] = []
    for begin, end, unit in pieces:
        if out and out[-1].unit == unit and abs(out[-1].end - begin) < 1e-6:
            out[-1] = SideUnit(out[-1].begin, end, unit)
        else:
            out.append(SideUnit(begin, end, unit))
    return tuple(out)

"""Folds against the beds about them and against the ages of what they bend."""

from __future__ import annotations

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.features.kind import kind_of
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.table import FeatureKey
from orvik.core.findings.finding import CheckInput, Finding
from orvik.core.findings.rule import looks_at, rule

rule(
    "fold_against_dips",
    "warning",
    "linework",
    "Beds do not dip about a fold as an anticline or a syncline has them",
    features=("kind",),
    why="fold and dips cannot both be right",
)
rule(
    "fold_against_ages",
    "warning",
    "linework",
    "The core of a fold is younger than its limbs where it should be older, or the other way round",
    "law of superposition",
    features=("kind",),
    why="an anticline has its oldest rock within, a syncline its youngest",
)

# Readings within so many millimetres on the sheet, and steeper than so many degrees, speak of a fold.
NEAR_MM, LEVEL = 25.0, 5.0
# So many are asked at the least; a side says something whose beds dip so far across the line, 0 to 1.
LEAST, CLEAR = 3, 0.4
# Beds beside the line's prolongation speak of the fold, too: it is drawn no further than it was seen.
BEYOND_MM = 10.0
# Units are read at these distances from the line, in millimetres on the sheet, at places so far apart along it.
AWAY_MM, ALONG_MM = (2.0, 4.0, 7.0, 11.0, 16.0, 22.0), 3.0
# So many of the places at which units differ must speak against the fold, and so many there must be.
AGAINST, PLACES = 0.75, 3


@looks_at("lines", "points")
def fold_dips(ground: CheckInput) -> list[Finding]:
    """Folds whose limbs dip as those of the other kind do, or both one way."""
    kinds = ground.lines.columns["kind"]
    folds = [row for row, kind in enumerate(kinds) if kind_of(kind).limbs]
    if not folds or not len(ground.bedding):
        return []
    columns = ground.points.columns
    rows = np.array([r for r in ground.bedding if columns["inclination"][r] >= LEVEL], dtype=np.int64)
    if not len(rows):
        return []
    places = ground.points.geometries[rows]
    down = np.radians([columns["azimuth"][r] + 90.0 for r in rows])
    ways = np.column_stack([np.sin(down), np.cos(down)])
    tree = shapely.STRtree(places)
    others = shapely.STRtree(ground.lines.geometries[folds])
    out = []
    for row in folds:
        line = _prolonged(ground.lines.geometries[row], ground.units_on_ground(BEYOND_MM))
        near = tree.query(line, predicate="dwithin", distance=ground.units_on_ground(NEAR_MM))
        sides: dict[bool, list[tuple[float, int]]] = {True: [], False: []}
        for i in near.tolist():
            at = line.project(places[i])
            # Beyond its ends, or nearer to another fold, a bed says nothing of this one.
            if not 0 < at < line.length or folds[int(others.nearest(places[i]))] != row:
                continue
            foot = line.interpolate(at)
            outward = np.array([places[i].x - foot.x, places[i].y - foot.y])
            long = float(np.hypot(*outward))
            if long < 1e-6:
                continue
            before, behind = line.interpolate(max(at - 1.0, 0.0)), line.interpolate(at + 1.0)
            left = (behind.x - before.x) * outward[1] - (behind.y - before.y) * outward[0] > 0
            sides[left].append((float(ways[i] @ outward) / long, int(rows[i])))
        if len(sides[True]) + len(sides[False]) < LEAST:
            continue
        outwards = [[far for far, _ in sides[side]] for side in (True, False)]
        why = _against(kind_of(str(kinds[row])).limbs, outwards[0], outwards[1])
        if why:
            readings = len(sides[True]) + len(sides[False])
            message = f"The {readings} beds about {ground.line_name(row)} {why}."
            beside: tuple[FeatureKey, ...] = tuple(
                ("points", int(ground.points.ids[r])) for some in sides.values() for _, r in some
            )
            out.append(_of_fold(ground, "fold_against_dips", row, message, beside))
    return out


def _prolonged(line: shapely.LineString, far: float) -> shapely.LineString:
    """A line with both ends drawn straight on, ``far`` in units of the ground."""
    xy = shapely.get_coordinates(line)
    starts, ends = xy[0] - xy[1], xy[-1] - xy[-2]
    first = xy[0] + far * starts / max(float(np.hypot(*starts)), 1e-12)
    last = xy[-1] + far * ends / max(float(np.hypot(*ends)), 1e-12)
    return shapely.LineString(np.vstack([first, xy, last]))


def _against(limbs: str, left: list[float], right: list[float]) -> str:
    """What is said of limbs whose beds dip so far outward on both sides, -1 to 1; empty where that is as it should.

    Where beds are known on one side only they speak against a fold when each of them does.
    """
    sign = 1.0 if limbs == "away" else -1.0
    wanted = "away from an anticline" if limbs == "away" else "towards a syncline"
    found = "towards its line" if limbs == "away" else "away from its line"
    if not left or not right:
        wrong = all(sign * far < -CLEAR for far in left + right)
        return f"stand on one side and dip {found}; beds dip {wanted}" if wrong else ""
    lefts, rights = float(np.mean(left)), float(np.mean(right))
    if sign * lefts < -CLEAR and sign * rights < -CLEAR:
        return f"dip {found} on both sides; beds dip {wanted}"
    if min(abs(lefts), abs(rights)) > CLEAR and lefts * rights < 0:
        return f"all dip one way across it; beds dip {wanted} on both sides"
    return ""


@looks_at("lines", "areas", "points")
def fold_ages(ground: CheckInput) -> list[Finding]:
    """Folds whose core has the age that their limbs should have."""
    kinds = ground.lines.columns["kind"]
    folds = [row for row, kind in enumerate(kinds) if kind_of(kind).core]
    if not folds or not len(ground.areas):
        return []
    out = []
    for row in folds:
        core = kind_of(str(kinds[row])).core
        pairs = _pairs(ground, row)
        # Whether what lies away from the line is older than what lies on it.
        older = [limb_is_older for limb_is_older in pairs if limb_is_older is not None]
        if len(older) < PLACES:
            continue
        against = float(np.mean(older)) if core == "older" else 1.0 - float(np.mean(older))
        if against < AGAINST:
            continue
        other = "younger" if core == "older" else "older"
        message = (
            f"The core of {ground.line_name(row)} is {other} than its limbs at {round(against * len(older))} of "
            f"{len(older)} places; the core of such a fold is {core}."
        )
        out.append(_of_fold(ground, "fold_against_ages", row, message, ()))
    return out


def _pairs(ground: CheckInput, row: int) -> list[bool | None]:
    """For places beside a fold, whether the first other unit there is older than that on its line; None if unknown.

    What lies behind a fault, or nearer to another fold, says nothing.
    """
    line = ground.lines.geometries[row]
    step = ground.units_on_ground(ALONG_MM)
    at = np.arange(step / 2, line.length, step)
    here = shapely.get_coordinates(shapely.line_interpolate_point(line, at))
    ahead = shapely.get_coordinates(shapely.line_interpolate_point(line, at + 1.0))
    way = ahead - here
    way /= np.maximum(np.hypot(*way.T), 1e-12)[:, None]
    aside = np.column_stack([-way[:, 1], way[:, 0]])
    cores = _units(ground, here)
    stops = np.array([k.is_fold or k.runs_through for k in map(kind_of, ground.lines.columns["kind"])])
    stops[row] = False
    tree = shapely.STRtree(ground.lines.geometries[stops])
    out: list[bool | None] = []
    for sign in (1.0, -1.0):
        open_ways = np.ones(len(at), dtype=bool)
        for millimetres in AWAY_MM:
            there = here + sign * ground.units_on_ground(millimetres) * aside
            ways = shapely.linestrings(np.stack([here, there], axis=1))
            open_ways[np.unique(tree.query(ways, predicate="intersects")[0])] = False
            limbs = _units(ground, there)
            for i in np.flatnonzero(open_ways).tolist():
                older = _is_older(limbs[i], cores[i])
                if older is not None:
                    out.append(older)
                    open_ways[i] = False
    return out


def _units(ground: CheckInput, places: Floats) -> list[MapUnit | None]:
    """The rock at some places; None where that is covered or not known."""
    held = [ground.units.get(code) for code in ground.units_at(places)]
    return [unit if unit is not None and not unit.is_deposit else None for unit in held]


def _is_older(limb: MapUnit | None, core: MapUnit | None) -> bool | None:
    if limb is None or core is None or limb.code == core.code or limb.span is None or core.span is None:
        return None
    if limb.span.younger >= core.span.older:
        return True
    return False if core.span.younger >= limb.span.older else None


def _of_fold(ground: CheckInput, rule_name: str, row: int, message: str, beside: tuple[FeatureKey, ...]) -> Finding:
    middle = shapely.line_interpolate_point(ground.lines.geometries[row], 0.5, normalized=True)
    keys: tuple[FeatureKey, ...] = (("lines", int(ground.lines.ids[row])),)
    return Finding(rule_name, "warning", message, (float(middle.x), float(middle.y)), keys, beside=beside)

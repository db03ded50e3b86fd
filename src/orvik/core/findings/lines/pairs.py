"""Lines drawn twice, and lines that cross without a vertex in common."""

from __future__ import annotations

import numpy as np
import shapely

from orvik.core.arrays import Flags, Ints
from orvik.core.features.kind import SHEET_BORDER, kind_of
from orvik.core.findings.finding import CheckInput, Finding, Fix
from orvik.core.findings.lines.doubling import may_run_along, shared_parts
from orvik.core.findings.rule import rule
from orvik.core.ground.scale import SEEN_MM

rule(
    "crossing",
    "error",
    "linework",
    "Lines that bound units cross without a vertex in common",
    features=("kind",),
    why="units cannot be told apart where their limits cross",
)
rule(
    "doubled",
    "error or warning",
    "linework",
    "A line drawn again along another; two readings of one kind at one place: the same, or at odds",
    features=(
        "kind",
        "azimuth",
        "inclination",
    ),
    why="it is printed twice, and counted twice",
)

# A part is drawn twice from half of the shorter line on, or from so many millimetres on the sheet: lines that cross
# at three degrees lie within a hair of one another for less.
DOUBLED_SHARE = 0.5
DOUBLED_MM = 8.0


def pairs(ground: CheckInput, rows: Ints | None = None) -> list[Finding]:
    """Doubled and crossing lines among those that bound units.

    Parameters
    ----------
    rows
        Rows of lines of which one at least is in every pair; all without it.
    """
    counts = ground.is_bounding() & np.array([k != SHEET_BORDER for k in ground.lines.columns["kind"]], dtype=bool)
    chosen = np.flatnonzero(counts) if rows is None else np.intersect1d(np.flatnonzero(counts), rows)
    if not len(chosen):
        return []
    doubled = _doubled(ground, chosen, counts)
    return [*doubled.values(), *_crossing(ground, chosen, counts, set(doubled))]


def _pair(a: int, b: int) -> tuple[int, int]:
    return (a, b) if a < b else (b, a)


def _doubled(ground: CheckInput, chosen: Ints, counts: Flags) -> dict[tuple[int, int], Finding]:
    """Pairs of which one runs within the width of a hair along the other, over a part that a hand drew twice."""
    reach = ground.units_on_ground(SEEN_MM)
    lines = ground.lines.geometries
    lengths = shapely.length(lines)
    least_of = np.minimum(DOUBLED_SHARE * lengths, ground.units_on_ground(DOUBLED_MM))
    found: dict[tuple[int, int], Finding] = {}
    # Those chosen may be the shorter or the longer one of a pair.
    near = np.flatnonzero(counts)
    if len(chosen) < len(near):
        near = near[np.isin(near, ground.line_tree.query(lines[chosen], predicate="dwithin", distance=reach)[1])]
    ones, others = may_run_along(near, ground.line_tree, least_of[near], reach)
    # The shorter of both runs along the longer; of equals the later one.
    ids = ground.lines.ids
    first = (lengths[ones] < lengths[others]) | ((lengths[ones] == lengths[others]) & (ids[ones] > ids[others]))
    runs = counts[others] & first & (np.isin(ones, chosen) | np.isin(others, chosen))
    shorter, longer = ones[runs], others[runs]
    for short, long, least in zip(shorter.tolist(), longer.tolist(), least_of[shorter].tolist(), strict=True):
        # What is least of a line's own gives way: only among equals does length decide.
        yields, stays = (long, short) if _stands(ground, short) > _stands(ground, long) else (short, long)
        parts = [(a, b) for a, b in shared_parts(lines[yields], lines[stays], reach) if b - a >= least]
        if not parts:
            continue
        a, b = max(parts, key=lambda part: part[1] - part[0])
        length = float(lengths[yields])
        whole = b - a >= length - 2 * reach
        name, twin = ground.line_name(yields), ground.line_name(stays)
        middle = shapely.line_interpolate_point(lines[yields], (a + b) / 2 % length)
        how = "" if whole else f" over {ground.length_words(b - a)}"
        fix = (
            Fix("delete", f"Delete {name}") if whole else Fix("cut_away", f"Cut that part of {name} away", along=(a, b))
        )
        found[_pair(short, long)] = Finding(
            "doubled",
            "error",
            f"{name.capitalize()} is drawn again along {twin}{how}.",
            (middle.x, middle.y),
            (("lines", int(ground.lines.ids[yields])), ("lines", int(ground.lines.ids[stays]))),
            fix,
        )
    return found


def _stands(ground: CheckInput, row: int) -> int:
    """How much a line has of its own: contacts end on a fault, and a shore is a boundary that nature drew."""
    kind = kind_of(str(ground.lines.columns["kind"][row]))
    return 2 if kind.runs_through else 1 if kind.role == "shore" else 0


def _crossing(ground: CheckInput, chosen: Ints, counts: Flags, doubled: set[tuple[int, int]]) -> list[Finding]:
    lines = ground.lines
    seen = np.array([c != "concealed" for c in lines.columns["certainty"]], dtype=bool)
    through = np.array([kind_of(kind).runs_through for kind in lines.columns["kind"]], dtype=bool)
    crossed = counts & seen & ~through
    chosen = chosen[crossed[chosen]]
    hits, others = ground.line_tree.query(lines.geometries[chosen])
    ones = chosen[hits]
    asked = np.zeros(len(lines), dtype=bool)
    asked[chosen] = True
    keep = crossed[others] & ((ones < others) | ~asked[others]) & (ones != others)
    ones, others = ones[keep], others[keep]
    # Interiors that have something in common: ends that touch are no crossing.
    inner = shapely.relate_pattern(lines.geometries[ones], lines.geometries[others], "T********")
    found = []
    for a, b in sorted(_pair(a, b) for a, b in zip(ones[inner].tolist(), others[inner].tolist(), strict=True)):
        if (a, b) in doubled:
            continue
        for place in _places(lines.geometries[a], lines.geometries[b]):
            if _overshoots(ground, a, place) or _overshoots(ground, b, place):
                continue
            found.append(
                Finding(
                    "crossing",
                    "error",
                    f"{ground.line_name(a).capitalize()} and {ground.line_name(b)} cross without a vertex in common.",
                    place,
                    (("lines", int(lines.ids[a])), ("lines", int(lines.ids[b]))),
                    Fix("cut", "Cut both where they cross", place),
                )
            )
    return found


def _places(one: shapely.LineString, two: shapely.LineString) -> list[tuple[float, float]]:
    """Crossings that are not a vertex of both lines."""
    places = shapely.get_coordinates(shapely.intersection(one, two))
    first, second = shapely.get_coordinates(one), shapely.get_coordinates(two)
    out = []
    for place in np.unique(places, axis=0):
        if not ((first == place).all(axis=1).any() and (second == place).all(axis=1).any()):
            out.append((float(place[0]), float(place[1])))
    return out


def _overshoots(ground: CheckInput, row: int, place: tuple[float, float]) -> bool:
    """Whether a crossing is so near to a line's end that it is told as a dangle to be trimmed."""
    line = ground.lines.geometries[row]
    along = float(shapely.line_locate_point(line, shapely.Point(place)))
    reach = ground.units_on_ground(1.0)
    closed = bool(line.is_closed)
    return not closed and min(along, line.length - along) <= min(reach, line.length * 0.5)

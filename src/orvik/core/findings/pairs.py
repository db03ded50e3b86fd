"""Lines drawn twice, and lines that cross without a vertex in common."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from ..scale import SEEN_MM
from .finding import Finding, Ground, Mend

Ints = NDArray[np.int64]
# Lines of these kinds may run over others: a fault through contacts, a contact over a fault.
THROUGH = frozenset({"fault", "thrust"})


def pairs(ground: Ground, rows: Ints | None = None) -> list[Finding]:
    """Doubled and crossing lines among those that bound units.

    Parameters
    ----------
    rows
        Rows of lines of which one at least is in every pair; all without it.
    """
    counts = ground.is_bounding() & np.array([k != "border" for k in ground.lines.columns["kind"]], dtype=bool)
    chosen = np.flatnonzero(counts) if rows is None else np.intersect1d(np.flatnonzero(counts), rows)
    if not len(chosen):
        return []
    doubled = _doubled(ground, chosen, counts)
    return [*doubled.values(), *_crossing(ground, chosen, counts, set(doubled))]


def _pair(a: int, b: int) -> tuple[int, int]:
    return (a, b) if a < b else (b, a)


def _doubled(ground: Ground, chosen: Ints, counts: NDArray[np.bool_]) -> dict[tuple[int, int], Finding]:
    """Pairs of which the shorter lies within the width of a hair along the longer."""
    reach = ground.units_on_ground(SEEN_MM)
    lines = ground.lines.geometries
    lengths = shapely.length(lines)
    found: dict[tuple[int, int], Finding] = {}
    middles = shapely.line_interpolate_point(lines[chosen], 0.5, normalized=True)
    hits, others = ground.line_tree.query(middles, predicate="dwithin", distance=reach)
    for hit, other in zip(hits.tolist(), others.tolist(), strict=True):
        one = int(chosen[hit])
        if one == other or not counts[other]:
            continue
        pair = _pair(one, other)
        if pair in found:
            continue
        short, long = sorted(pair, key=lambda r: (float(lengths[r]), -int(ground.lines.ids[r])))
        if lengths[short] <= 2 * reach:
            continue
        vertices = shapely.points(shapely.get_coordinates(lines[short]))
        if float(shapely.distance(vertices, lines[long]).max()) > reach:
            continue
        middle = shapely.line_interpolate_point(lines[short], 0.5, normalized=True)
        name, twin = ground.line_name(short), ground.line_name(long)
        found[pair] = Finding(
            "doubled", "error", f"{name.capitalize()} is drawn again along {twin}.", (middle.x, middle.y),
            (("lines", int(ground.lines.ids[short])), ("lines", int(ground.lines.ids[long]))),
            Mend("delete", f"Delete {name}"),
        )  # fmt: skip
    return found


def _crossing(
    ground: Ground, chosen: Ints, counts: NDArray[np.bool_], doubled: set[tuple[int, int]]
) -> list[Finding]:
    lines = ground.lines
    seen = np.array([c != "concealed" for c in lines.columns["certainty"]], dtype=bool)
    hits, others = ground.line_tree.query(lines.geometries[chosen], predicate="intersects")
    ones = chosen[hits]
    told = set(chosen.tolist())
    keep = counts[others] & seen[others] & seen[ones] & (ones != others)
    keep &= np.array([o not in told or a < o for a, o in zip(ones.tolist(), others.tolist(), strict=True)], dtype=bool)
    ones, others = ones[keep], others[keep]
    # Interiors that have something in common: ends that touch are no crossing.
    inner = shapely.relate_pattern(lines.geometries[ones], lines.geometries[others], "T********")
    found = []
    for a, b in sorted(_pair(a, b) for a, b in zip(ones[inner].tolist(), others[inner].tolist(), strict=True)):
        if (a, b) in doubled or lines.columns["kind"][a] in THROUGH or lines.columns["kind"][b] in THROUGH:
            continue
        for place in _places(lines.geometries[a], lines.geometries[b]):
            if _overshoots(ground, a, place) or _overshoots(ground, b, place):
                continue
            found.append(
                Finding(
                    "crossing", "error",
                    f"{ground.line_name(a).capitalize()} and {ground.line_name(b)} cross without a vertex in common.",
                    place, (("lines", int(lines.ids[a])), ("lines", int(lines.ids[b]))),
                    Mend("cut", "Cut both where they cross", place),
                )
            )  # fmt: skip
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


def _overshoots(ground: Ground, row: int, place: tuple[float, float]) -> bool:
    """Whether a crossing is so near to a line's end that it is told as a dangle to be trimmed."""
    line = ground.lines.geometries[row]
    along = float(shapely.line_locate_point(line, shapely.Point(place)))
    reach = ground.units_on_ground(1.0)
    closed = bool(line.is_closed)
    return not closed and min(along, line.length - along) <= min(reach, line.length * 0.5)

"""Areas of a unit that meets its neighbours nowhere else on the map."""

from __future__ import annotations

from collections import Counter, defaultdict

import numpy as np
import shapely

from orvik.core.features.table import FeatureKey
from orvik.core.findings.finding import CheckInput, Finding
from orvik.core.findings.lines.cover import is_cover
from orvik.core.findings.lines.fault_sides import is_fault
from orvik.core.findings.rule import looks_at, rule

rule(
    "odd_neighbour",
    "warning",
    "linework",
    "A unit meets those around it nowhere else on the map, where another unit would fit",
    "law of superposition",
    features=("map_unit",),
)

# A pair of units is usual that meets at so many other places.
USUAL = 2
# Along so much of its rim against rock an area meets what it meets nowhere else.
RARE = 0.1
# Of the rim of an area so much must lie against rock that is mapped.
RIM = 0.4


@looks_at("areas", "lines")
def odd_neighbours(ground: CheckInput) -> list[Finding]:
    """Areas whose unit no neighbour suggests: islands of one unit in another, or an order that occurs nowhere else."""
    units = ground.areas.columns["map_unit"]
    rows = np.array([i for i, u in enumerate(units) if u in ground.units], dtype=np.int64)
    if len(rows) < 4:
        return []
    polygons = ground.areas.geometries[rows]
    one, two = shapely.STRtree(polygons).query(polygons, predicate="touches")
    keep = one < two
    one, two = one[keep], two[keep]
    if not len(one):
        return []
    shared = shapely.intersection(shapely.boundary(polygons[one]), shapely.boundary(polygons[two]))
    faults = ground.lines.geometries[is_fault(ground.lines)]
    if len(faults):
        tree = shapely.STRtree(faults)
        middles = shapely.point_on_surface(shared)
        hit = np.unique(tree.query(middles, predicate="dwithin", distance=ground.units_on_ground(0.05))[0])
        # What a fault has brought side by side says nothing of what lies upon what.
        along = np.zeros(len(one), dtype=bool)
        along[hit] = True
    else:
        along = np.zeros(len(one), dtype=bool)
    long = shapely.length(shared)
    pairs: Counter[frozenset[str]] = Counter()
    near: dict[int, list[tuple[str, float]]] = defaultdict(list)
    for a, b, length, faulted in zip(one.tolist(), two.tolist(), long.tolist(), along.tolist(), strict=True):
        first, second = str(units[rows[a]]), str(units[rows[b]])
        if length <= 0 or faulted or first == second:
            continue
        pairs[frozenset((first, second))] += 1
        near[a].append((second, length))
        near[b].append((first, length))
    rims = shapely.length(polygons)
    out = []
    for i, neighbours in near.items():
        unit = str(units[rows[i]])
        rock = [(other, length) for other, length in neighbours if not is_cover(ground.units[other])]
        if is_cover(ground.units[unit]) or sum(length for _, length in rock) < RIM * rims[i]:
            continue
        mine = Counter(frozenset((unit, other)) for other, _ in rock)
        # The part of its rim along which it meets what it meets nowhere else.
        rare = sum(
            length for other, length in rock if pairs[frozenset((unit, other))] <= mine[frozenset((unit, other))]
        )
        if rare < RARE * sum(length for _, length in rock):
            continue
        others = {other for other, _ in rock}
        fits = [
            code
            for code, held in ground.units.items()
            if code not in (unit, *others) and not is_cover(held) and _usual(code, others, pairs)
        ]
        fits += [code for code in others if _usual(code, others - {code}, pairs)]
        if not fits:
            continue
        place = shapely.point_on_surface(polygons[i])
        listed = " and ".join(sorted(others))
        message = (
            f"Area {ground.areas.ids[rows[i]]} is {unit} ({ground.units[unit].name}) beside {listed}, as "
            f"it lies nowhere else on the map; {' or '.join(sorted(set(fits))[:3])} would fit. Is it a slip?"
        )
        key: FeatureKey = ("areas", int(ground.areas.ids[rows[i]]))
        out.append(
            Finding("odd_neighbour", "warning", message, (float(place.x), float(place.y)), (key,), None, (unit,))
        )
    return out


def _usual(code: str, others: set[str], pairs: Counter[frozenset[str]]) -> bool:
    return all(pairs[frozenset((code, other))] >= USUAL for other in others)

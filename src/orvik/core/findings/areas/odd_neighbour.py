"""Areas of a unit that meets its neighbours nowhere else on the map."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from orvik.core.arrays import Ints
from orvik.core.features.table import FeatureKey
from orvik.core.findings.finding import CheckInput, Finding
from orvik.core.findings.lines.fault_sides import is_fault
from orvik.core.findings.rule import looks_at, rule

rule(
    "odd_neighbour",
    "warning",
    "linework",
    "A unit meets those around it nowhere else on the map, where another unit would fit",
    "law of superposition",
    features=("map_unit",),
    why="a wrong code stands in an area more easily than a rock where it has no place",
)

# On a map of fewer areas nothing is usual.
LEAST_AREAS = 4
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
    if len(rows) < LEAST_AREAS:
        return []
    polygons = ground.areas.geometries[rows]
    codes = list(ground.units)
    number = {code: i for i, code in enumerate(codes)}
    own = np.array([number[str(units[row])] for row in rows], dtype=np.int64)
    cover = np.array([ground.units[code].is_deposit for code in codes], dtype=bool)
    ids = ground.areas.ids[rows]
    held = ground.rims.of(ids, polygons, ground.lines.geometries[is_fault(ground.lines)])
    row_of = {number: i for i, number in enumerate(ids.tolist())}
    one, two = (np.array([row_of[n] for n in some.tolist()], dtype=np.int64) for some in (held.one, held.two))
    long = held.long
    apart = own[one] != own[two]
    one, two, long = one[apart], two[apart], long[apart]
    met = np.minimum(own[one], own[two]) * len(codes) + np.maximum(own[one], own[two])
    pairs = np.bincount(met, minlength=len(codes) ** 2)
    # From both areas of a pair: the area, its neighbour, what meets, and how long.
    area, other = np.concatenate([one, two]), np.concatenate([two, one])
    met, long = np.tile(met, 2), np.tile(long, 2)
    rock = ~cover[own[area]] & ~cover[own[other]]
    area, other, met, long = area[rock], other[rock], met[rock], long[rock]
    mine, which, count = np.unique(area * len(codes) ** 2 + met, return_inverse=True, return_counts=True)
    only = (pairs[mine % len(codes) ** 2] <= count)[which]
    rim = np.bincount(area, long, minlength=len(rows))
    rare = np.bincount(area, long * only, minlength=len(rows))
    odd = np.flatnonzero((rare > 0) & (rare >= RARE * rim) & (rim >= RIM * shapely.length(polygons)))
    out = []
    for i in odd.tolist():
        unit, others = codes[own[i]], {codes[own[n]] for n in other[area == i].tolist()}
        fits = [
            code
            for k, code in enumerate(codes)
            if code != unit and not cover[k] and _fits(k, [number[o] for o in others - {code}], pairs, len(codes))
        ]
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


def _fits(unit: int, others: Sequence[int], pairs: Ints, count: int) -> bool:
    """Whether a unit meets some others elsewhere, each of them often enough."""
    return bool(others) and all(pairs[min(unit, o) * count + max(unit, o)] >= USUAL for o in others)

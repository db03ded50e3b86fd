"""Dykes and sheets that cut what is younger than they are."""

from __future__ import annotations

import numpy as np
import shapely

from orvik.core.features.kind import UNIT_AREA, kind_of
from orvik.core.findings.finding import Finding, Ground
from orvik.core.ground.scale import SEEN_MM


def older_cuts(ground: Ground) -> list[Finding]:
    """Lines of a unit that run through areas of one that is wholly younger, and are not said to be cut by it.

    What cuts is younger than what it cuts (the law of cross-cutting relations).
    """
    lines, areas = ground.lines, ground.areas
    spans = {code: unit.span for code, unit in ground.units.items()}
    rows = [
        i
        for i, (kind, unit) in enumerate(zip(lines.columns["kind"], lines.columns["map_unit"], strict=True))
        if unit and kind_of(kind).margin and spans.get(unit) and lines.columns["certainty"][i] != "concealed"
    ]
    if not rows or not len(areas):
        return []
    hit, crossed = ground.area_tree.query(lines.geometries[rows], predicate="intersects")
    least = ground.units_on_ground(5 * SEEN_MM)
    told: dict[tuple[int, str], tuple[float, float]] = {}
    for line, area in zip(np.array(rows)[hit].tolist(), crossed.tolist(), strict=True):
        own, other = str(lines.columns["map_unit"][line]), str(areas.columns["map_unit"][area])
        band = lines.columns["band"][line]
        held, there = spans[own], spans.get(other)
        if areas.columns["kind"][area] != UNIT_AREA or own == other or held is None or there is None:
            continue
        if there.older > held.younger or (band is not None and other in band.cut_by) or (line, other) in told:
            continue
        shared = shapely.intersection(lines.geometries[line], areas.geometries[area])
        if float(shapely.length(shared)) >= least:
            place = shapely.line_interpolate_point(
                max(shapely.get_parts(shared), key=shapely.length), 0.5, normalized=True
            )
            told[line, other] = (place.x, place.y)
    return [
        Finding(
            "older_cuts",
            "error",
            f"{ground.line_name(line).capitalize()} is {lines.columns['map_unit'][line]}, and cuts {other}, which is "
            "younger; give it another unit, or say that it is cut by it.",
            place,
            (("lines", int(lines.ids[line])),),
            about=other,
        )
        for (line, other), place in sorted(told.items())
    ]

"""Areas whose unit is not the one that the tag in them says."""

from __future__ import annotations

import numpy as np
import shapely

from orvik.core.features.kind import UNIT_AREA, UNIT_TAG
from orvik.core.findings.finding import CheckInput, Finding, Fix
from orvik.core.findings.rule import looks_at, rule

rule(
    "other_unit",
    "error",
    "linework",
    "An area has another unit than the tag in it says",
    features=(
        "kind",
        "map_unit",
    ),
    why="the colour that is printed is not what the tag says",
)


@looks_at("points", "areas")
def other_units(ground: CheckInput) -> list[Finding]:
    """Unit areas in which tags of another unit stand, and none of their own."""
    points, areas = ground.points, ground.areas
    tags = np.array([i for i, kind in enumerate(points.columns["kind"]) if kind == UNIT_TAG], dtype=np.int64)
    if not len(tags) or not len(areas):
        return []
    rows, inside = ground.points_in_areas
    tagged = np.isin(rows, tags)
    rows, inside = rows[tagged], inside[tagged]
    order = np.lexsort((rows, inside))
    said: dict[int, set[str]] = {}
    spots: dict[int, int] = {}
    for tag, area in zip(rows[order].tolist(), inside[order].tolist(), strict=True):
        unit = points.columns["map_unit"][tag]
        if unit and areas.columns["kind"][area] == UNIT_AREA:
            said.setdefault(area, set()).add(str(unit))
            spots.setdefault(area, tag)
    found = []
    for area, units in sorted(said.items()):
        own = areas.columns["map_unit"][area]
        if len(units) != 1 or own in units:
            continue
        (unit,) = units
        number, tag = int(areas.ids[area]), spots[area]
        at = shapely.get_coordinates(points.geometries[tag])[0]
        size = ground.area_words(float(shapely.area(areas.geometries[area])))
        fix = Fix("recode", f"Make area {number} of {size} {unit}", unit=unit)
        message = f"Area {number} of {size} is {own or 'of no unit'}, and the tag in it says {unit}."
        keys = (("areas", number), ("points", int(points.ids[tag])))
        found.append(Finding("other_unit", "error", message, (float(at[0]), float(at[1])), keys, fix))  # type: ignore[arg-type]
    return found

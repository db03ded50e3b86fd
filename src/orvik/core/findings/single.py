"""What can be said of a feature by itself: drawn too coarsely, or a tag off the sheet."""

from __future__ import annotations

import shapely

from ..feature import Features
from ..scale import spaced
from .finding import Finding, Ground, Mend


def coarse(ground: Ground, features: Features) -> list[Finding]:
    """Features drawn at a coarser scale than the digitizing scale."""
    limit = ground.scales.digitizing
    found = []
    for i, scale in enumerate(features.columns["capture_scale"]):
        if not scale or scale <= limit:
            continue
        name = f"{str(features.columns['kind'][i]).replace('_', ' ')} {features.ids[i]}"
        if features.columns["kind"][i] == "border":
            continue
        at = shapely.get_coordinates(shapely.point_on_surface(features.geometries[i]))[0]
        found.append(
            Finding(
                "coarse", "warning",
                f"{name.capitalize()} was drawn at 1:{spaced(scale)}; this project digitizes at 1:{spaced(limit)} or larger.",
                (float(at[0]), float(at[1])), ((features.table, int(features.ids[i])),),
            )
        )  # fmt: skip
    return found


def outside(ground: Ground) -> list[Finding]:
    """Unit tags beyond the sheet border."""
    if ground.frame is None:
        return []
    found = []
    for i, kind in enumerate(ground.points.columns["kind"]):
        if kind != "unit_tag":
            continue
        point = ground.points.geometries[i]
        if not ground.within_frame((point.x, point.y)):
            number = int(ground.points.ids[i])
            found.append(
                Finding(
                    "outside", "warning",
                    f"Unit tag {number} ({ground.points.columns['map_unit'][i]}) stands outside the sheet border.",
                    (point.x, point.y), (("points", number),), Mend("delete", f"Delete unit tag {number}"),
                )
            )  # fmt: skip
    return found

"""What can be said of a feature by itself: drawn too coarsely, or a tag off the sheet."""

from __future__ import annotations

import numpy as np
import shapely

from ..feature import Features
from ..scale import spaced
from .finding import Finding, Ground, Mend


def coarse(ground: Ground, features: Features) -> list[Finding]:
    """Features drawn at a coarser scale than the digitizing scale."""
    limit = ground.scales.digitizing
    found = []
    scales = features.columns["capture_scale"]
    for i in [i for i, scale in enumerate(scales) if scale and scale > limit]:
        scale = scales[i]
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
    rows = np.flatnonzero(np.array([k == "unit_tag" for k in ground.points.columns["kind"]], dtype=bool))
    if len(rows):
        rows = rows[~ground.within_frame(shapely.get_coordinates(ground.points.geometries[rows]))]
        for i in rows.tolist():
            point = ground.points.geometries[i]
            number = int(ground.points.ids[i])
            found.append(
                Finding(
                    "outside", "warning",
                    f"Unit tag {number} ({ground.points.columns['map_unit'][i]}) stands outside the sheet border.",
                    (point.x, point.y), (("points", number),), Mend("delete", f"Delete unit tag {number}"),
                )
            )  # fmt: skip
    return found

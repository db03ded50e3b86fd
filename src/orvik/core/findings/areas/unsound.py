"""Areas that cross or touch themselves and lines without length, as another program may leave them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from orvik.core.arrays import Flags, Objects
from orvik.core.coordinates import GroundXY
from orvik.core.features.feature import Feature, Features
from orvik.core.features.kind import kind_words
from orvik.core.findings.finding import Finding, Fix
from orvik.core.findings.rule import rule

rule(
    "unsound",
    "error",
    "linework",
    "An area crosses or touches itself, or a line has no length",
    "OGC 06-103r4, 6.1.4 and 6.1.11",
    features=(
        "kind",
        "map_unit",
    ),
    why="its ground cannot be measured, and may be painted inside out",
)


def is_sound(geometries: Objects) -> Flags:
    """Which geometries are simple features as OGC 06-103r4, 6.1, has them: what can be reckoned with."""
    return np.asarray(shapely.is_valid(geometries), dtype=bool)


def parted(features: Features) -> tuple[Features, Features]:
    """The features that can be reckoned with, and the others."""
    sound = is_sound(features.geometries)
    return features.select(sound), features.select(~sound)


def patched(features: Features, unsound: Features, kept: Sequence[Feature], deleted: Sequence[int]) -> list[Features]:
    """Both after an edit: each of the features kept is in one of them."""
    geometries = np.empty(len(kept), dtype=object)
    geometries[:] = [feature.geometry for feature in kept]
    flags = is_sound(geometries).tolist()
    groups = (
        [f for f, ok in zip(kept, flags, strict=True) if ok],
        [f for f, ok in zip(kept, flags, strict=True) if not ok],
    )
    gone = [{f.id for f in groups[1 - side] if f.id is not None} | set(deleted) for side in (0, 1)]
    return [
        held.patched(groups[side], gone[side]) if groups[side] or gone[side] else held
        for side, held in enumerate((features, unsound))
    ]


def unsound(features: Features) -> list[Finding]:
    """A finding for each feature of a table that cannot be reckoned with; it is left out of all that is."""
    found = []
    for row, number in enumerate(features.ids.tolist()):
        geometry = features.geometries[row]
        name = f"{kind_words(str(features.columns['kind'][row]))} {number}"
        pieces = sound_pieces(geometry) if features.table == "areas" else []
        if features.table == "lines":
            message = f"{name.capitalize()} has no length; delete it."
        else:
            message = f"{name.capitalize()} crosses or touches itself, so that nobody can tell which ground is its own."
        if not pieces:
            fix = Fix("delete", f"Delete {name}")
        else:
            what = "one sound area" if len(pieces) == 1 else f"{len(pieces)} sound areas"
            fix = Fix("make_sound", f"Make {what} of it")
        at = _place(geometry)
        found.append(Finding("unsound", "error", message, at, ((features.table, number),), fix))
    return found


def sound_pieces(area: BaseGeometry) -> list[shapely.Polygon]:
    """The ground within the outer ring of an area and without its holes, as sound areas, the largest first."""
    try:
        made = shapely.make_valid(area, method="structure", keep_collapsed=False)
    except shapely.errors.GEOSException:
        return []
    pieces = [p for p in shapely.get_parts(made) if p.geom_type == "Polygon" and p.area > 0]
    return sorted(pieces, key=lambda p: -p.area)


def _place(geometry: BaseGeometry) -> GroundXY:
    """Where a geometry crosses itself, or one of its vertices."""
    reason = shapely.is_valid_reason(geometry)
    words = reason.partition("[")[2].rstrip("]").split()
    try:
        x, y = (float(word) for word in words[:2])
    except ValueError:
        x, y = shapely.get_coordinates(geometry)[0].tolist()
    return x, y

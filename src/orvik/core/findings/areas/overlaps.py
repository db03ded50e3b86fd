"""Unit areas that lie over one another, as areas that were imported or drawn long ago may."""

from __future__ import annotations

import numpy as np
import shapely

from orvik.core.arrays import Flags, Ints
from orvik.core.features.kind import UNIT_AREA
from orvik.core.findings.finding import CheckInput, Finding, Fix
from orvik.core.findings.rule import rule
from orvik.core.ground.scale import spaced

rule(
    "overlap",
    "error",
    "linework",
    "Unit areas lie over one another",
    "OGC 06-103r4, 6.1.11",
    features=(
        "kind",
        "map_unit",
    ),
    why="the same ground is two rocks at once",
)

# Common ground below this, in square metres, is rounding.
LEAST_M2 = 0.01


def overlaps(ground: CheckInput, rows: Ints | None = None) -> list[Finding]:
    """Pairs of unit areas that have ground in common.

    Parameters
    ----------
    rows
        Rows of areas of which one at least is in every pair; all without it.
    """
    areas = ground.areas
    of_units = np.array([k == UNIT_AREA for k in areas.columns["kind"]], dtype=bool)
    chosen = np.flatnonzero(of_units) if rows is None else np.intersect1d(np.flatnonzero(of_units), rows)
    if rows is None:
        # Faces have no ground in common, and most areas are just one of them.
        chosen = chosen[~_faces_as_they_stand(ground)[chosen]]
    if not len(chosen):
        return []
    hits, others = ground.area_tree.query(areas.geometries[chosen], predicate="intersects")
    ones = chosen[hits]
    asked = set(chosen.tolist())
    keep = of_units[others] & (ones != others)
    keep &= np.array([o not in asked or a < o for a, o in zip(ones.tolist(), others.tolist(), strict=True)], dtype=bool)
    ones, others = ones[keep], others[keep]
    # Interiors in common; neighbours that share an edge have none.
    inner = shapely.relate_pattern(areas.geometries[ones], areas.geometries[others], "T********")
    found = []
    for a, b in sorted((min(p), max(p)) for p in zip(ones[inner].tolist(), others[inner].tolist(), strict=True)):
        common = shapely.intersection(areas.geometries[a], areas.geometries[b])
        square = float(common.area) * ground.metres_per_unit**2
        if square < LEAST_M2:
            continue
        at = shapely.get_coordinates(shapely.point_on_surface(common))[0]
        older, newer = int(areas.ids[a]), int(areas.ids[b])
        found.append(
            Finding(
                "overlap",
                "error",
                f"Unit areas {older} and {newer} lie over one another "
                f"on {spaced(square, 0 if square >= 10 else 2)} m².",
                (float(at[0]), float(at[1])),
                (("areas", newer), ("areas", older)),
                Fix("give_way", f"Cut unit area {newer} back"),
            )
        )
    return found


def _faces_as_they_stand(ground: CheckInput) -> Flags:
    """Which areas are each the one area of a face, vertex for vertex."""
    areas, faces = ground.areas.geometries, ground.faces.polygons
    if not len(areas) or not len(faces):
        return np.zeros(len(areas), dtype=bool)
    by_box = {box.tobytes(): face for face, box in enumerate(shapely.bounds(faces))}
    face = np.array([by_box.get(box.tobytes(), -1) for box in shapely.bounds(areas)], dtype=np.int64)
    same = face >= 0
    same[same] = shapely.equals_exact(faces[face[same]], areas[same])
    # Two areas of one face lie over one another.
    count = np.bincount(face[same], minlength=len(faces))
    same[same] = count[face[same]] == 1
    return same

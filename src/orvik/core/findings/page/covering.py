"""Parts that lie over the mapped ground of a panel."""

from __future__ import annotations

from functools import partial

import numpy as np
import shapely

from orvik.core.findings.finding import Finding
from orvik.core.findings.page.placing import covers
from orvik.core.findings.page.sheet_ground import SheetGround
from orvik.core.findings.rule import of_sheet, rule
from orvik.core.ground.scale import figures
from orvik.core.ink.affine import apply

rule(
    "covers_map",
    "warning",
    "sheet",
    "A part lies over ground that is mapped",
    why="mapped ground is printed under it",
    spoils="reading",
)

# Square millimetres of mapped ground that a part hides before it is told, and which share of it they are.
LEAST_MM2, LEAST_SHARE = 25.0, 0.05


@of_sheet
def covers_map(ground: SheetGround) -> list[Finding]:
    """Boxes, pictures and panels that hide unit areas of a panel that lies below them."""
    parts = list(ground.parts.values())
    out = []
    for i, part in enumerate(parts):
        panel = ground.page.panels.get(part.number)
        if panel is None:
            continue
        areas = ground.page.shown(part.number).features["areas"]
        mapped = areas.geometries[np.array([bool(unit) for unit in areas.columns["map_unit"]], dtype=bool)]
        tree = shapely.STRtree(mapped)
        for over in parts[i + 1 :]:
            cover = covers(over, ground)
            if cover is None or not cover.intersects(panel.page_area):
                continue
            there = shapely.transform(cover, partial(apply, panel.to_ground))
            rows = tree.query(there, predicate="intersects")
            shared = shapely.area(shapely.intersection(mapped[rows], there)) * panel.mm_per_unit**2
            square = float(shared.sum())
            if square < LEAST_MM2 or square < LEAST_SHARE * cover.area:
                continue
            middle = shapely.centroid(shapely.intersection(cover, panel.page_area))
            message = (
                f"{over.label} lies over {figures(square / 100, 2)} cm² of what {part.label} has mapped; move it "
                "over water or beside the map."
            )
            numbers = (over.number, part.number)
            spot = (float(middle.x), float(middle.y))
            out.append(Finding("covers_map", "warning", message, None, (), None, (), numbers, spot))
    return out

"""Labels that find no room on a panel."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
import shapely

from orvik.core.findings.finding import Finding
from orvik.core.findings.page.sheet_ground import SheetGround
from orvik.core.findings.rule import of_sheet
from orvik.core.ground.scale import spaced
from orvik.core.ink.affine import apply
from orvik.core.labels.labelled import Labelling
from orvik.core.sheet.panels.panel import Panel

WORDS = {"areas": "area", "lines": "line", "points": "point"}


@of_sheet
def of_panels(ground: SheetGround) -> list[Finding]:
    """Those of all panels of a sheet."""
    return without_room(ground.page.panels, ground.labels)


def without_room(panels: Mapping[int, Panel], labels: Mapping[int, Labelling]) -> list[Finding]:
    """A finding for each label without room; panels and their labels by the numbers of their parts."""
    out = []
    for number, labelling in labels.items():
        panel = panels[number]
        for request in labelling.without_room:
            place = shapely.point_on_surface(shapely.intersection(request.geometry, panel.ground))
            if place.is_empty:
                continue
            x, y = apply(panel.to_page, np.array([(place.x, place.y)]))[0]
            chars, key = request.run.chars, request.key
            message = (
                f"“{chars}” of {WORDS[key.table]} {key.id} has no room on {panel.part.label} at "
                f"1:{spaced(panel.scale)}; move it by hand, or hide it."
            )
            features = ((key.table, key.id),)
            spot = (float(x), float(y))
            said = f"labels have no room on {panel.part.label} at 1:{spaced(panel.scale)}; move or hide them by hand."
            subject = f"“{chars}” of {WORDS[key.table]} {key.id}"
            out.append(
                Finding(
                    "label",
                    "warning",
                    message,
                    None,
                    features,
                    parts=(number,),
                    spot=spot,
                    about=chars,
                    shared=said,
                    subject=subject,
                )
            )
    return out

"""Labels that find no room on the sheet."""

from __future__ import annotations

from collections.abc import Sequence

import shapely

from orvik.core.findings.finding import Finding
from orvik.core.findings.rule import rule
from orvik.core.ground.scale import spaced
from orvik.core.labels.label_request import LabelRequest

rule(
    "label",
    "warning",
    "letters",
    "A label has no room",
    features=(
        "kind",
        "map_unit",
        "azimuth",
        "inclination",
        "fields",
    ),
    why="the area or point goes unnamed",
    spoils="reading",
)


def unwritten(label_requests: Sequence[LabelRequest], publication: int) -> list[Finding]:
    """A finding for each label without room at the publication scale."""
    found = []
    for request in label_requests:
        place = shapely.point_on_surface(request.geometry)
        what = {"areas": "area", "lines": "line", "points": "point"}[request.key.table]
        found.append(
            Finding(
                "label",
                "warning",
                f"“{request.run.chars}” of {what} {request.key.id} has no room at 1:{spaced(publication)}; "
                "move it by hand, or hide it.",
                (place.x, place.y),
                ((request.key.table, request.key.id),),
                facts=(request.run.chars, f"1:{publication}"),
                shared=f"labels have no room at 1:{spaced(publication)}; move them by hand, or hide them.",
                subject=f"“{request.run.chars}” of {what} {request.key.id}",
            )
        )
    return found

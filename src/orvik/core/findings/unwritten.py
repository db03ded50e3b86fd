"""Labels that find no room on the sheet."""

from __future__ import annotations

from collections.abc import Sequence

import shapely

from orvik.core.findings.finding import Finding
from orvik.core.ground.scale import spaced
from orvik.core.labels.wish import Wish


def unwritten(wishes: Sequence[Wish], publication: int) -> list[Finding]:
    """A finding for each label without room at the publication scale."""
    found = []
    for wish in wishes:
        place = shapely.point_on_surface(wish.geometry)
        what = {"areas": "area", "lines": "line", "points": "point"}[wish.key.table]
        found.append(
            Finding(
                "label",
                "warning",
                f"“{wish.run.chars}” of {what} {wish.key.id} has no room at 1:{spaced(publication)}; "
                "move it by hand, or hide it.",
                (place.x, place.y),
                ((wish.key.table, wish.key.id),),
                facts=(wish.run.chars, f"1:{publication}"),
            )
        )
    return found

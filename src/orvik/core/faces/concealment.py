"""Bands and what lies over them: where a unit cuts a band, the band is concealed."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
import shapely

from orvik.core.features.band import Band
from orvik.core.features.feature import Feature
from orvik.core.features.stretch import Stretch, certainties, normalized, runs
from orvik.core.geometry.vertices import paths_of, with_vertex

# A vertex so near to the edge of a cover is on it, in project units; otherwise each look would add another.
SAME = 0.01


def covered(line: Feature, areas: Iterable[Feature]) -> Feature:
    """A band that is concealed below the units that cut it, and seen elsewhere.

    It gets a vertex where it passes below a unit, so that the stretch ends exactly there. Stretches of
    another certainty stay.

    Parameters
    ----------
    line
        A line with a band.
    areas
        The unit areas around it.
    """
    band: Band | None = line.band
    if band is None:
        return line
    over = [a.geometry for a in areas if a.map_unit in band.cut_by]
    cover = shapely.union_all(over)
    marked = line
    if over:
        for place in shapely.get_coordinates(shapely.intersection(line.geometry, shapely.boundary(cover))).tolist():
            held = paths_of(marked)[0]
            if np.hypot(held[:, 0] - place[0], held[:, 1] - place[1]).min() > SAME:
                marked = with_vertex(marked, (place[0], place[1]))
    xy = paths_of(marked)[0]
    middles = shapely.points((xy[:-1] + xy[1:]) / 2)
    below: list[bool] = np.asarray(shapely.intersects(cover, middles)).tolist() if over else [False] * (len(xy) - 1)
    base = marked.certainty
    values = certainties(base, marked.stretches, len(xy) - 1)
    open_value = base if base != "concealed" else "certain"
    now = [
        "concealed" if hidden else (value if value != "concealed" else open_value)
        for value, hidden in zip(values, below, strict=True)
    ]
    seen_now = [Stretch(a, b, value) for a, b, value in runs(now)]
    others = tuple(s for s in marked.stretches if s.side != "line")
    return marked.changed(stretches=(*others, *normalized(base, seen_now, len(xy) - 1)))

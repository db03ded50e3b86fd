"""The outline of the land as one drawing, for pointing at the ground of a new project."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import shapely

from orvik.core.ground.land import land

# As fine as is seen where the whole earth is a hand across; in degrees and square degrees.
FINE, SMALLEST = 0.04, 0.012


@lru_cache(maxsize=1)
def land_svg() -> str:
    """An SVG whose only path, ``land``, is in degrees: longitude to the right and latitude upwards."""
    simple = shapely.simplify(land(), FINE)
    rings = shapely.get_rings(simple[shapely.area(simple) >= SMALLEST])
    paths = "".join(_ring(np.round(shapely.get_coordinates(ring) * [1, -1], 2)[:-1].tolist()) for ring in rings)
    return (
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="-180 -90 360 180">'
        f'<path id="land" fill-rule="evenodd" d="{paths}"/></svg>'
    )


def _ring(places: list[list[float]]) -> str:
    return "M" + "L".join(f"{x:g} {y:g}" for x, y in places) + "Z"

"""What lies on which side of a line, in words, so that a one-sided ornament can be checked before it is kept."""

from __future__ import annotations

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.features.attitude import compass_point
from orvik.core.ground.crs import ProjectCrs
from orvik.core.symbols.symbol import Symbol


def side_in_words(xy: Floats, symbol: Symbol, crs: ProjectCrs) -> str:
    """Where the ornaments of a line stand and what lies there: ``To the northeast: the upper plate``.

    Ornaments stand to the right of a line. The direction is that from its course as a whole, from its first vertex
    to its last, and of a closed line whether they stand inside.

    Parameters
    ----------
    xy
        (n, 2) in project coordinates.

    Returns
    -------
    Empty for a symbol that is the same on both sides, and for a line that has no course yet.
    """
    if not symbol.side or len(xy) < 2:
        return ""
    closed = len(xy) > 3 and bool((xy[0] == xy[-1]).all())
    if not closed and (xy[0] == xy[-1]).all():
        return ""
    where = _inside(xy) if closed else f"To the {right_of(xy, crs)}"
    return f"{where}: {symbol.side}"


def right_of(xy: Floats, crs: ProjectCrs) -> str:
    """The compass point to the right of a line's course."""
    dx, dy = xy[-1] - xy[0]
    middle = xy.mean(axis=0)
    azimuth = float(np.degrees(np.arctan2(dx, dy)) + crs.convergence(middle[0], middle[1]))
    return compass_point(azimuth + 90)


def _inside(xy: Floats) -> str:
    return "Outside" if shapely.LinearRing(xy).is_ccw else "Inside"

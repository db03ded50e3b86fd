"""Traces of planes over relief against scikit-image's contours of the height difference."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from skimage.measure import find_contours

from tests.core.structure.relief import CELL, hills, some_plane
from tests.examples import MANY


@pytest.mark.parametrize("seed", range(100 if MANY else 12))
def test_traces_are_contours_of_the_difference(seed: int) -> None:
    """skimage.measure.find_contours, which goes by cells as marching squares do: within half a cell both ways."""
    ground = hills(500 + seed)
    plane = some_plane(seed, ground)
    x, y = np.meshgrid(ground.east_of_middles, ground.north_of_middles)
    below = plane.height_at(np.column_stack([x.ravel(), y.ravel()])).reshape(x.shape)
    theirs = [
        np.column_stack([(line[:, 1] + 0.5) * CELL + ground.west, ground.north - (line[:, 0] + 0.5) * CELL])
        for line in find_contours(ground.heights - below, 0.0)
    ]
    one = shapely.multilinestrings([shapely.LineString(line) for line in plane.trace(ground)])
    other = shapely.multilinestrings([shapely.LineString(line) for line in theirs if len(line) > 1])
    assert shapely.hausdorff_distance(shapely.segmentize(one, 5), shapely.segmentize(other, 5)) < CELL / 2
    # Saddles may be joined either way, which hardly changes the length.
    assert one.length == pytest.approx(other.length, rel=0.01)

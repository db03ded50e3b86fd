"""What a line of a section says of itself: dips and thicknesses by construction."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely

from orvik.core.structure.section.carried import CarriedReading
from orvik.core.structure.section.line_measures import dip_of, measures_of
from tests.examples import SEED


def reading(along: float, up: float, apparent: float, true: float) -> CarriedReading:
    return CarriedReading(5, "bedding", along, up, apparent, true, 0.0, False)


@pytest.mark.parametrize("dip", range(-85, 90, 10))
def test_a_parallel_is_as_far_above_as_it_was_drawn(dip: int) -> None:
    """GEOS draws the parallel; the distance is asked of it again."""
    down = math.radians(dip)
    line = shapely.LineString([(0, 0), (1000 * math.cos(down), -1000 * math.sin(down))])
    above = line.offset_curve(236.0)
    found = measures_of(line, [(7, above), (8, line.offset_curve(900.0)), (9, line.offset_curve(-50.0))], [])
    assert found.thickness == pytest.approx(236.0, abs=1e-6)
    assert found.above == 7
    assert found.apparent_dip == pytest.approx(dip, abs=1e-9)
    assert found.true_thickness is None
    assert dip_of(shapely.reverse(line)) == pytest.approx(dip, abs=1e-9)


@pytest.mark.parametrize("number", range(60))
def test_true_thickness_is_that_of_the_bed_whatever_way_the_section_runs(number: int) -> None:
    """Two planes in space, cut by a section at any angle: their distance comes out again."""
    rng = np.random.default_rng(SEED + number)
    dip, beside, thick = math.radians(rng.uniform(3, 80)), math.radians(rng.uniform(0, 80)), float(rng.uniform(5, 500))
    apparent = math.atan(math.tan(dip) * math.cos(beside))
    # One lies above the other by its thickness over the cosine of the dip.
    high = thick / math.cos(dip)
    a, b = (0.0, 0.0), (2000.0, -2000.0 * math.tan(apparent))
    base = shapely.LineString([a, b])
    top = shapely.LineString([(x * 4 - 4000, y * 4 + 4000 * math.tan(apparent) + high) for x, y in (a, b)])
    beds = [reading(1000.0, 0.0, math.degrees(apparent), math.degrees(dip))]
    found = measures_of(base, [(2, top)], beds)
    assert found.true_thickness == pytest.approx(thick, rel=1e-6)
    assert found.thickness is not None
    assert found.thickness >= thick - 1e-6


def test_a_reading_far_along_says_nothing_and_nothing_above_is_no_thickness() -> None:
    line = shapely.LineString([(0, 0), (100, -50)])
    found = measures_of(line, [], [reading(5000.0, 0.0, 10.0, 20.0)])
    assert (found.thickness, found.above, found.reading, found.true_thickness) == (None, None, None, None)
    upright = measures_of(shapely.LineString([(0, 0), (0, -100)]), [(2, shapely.LineString([(50, 0), (50, -90)]))], [])
    assert abs(upright.apparent_dip) == 90

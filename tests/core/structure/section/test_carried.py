"""Readings carried onto a section: apparent dips after handbooks, and planes that come to the section where they do."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely

from orvik.core.features.attitude import Attitude
from orvik.core.structure.plane import Plane
from orvik.core.structure.section.carried import FoldAxis, StationReading, carried
from orvik.core.structure.section.section_line import SectionLine

EAST = SectionLine.of(shapely.LineString([(0, 0), (1000, 0)]), 1.0)


def reading(
    x: float, y: float, strike: float, dip: float, convergence: float = 0.0, up: float = 100.0
) -> StationReading:
    return StationReading(1, "bedding", (x, y, up), Attitude(strike, dip), convergence)


@pytest.mark.parametrize("seed", range(60))
def test_a_carried_reading_lies_on_its_plane(seed: int) -> None:
    """Where it stands on the section, its plane has that height; and two places along the section give its dip."""
    rng = np.random.default_rng(seed)
    line = SectionLine.of(shapely.LineString(rng.uniform(0, 2000, (3, 2))), 1.0)
    place = line.at(np.array([rng.uniform(0.2, 0.8) * line.length]))[0] + rng.uniform(-60, 60, 2)
    convergence = float(rng.uniform(-4, 4))
    one = reading(*place.tolist(), float(rng.uniform(0, 359)), float(rng.uniform(2, 85)), convergence)
    for found in carried(line, [one], 200.0):
        if found.straight:
            continue
        plane = Plane.of_attitude(one.place, one.attitude, convergence)
        assert plane.height_at(line.at(np.array([found.along])))[0] == pytest.approx(found.up, abs=1e-6)
        leg = line.leg_at(np.array([found.along]))[0]
        inside = np.clip([found.along - 1, found.along + 1], line.stations[leg], line.stations[leg + 1] - 1e-6)
        before, behind = plane.height_at(line.at(inside)).tolist()
        fall = math.degrees(math.atan((before - behind) / (inside[1] - inside[0])))
        assert found.apparent_dip == pytest.approx(fall, abs=0.05)


def test_across_the_strike_a_dip_is_true_and_along_it_nothing() -> None:
    (across,) = carried(EAST, [reading(500, 50, 0.0, 40.0)], 100.0)
    assert across.apparent_dip == pytest.approx(40)
    assert (across.along, across.away, across.straight) == (500, 50, False)
    (along,) = carried(EAST, [reading(500, 50, 90.0, 40.0)], 100.0)
    assert along.apparent_dip == pytest.approx(0, abs=1e-9)
    assert along.straight
    # tan a = tan d sin b: 40 degrees, seen at 30 degrees from the strike, shows as 22.8 (computed by hand).
    (oblique,) = carried(EAST, [reading(500, 50, 60.0, 40.0)], 100.0)
    assert oblique.apparent_dip == pytest.approx(22.76, abs=0.01)
    # Beds that dip against the way show as negative.
    (against,) = carried(EAST, [reading(500, 50, 180.0, 40.0)], 100.0)
    assert against.apparent_dip == pytest.approx(-40)


def test_what_lies_outside_the_corridor_is_left_out_and_convergence_turns_the_strike() -> None:
    assert carried(EAST, [reading(500, 101, 0.0, 40.0)], 100.0) == []
    (turned,) = carried(EAST, [reading(500, 60, 30.0, 40.0, convergence=30.0)], 100.0)
    assert turned.apparent_dip == pytest.approx(40)
    assert turned.along == pytest.approx(500)


def test_along_a_fold_axis_it_goes_down_the_plunge() -> None:
    (found,) = carried(EAST, [reading(500, 60, 10.0, 40.0)], 100.0, FoldAxis(180.0, 10.0))
    assert found.up == pytest.approx(100 - 60 * math.tan(math.radians(10)))
    assert found.along == pytest.approx(500)
    (behind,) = carried(EAST, [reading(500, -60, 10.0, 40.0)], 100.0, FoldAxis(180.0, 10.0))
    assert behind.up == pytest.approx(100 + 60 * math.tan(math.radians(10)))

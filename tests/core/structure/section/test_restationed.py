"""What is drawn on a section stays where it is on the ground when the section line is drawn otherwise."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from orvik.core.structure.section.restationed import restationed
from orvik.core.structure.section.section_line import SectionLine
from tests.examples import SEED


def random_line(rng: np.random.Generator) -> SectionLine:
    """A line with gentle bends, about to the east."""
    along = np.cumsum(rng.uniform(300, 900, 5))
    return SectionLine(np.column_stack([along, np.cumsum(rng.uniform(-120, 120, 5))]))


@pytest.mark.parametrize("number", range(40))
def test_places_on_a_line_are_found_again_on_it_however_it_is_drawn(number: int) -> None:
    """Turned round, lengthened at both ends, with vertices more: shapely's linear referencing is the judge."""
    rng = np.random.default_rng(SEED + number)
    line = random_line(rng)
    along = rng.uniform(0, line.length, 50)
    places = shapely.points(line.at(along))
    ways = np.diff(line.xy, axis=0) / line.steps[:, None]
    for other in (
        line.xy[::-1],
        np.vstack([line.xy[0] - 250.0 * ways[0], line.xy, line.xy[-1] + 400.0 * ways[-1]]),
        np.vstack([line.xy[:1], (line.xy[0] + line.xy[1]) / 2, line.xy[1:]]),
    ):
        new = SectionLine(other)
        found = restationed(line, new, along)
        wanted = shapely.line_locate_point(new.whole, places)
        # Where a bend folds back, one of two feet is meant; these lines do not.
        assert found == pytest.approx(wanted, abs=1e-6)


def test_beyond_the_ends_it_goes_straight_on() -> None:
    line = SectionLine(np.array([(0.0, 0.0), (100.0, 0.0), (100.0, 100.0)]))
    assert restationed(line, line, np.array([-30.0, 0.0, 100.0, 150.0, 260.0])).tolist() == [-30, 0, 100, 150, 260]
    shorter = SectionLine(np.array([(40.0, 0.0), (100.0, 0.0), (100.0, 100.0)]))
    assert restationed(line, shorter, np.array([0.0, 40.0, 150.0])).tolist() == [-40, 0, 110]

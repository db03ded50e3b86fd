"""Where sections meet the map: parted ends, lines that are moved to it, by construction and by random lines."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from orvik.core.features.feature import Feature
from orvik.core.structure.section.meeting import MET, MeetingPlace, ends_met, met_count, parted
from orvik.core.structure.section.moved import moved_to_map
from tests.examples import SEED


def line(*xy: tuple[float, float]) -> shapely.LineString:
    return shapely.LineString(xy)


def features(*lines: shapely.LineString) -> dict[int, Feature]:
    return {i: Feature("lines", one, "contact", id=i) for i, one in enumerate(lines, 1)}


def place(number: int, along: float, up: float) -> MeetingPlace:
    return MeetingPlace(number, (along, up), f"line {number}")


def test_an_end_parts_where_its_line_crosses_elsewhere() -> None:
    held = {1: (line((100, 50), (200, -100)), (7, None)), 2: (line((500, -300), (400, 60)), (None, 8))}
    assert parted(held, [place(7, 100, 50), place(8, 400, 60)]) == []
    assert met_count(held, [place(7, 100, 50), place(8, 400, 60), place(9, 800, 60)]) == 2
    # Within rounding it is where it was.
    assert parted(held, [place(7, 100 + MET / 2, 50), place(8, 400, 60)]) == []
    first, second = parted(held, [place(7, 141, 55), place(7, 900, 55)])
    assert (first.line, first.last, first.meets, first.now) == (1, False, 7, (141, 55))
    assert first.away == pytest.approx(np.hypot(41, 5))
    # The other one crosses no more.
    assert (second.line, second.last, second.now, second.away) == (2, True, None, None)


def test_an_end_between_two_crossings_is_of_neither() -> None:
    assert ends_met(line((100, 50), (200, -100)), [place(1, 100, 50), place(2, 210, 50)]) == (1, None)
    assert ends_met(line((101, 50), (200, -100)), [place(1, 100, 50)]) == (None, None)
    assert ends_met(line((100, 50), (210, 50)), [place(1, 100, 50), place(2, 210, 50)]) == (1, 2)


def test_a_line_goes_along_with_its_end_and_what_ends_on_it_too() -> None:
    there = features(
        line((0, 0), (100, -100), (200, -200)), line((100, -100), (300, -100)), line((300, -100), (400, 0))
    )
    held = {1: (there[1].geometry, (7, None))}
    moved = {f.id: f.geometry for f in moved_to_map(there, parted(held, [place(7, 40, 8)]))}
    assert set(moved) == {1, 2}
    assert shapely.get_coordinates(moved[1]) == pytest.approx(np.array([(40, 8), (120, -96), (200, -200)]))
    # The branch keeps its other end, and so does what begins there.
    assert shapely.get_coordinates(moved[2]) == pytest.approx(np.array([(120, -96), (300, -100)]))


def test_both_ends_go_where_they_belong_and_rings_of_branches_come_to_rest() -> None:
    there = features(line((0, 0), (50, -80), (100, 0)), line((50, -80), (50, -200)), line((50, -200), (90, -200)))
    held = {1: (there[1].geometry, (7, 8))}
    moved = {f.id: f.geometry for f in moved_to_map(there, parted(held, [place(7, 10, 0), place(8, 90, 4)]))}
    assert shapely.get_coordinates(moved[1])[[0, -1]].tolist() == [[10, 0], [90, 4]]
    assert shapely.get_coordinates(moved[2])[0] == pytest.approx([50, -78])
    assert set(moved) == {1, 2}


@pytest.mark.parametrize("number", range(40))
def test_random_lines_end_where_the_map_is_and_keep_what_hangs_on_them(number: int) -> None:
    """After a move every end meets, every junction is one still, and vertices moved no further than their ends."""
    rng = np.random.default_rng(SEED + number)
    trunks = [line(*rng.uniform((i * 200, -300), (i * 200 + 150, 0), (6, 2))) for i in range(5)]
    branches = []
    for trunk in trunks:
        foot = trunk.interpolate(float(rng.uniform(0.1, 0.9)), normalized=True)
        branches.append(line((foot.x, foot.y), tuple(rng.uniform((0, -900), (1000, -400)))))
    there = features(*trunks, *branches)
    held = {i: (trunk, (100 + i, None)) for i, trunk in enumerate(trunks, 1)}
    shifts = rng.uniform(-30, 30, (5, 2))
    now = [place(100 + i, *(np.array(t.coords[0]) + shifts[i - 1])) for i, t in enumerate(trunks, 1)]
    moved = {f.id: f.geometry for f in moved_to_map(there, parted(held, now))}
    assert set(moved) == set(range(1, 11))
    for i, trunk in enumerate(trunks, 1):
        assert np.array(moved[i].coords[0]) == pytest.approx(now[i - 1].place)
        assert np.array(moved[i].coords[-1]) == pytest.approx(np.array(trunk.coords[-1]))
        far = np.hypot(*(shapely.get_coordinates(moved[i]) - shapely.get_coordinates(trunk)).T)
        assert far.max() <= np.hypot(*shifts[i - 1]) + 1e-9
        assert moved[i].distance(shapely.Point(moved[5 + i].coords[0])) < 1e-6

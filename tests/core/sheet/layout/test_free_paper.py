"""Where new parts land: on free paper wherever there is any, tried place by place."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from orvik.core.sheet.layout.free_paper import EDGE, free_place
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts.box import Box
from orvik.core.sheet.parts.graticule.graticule import Graticule


@pytest.mark.parametrize("seed", range(25))
def test_a_part_lies_over_nothing_where_the_page_has_room(seed: int) -> None:
    rng = np.random.default_rng(seed)
    sheet = Sheet("A", "A3", 420.0, 297.0)
    parts = []
    for _ in range(int(rng.integers(0, 9))):
        width, height = rng.uniform(20, 190), rng.uniform(10, 130)
        parts.append(Part(Box(), rng.uniform(0, 420 - width), rng.uniform(0, 297 - height), width, height))
    parts.append(Part(Graticule(panel=1), 0.0, 0.0, 420.0, 297.0))
    width, height = rng.uniform(20, 160), rng.uniform(8, 120)
    x, y = free_place(sheet, parts, width, height)
    taken = shapely.union_all([shapely.box(p.x, p.y, p.x + p.width, p.y + p.height) for p in parts[:-1]])
    mine = shapely.box(x, y, x + width, y + height)
    assert shapely.box(0, 0, 420, 297).contains(mine)
    tried = [
        shapely.box(left, top, left + width, top + height)
        for left in np.arange(EDGE, 420 - EDGE - width, 7.0)
        for top in np.arange(EDGE, 297 - EDGE - height, 7.0)
    ]
    free = [one for one in tried if one.buffer(3).disjoint(taken)]
    if free:
        assert mine.disjoint(taken)
    else:
        assert mine.intersection(taken).area <= min(one.intersection(taken).area for one in tried) * 1.5 + 400


def test_an_empty_page_takes_it_in_its_middle_and_what_is_too_large_too() -> None:
    sheet = Sheet("A", "A4", 210.0, 297.0)
    assert free_place(sheet, [], 80.0, 40.0) == (65.0, 128.5)
    assert free_place(sheet, [], 300.0, 40.0) == (-45.0, 128.5)

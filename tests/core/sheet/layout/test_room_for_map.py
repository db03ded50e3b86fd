"""Enlarge into free space: the largest frame that meets no other part, against a search on a fine grid."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.errors import SheetRefused
from orvik.core.sheet.layout.room_for_map import CLEAR, most_room
from orvik.core.sheet.page.page import PageLayout, Sheet
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts.graticule.graticule import Graticule
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.core.sheet.parts.title import Title
from tests.examples import examples

SHEET = Sheet("S", "A4", 297, 210, 1, PageLayout(left=10, top=10, right=10, bottom=10))
PANEL = Part(MapPanel(scale=25_000, centre=(0, 0)), 100, 80, 20, 20, id=1)


@given(st.lists(st.tuples(st.integers(0, 28), st.integers(0, 20), st.integers(1, 12), st.integers(1, 9)), max_size=6))
@examples(60)
def test_no_larger_frame_would_do(boxes: list[tuple[int, int, int, int]]) -> None:
    titles = [Part(Title(text="T"), 10 * x, 10 * y, 10 * w, 10 * h, id=i) for i, (x, y, w, h) in enumerate(boxes, 2)]
    parts = [PANEL, *titles]
    # What lies whole on the panel goes with it.
    held = shapely.box(PANEL.x, PANEL.y, PANEL.x + PANEL.width, PANEL.y + PANEL.height)
    beside = [p for p in titles if not held.covers(shapely.box(p.x, p.y, p.x + p.width, p.y + p.height))]
    taken = shapely.union_all(
        [shapely.box(p.x - CLEAR, p.y - CLEAR, p.x + p.width + CLEAR, p.y + p.height + CLEAR) for p in beside]
    )
    try:
        x, y, width, height = most_room(SHEET, PANEL, parts)
    except SheetRefused:
        x, y, width, height = PANEL.x, PANEL.y, PANEL.width, PANEL.height
    else:
        frame = shapely.box(x, y, x + width, y + height)
        assert shapely.intersection(frame, taken).area < 1e-6
        assert shapely.box(10, 10, 287, 200).buffer(1e-6).contains(frame)
    # The largest rectangle of free cells of a centimetre, row by row: what is found is not a smaller.
    cells = [[shapely.box(10 + i * 5, 10 + j * 5, 15 + i * 5, 15 + j * 5) for i in range(55)] for j in range(38)]
    free = ~np.array([[cell.intersects(taken) for cell in row] for row in cells])
    heights, best = np.zeros(55, dtype=int), 0
    for row in free:
        heights = np.where(row, heights + 1, 0)
        for i in range(55):
            low = 99
            for j in range(i, 55):
                low = min(low, int(heights[j]))
                best = max(best, low * (j - i + 1))
    assert width * height >= best * 25 - 1e-6


def test_parts_on_the_panel_are_no_hindrance_and_figures_have_room() -> None:
    bar = Part(Title(text="T"), 102, 90, 10, 5, id=2)
    assert most_room(SHEET, PANEL, [PANEL, bar]) == pytest.approx((10, 10, 277, 190))
    lines = Part(Graticule(panel=1), 0, 0, 10, 10, id=3)
    assert most_room(SHEET, PANEL, [PANEL, bar, lines]) == pytest.approx((18, 18, 261, 174))


def test_no_more_room_is_said() -> None:
    whole = PANEL.changed(x=10, y=10, width=277, height=190)
    with pytest.raises(SheetRefused, match="no more room"):
        most_room(SHEET, whole, [whole])

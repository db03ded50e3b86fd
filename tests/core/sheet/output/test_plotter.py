"""Sheets on a roll, turned, cut by margins, and in tiles that make the sheet again."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from orvik.core.errors import SheetRefused
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Fill, Group, walk
from orvik.core.sheet.output.plotter import Plotter, cut_by_margins, printed
from orvik.core.sheet.page.page import Sheet

A3 = Sheet("Test", "A3", 420.0, 297.0)


def square(x: float, y: float, side: float = 10.0) -> Group:
    corners = [(x, y), (x + side, y), (x + side, y + side), (x, y + side), (x, y)]
    return Group("part", (Fill(INK, Paths.of(corners), np.array([0, 1])),), title="Square")


def test_across_the_roll_as_it_is_and_turned_where_it_must() -> None:
    (page,) = printed([square(0, 0)], A3, Plotter(roll=610, margin=5))
    assert (page.width, page.height) == (610, 297)
    assert page.shows == (0, 5, 420, 292)
    (page,) = printed([square(0, 0)], A3, Plotter(roll=297, margin=5))
    assert (page.width, page.height) == (297, 420)
    # Turned clockwise: the upper left corner comes to the upper right.
    (fill,) = (i for i in walk(page.items) if isinstance(i, Fill))
    assert fill.paths.xy.min(axis=0).tolist() == [287, 0]
    assert page.shows == (5, 5, 415, 292)


def test_a_roll_that_is_too_narrow_is_refused() -> None:
    with pytest.raises(SheetRefused, match="wider roll"):
        printed([], A3, Plotter(roll=200))


def test_what_margins_cut_is_said() -> None:
    pages = printed([square(0, 0)], A3, Plotter(roll=420, margin=6))
    said = cut_by_margins({"Square": (0.0, 0.0, 10.0, 10.0), "Inside": (50.0, 50.0, 60.0, 60.0)}, pages)
    assert said == ["The margins cut 6.0 mm off Square."]


@pytest.mark.parametrize("paper", ["A4", "A3", "A2"])
@pytest.mark.parametrize("overlap", [0.0, 10.0, 25.0])
@pytest.mark.parametrize("size", [(841.0, 1189.0), (420.0, 297.0), (100.0, 2000.0)])
def test_tiles_cover_the_sheet_and_share_their_overlap(paper: str, overlap: float, size: tuple[float, float]) -> None:
    sheet = Sheet("Test", "Custom size", *size)
    pages = printed([square(0, 0)], sheet, Plotter(paper=paper, margin=5, overlap=overlap))
    shown = [shapely.box(*page.shows) for page in pages]
    assert shapely.union_all(shown).equals(shapely.box(0, 0, *size))
    for page in pages:
        left, top, right, bottom = page.shows
        assert right - left <= page.width - 10 + 1e-9
        assert bottom - top <= page.height - 10 + 1e-9
    for one in pages:
        for other in pages:
            if one.shows[1] == other.shows[1] and one.shows[0] < other.shows[0] < one.shows[2] - 1e-9:
                assert one.shows[2] - other.shows[0] >= overlap - 1e-9


def test_each_tile_shows_its_own_at_true_size() -> None:
    mark = square(300, 200)
    for page in printed([mark], A3, Plotter(paper="A4", margin=5, overlap=10)):
        (group,) = (i for i in page.items if isinstance(i, Group))
        (fill,) = (i for i in walk([group]) if isinstance(i, Fill))
        here = np.array([300.0, 200.0]) - page.shows[:2] + 5.0
        assert fill.paths.xy.min(axis=0) == pytest.approx(here)
        assert np.ptp(fill.paths.xy, axis=0) == pytest.approx([10, 10])

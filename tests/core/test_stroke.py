from __future__ import annotations

import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.errors import FeatureRefused
from orvik.core.signs import catalogue
from orvik.core.stroke import Drawing, Vertex

BOOK = catalogue.standard()
CONTACT, AREA, EDGE = BOOK.pen("contact-certain"), BOOK.pen("unit_area-certain"), BOOK.pen("border-certain")


def drawn(pen: catalogue.Pen, *places: tuple[float, float], scale: int = 6250) -> Drawing:
    drawing = Drawing(pen)
    for x, y in places:
        drawing = drawing.pressed(Vertex(x, y, scale))
    return drawing


def test_two_presses_on_one_place_are_one_vertex() -> None:
    assert len(drawn(CONTACT, (0, 0), (5, 5), (5, 5)).vertices) == 2


def test_back_and_length() -> None:
    drawing = drawn(CONTACT, (0, 0), (3, 4), (3, 10))
    assert drawing.length() == 11
    assert drawing.back().length() == 5
    assert drawing.back().length((3, 5)) == 6


def test_crossing_is_seen_before_the_press_and_cannot_be_finished() -> None:
    drawing = drawn(CONTACT, (0, 0), (10, 0), (10, 10))
    assert not drawing.crosses((12, 12))
    assert drawing.crosses((5, -5))
    with pytest.raises(FeatureRefused, match="crosses"):
        drawing.pressed(Vertex(5, -5, 6250)).finished()


def test_doubling_back_is_a_crossing() -> None:
    assert drawn(CONTACT, (0, 0), (10, 0)).crosses((4, 0))


def test_closing_on_the_first_vertex_is_no_crossing() -> None:
    drawing = drawn(CONTACT, (0, 0), (10, 0), (10, 10))
    assert not drawing.crosses((0, 0))
    assert drawing.pressed(Vertex(0, 0, 6250)).finished().geometry.is_closed


def test_areas_close_themselves() -> None:
    feature = drawn(AREA, (0, 0), (10, 0), (10, 10)).finished("Kp")
    assert feature.geometry.equals(shapely.Polygon([(0, 0), (10, 0), (10, 10)]))
    assert feature.map_unit == "Kp"
    with pytest.raises(FeatureRefused, match="1 more vertex"):
        drawn(AREA, (0, 0), (10, 0)).finished()
    with pytest.raises(FeatureRefused, match="side that closes it"):
        drawn(AREA, (0, 0), (10, -5), (10, 10), (20, 0)).finished()


def test_the_border_is_a_closed_line() -> None:
    assert drawn(EDGE, (0, 0), (10, 0), (10, 10), (0, 10)).finished().geometry.is_closed


def test_capture_scale_is_the_coarsest() -> None:
    drawing = drawn(CONTACT, (0, 0), scale=6250).pressed(Vertex(5, 5, 25_000)).pressed(Vertex(9, 5, 6250))
    assert drawing.finished().capture_scale == 25_000


@given(
    st.lists(st.tuples(st.integers(0, 9), st.integers(0, 9)), min_size=1, max_size=12),
    st.sampled_from([CONTACT, AREA, EDGE]),
)
def test_whatever_is_drawn_is_valid_or_refused(places: list[tuple[int, int]], pen: catalogue.Pen) -> None:
    drawing = Drawing(pen)
    for x, y in places:
        drawing = drawing.pressed(Vertex(x, y, 6250))
    try:
        feature = drawing.finished()
    except FeatureRefused:
        return
    assert feature.geometry.is_valid
    assert feature.geometry.is_simple

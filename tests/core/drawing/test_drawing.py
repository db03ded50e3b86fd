from __future__ import annotations

from itertools import pairwise

import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from pyproj import Geod

from orvik.core.drawing.drawing import WAYS, Drawing, Vertex, length_of, parse_step, stepped, thinned_hand, vertices_of
from orvik.core.errors import FeatureRefused
from orvik.core.ground.crs import ProjectCrs
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.pen import Pen

BOOK = standard()
CONTACT, AREA, EDGE = BOOK.pen("contact-certain"), BOOK.pen("unit_area-certain"), BOOK.pen("border-certain")


def drawn(pen: Pen, *places: tuple[float, float], scale: int = 6250) -> Drawing:
    drawing = Drawing(pen)
    for x, y in places:
        drawing = drawing.pressed(Vertex(x, y, scale))
    return drawing


def test_two_presses_on_one_place_are_one_vertex() -> None:
    assert len(drawn(CONTACT, (0, 0), (5, 5), (5, 5)).vertices) == 2


def test_back_and_length() -> None:
    drawing = drawn(CONTACT, (0, 0), (3, 4), (3, 10))
    assert length_of(drawing.path()[0]) == 11
    assert length_of(drawing.back().path()[0]) == 5
    assert length_of(drawing.back().path(Vertex(3, 5, 6250))[0]) == 6
    assert length_of(drawn(CONTACT, (3, 4)).path()[0]) == 0


def test_crossing_is_seen_before_the_press_and_cannot_be_finished() -> None:
    drawing = drawn(CONTACT, (0, 0), (10, 0), (10, 10))
    assert not drawing.crosses(Vertex(12, 12, 6250))
    assert drawing.crosses(Vertex(5, -5, 6250))
    with pytest.raises(FeatureRefused, match="crosses"):
        drawing.pressed(Vertex(5, -5, 6250)).finished()


def test_doubling_back_is_a_crossing() -> None:
    assert drawn(CONTACT, (0, 0), (10, 0)).crosses(Vertex(4, 0, 6250))


def test_closing_on_the_first_vertex_is_no_crossing() -> None:
    drawing = drawn(CONTACT, (0, 0), (10, 0), (10, 10))
    assert not drawing.crosses(Vertex(0, 0, 6250))
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
    st.lists(st.tuples(st.integers(0, 9), st.integers(0, 9), st.sampled_from(WAYS)), min_size=1, max_size=12),
    st.sampled_from([CONTACT, AREA, EDGE]),
)
def test_whatever_is_drawn_is_valid_or_refused(places: list[tuple[int, int, str]], pen: Pen) -> None:
    drawing = Drawing(pen, tolerance=0.01)
    for x, y, way in places:
        drawing = drawing.pressed(Vertex(x, y, 6250, None, way))
    try:
        feature = drawing.finished()
    except FeatureRefused:
        return
    assert feature.geometry.is_valid
    assert feature.geometry.is_simple


def test_a_curve_with_a_straight_span_has_a_corner_there() -> None:
    vertices = [Vertex(0, 0, 1), Vertex(50, 30, 1, None, "curve"), Vertex(100, 0, 1, None, "curve"), Vertex(200, 0, 1)]
    line, knots, smooth = Drawing(CONTACT, tuple(vertices), 0.1).path()
    assert smooth == [True, True, False]
    assert knots[-1] - knots[-2] == 1
    assert all(b - a > 1 for a, b in pairwise(knots[:-1]))
    feature = Drawing(CONTACT, tuple(vertices), 0.1).finished()
    assert feature.knots == tuple(knots)
    assert len(feature.geometry.coords) == len(line)
    assert Drawing(CONTACT, tuple(Vertex(v.x, v.y, 1) for v in vertices)).finished().knots == ()


def test_back_takes_what_one_click_gave() -> None:
    drawing = drawn(CONTACT, (0, 0), (10, 0))
    along = [
        Vertex(20, 0, 6250, None, "follow"),
        Vertex(30, 0, 6250, None, "follow"),
        Vertex(40, 0, 6250, None, "follow"),
    ]
    assert drawing.pressed(*along).back() == drawing


def test_a_drawing_is_kept_and_read_again() -> None:
    drawing = drawn(CONTACT, (0, 0), (10.25, 1e6 / 3))
    name, vertices = vertices_of(drawing.text)
    assert name == "contact-certain"
    assert vertices == drawing.vertices


@pytest.mark.parametrize(
    ("text", "bearing", "metres"),
    [("045/120", 45, 120), ("5 66", 5, 66), ("350.5/1,5 km", 350.5, 1500), ("090 / 3 mm", 90, 75), ("360/1m", 360, 1)],
)
def test_steps_as_they_are_typed(text: str, bearing: float, metres: float) -> None:
    assert parse_step(text, 25_000) == (bearing, metres)


@pytest.mark.parametrize("text", ["", "45", "400/10", "45/0", "north/10", "45/-3"])
def test_steps_that_cannot_be(text: str) -> None:
    with pytest.raises(FeatureRefused):
        parse_step(text, 25_000)


def test_a_step_on_the_grid_is_the_geodesic_on_the_ground(crs: ProjectCrs) -> None:
    """Against PROJ's geodesic: direction within the arc-to-chord difference, length by the scale factor."""
    x, y = stepped(crs, (513_000.0, 6_802_000.0), 37.0, 800.0)
    (lon, to_lon), (lat, to_lat) = crs.to_geographic([513_000.0, x], [6_802_000.0, y])
    azimuth, _, metres = Geod(ellps="WGS84").inv(lon, lat, to_lon, to_lat)
    assert azimuth == pytest.approx(37.0, abs=0.002)
    assert metres == pytest.approx(800.0 / 0.9996, rel=1e-4)


def test_the_pointer_is_brought_onto_the_nearest_direction() -> None:
    drawing = drawn(CONTACT, (0, 0), (10, 0))
    assert drawing.course() == 90
    assert drawing.aligned(17, 3, [0, 90, 180, 270]) == pytest.approx((17, 0))
    assert drawing.aligned(11, 30, [0, 90, 180, 270]) == pytest.approx((10, 30))


def test_a_free_hand_keeps_its_ends_and_its_bends() -> None:
    thin = thinned_hand([(0, 0), (1, 0.01), (2, 0), (2, 0), (2, 5), (2.01, 9), (2, 10)], 0.1)
    assert thin == [(0, 0), (2, 0), (2, 10)]

"""Panels that are turned, in systems of their own, with symbols of another size: places against PROJ and plain sums."""

from __future__ import annotations

import warnings
from dataclasses import replace
from functools import lru_cache
from typing import Any

import numpy as np
import pyproj
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from pyproj.aoi import AreaOfInterest
from pyproj.transformer import TransformerGroup

from orvik.core.errors import SheetRefused
from orvik.core.features.feature import Feature, Features
from orvik.core.features.stretch import Stretch
from orvik.core.ground.border import geographic_border
from orvik.core.ground.crs import ProjectCrs, project_crs
from orvik.core.ground.scale import Scales
from orvik.core.ink.affine import apply
from orvik.core.ink.primitives import Group, Item, Marks, Ornaments, Stroke, Text, enlarged, walk
from orvik.core.labels.label_move import PUBLICATION, LabelMove
from orvik.core.labels.label_request import LabelKey
from orvik.core.sheet.output.compose import Composition, compose
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.panels.map_context import MapContext
from orvik.core.sheet.panels.panel import aimed
from orvik.core.sheet.panels.reprojection import Carrier, carried_place
from orvik.core.sheet.panels.scale_distortion import check_shown, factor_along, truth_of
from orvik.core.sheet.parts.fraction import Fraction
from orvik.core.sheet.parts.map_panel import MapPanel, panel_of
from orvik.core.symbols.book_file import standard
from tests.core.sheet.output.test_sheet import BORDER, UNITS, features
from tests.examples import examples

PAGE = Sheet("Sheet", "A3", 420, 297)
UTM = project_crs("EPSG:32628")
# Iceland's Lambert, Europe's Lambert, and the neighbouring UTM zone.
OTHERS = ["EPSG:3057", "EPSG:3034", "EPSG:32627"]


@lru_cache
def way_to(system: str) -> pyproj.Transformer:
    return pyproj.Transformer.from_crs("EPSG:32628", system, always_xy=True)


def there(x: float, y: float, system: str) -> tuple[float, float]:
    return way_to(system).transform(x, y)  # type: ignore[no-any-return]


def part_of(**values: Any) -> Part:
    given_values = {"scale": 25_000, "centre": (512_500.0, 6_802_000.0)} | values
    return Part(MapPanel(**given_values), 30, 40, 200, 160, id=1)


def context(crs: ProjectCrs = UTM) -> MapContext:
    return MapContext("Small", crs, Scales(25_000, 6_250), standard(), UNITS, features(), BORDER)


def composed(*parts: Part) -> Composition:
    return compose(PAGE, parts, context())


def inside(made: Composition, name: str) -> list[Item]:
    (group,) = [g for top in made.groups for g in groups_in(top) if g.name == name]
    return list(walk(group.items))


def groups_in(group: Group) -> list[Group]:
    below = [g for item in group.items if isinstance(item, Group) for g in groups_in(item)]
    return [group, *below]


@given(
    st.floats(-360, 360),
    st.integers(1_000, 1_000_000),
    st.floats(400_000, 600_000),
    st.floats(6_700_000, 6_900_000),
)
@examples(60)
def test_a_turned_panel_puts_places_where_plain_sums_do(turn: float, scale: int, east: float, north: float) -> None:
    """By complex numbers: clockwise on the page is a turn by the negative angle on the ground."""
    panel = panel_of(part_of(rotation=turn, scale=scale), UTM, None)
    (x, y), (ce, cn) = panel.part.middle, panel.centre
    way = complex(east - ce, north - cn) * 1000 / scale * np.exp(-1j * np.radians(turn))
    page = apply(panel.to_page, np.array([[east, north]]))[0]
    assert page == pytest.approx((x + way.real, y - way.imag), rel=1e-9, abs=1e-6)
    assert apply(panel.to_ground, page[None, :])[0] == pytest.approx((east, north), abs=1e-3)


def test_north_points_to_the_right_of_a_panel_that_is_turned_clockwise() -> None:
    panel = panel_of(part_of(rotation=30.0), UTM, None)
    foot, tip = apply(panel.to_page, np.array([(512_500.0, 6_802_000.0), (512_500.0, 6_803_000.0)]))
    assert tip - foot == pytest.approx((40 * 0.5, -40 * np.sqrt(0.75)))


@pytest.mark.parametrize("system", OTHERS)
def test_the_same_features_lie_where_proj_puts_them(system: str) -> None:
    """Contacts, codes' areas and symbols in another system, turned: within 0.05 mm of each vertex that PROJ gives."""
    part = part_of(system=system, centre=there(512_500, 6_802_000, system), rotation=-17.0, neatline="rectangle")
    made = composed(part)
    panel = made.panels[1]
    contact = np.array([there(512_000, y, system) for y in np.linspace(6_800_500, 6_803_000, 200)])
    wanted = shapely.points(apply(panel.to_page, contact))
    drawn = [shapely.LineString(i.paths[0]) for i in inside(made, "linework") if isinstance(i, Stroke)]
    assert min(shapely.distance(wanted, line).max() for line in drawn) < 0.05
    (marks,) = [i for i in inside(made, "attitudes") if isinstance(i, Marks)]
    assert marks.at[0] == pytest.approx(
        apply(panel.to_page, np.array([there(511_000, 6_801_000, system)]))[0], abs=1e-6
    )
    # A strike of 350 from true north: by the convergence of the panel's own system, and its turn.
    convergence = float(panel.crs.convergence(*there(511_000, 6_801_000, system)))
    assert marks.angles[0] == pytest.approx(350 - convergence - 17.0)


def test_letters_stay_upright_on_a_turned_panel_and_figures_stay_by_their_symbols() -> None:
    made = composed(part_of(rotation=40.0, neatline="rectangle"))
    (marks,) = [i for i in inside(made, "attitudes") if isinstance(i, Marks)]
    (figure,) = [i for i in inside(made, "figures") if isinstance(i, Text)]
    assert figure.angle == pytest.approx(0)
    angle = np.radians(marks.angles[0])
    # Down dip of a strike to the page's 30°: right and down along the tick.
    tick = np.array([np.cos(angle), np.sin(angle)])
    beside = np.add(figure.at, figure.offset) - marks.at[0] - np.array([0, 0.33 * figure.run.size])
    assert float(beside @ tick) > 1.0
    assert abs(float(beside @ np.array([-tick[1], tick[0]]))) < 1.0
    codes = [i for i in inside(made, "labels") if isinstance(i, Text)]
    assert codes
    assert all(abs(code.angle) < 1e-9 for code in codes)


def test_symbols_that_do_not_turn_stay_upright_on_a_turned_panel() -> None:
    points = [Feature("points", shapely.Point(512_500, 6_802_000), "spring", id=1)]
    small = context()
    made = compose(
        PAGE,
        [part_of(rotation=33.0)],
        MapContext(small.project, UTM, small.scales, small.book, {}, {"points": Features.of("points", points)}, BORDER),
    )
    (marks,) = [i for i in inside(made, "attitudes") if isinstance(i, Marks)]
    assert marks.angles.tolist() == [0.0]


def test_symbols_are_larger_by_their_scale_and_the_map_is_not() -> None:
    plain, large = composed(part_of()), composed(part_of(symbol_scale=2.0))
    one, other = (next(i for i in inside(made, "attitudes") if isinstance(i, Marks)) for made in (plain, large))
    assert other.at == pytest.approx(one.at)
    reach = [max(float(np.abs(i.paths.xy).max()) for i in marks.stamp.items) for marks in (one, other)]
    assert reach[1] == pytest.approx(2 * reach[0])
    lines = [[i for i in inside(made, "linework") if isinstance(i, Stroke)] for made in (plain, large)]
    assert np.vstack([i.paths.xy for i in lines[1]]) == pytest.approx(np.vstack([i.paths.xy for i in lines[0]]))
    assert [i.style.width for i in lines[1]] == pytest.approx([2 * i.style.width for i in lines[0]])
    figures = [next(i for i in inside(made, "figures") if isinstance(i, Text)) for made in (plain, large)]
    assert figures[1].run.size == 2 * figures[0].run.size


@pytest.mark.parametrize("k", [0.5, 1.0, 1.5, 2.0])
def test_labels_moved_at_the_publication_scale_stay_where_they_were_put(k: float) -> None:
    """However large the symbols are: it is the scale of the ground that counts."""
    key = LabelKey("areas", 1)
    move = LabelMove(key, PUBLICATION, at=(511_800.0, 6_800_900.0))
    for scale, stays in ((25_000, True), (24_000, False)):
        made = compose(PAGE, [part_of(scale=scale, symbol_scale=k)], replace(context(), moves=[move]))
        panel = made.panels[1]
        spot = apply(panel.to_page, np.array([move.at]))[0]
        codes = [i for i in inside(made, "labels") if isinstance(i, Text)]
        assert any(np.hypot(*np.subtract(code.at, spot)) < 1e-6 for code in codes) == stays


@given(st.floats(0.25, 4))
def test_ink_that_is_drawn_larger_and_smaller_again_is_the_same(k: float) -> None:
    items = [i for group in composed(part_of()).groups for i in group.items]
    for one, other in zip(walk(items), walk(enlarged(enlarged(items, k), 1 / k)), strict=True):
        if isinstance(one, Stroke) and isinstance(other, Stroke):
            assert other.style.width == pytest.approx(one.style.width)
            assert other.paths.xy == pytest.approx(one.paths.xy)
        elif isinstance(one, Text) and isinstance(other, Text):
            assert other.run.x == pytest.approx(one.run.x)
            assert (*other.at, *other.offset) == pytest.approx((*one.at, *one.offset))
        elif isinstance(one, Marks | Ornaments) and isinstance(other, Marks | Ornaments):
            assert other.at == pytest.approx(one.at)


@given(st.data())
@examples(40)
def test_what_was_straight_stays_on_its_ground(data: st.DataObject) -> None:
    """Random long lines into a far-bending system, against PROJ at a thousand places of each."""
    xy = data.draw(
        st.lists(st.tuples(st.floats(2e5, 8e5), st.floats(6.2e6, 7.2e6)), min_size=2, max_size=5, unique=True)
    )
    line = shapely.LineString(xy)
    carrier = Carrier(UTM, project_crs("EPSG:3034"), 5.0)
    (moved,) = carrier.geometries(np.array([line]))
    along = shapely.get_coordinates(shapely.line_interpolate_point(line, np.linspace(0, line.length, 1000)))
    wanted = np.column_stack(pyproj.Transformer.from_crs(32628, 3034, always_xy=True).transform(*along.T))
    assert shapely.distance(shapely.points(wanted), moved).max() < 10.0


def test_stretches_keep_their_ends_in_another_system() -> None:
    xy = [(3e5, 6.8e6), (4e5, 6.9e6), (6e5, 6.8e6), (7e5, 6.7e6)]
    line = Feature("lines", shapely.LineString(xy), "fault", id=1, stretches=(Stretch(1, 2, "inferred"),))
    carrier = Carrier(UTM, project_crs("EPSG:3034"), 5.0)
    moved = carrier.features(Features.of("lines", [line])).features
    (stretch,) = moved.columns["stretches"][0]
    vertices = shapely.get_coordinates(moved.geometries[0])
    assert len(vertices) > 4
    for vertex, place in ((stretch.first, xy[1]), (stretch.last, xy[2])):
        assert vertices[vertex] == pytest.approx(there(*place, "EPSG:3034"))


def test_what_a_system_cannot_show_is_left_out_and_tears_nothing() -> None:
    """Lines on both sides of the far meridian of a Mercator: those that it tears are not drawn across the map."""
    mercator = project_crs("EPSG:3832")
    lines = [
        Feature("lines", shapely.LineString([(0, 0), (1e5, 0)]), "contact", id=1),
        Feature("lines", shapely.LineString([(-16_660_000, 0), (-16_700_000, 0)]), "contact", id=2),
    ]
    carrier = Carrier(mercator, project_crs("EPSG:3395"), 5.0)
    moved = carrier.features(Features.of("lines", lines)).features
    assert all(shapely.length(g) < 2e5 for g in moved.geometries)


@pytest.mark.parametrize("shape", ["rectangle", "circle", "border"])
def test_the_neatline_cuts_ink_and_is_no_line_of_the_map(shape: str) -> None:
    border = geographic_border(UTM, "14°49' W", "61°20' N", "14°43' W", "61°22' N")
    panel = panel_of(part_of(neatline=shape, rotation=20.0), UTM, border)
    area = panel.page_area
    assert panel.frame.buffer(1e-9).contains(area)
    if shape == "circle":
        assert area.area == pytest.approx(np.pi * 80**2, rel=1e-4)
    if shape == "border":
        quadrangle = shapely.transform(shapely.Polygon(border), lambda xy: apply(panel.to_page, xy))
        assert area.symmetric_difference(quadrangle.intersection(panel.frame)).area < 1e-6
    made = composed(part_of(neatline=shape))
    (shown,) = [g for g in groups_in(made.groups[0]) if g.name == "map"]
    assert shown.clip is not None


@pytest.mark.parametrize("system", ["", *OTHERS])
def test_a_footprint_has_the_shape_of_the_ground(system: str) -> None:
    """The frame of an inset, place by place through PROJ, against the hairline that is drawn on the main map."""
    inset = Part(
        MapPanel(
            scale=10_000,
            centre=there(512_600, 6_801_800, system or "EPSG:32628"),
            rotation=25.0,
            system=system,
            neatline="rectangle",
            footprints=(1,),
            letter="A",
        ),
        300,
        40,
        60,
        50,
        id=2,
    )
    made = composed(part_of(neatline="rectangle"), inset)
    main, small = made.panels[1], made.panels[2]
    way = pyproj.Transformer.from_crs(system or 32628, 32628, always_xy=True)
    ring = shapely.get_coordinates(shapely.segmentize(small.ground.exterior, 20))
    wanted = shapely.LinearRing(apply(main.to_page, np.column_stack(way.transform(*ring.T))))
    (shown,) = [g for g in groups_in(made.groups[0]) if g.name == "map"]
    line, letter = [i for i in shown.items if isinstance(i, Stroke | Text)]
    assert isinstance(line, Stroke)
    assert shapely.hausdorff_distance(shapely.LinearRing(line.paths[0]), wanted) < 0.05
    assert isinstance(letter, Text)
    assert letter.run.chars == "A"
    assert shapely.Polygon(wanted).contains(shapely.Point(letter.at))


@pytest.mark.parametrize("system", ["EPSG:32628", *OTHERS])
def test_true_scale_against_proj(system: str) -> None:
    """The factors of PROJ itself (``Proj.get_factors``), on a grid over the panel."""
    panel = panel_of(part_of(system=system, centre=there(512_500, 6_802_000, system), scale=500_000), UTM, None)
    found = truth_of(panel)
    xs, ys = np.linspace(30, 230, 13), np.linspace(40, 200, 13)
    page = np.array([(x, y) for y in ys for x in xs])
    longitude, latitude = panel.crs.to_geographic(*apply(panel.to_ground, page).T)
    factors = pyproj.Proj(system).get_factors(longitude, latitude)
    mean = (factors.tissot_semimajor + factors.tissot_semiminor) / 2
    assert found.factors.ravel() == pytest.approx(mean, abs=2e-6)
    assert found.least == pytest.approx(factors.tissot_semiminor.min(), abs=1e-5)
    assert found.greatest == pytest.approx(factors.tissot_semimajor.max(), abs=1e-5)
    along = [factor_along(panel.crs, panel.centre, way) for way in ((1.0, 0.0), (0.0, 1.0))]
    assert sum(along) / 2 == pytest.approx(found.middle, rel=1e-5)


def test_a_panel_whose_ground_its_system_cannot_show_is_refused() -> None:
    for values, words in (
        ({"system": "EPSG:32601", "centre": (3e7, 3e7)}, "choose a system|cannot show"),
        ({"system": "EPSG:3395", "centre": (2.003e7, 0.0), "scale": 10_000_000}, "180th meridian"),
    ):
        with pytest.raises(SheetRefused, match=words):
            check_shown(panel_of(part_of(**values), UTM, None))


def test_a_panel_that_is_far_from_true_is_warned_of() -> None:
    far = truth_of(panel_of(part_of(system="EPSG:3857", centre=there(512_500, 6_802_000, "EPSG:3857")), UTM, None))
    assert far.middle == pytest.approx(1 / np.cos(np.radians(61.35)), rel=0.01)
    assert "off by up to" in far.warning(25_000)
    assert truth_of(panel_of(part_of(), UTM, None)).warning(25_000) == ""


def test_parts_say_which_panel_they_speak_of() -> None:
    small = Part(MapPanel(scale=10_000, centre=(512_500.0, 6_802_000.0)), 300, 40, 60, 50, id=2)
    words = []
    for panel in (1, 2, 9, None):
        made = composed(part_of(), small, Part(Fraction(panel=panel), 10, 250, 60, 8, id=3))
        (group,) = [g for g in made.groups if g.name == "part-3"]
        words.append(" ".join(i.run.chars for i in walk(group.items) if isinstance(i, Text)))
    assert words[:2] == ["1:25\u2009000", "1:10\u2009000"]
    assert "gone" in words[2]
    assert "Choose the panel" in words[3]


@pytest.mark.parametrize(("zone", "longitude", "latitude"), [(11, -117.3, 35.4), (6, -147.5, 64.8), (20, -63.5, 46.2)])
def test_a_datum_shift_is_the_one_for_the_ground(zone: int, longitude: float, latitude: float) -> None:
    """North American Datum 1927 has a shift for each region: the one that PROJ takes for this area of interest."""
    source, target = project_crs(f"EPSG:267{zone:02d}"), project_crs(f"EPSG:326{zone:02d}")
    x, y = (float(v) for v in source.from_geographic(longitude, latitude))
    area = AreaOfInterest(np.floor(longitude), np.floor(latitude), np.floor(longitude) + 1, np.floor(latitude) + 1)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", UserWarning)
        best = TransformerGroup(source.text, target.text, always_xy=True, area_of_interest=area).transformers[0]
    assert carried_place(source, target, (x, y)) == pytest.approx(best.transform(x, y), abs=1e-6)
    # It is a shift: of some tens of metres and more.
    assert np.hypot(*np.subtract(carried_place(source, target, (x, y)), (x, y))) > 50


@examples(60)
@given(turn=st.floats(-180, 180), scale=st.integers(5_000, 500_000), k=st.sampled_from([0.5, 1.0, 1.3, 2.0]))
def test_frame_corners_window_and_ground_are_the_same_rectangle(turn: float, scale: int, k: float) -> None:
    """The frame by plain sums, and its ground by turning it back about the middle."""
    panel = panel_of(part_of(rotation=turn, scale=scale, symbol_scale=k), UTM, None)
    assert panel.frame.bounds == (30, 40, 230, 200)
    assert panel.page_area.equals(panel.frame)
    wide, high = 0.2 * scale, 0.16 * scale
    (ce, cn), way = panel.centre, np.exp(1j * np.radians(turn))
    # Clockwise from the upper left.
    halves = [complex(-wide, high), complex(wide, high), complex(wide, -high), complex(-wide, -high)]
    wanted = np.array([(ce + (h / 2 * way).real, cn + (h / 2 * way).imag) for h in halves])
    assert panel.corners == pytest.approx(wanted, abs=1e-3)
    assert shapely.area(panel.ground) == pytest.approx(wide * high, rel=1e-9)
    assert panel.window == pytest.approx((*wanted.min(axis=0), *wanted.max(axis=0)), abs=1e-3)
    ring = panel.neatline
    assert len(ring) == 1
    assert ring.xy[0].tolist() == ring.xy[-1].tolist()
    # Drawn larger by the scale of its symbols about the corner of the page, the natural panel is this one.
    natural = panel.natural
    assert natural.symbol_scale == 1
    assert (natural is panel) == (k == 1)
    here, there = (apply(p.to_page, np.array([[ce + 100.0, cn - 50.0]]))[0] for p in (panel, natural))
    assert there * k == pytest.approx(here, rel=1e-9)


def test_a_round_panel_has_the_smaller_side_across_and_its_middle_is_the_frame_s() -> None:
    panel = panel_of(part_of(neatline="circle"), UTM, None)
    area = panel.page_area
    assert area.bounds == pytest.approx((50, 40, 210, 200), abs=1e-3)
    assert area.centroid.coords[0] == pytest.approx((130, 120))
    assert area.area == pytest.approx(np.pi * 80**2, rel=1e-3)


def test_a_panel_along_the_border_shows_what_of_that_lies_in_its_frame() -> None:
    panel = panel_of(part_of(neatline="border", scale=25_000), UTM, BORDER)
    border = shapely.Polygon(shapely.transform(BORDER, lambda xy: apply(panel.to_page, xy)).coords)
    assert panel.page_area.equals(shapely.intersection(panel.frame, border))
    # A border that lies elsewhere, or none at all, leaves the frame.
    away = panel_of(part_of(neatline="border", centre=(900_000.0, 6_802_000.0)), UTM, BORDER)
    assert away.page_area.equals(away.frame)
    assert panel_of(part_of(neatline="border"), UTM, None).page_area.equals(panel.frame)


def test_a_panel_shows_what_touches_its_ground_and_nothing_else() -> None:
    panel = panel_of(part_of(rotation=30.0, scale=10_000), UTM, None)
    rng = np.random.default_rng(5)
    xy = rng.uniform((511_000, 6_800_500), (514_000, 6_803_500), (400, 2))
    points = Features.of("points", [Feature("points", shapely.Point(p), "bedding", id=i) for i, p in enumerate(xy, 1)])
    page = apply(panel.to_page, xy)
    inside_frame = (page[:, 0] >= 30) & (page[:, 0] <= 230) & (page[:, 1] >= 40) & (page[:, 1] <= 200)
    assert panel.shows(points).ids.tolist() == (np.flatnonzero(inside_frame) + 1).tolist()
    assert 0 < inside_frame.sum() < 400


@examples(40)
@given(scale=st.integers(1_000, 1_000_000), box=st.tuples(st.floats(0, 1e6), st.floats(0, 1e6), st.floats(10, 1e5)))
def test_a_frame_aimed_at_a_border_shows_exactly_that(scale: int, box: tuple[float, float, float]) -> None:
    west, south, side = box
    ring = shapely.LineString(shapely.box(west, south, west + side, south + side / 3).exterior.coords)
    centre, width, height = aimed(ring, scale, UTM)
    assert centre == pytest.approx((west + side / 2, south + side / 6), rel=1e-9)
    assert (width, height) == pytest.approx((side * 1000 / scale, side / 3 * 1000 / scale), rel=1e-6)

"""Portrayal: features and their symbols as ink."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.features.feature import Feature, Features
from orvik.core.features.map_unit import MapUnit
from orvik.core.ground.crs import project_crs
from orvik.core.ink.primitives import Fill, Marks, Stroke, Text, moved, walk
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.portrayal.ink_keys import key_of
from orvik.core.symbols.portrayal.portray import portray
from tests.core.labels.ground import written_ink
from tests.examples import examples

CRS = project_crs("EPSG:32628")
BOOK = standard()
UNITS = {"Kp": MapUnit("Kp", "Pellan Mudstone", "", "#BBD5A6")}
X, Y = 513_000.0, 6_802_000.0


def ink(*features: Feature) -> dict[str, list[object]]:
    tables = {t: Features.of(t, [f for f in features if f.table == t]) for t in ("lines", "areas", "points")}
    drawn = {name: list(group.items) for name, group in portray(tables, BOOK, UNITS, CRS).items()}  # type: ignore[arg-type]
    return drawn | written_ink(tables, BOOK, UNITS, CRS)  # type: ignore[arg-type,operator]


@examples(40)
@given(st.lists(st.tuples(st.floats(50, 400), st.floats(0.1, 1)), min_size=3, max_size=12))
def test_a_code_stands_inside_its_area(arms: list[tuple[float, float]]) -> None:
    """Stars of any shape, thin and crooked as they may be."""
    turns = np.cumsum([step for _, step in arms])
    turns *= 2 * np.pi / turns[-1]
    ring = [(X + r * np.cos(t), Y + r * np.sin(t)) for (r, _), t in zip(arms, turns, strict=True)]
    area = shapely.Polygon(ring)
    if not area.is_valid or area.area < 10:
        return
    (label,) = [
        i for i in ink(Feature("areas", area, "unit_area", id=3, map_unit="Kp"))["labels"] if isinstance(i, Text)
    ]
    assert area.contains(shapely.Point(label.at))
    assert label.run.chars == "Kp"
    assert label.key == key_of("areas", 3)
    # Where it is shown at coarser scales, it fits: its diagonal is not a more than the room around its place.
    assert label.largest is not None
    if label.leader is not None or label.largest < 25_100:
        return
    room = area.exterior.distance(shapely.Point(label.at))
    assert np.hypot(label.run.width, 1.7) / 2 * label.largest / 1000 <= room * 1.02


def test_areas_have_no_outline_and_spread_under_their_neighbours() -> None:
    (fill,) = ink(Feature("areas", shapely.box(X, Y, X + 100, Y + 100), "unit_area", id=1, map_unit="Kp"))["units"]
    assert isinstance(fill, Fill)
    assert fill.colour == "#BBD5A6"
    assert fill.spread == 0.05


@pytest.mark.parametrize("azimuth", [0.0, 45.0, 90.0, 180.0, 350.0])
def test_symbols_turn_and_figures_stay_upright(azimuth: float) -> None:
    """Right-hand rule (common practice): the figure stands on the side to which the plane dips."""
    layers = ink(Feature("points", shapely.Point(X, Y), "bedding", id=1, azimuth=azimuth, inclination=35.0))
    marks = next(i for i in layers["attitudes"] if isinstance(i, Marks))
    (figure,) = (i for i in layers["figures"] if isinstance(i, Text))
    convergence = float(CRS.convergence(X, Y))
    assert marks.angles[0] == pytest.approx(azimuth - convergence)
    assert figure.run.chars == "35"
    assert figure.angle == 0
    dip = np.radians(azimuth - convergence + 90)
    side = np.array([np.sin(dip), -np.cos(dip)])
    # Offsets run right and down; the figure's middle lies half its height above its baseline.
    assert np.dot(side, [figure.offset[0], figure.offset[1] - 0.66]) > 1.5


def test_faults_lie_over_contacts_and_doubt_breaks_the_line() -> None:
    line = shapely.LineString([(X, Y), (X + 100, Y + 50)])
    layers = ink(
        Feature("lines", line, "fault", id=1),
        Feature("lines", shapely.reverse(line), "contact", id=2, questionable=True),
    )
    strokes = [i for i in layers["linework"] if isinstance(i, Stroke)]
    assert [s.style.width for s in strokes] == sorted(s.style.width for s in strokes)
    (doubt,) = [i for i in layers["linework"] if isinstance(i, Text)]
    assert doubt.run.chars == "?"
    assert doubt.halo is not None
    assert doubt.at == pytest.approx((X + 50, Y + 25))


def test_ink_keeps_its_millimetres_when_it_comes_to_the_page() -> None:
    layers = ink(Feature("points", shapely.Point(X, Y), "bedding", id=1, azimuth=90.0, inclination=20.0))
    page = moved(layers["attitudes"], (0.04, 0, -X * 0.04 + 10, 0, -0.04, Y * 0.04 + 20))  # type: ignore[arg-type]
    marks = next(i for i in walk(page) if isinstance(i, Marks))
    before = next(i for i in layers["attitudes"] if isinstance(i, Marks))
    assert marks.at[0] == pytest.approx([10, 20])
    assert marks.stamp is before.stamp
    assert marks.angles[0] == pytest.approx(before.angles[0])


FIGURED = [
    (symbol.kind, dip)
    for symbol in BOOK.symbols
    if symbol.table == "points" and any(caption.of == "inclination" for caption in symbol.captions)
    for dip in (8.0, 35.0)
]


@pytest.mark.parametrize(("kind", "dip"), sorted(set(FIGURED)))
def test_a_figure_stands_clear_of_its_symbol_however_it_turns(kind: str, dip: float) -> None:
    """Common practice: an attitude's symbol never covers its own figure."""
    for azimuth in range(0, 360, 15):
        layers = ink(Feature("points", shapely.Point(X, Y), kind, id=1, azimuth=float(azimuth), inclination=dip))
        marks = next(i for i in layers["attitudes"] if isinstance(i, Marks))
        (figure,) = (i for i in layers["figures"] if isinstance(i, Text))
        angle = np.radians(float(marks.angles[0]))
        turn = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
        paths = [piece.paths[i] @ turn for piece in marks.stamp.items for i in range(len(piece.paths))]
        left, base = figure.offset[0] + figure.run.x[0], figure.offset[1]
        letters = shapely.box(left, base - 1.32, left + figure.run.width, base)
        assert shapely.union_all([shapely.LineString(p) for p in paths]).distance(letters) > 0.1, azimuth

"""Labels: none over another, none on a fault or a symbol, and each where a hand has put it."""

from __future__ import annotations

import itertools
from collections.abc import Mapping

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from shapely import affinity

from orvik.core.features.feature import Feature, Features
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.table import Table
from orvik.core.ground.crs import project_crs
from orvik.core.ink.primitives import Text, moved
from orvik.core.labels.label import Label
from orvik.core.labels.label_move import LabelMove, in_force
from orvik.core.labels.label_request import LabelKey
from orvik.core.labels.label_requests import Written
from orvik.core.labels.label_rule import LabelRule
from orvik.core.labels.labelled import Labelling, labelled
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.portrayal.portray import portray
from tests.core.labels.ground import UNITS, X, Y, crowded
from tests.examples import examples

CRS = project_crs("EPSG:32628")
BOOK = standard()
SCALE = 25_000
TO_PAGE = (0.04, 0.0, -0.04 * X, 0.0, -0.04, 0.04 * Y)


def labels_of(features: Mapping[Table, Features], **options: object) -> Labelling:
    rules = options.pop("rules", {})
    scale = float(options.pop("scale", SCALE))  # type: ignore[arg-type]
    written = Written(BOOK, UNITS, CRS, rules)  # type: ignore[arg-type]
    layers = portray(features, BOOK, UNITS, CRS, round(scale))
    return labelled(features, layers, written, scale, **{"to_page": TO_PAGE, **options})  # type: ignore[arg-type]


def box_of(label: Label) -> shapely.Polygon:
    """The letters' box on the page, reckoned from the ink and not from what the placing took it to be."""
    half_x, half_y = label.request.half
    x, y = label.place.middle
    box = shapely.box(x - half_x, y - half_y, x + half_x, y + half_y)
    return affinity.rotate(box, label.place.angle, origin=(x, y))


def symbols_on_page(features: Mapping[Table, Features]) -> list[shapely.Geometry]:
    """Every stroke of every attitude's symbol on the page, placed by shapely."""
    points = features["points"]
    out = []
    for i in range(len(points)):
        feature = points.feature(i)
        symbol = BOOK.symbol_of(feature)
        x, y = feature.geometry.x, feature.geometry.y
        turn = (feature.azimuth or 0.0) - float(CRS.convergence(np.array([x]), np.array([y]))[0])
        assert symbol.stamp is not None
        for item in symbol.stamp.items:
            for k in range(len(item.paths)):
                line = shapely.LineString(item.paths[k])
                turned = affinity.rotate(line, turn if symbol.turns else 0.0, origin=(0, 0))
                out.append(affinity.translate(turned, 0.04 * (x - X), -0.04 * (y - Y)))
    return out


@examples(12)
@given(st.integers(4, 90), st.integers(0, 120), st.integers(0, 9), st.integers(0, 1000), st.floats(1500, 6000))
def test_no_two_overlap_and_none_lies_on_a_fault_or_a_symbol(
    areas: int, points: int, faults: int, seed: int, side: float
) -> None:
    """By brute force, every pair and every stroke, with shapely."""
    features = crowded(areas, points, faults, side, seed)
    found = labels_of(features).labels
    boxes = [box_of(label) for label in found]
    leaders = [shapely.LineString(f.place.leader) if f.place.leader is not None else None for f in found]
    for (i, one), (j, other) in itertools.combinations(enumerate(boxes), 2):
        assert not one.intersects(other), (found[i].request.key, found[j].request.key)
        for line, box in ((leaders[i], other), (leaders[j], one)):
            assert line is None or not line.intersects(box)
    lines = features["lines"]
    rows = [i for i, kind in enumerate(lines.columns["kind"]) if kind == "fault"]
    faults_drawn = shapely.union_all(
        [affinity.affine_transform(lines.geometries[i], [0.04, 0, 0, -0.04, -0.04 * X, 0.04 * Y]) for i in rows]
    ).buffer(BOOK.symbol("lines", "fault").weight / 2)
    strokes = shapely.union_all(symbols_on_page(features))
    for label, box in zip(found, boxes, strict=True):
        assert not box.intersects(faults_drawn), label.request.key
        assert not box.intersects(strokes), label.request.key


@examples(10)
@given(st.integers(5, 60), st.integers(0, 1000))
def test_codes_lie_within_their_areas_or_lead_into_them(areas: int, seed: int) -> None:
    features = crowded(areas, 20, 3, seed=seed)
    on_page = {
        int(number): affinity.affine_transform(area, [0.04, 0, 0, -0.04, -0.04 * X, 0.04 * Y])
        for number, area in zip(features["areas"].ids, features["areas"].geometries, strict=True)
    }
    found = labels_of(features)
    for label in found.labels:
        if label.request.key.table != "areas":
            continue
        area = on_page[label.request.key.id]
        if label.place.leader is None:
            # The edge is thinned out by a tenth of a millimetre before codes are placed.
            assert area.buffer(0.1).contains(box_of(label))
        else:
            assert area.contains(shapely.Point(label.place.leader[1]))
            assert not area.intersects(box_of(label))
    assert {w.key.id for w in found.without_room if w.key.table == "areas"} | {
        label.request.key.id for label in found.labels if label.request.key.table == "areas"
    } == set(on_page)


def test_the_same_map_has_the_same_labels_whatever_came_before() -> None:
    features = crowded(60, 60)
    first = labels_of(features)
    labels_of(crowded(30, 30, seed=9))
    second = labels_of(features)
    assert [(label.request.key, label.place.middle) for label in first.labels] == [
        (label.request.key, label.place.middle) for label in second.labels
    ]


def area(number: int, *corners: tuple[float, float], unit: str = "Kp") -> Feature:
    return Feature(
        "areas", shapely.Polygon([(X + x, Y + y) for x, y in corners]), "unit_area", id=number, map_unit=unit
    )


def only(*features: Feature) -> dict[Table, Features]:
    return {
        table: Features.of(table, [f for f in features if f.table == table]) for table in ("lines", "areas", "points")
    }


def square(number: int, x: float, y: float, side: float, unit: str = "Kp") -> Feature:
    return area(number, (x, y), (x + side, y), (x + side, y + side), (x, y + side), unit=unit)


def test_a_code_stands_where_there_is_most_room() -> None:
    """In the broad end of a wedge, not in its middle."""
    wedge = area(1, (0, 0), (0, 800), (4000, 420), (4000, 380))
    (label,) = [one for one in labels_of(only(wedge)).labels if one.request.key.number == 0]
    assert label.place.middle[0] < 0.04 * 1200


def test_long_areas_have_their_code_again() -> None:
    long = area(1, (0, 0), (0, 500), (9000, 500), (9000, 0))
    found = labels_of(only(long)).labels
    xs = sorted(label.place.middle[0] for label in found)
    assert len(found) >= 3
    assert min(np.diff(xs)) >= 55


def test_hiding_the_first_code_of_a_long_area_leaves_the_others() -> None:
    long = area(1, (0, 0), (0, 500), (9000, 500), (9000, 0))
    key = LabelKey("areas", 1)
    found = labels_of(only(long), moves={key: LabelMove(key, hidden=True)})
    assert [label.request.key.number for label in found.labels] == [1, 2]


def test_an_area_too_small_for_its_code_is_led_to() -> None:
    found = labels_of(only(square(1, 0, 0, 60), square(2, 60, 0, 4000, "Jh"))).labels
    small = next(label for label in found if label.request.key.id == 1)
    assert small.place.leader is not None
    assert shapely.box(0, -2.4, 2.4, 0).contains(shapely.Point(small.place.leader[1]))
    text = next(i for i in labels_of(only(square(1, 0, 0, 60))).layers["labels"].items if isinstance(i, Text))
    assert text.leader is not None


def dip(number: int, x: float, y: float, azimuth: float = 0.0) -> Feature:
    return Feature("points", shapely.Point(X + x, Y + y), "bedding", id=number, azimuth=azimuth, inclination=35.0)


def test_a_figure_moves_to_the_side_that_is_free() -> None:
    """A fault runs where the book puts the figure of a dip to the east."""
    fault = Feature("lines", shapely.LineString([(X + 62, Y - 900), (X + 62, Y + 900)]), "fault", id=1)
    (free,) = labels_of(only(dip(1, 0, 0))).labels
    assert free.place.middle[0] == pytest.approx(2.5, abs=0.05)
    (beside,) = labels_of(only(dip(1, 0, 0), fault)).labels
    assert box_of(beside).distance(shapely.LineString([(62 * 0.04, -40), (62 * 0.04, 40)])) > 0.2


def test_labels_lie_whole_within_the_neatline() -> None:
    features = crowded(40, 60)
    within = shapely.box(20, -90, 90, -25)
    found = labels_of(features, within=within).labels
    assert len(found) > 20
    assert all(within.contains(box_of(label)) for label in found)
    # A code of an area that the neatline cuts stands in the part that is shown.
    assert {label.request.key.table for label in found} == {"areas", "points"}


def test_a_label_keeps_its_number_whatever_else_its_feature_writes() -> None:
    """A hand that has moved the name of a fold has moved the name, though the fold gets a plunge later."""
    t = np.linspace(0, 3000, 30)
    fold = Feature("lines", shapely.LineString(np.column_stack([X + t, Y + 0 * t])), "anticline", id=1, note="Old Arch")
    rules: dict[tuple[Table, str], LabelRule] = {("lines", "anticline"): LabelRule("lines", "anticline", "{note}")}
    (name,) = labels_of(only(fold), rules=rules).labels
    moves = {name.request.key: LabelMove(name.request.key, at=(X + 700, Y + 400))}
    plunging = fold.changed(azimuth=90.0, inclination=12.0)
    found = {label.request.run.chars: label for label in labels_of(only(plunging), rules=rules, moves=moves).labels}
    assert set(found) == {"Old Arch", "12"}
    assert found["Old Arch"].at == pytest.approx((X + 700, Y + 400))
    assert not found["12"].place.by_hand


def test_a_place_that_a_panel_does_not_show_is_not_taken_there() -> None:
    """A hand has put the code where another panel shows it; here the area has its code where it can be seen."""
    key = LabelKey("areas", 1)
    moves = {key: LabelMove(key, at=(X + 3800, Y + 500))}
    wide = area(1, (0, 0), (0, 1000), (4000, 1000), (4000, 0))
    (there,) = [one for one in labels_of(only(wide), moves=moves).labels if one.request.key == key]
    assert there.place.by_hand
    (here,) = labels_of(only(wide), moves=moves, within=shapely.box(0, -40, 60, 0)).labels
    assert not here.place.by_hand
    assert shapely.box(0, -40, 60, 0).contains(box_of(here))


def test_what_a_hand_has_moved_stays_and_the_others_keep_clear_of_it() -> None:
    features = crowded(30, 40)
    first = labels_of(features)
    codes = [label for label in first.labels if label.request.key.table == "areas"]
    taken, other = codes[0], codes[1]
    x, y = other.place.middle
    place = (X + x / 0.04, Y - y / 0.04)
    moves = {taken.request.key: LabelMove(taken.request.key, at=place, angle=20.0)}
    after = {label.request.key: label for label in labels_of(features, moves=moves).labels}
    assert after[taken.request.key].place.middle == pytest.approx(other.place.middle, abs=1e-6)
    assert after[taken.request.key].place.angle == 20.0
    assert after[taken.request.key].place.leader is not None, "it lies outside its area now"
    boxes = [box_of(label) for label in after.values()]
    assert not any(one.intersects(two) for one, two in itertools.combinations(boxes, 2))
    assert other.request.key not in after or after[other.request.key].place.middle != other.place.middle


def test_a_figure_that_was_moved_goes_along_with_its_point() -> None:
    key = LabelKey("points", 1)
    moves = {key: LabelMove(key, at=(-4.0, 3.0))}
    (here,) = labels_of(only(dip(1, 0, 0)), moves=moves).labels
    (there,) = labels_of(only(dip(1, 1000, 500)), moves=moves).labels
    assert here.place.middle == pytest.approx((-4.0, 3.0))
    assert there.place.middle == pytest.approx((36.0, -17.0))


def test_hidden_labels_are_told_and_take_no_room() -> None:
    key = LabelKey("points", 1)
    found = labels_of(only(dip(1, 0, 0)), moves={key: LabelMove(key, hidden=True)})
    assert not found.labels
    assert [request.key for request in found.hidden] == [key]


def test_a_move_of_the_publication_scale_holds_for_panels_at_it_and_a_panel_has_its_own() -> None:
    key = LabelKey("areas", 1)
    general, own = LabelMove(key, at=(1.0, 2.0)), LabelMove(key, scope=7, at=(3.0, 4.0))
    assert in_force([general, own], 7, at_publication=True)[key] is own
    assert in_force([general, own], 8, at_publication=True)[key] is general
    assert in_force([general, own], 8, at_publication=False) == {}
    assert in_force([general, own], 7, at_publication=False)[key] is own


def test_what_finds_no_room_is_told_and_shown_at_larger_scales() -> None:
    """A letter that a fault runs through on all sides has no room at 1:25 000."""
    point = dip(1, 0, 0)
    fences = [
        Feature("lines", shapely.LineString([(X + x, Y - 500), (X + x, Y + 500)]), "fault", id=i + 1)
        for i, x in enumerate(range(-480, 481, 24))
    ]
    found = labels_of(only(point, *fences))
    assert [request.key for request in found.without_room] == [LabelKey("points", 1)]
    (text,) = [item for item in found.layers["figures"].items if isinstance(item, Text)]
    assert text.largest is not None
    assert text.largest < SCALE


def test_names_follow_their_lines() -> None:
    """Each letter stands as far from the line as the others, on the outer side, and turns with it."""
    t = np.linspace(0, np.pi, 80)
    arc = shapely.LineString(np.column_stack([X + 900 * (1 - np.cos(t)), Y + 900 * np.sin(t)]))
    line = Feature("lines", arc, "fault", id=1, note="Pellan Fault Zone")
    rules: dict[tuple[Table, str], LabelRule] = {("lines", "fault"): LabelRule("lines", "fault", "{note}")}
    (label,) = labels_of(only(line), rules=rules).labels
    letters = label.place.letters
    assert letters is not None
    assert len(letters) == len("Pellan Fault Zone")
    on_page = affinity.affine_transform(arc, [0.04, 0, 0, -0.04, -0.04 * X, 0.04 * Y])
    away = shapely.distance(shapely.points(letters[:, :2]), on_page)
    assert away.max() - away.min() < 0.15
    assert not np.allclose(letters[:, 2], letters[0, 2])
    # Read from left to right, and never upside down.
    assert (np.diff(letters[:, 0]) > 0).all()
    assert np.abs(letters[:, 2]).max() < 90
    texts = [item for item in labels_of(only(line), rules=rules).layers["names"].items if isinstance(item, Text)]
    assert "".join(text.run.chars for text in texts) == "Pellan Fault Zone"


def test_the_letters_of_a_section_stand_beyond_its_ends() -> None:
    line = shapely.LineString([(X, Y), (X + 2000, Y)])
    found = labels_of(only(Feature("lines", line, "section_line", id=1, note="B"))).labels
    assert [(label.request.run.chars, round(label.place.middle[0])) for label in found] == [("B", -3), ("B′", 83)]


def test_text_is_made_of_attributes() -> None:
    point = dip(1, 0, 0).changed(note="Stop 4", certainty="certain")
    rules: dict[tuple[Table, str], LabelRule] = {
        ("points", "bedding"): LabelRule("points", "bedding", "{inclination} ({note})", 3.0)
    }
    (label,) = labels_of(only(point), rules=rules).labels
    assert (label.request.run.chars, label.request.run.size) == ("35 (Stop 4)", 3.0)
    silent: dict[tuple[Table, str], LabelRule] = {("points", "bedding"): LabelRule("points", "bedding", "")}
    assert not labels_of(only(point), rules=silent).labels


def test_coarser_scales_show_what_does_not_overlap_there() -> None:
    """By brute force: at four and eight times the scale none of those that say they are shown touch."""
    found = labels_of(crowded(60, 60))
    texts = [text for group in found.layers.values() for text in moved(group.items, TO_PAGE)]
    for times in (2, 4, 8):
        boxes = []
        for text in texts:
            assert isinstance(text, Text)
            if text.largest is None or text.largest < SCALE * times or text.leader is not None:
                continue
            x, y = text.at[0] / times + text.offset[0], text.at[1] / times + text.offset[1]
            boxes.append(shapely.box(x + text.run.x[0], y - 1.0, x + text.run.x[0] + text.run.width, y))
        assert times == 8 or len(boxes) > 5
        assert not any(one.intersects(two) for one, two in itertools.combinations(boxes, 2))


def test_halos_have_the_tint_as_it_is_printed() -> None:
    """Where the tints are printed at half their opacity, a halo is not a darker than they are."""
    units = {"Kp": MapUnit("Kp", "Kp", "", "#808000")}
    features = only(square(1, 0, 0, 2000))
    layers = portray(features, BOOK, units, CRS, SCALE)
    found = labelled(features, layers, Written(BOOK, units, CRS), SCALE, TO_PAGE, tint_opacity=0.5)
    assert {label.halo for label in found.labels} == {"#C0C080"}

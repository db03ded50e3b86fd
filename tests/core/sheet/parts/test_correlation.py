"""The correlation of map units against the chart: nothing out of its time, nothing over anything else."""

from __future__ import annotations

import itertools

import numpy as np
import pytest

from orvik.core.errors import FeatureRefused
from orvik.core.features.age import chart
from orvik.core.features.map_unit import MapUnit
from orvik.core.ink.primitives import Stroke, Text, walk
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts.correlation.box_moves import BoxMove
from orvik.core.sheet.parts.correlation.boxes import boxes_of
from orvik.core.sheet.parts.correlation.correlation import Correlation, CorrelationLayout
from orvik.core.sheet.parts.correlation.time_scale import time_scale
from tests.core.sheet.parts.test_description import page_of
from tests.examples import SEED

NAMES = [age.name for age in chart()]


def unit(code: str, oldest: str, youngest: str = "", heading: str = "", age: str = "", position: int = 1) -> MapUnit:
    return MapUnit(
        code, f"Unit {code}", age, "#BBD5A6", position=position, age_from=oldest, age_to=youngest, heading=heading
    )


ISLAND = (
    unit("Qal", "Holocene", heading="Surficial", position=1),
    unit("Qt", "Pleistocene", heading="Surficial", position=2),
    unit("Kp", "Aptian", "Albian", "Sedimentary", position=3),
    unit("Kw", "Berriasian", "Barremian", "Sedimentary", position=4),
    unit("Jh", "Upper Jurassic", heading="Sedimentary", position=5),
    unit("Jc", "Bajocian", "Callovian", "Sedimentary", position=6),
    unit("g", "Precambrian", heading="Metamorphic", position=7),
)


def laid(
    units: tuple[MapUnit, ...], width: float = 200.0, height: float = 100.0, **settings: object
) -> CorrelationLayout:
    part = Part(Correlation(panel=1, **settings), 10.0, 20.0, width, height, id=2)  # type: ignore[arg-type]
    return part.settings.layout(part, page_of(units, {u.code for u in units}, part))  # type: ignore[attr-defined, no-any-return]


def random_units(rng: np.random.Generator, count: int) -> tuple[MapUnit, ...]:
    out = []
    for i in range(count):
        first, second = sorted(rng.choice(len(NAMES), 2, replace=False).tolist())
        older, younger = NAMES[second], NAMES[first]
        try:
            out.append(unit(f"U{i}", older, younger, f"H{rng.integers(3)}", position=i))
        except FeatureRefused:  # a range that runs the wrong way is no unit
            out.append(unit(f"U{i}", older, "", f"H{rng.integers(3)}", position=i))
    return tuple(out)


def test_ages_are_those_of_the_published_chart() -> None:
    """International Commission on Stratigraphy, chart 2026/06: a few boundaries as printed there."""
    layout = laid(ISLAND)
    assert layout.scale is not None
    for name, younger, older in (
        ("Holocene", 0.0, 0.0117),
        ("Pleistocene", 0.0117, 2.58),
        ("Lower Cretaceous", 100.5, 143.1),
        ("Upper Jurassic", 143.1, 161.5),
    ):
        (division,) = (age for age in layout.scale.divisions if age.name == name)
        assert (division.younger, division.older) == (younger, older)
    assert [age.name for age in layout.scale.divisions] == [
        "Holocene", "Pleistocene", "Lower Cretaceous", "Upper Jurassic", "Middle Jurassic", "Precambrian"
    ]  # fmt: skip


@pytest.mark.parametrize(("number", "scale"), list(itertools.product(range(40), ("ordinal", "true"))))
def test_boxes_of_any_units_keep_their_times_and_lie_over_none(number: int, scale: str) -> None:
    rng = np.random.default_rng((SEED, number))
    units = random_units(rng, int(rng.integers(1, 14)))
    found = boxes_of(units)
    assert len(found.boxes) + len(found.undated) == len(units)
    times = time_scale([box.span for box in found.boxes], scale)
    assert all(np.diff(times.ages) > 0)
    assert all(np.diff(times.steps) > 0)
    for one, other in itertools.combinations(found.boxes, 2):
        # What is older stands lower, whatever the scale.
        if one.span.older <= other.span.younger:
            assert times.at(one.span.older) <= times.at(other.span.younger) + 1e-9
        if one.lane == other.lane:
            assert one.column == other.column
            apart = one.span.older <= other.span.younger + 1e-6 or other.span.older <= one.span.younger + 1e-6
            assert apart, (one.unit.code, other.unit.code)
    if scale == "true":
        lengths = [
            (times.at(b.span.older) - times.at(b.span.younger)) / (b.span.older - b.span.younger) for b in found.boxes
        ]
        assert np.ptp(lengths) < 1e-6
    for division in times.divisions:
        assert any(b.span.younger < division.older and b.span.older > division.younger for b in found.boxes)


@pytest.mark.parametrize("number", range(40))
def test_boxes_that_hands_have_moved_stay_within_their_ages_and_lie_over_none(number: int) -> None:
    """Any moves of any units: the time drawn over lies in that of the unit, and nothing of one lane meets."""
    rng = np.random.default_rng((SEED, number))
    units = random_units(rng, int(rng.integers(2, 14)))
    moves = {}
    for one in units:
        younger, older = sorted(rng.uniform(0, 1, 2).tolist())
        lane = int(rng.integers(4)) if rng.random() < 0.7 else None
        whole = rng.random() < 0.3
        moves[one.code] = BoxMove(lane) if whole else BoxMove(lane, younger, max(older, younger + 1e-6))
    moves["gone"] = BoxMove(3)
    settings = Correlation(panel=1, moves=moves)
    found = boxes_of(units, settings.moves)
    for box in found.boxes:
        assert box.span.younger - 1e-9 <= box.shown.younger < box.shown.older <= box.span.older + 1e-9
    for column, (_, first, count) in enumerate(found.columns):
        assert {box.lane for box in found.boxes if box.column == column} == set(range(first, first + count))
    for one, other in itertools.combinations(found.boxes, 2):
        if one.lane == other.lane:
            apart = one.shown.older <= other.shown.younger + 1e-6 or other.shown.older <= one.shown.younger + 1e-6
            assert apart, (one.unit.code, other.unit.code)
    # Where there is one free, a box has the lane it was put into; lanes that hold nothing are none.
    only = boxes_of((unit("A", "Aptian", heading="S"), unit("B", "Holocene", heading="S")), {"A": BoxMove(5)})
    assert {box.unit.code: box.lane for box in only.boxes} == {"B": 0, "A": 1}


def test_two_of_one_age_stand_one_above_the_other_where_a_hand_says_so() -> None:
    both = (unit("Qt", "Pleistocene", position=1), unit("Qm", "Pleistocene", position=2))
    assert boxes_of(both).lanes == 2
    moves = {"Qt": BoxMove(0, 0.0, 0.4), "Qm": BoxMove(0, 0.4, 1.0)}
    found = boxes_of(both, moves)
    assert found.lanes == 1
    part = Part(Correlation(panel=1, moves=moves), 10.0, 20.0, 200.0, 100.0, id=2)
    layout = part.settings.layout(part, page_of(both, {"Qt", "Qm"}, part))
    (upper, lower) = (part.settings.edges(box, layout) for box in layout.boxes.boxes)
    assert upper[0] < upper[1] < lower[0] < lower[1]


def test_many_lanes_come_closer_before_they_are_refused() -> None:
    many = tuple(unit(f"U{i}", "Aptian", heading=f"H{i}", position=i) for i in range(12))
    wide = laid(many, width=400.0)
    close = laid(many, width=190.0)
    assert wide.words == close.words == ""
    assert close.wide < wide.wide
    lefts = [*close.lanes, close.side]
    assert all(left + close.wide <= right for left, right in itertools.pairwise(lefts))


def test_what_of_time_is_missing_is_seen_and_what_follows_without_a_break_is_not() -> None:
    found = boxes_of(ISLAND)
    assert {box.unit.code for box in found.boxes if box.rests_on_gap} == {"Qt", "Jc"}
    assert [(heading, count) for heading, _, count in found.columns] == [
        ("Surficial", 1), ("Sedimentary", 1), ("Metamorphic", 1)
    ]  # fmt: skip
    # Of one time and heading: beside one another.
    both = boxes_of((unit("A", "Aptian", heading="S"), unit("B", "Lower Cretaceous", heading="S")))
    assert both.lanes == 2


def test_an_age_within_bounds_has_a_bracket() -> None:
    doubtful = (unit("A", "Aptian", age="Aptian?"), unit("B", "Holocene"))
    part = Part(Correlation(panel=1, title="", gaps=False), 10, 20, 200, 100, id=2)
    for units, more in ((doubtful, 1), ((unit("A", "Aptian"), unit("B", "Holocene")), 0)):
        page = page_of(units, {"A", "B"}, part)
        strokes = [i for i in walk(part.settings.ink(part, page)) if isinstance(i, Stroke)]
        brackets = [s for s in strokes if len(s.paths.xy) == 4 and s.paths.xy[0][0] == s.paths.xy[3][0]]
        assert len(brackets) == more
    assert {box.unit.code for box in boxes_of(doubtful).boxes if box.bounded} == {"A"}


@pytest.mark.parametrize(
    ("units", "settings", "words"),
    [
        ((unit("A", ""),), {}, "No unit of this map has an age"),
        ((), {}, "No unit of this map has an age"),
        (ISLAND, {"width": 60.0}, "beside one another take"),
        (ISLAND, {"height": 40.0}, "make it higher"),
        # The Holocene is nothing beside four thousand million years.
        (ISLAND, {"scale": "true"}, "or let each time have a step"),
        (tuple(unit(f"U{i}", "Aptian", position=i) for i in range(300)), {}, "300 boxes beside one another"),
    ],
)
def test_what_cannot_be_laid_out_is_said(units: tuple[MapUnit, ...], settings: dict[str, object], words: str) -> None:
    assert words in laid(units, **settings).words  # type: ignore[arg-type]


def test_all_its_ink_lies_in_its_frame() -> None:
    part = Part(Correlation(panel=1), 10.0, 20.0, 200.0, 100.0, id=2)
    items = list(walk(part.settings.ink(part, page_of(ISLAND, {u.code for u in ISLAND}, part))))
    for item in items:
        if isinstance(item, Stroke):
            assert item.paths.xy.min(axis=0) == pytest.approx(np.maximum(item.paths.xy.min(axis=0), [9.9, 19.9]))
            assert item.paths.xy.max(axis=0) == pytest.approx(np.minimum(item.paths.xy.max(axis=0), [210.1, 120.1]))
        if isinstance(item, Text):
            assert item.at[0] + item.run.width <= 210.1
            assert item.at[1] <= 120.1
    assert {"Quaternary", "Cretaceous", "Jurassic", "Mesozoic"} <= {i.run.chars for i in items if isinstance(i, Text)}


@pytest.mark.parametrize("width", [110.0, 130.0, 160.0, 240.0])
def test_headings_never_meet(width: float) -> None:
    """However close the lanes are: long words of neighbouring headings stand one above the other."""
    words = ("Sedimentary rocks", "Volcaniclastic rocks", "Intrusive rocks", "Metamorphosed rocks")
    many = tuple(unit(f"U{i}", "Aptian", heading=word, position=i) for i, word in enumerate(words))
    part = Part(Correlation(panel=1), 10.0, 20.0, width, 100.0, id=2)
    items = part.settings.ink(part, page_of(many, {u.code for u in many}, part))
    # Letters of headings are capitals and small ones, above all boxes.
    spoken = {word for heading in words for word in heading.split()}
    found = [i for i in walk(items) if isinstance(i, Text) and set(i.run.chars.split()) <= spoken and i.run.chars]
    assert {word for i in found for word in i.run.chars.split()} == spoken
    for one, other in itertools.combinations(found, 2):
        if abs(one.at[1] - other.at[1]) < 1.0:
            left, right = sorted((one, other), key=lambda t: t.at[0])
            assert left.at[0] + left.run.width < right.at[0]

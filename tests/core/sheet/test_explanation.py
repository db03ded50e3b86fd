"""The explanation: it neither lies nor leaves its frame, whatever it has to list."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
import shapely

from orvik.core.features.band import Band
from orvik.core.features.feature import Feature, Features
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.stretch import Stretch
from orvik.core.ink import Fill, Item, Marks, Ornaments, Stroke, Text, walk
from orvik.core.lettering import cap_height
from orvik.core.sheet.part import Part
from orvik.core.sheet.parts import explanation
from orvik.core.sheet.parts.explanation import Explanation
from orvik.core.signs.book_file import standard

BOOK = standard()
# Points that write their dip or plunge.
FIGURED = sorted({s.kind for s in BOOK.signs if s.table == "points" and "inclination" in {c.of for c in s.captions}})
# As many as a full map has: lines first, then points.
SIGNS = tuple(s for table in ("lines", "points") for s in [s for s in BOOK.signs if s.table == table][::6])


def units(count: int, age: str = "Early Cretaceous") -> tuple[MapUnit, ...]:
    return tuple(MapUnit(f"K{i}", f"Unit number {i} of a long name", age, "#BBD5A6", position=i) for i in range(count))


def extent(items: list[Item]) -> tuple[float, float, float, float]:
    """What the ink of a part covers, in millimetres."""
    xy: list[np.ndarray] = []
    for item in walk(items):
        if isinstance(item, Stroke | Fill):
            xy.append(item.paths.xy)
        elif isinstance(item, Marks | Ornaments):
            reach = max(float(np.abs(piece.paths.xy).max()) for piece in item.symbol.items)
            xy += [item.at - reach * 0.75, item.at + reach * 0.75]
        elif isinstance(item, Text):
            x, y = item.at
            xy.append(
                np.array(
                    [
                        [x + (item.run.x[0] if item.run.x else 0), y - cap_height(item.run.size)],
                        [x + (item.run.x[0] if item.run.x else 0) + item.run.width, y],
                    ]
                )
            )
    both = np.vstack(xy)
    return (*both.min(axis=0).tolist(), *both.max(axis=0).tolist())


@pytest.mark.parametrize(
    ("count", "width", "height"), list(itertools.product((1, 7, 25, 64, 150), (45.0, 90.0, 250.0), (40.0, 150.0)))
)
def test_it_stays_in_its_frame_and_says_what_it_leaves_out(count: int, width: float, height: float) -> None:
    listed = explanation.Entries(units(count), SIGNS)
    part = Part(Explanation(), 20.0, 30.0, width, height)
    items = explanation.explanation_ink(part, listed)
    west, north, east, south = extent(items)
    assert west >= 20 - 0.05
    assert north >= 30 - 0.05
    assert east <= 20 + width + 0.05
    assert south <= 30 + height + 0.05
    texts = [i.run.chars for i in walk(items) if isinstance(i, Text)]
    shown = sum(u.name in texts for u in listed.units) + sum(s.title in texts for s in listed.signs)
    left = count + len(listed.signs) - shown
    said = [t for t in texts if t.startswith("and ")]
    # The rule between units and signs counts as a row of its own.
    assert bool(said) == bool(left)
    if said:
        assert abs(int(said[0].split()[1]) - left) <= 1


def test_a_unit_without_an_age_has_no_empty_line() -> None:
    items = explanation.explanation_ink(Part(Explanation(), 0, 0, 90, 100), explanation.Entries(units(2, "")))
    assert all(i.run.chars for i in walk(items) if isinstance(i, Text))


def test_the_margins_of_a_band_are_no_dykes() -> None:
    line = Feature(
        "lines",
        shapely.LineString([(0, 0), (10, 0), (20, 0), (30, 0)]),
        "dyke",
        id=1,
        band=Band(8.0),
        stretches=(Stretch(0, 1, "inferred", "left"), Stretch(1, 2, "approximate", "right")),
    )
    listed = explanation.entries({"lines": Features.of("lines", [line])}, BOOK, {})
    assert [(s.kind, s.certainty) for s in listed.signs] == [("dyke", "certain")]


@pytest.mark.parametrize("kind", FIGURED)
def test_a_figure_never_stands_on_its_own_sign(kind: str) -> None:
    point = Feature("points", shapely.Point(0, 0), kind, id=1, azimuth=30.0, inclination=35.0)
    listed = explanation.entries({"points": Features.of("points", [point])}, BOOK, {})
    items = list(walk(explanation.explanation_ink(Part(Explanation(), 0, 0, 90, 60), listed)))
    (marks,) = [item for item in items if isinstance(item, Marks)]
    (figure,) = [item for item in items if isinstance(item, Text) and item.run.chars == "35"]
    angle = np.radians(float(marks.angles[0]))
    turn = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
    lines = [
        shapely.LineString(piece.paths[i] @ turn + marks.at[0])
        for piece in marks.symbol.items
        for i in range(len(piece.paths))
    ]
    x, y = np.add(figure.at, figure.offset).tolist()
    left = x + figure.run.x[0]
    letters = shapely.box(left, y - cap_height(figure.run.size), left + figure.run.width, y)
    assert shapely.union_all(lines).distance(letters) > 0.1


def test_what_is_not_printed_has_no_row() -> None:
    lines = [
        Feature("lines", shapely.LineString([(0, i), (100, i)]), kind, id=i)
        for i, kind in enumerate(("scratch_boundary", "contact"), 1)
    ]
    points = [
        Feature("points", shapely.Point(5, 5), kind, id=i) for i, kind in enumerate(("unit_tag", "place_name"), 1)
    ]
    shown = {"lines": Features.of("lines", lines), "points": Features.of("points", points)}
    assert [s.id for s in explanation.entries(shown, BOOK, {}).signs] == ["contact-certain"]  # type: ignore[arg-type]

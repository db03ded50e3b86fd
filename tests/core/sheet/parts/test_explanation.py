"""The explanation: it neither lies nor leaves its frame, whatever it has to list."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
import shapely

from orvik.core.features.band import Band
from orvik.core.features.feature import Feature, Features
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.stretch import Stretch
from orvik.core.features.table import Table
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.core.ink.primitives import Fill, Item, Marks, Ornaments, Stroke, Text, walk
from orvik.core.lettering import cap_height
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.panels.map_context import MapContext
from orvik.core.sheet.parts.explanation.explanation import Explanation
from orvik.core.sheet.parts.explanation.found_rows import rows_of
from orvik.core.sheet.parts.explanation.layout import Frame, Layout, blocks_of, flowed_out, ink_of
from orvik.core.sheet.parts.explanation.row_edits import RowEdits
from orvik.core.sheet.parts.explanation.row_ink import RowLook
from orvik.core.sheet.parts.explanation.rows import ExplanationRow, edited, new_keys, symbol_row, unit_row
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.symbol import Symbol
from tests.examples import SEED

BOOK = standard()
# Points that write their dip or plunge.
FIGURED = sorted({s.kind for s in BOOK.symbols if s.table == "points" and "inclination" in {c.of for c in s.captions}})
# As many as a full map has: lines first, then points.
SYMBOLS = tuple(s for table in ("lines", "points") for s in [s for s in BOOK.symbols if s.table == table][::6])


def laid_out(
    rows: Sequence[ExplanationRow],
    part: Part,
    look: RowLook,
    title: bool,
    columns: int | None = None,
    k: float | None = None,
) -> Layout:
    """Rows in one frame."""
    (layout,) = flowed_out(rows, [Frame(part, title, columns)], look, k)
    return layout


def units(count: int, age: str = "Early Cretaceous") -> tuple[MapUnit, ...]:
    return tuple(MapUnit(f"K{i}", f"Unit number {i} of a long name", age, "#BBD5A6", position=i) for i in range(count))


def listed_of(many: Sequence[MapUnit], symbols: Sequence[Symbol] = (), headings: str = "none") -> list[ExplanationRow]:
    """Rows as a panel gives rise to them."""
    by_code = {unit.code: unit for unit in many}
    return [*(unit_row(unit, by_code, {}, headings) for unit in many), *(symbol_row(symbol) for symbol in symbols)]


def rows_in(features: Mapping[Table, Features], many: Sequence[MapUnit] = ()) -> list[ExplanationRow]:
    by_code = {unit.code: unit for unit in many}
    shown = MapContext("Small", project_crs("EPSG:32628"), Scales(25_000, 6_250), BOOK, by_code, features, None)
    return rows_of(shown, [], {}, "none", "symbol")


def symbols_in(features: Mapping[Table, Features]) -> list[Symbol]:
    return [row.shows for row in rows_in(features) if isinstance(row.shows, Symbol)]


def inked(rows: Sequence[ExplanationRow], part: Part, texts: bool = True, **values: Any) -> list[Item]:
    look = RowLook(BOOK, texts)
    return ink_of(laid_out(rows, part, look, title=True, **values), part, "Explanation", look)


def extent(items: list[Item]) -> tuple[float, float, float, float]:
    """What the ink of a part covers, in millimetres."""
    xy: list[np.ndarray] = []
    for item in walk(items):
        if isinstance(item, Stroke | Fill):
            xy.append(item.paths.xy)
        elif isinstance(item, Marks | Ornaments):
            reach = max(float(np.abs(piece.paths.xy).max()) for piece in item.stamp.items)
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
    rows = listed_of(units(count), SYMBOLS)
    part = Part(Explanation(), 20.0, 30.0, width, height)
    items = inked(rows, part)
    west, north, east, south = extent(items)
    assert west >= 20 - 0.1
    assert north >= 30 - 0.05
    assert east <= 20 + width + 0.05
    assert south <= 30 + height + 0.05
    texts = [i.run.chars for i in walk(items) if isinstance(i, Text)]
    left = len(rows) - sum(row.name in texts for row in rows)
    # That is said as a finding, and never printed.
    assert not [t for t in texts if t.startswith("and ")]
    layout = laid_out(rows, part, RowLook(BOOK), title=True)
    assert bool(layout.words) == bool(left)
    if left:
        assert int(layout.words.split()[1]) == left
        # As much higher as it says, and all of it is there.
        more = int(layout.words.split("make it ")[1].split()[0])
        higher = part.changed(height=height + more + 4.0)
        assert laid_out(rows, higher, RowLook(BOOK), title=True, columns=layout.columns, k=layout.k).left_out == 0


def test_a_unit_without_an_age_has_no_empty_line() -> None:
    items = inked(listed_of(units(2, "")), Part(Explanation(), 0, 0, 90, 100))
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
    symbols = symbols_in({"lines": Features.of("lines", [line])})
    assert [(s.kind, s.certainty) for s in symbols] == [("dyke", "certain")]


@pytest.mark.parametrize("kind", FIGURED)
def test_a_figure_never_stands_on_its_own_symbol(kind: str) -> None:
    point = Feature("points", shapely.Point(0, 0), kind, id=1, azimuth=30.0, inclination=35.0)
    rows = rows_in({"points": Features.of("points", [point])})
    items = list(walk(inked(rows, Part(Explanation(), 0, 0, 90, 60))))
    (marks,) = [item for item in items if isinstance(item, Marks)]
    (figure,) = [item for item in items if isinstance(item, Text) and item.run.chars == "35"]
    angle = np.radians(float(marks.angles[0]))
    turn = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
    lines = [
        shapely.LineString(piece.paths[i] @ turn + marks.at[0])
        for piece in marks.stamp.items
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
    assert [s.id for s in symbols_in(shown)] == ["contact-certain"]  # type: ignore[arg-type]


@pytest.mark.parametrize("columns", [2, 3, 5])
@pytest.mark.parametrize("count", [9, 40, 64])
def test_columns_balance_and_no_heading_stands_at_a_foot(columns: int, count: int) -> None:
    headed = [
        MapUnit(u.code, u.name, u.age, u.colour, position=u.position, heading=f"Heading {u.position // 4}")
        for u in units(count)
    ]
    part = Part(Explanation(), 0, 0, 400, 450)
    layout = laid_out(listed_of(headed, SYMBOLS, "own"), part, RowLook(BOOK), title=False, columns=columns)
    assert layout.left_out == 0
    ends: dict[float, float] = {}
    last: dict[float, Any] = {}
    for placed in layout.placed:
        ends[placed.x] = max(ends.get(placed.x, 0.0), placed.y + placed.height)
        last[placed.x] = placed.block
    assert len(ends) == columns
    assert not any(block.heading for block in last.values())
    # None is lower than another by more than two rows and a heading.
    full = [end for x, end in ends.items() if x != max(ends)]
    assert max(full) - min(full) < 28 * layout.k
    # As low as they can be: another millimetre less would need one column more.
    lower = part.changed(height=max(ends.values()) - 1.0)
    assert laid_out(listed_of(headed, SYMBOLS, "own"), lower, RowLook(BOOK), False, columns, layout.k).left_out > 0


def test_headings_by_period_by_parent_and_of_the_column() -> None:
    many = [
        MapUnit("Kp", "Pellan Mudstone", "", "#BBD5A6", age_from="Lower Cretaceous", heading="Sedimentary rocks"),
        MapUnit("Jh", "Harrack Sandstone", "", "#F2C3A4", age_from="Upper Jurassic", parent="Kp"),
        MapUnit("pCg", "Quennet Gneiss", "", "#D9A08F", age_from="Paleoproterozoic"),
        MapUnit("Xx", "Of no known age", "", "#D9A08F"),
    ]
    by_period = [row.heading for row in listed_of(many, headings="age")]
    assert by_period == ["Cretaceous", "Jurassic", "Paleoproterozoic", ""]
    assert [row.heading for row in listed_of(many, headings="parent")] == ["", "Pellan Mudstone", "", ""]
    assert [row.heading for row in listed_of(many, headings="own")] == ["Sedimentary rocks", "", "", ""]
    blocks = blocks_of(listed_of(many, headings="age"))
    assert [b.heading for b in blocks if b.heading][:2] == ["Cretaceous", "Jurassic"]


def test_a_box_has_the_colour_that_the_panel_prints() -> None:
    """Half of a tint over white, channel by channel."""
    unit = MapUnit("Kp", "Pellan Mudstone", "", "#204060")
    row = unit_row(unit, {}, {"units": 0.5}, "none")
    (box,) = [i for i in inked([row], Part(Explanation(), 0, 0, 90, 60)) if isinstance(i, Fill)]
    assert box.colour == "#90A0B0"


ROWS = listed_of(units(6), SYMBOLS[:3])
KEYS = [row.key for row in ROWS]


def test_what_hands_do_survives_edits_of_the_map() -> None:
    stored = {
        KEYS[0]: {"name": "Another name", "text": "And a text."},
        KEYS[1]: {"hidden": True},
        "order": [KEYS[2], KEYS[0], *KEYS[3:]],
        "added": ["text 1", "unit Zz"],
        "text 1": {"name": "A note"},
        "known": KEYS,
    }
    edits = RowEdits.from_dict(stored)
    assert edits.to_dict() == stored
    other = ExplanationRow("unit Zz", None, "Added")
    shown = edited(ROWS, edits, False, {"unit Zz": other})
    assert [row.key for row in shown] == [KEYS[2], KEYS[0], *KEYS[3:], "text 1", "unit Zz"]
    assert (shown[1].name, shown[1].text) == ("Another name", "And a text.")
    # A unit goes and another comes: it stands after the one before it, and is counted; unless the list is fixed.
    fresh = ExplanationRow("unit New", None, "New")
    later = [ROWS[0], ROWS[2], fresh, *ROWS[3:]]
    now = [row.key for row in edited(later, edits, False, {"unit Zz": other})]
    assert now[:4] == [KEYS[2], "unit New", KEYS[0], KEYS[3]]
    assert new_keys(later, edits) == ["unit New"]
    assert "unit New" not in [row.key for row in edited(later, edits, True, {"unit Zz": other})]
    assert new_keys(ROWS, RowEdits()) == []


def test_texts_wrap_within_their_column_and_make_room() -> None:
    long = "Thick-bedded, cross-bedded quartz sandstone with thin beds of mudstone and coal; " * 3
    rows = [ExplanationRow(row.key, row.shows, row.name, row.age, long) for row in listed_of(units(5))]
    part = Part(Explanation(), 0, 0, 90, 200)
    layout = laid_out(rows, part, RowLook(BOOK), title=True, columns=1)
    tops = [placed.y for placed in layout.placed]
    assert all(b - a >= 20 * layout.k for a, b in itertools.pairwise(tops))
    words = [i for i in inked(rows, part, columns=1) if isinstance(i, Text)]
    assert all(i.at[0] + i.run.width <= 90.05 for i in words)
    assert extent(inked(rows, part, columns=1))[3] <= 200


@pytest.mark.parametrize("seed", range(30))
def test_every_row_stands_once_in_its_order_through_any_frames(seed: int) -> None:
    """Any number of frames of any size: all of one size of letters, what is left is counted at the last of them."""
    rng = np.random.default_rng((SEED, seed))
    headed = [replace(unit, heading=f"H{i // 3}") for i, unit in enumerate(units(11))]
    rows = listed_of(headed, SYMBOLS, "own")
    frames = [
        Frame(Part(Explanation(), 20, 20, float(rng.uniform(70, 220)), float(rng.uniform(40, 160)), id=i + 1), i == 0)
        for i in range(int(rng.integers(1, 5)))
    ]
    look = RowLook(BOOK)
    layouts = flowed_out(rows, frames, look)
    assert len({layout.k for layout in layouts}) == 1
    stood = [p.block.row.key for layout in layouts for p in layout.placed if p.block.row is not None]
    assert stood == [row.key for row in rows][: len(stood)]
    assert len(stood) + layouts[-1].left_out == len(rows)
    assert all(layout.left_out == 0 for layout in layouts[:-1])
    for frame, layout in zip(frames, layouts, strict=True):
        part = frame.part
        for p in layout.placed:
            assert part.x - 1e-6 <= p.x
            assert p.x + p.width <= part.x + part.width + 1e-6
            assert p.y + p.height <= part.y + part.height + 1e-6
    # One frame more never shows fewer, in letters that are no smaller.
    more = flowed_out(rows, [*frames, Frame(frames[0].part)], look)
    assert more[0].k >= layouts[0].k - 1e-9
    assert more[-1].left_out <= layouts[-1].left_out


def test_a_heading_stands_again_where_its_rows_go_on() -> None:
    headed = [replace(unit, heading="Rocks") for unit in units(7)]
    rows = listed_of(headed, (), "own")
    part = Part(Explanation(), 20, 20, 80, 34, id=1)
    first, second = flowed_out(rows, [Frame(part), Frame(part)], RowLook(BOOK))
    assert [p.block.heading for p in first.placed if p.block.heading] == ["Rocks"]
    assert [p.block.heading for p in second.placed if p.block.heading] == ["Rocks—Continued"]

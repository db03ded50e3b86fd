"""The description of map units: the column as it is, in its hierarchy, through any frames."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely

from orvik.core.features.feature import Feature, Features
from orvik.core.features.kind import UNIT_AREA
from orvik.core.features.map_unit import MapUnit
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.core.ink.primitives import Text, walk
from orvik.core.lettering import BOLD, ITALIC, cap_height
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.panels.map_context import MapContext
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.parts.description.description import Description
from orvik.core.sheet.parts.description.unit_texts import unit_texts
from orvik.core.sheet.parts.map_panel import MapPanel, panels_of
from orvik.core.symbols.book_file import standard
from orvik.core.typesetting.spans import plain_text
from tests.examples import SEED

COLUMN = (
    MapUnit(
        "Qal", "Alluvium", "Holocene", "#F1E5A2", "Gravel and sand; *Salix* roots.", 1, heading="Surficial deposits"
    ),
    MapUnit("Ke", "Eskdale Formation", "Cretaceous", "#BBD5A6", "Of two members.", 4, rank="formation"),
    MapUnit("Keu", "Upper member", "Cretaceous", "#AAD5A6", "Mudstone.", 2, rank="member", parent="Ke"),
    MapUnit("Kel", "Lower member", "Cretaceous", "#99D5A6", "Sandstone, 10^3^ beds.", 3, rank="member", parent="Ke"),
    MapUnit("Jh", "Harrack Sandstone", "Jurassic", "#F2C3A4", "Red sandstone.", 5, heading="Sedimentary rocks"),
)


def page_of(units: tuple[MapUnit, ...], shown: set[str], *parts: Part) -> PageContext:
    areas = [
        Feature(
            "areas", shapely.box(511_000 + 5 * i, 6_801_000, 511_005 + 5 * i, 6_801_400), UNIT_AREA, i, map_unit=u.code
        )
        for i, u in enumerate(units, 1)
        if u.code in shown
    ]
    features = {
        "lines": Features.of("lines", []),
        "areas": Features.of("areas", areas),
        "points": Features.of("points", []),
    }
    crs = project_crs("EPSG:32628")
    context = MapContext("S", crs, Scales(25_000, 6_250), standard(), {u.code: u for u in units}, features, None)  # type: ignore[arg-type]
    panel = Part(MapPanel(centre=(512_000.0, 6_802_000.0), scale=25_000), 0, 0, 100, 100, id=1)
    placed = [panel, *parts]
    return PageContext(Sheet("S", "own", 420, 400), placed, context, panels_of(placed, context))


def part(number: int, width: float = 80.0, height: float = 150.0, **settings: object) -> Part:
    return Part(Description(panel=1, **settings), 100.0, 10.0, width, height, id=number)  # type: ignore[arg-type]


def said(parts: list[Part], page: PageContext) -> list[str]:
    """What is set in each part, words apart, without boxes' labels."""
    labels = {unit.printed_label for unit in page.map.units.values()}
    out = []
    for one in parts:
        texts = [i for i in walk(one.settings.ink(one, page)) if isinstance(i, Text)]
        out.append(" ".join(i.run.chars for i in texts if i.run.chars not in labels))
    return out


def test_units_stand_in_their_hierarchy_and_what_is_typed_has_its_styles() -> None:
    everything = {unit.code for unit in COLUMN}
    found = unit_texts({u.code: u for u in COLUMN}, frozenset(everything), "left")
    assert [(plain_text(t.spans).split("—")[0], t.depth) for t in found] == [
        ("Surficial deposits", 0),
        ("Alluvium (Holocene)", 0),
        ("Eskdale Formation (Cretaceous)", 0),
        ("Upper member (Cretaceous)", 1),
        ("Lower member (Cretaceous)", 1),
        ("Sedimentary rocks", 0),
        ("Harrack Sandstone (Jurassic)", 0),
    ]
    one = part(2)
    texts = [i for i in walk(one.settings.ink(one, page_of(COLUMN, everything, one))) if isinstance(i, Text)]
    assert {i.run.chars.strip() for i in texts if i.run.font == ITALIC} == {"Salix"}
    assert "Alluvium" in {i.run.chars.strip() for i in texts if i.run.font == BOLD}
    (raised,) = [i for i in texts if i.run.chars == "3"]
    assert raised.run.size < 2.75
    # Capitals of 1.8 mm and more.
    assert cap_height(2.75) >= 1.8


def test_units_that_the_map_lacks_are_left_out_or_said() -> None:
    by_code = {u.code: u for u in COLUMN}
    left = [plain_text(t.spans) for t in unit_texts(by_code, frozenset({"Kel"}), "left")]
    assert left == ["Eskdale Formation (Cretaceous)—Of two members.", "Lower member (Cretaceous)—Sandstone, 103 beds."]
    # The whole that its part belongs to has no box: none of it is on the map by itself.
    assert [t.boxed for t in unit_texts(by_code, frozenset({"Kel"}), "left")] == [False, True]
    told = [plain_text(t.spans) for t in unit_texts(by_code, frozenset({"Kel"}), "said")]
    assert sum(text.endswith(" Not on this map.") for text in told) == 4


@pytest.mark.parametrize("parents", [{"A": "B", "B": "A"}, {"A": "Z"}, {"A": "B", "B": "C", "C": "B"}])
def test_a_column_of_others_whose_parents_make_no_tree_loses_no_unit(parents: dict[str, str]) -> None:
    units = {
        c: MapUnit(c, f"Unit {c}", "", "#BBD5A6", position=i, parent=parents.get(c, "")) for i, c in enumerate("ABC")
    }
    for elsewhere in ("left", "said"):
        found = unit_texts(units, frozenset("ABC"), elsewhere)
        assert sorted(t.unit.code for t in found if t.unit) == ["A", "B", "C"]


@pytest.mark.parametrize("number", range(30))
def test_every_word_stands_once_in_its_order_through_any_frames(number: int) -> None:
    rng = np.random.default_rng((SEED, number))
    words = [
        "gravel",
        "sand",
        "silt",
        "of",
        "the",
        "and",
        "grey",
        "mudstone",
        "with",
        "thin",
        "beds",
        "coal",
        "12",
        "m",
        "thick",
    ]
    units = tuple(
        MapUnit(
            f"U{i}", f"Unit number {i}", "Jurassic", "#BBD5A6", " ".join(rng.choice(words, int(rng.integers(0, 60)))), i
        )
        for i in range(int(rng.integers(1, 12)))
    )
    parts = [
        part(
            2 + i,
            float(rng.uniform(50, 160)),
            float(rng.uniform(30, 200)),
            goes_on=i > 0,
            columns=int(rng.integers(1, 3)),
            title="" if i else "Units",
        )
        for i in range(int(rng.integers(1, 4)))
    ]
    page = page_of(units, {u.code for u in units}, *parts)
    layout = parts[0].settings.layout(parts[0], page)  # type: ignore[attr-defined]
    told = " ".join(said(parts, page)).replace("Units ", "", 1).replace(" —", "—").replace("— ", "—")
    expected = " ".join(plain_text(t.spans) for t in layout.texts)
    assert expected.replace(" ", "").startswith(told.replace(" ", ""))
    assert (told.replace(" ", "") == expected.replace(" ", "")) == (layout.left_out == 0)
    for one in parts:
        for item in walk(one.settings.ink(one, page)):
            if isinstance(item, Text):
                assert one.x - 0.01 <= item.at[0]
                assert one.y <= item.at[1] <= one.y + one.height + 0.01
    if layout.left_out:
        # As much higher as it says, and all of it is there.
        last = parts[-1]
        higher = last.changed(height=last.height + layout.missing + 2.1)
        again = page_of(units, {u.code for u in units}, *parts[:-1], higher)
        assert higher.settings.layout(higher, again).left_out == 0  # type: ignore[attr-defined]


def test_two_beginnings_on_one_sheet_are_two_texts() -> None:
    first, second, third = part(2, height=40.0), part(5), part(7, goes_on=True, title="")
    page = page_of(COLUMN, {u.code for u in COLUMN}, first, second, third)
    assert [p.id for p in page.chain(first)] == [2]
    assert [p.id for p in page.chain(third)] == [5, 7]
    # One that goes on from nothing begins.
    alone = part(3, goes_on=True)
    assert [p.id for p in page_of(COLUMN, {"Qal"}, alone).chain(alone)] == [3]


def test_a_word_that_no_column_holds_is_named() -> None:
    wide = replace(COLUMN[0], description="Diamicton-free glaciofluviolacustrinedeposits.")
    one = part(2, width=52.0)
    layout = one.settings.layout(one, page_of((wide,), {"Qal"}, one))  # type: ignore[attr-defined]
    assert layout.overfull == ["glaciofluviolacustrinedeposits."]


@pytest.mark.parametrize("count", [0, 1, 300])
def test_no_units_and_three_hundred_are_set(count: int) -> None:
    units = tuple(MapUnit(f"U{i}", f"Unit {i}", "", "#BBD5A6", "Grey.", i) for i in range(count))
    one = part(2)
    layout = one.settings.layout(one, page_of(units, {u.code for u in units}, one))  # type: ignore[attr-defined]
    assert len(layout.texts) == count
    assert bool(layout.left_out) == (count == 300)

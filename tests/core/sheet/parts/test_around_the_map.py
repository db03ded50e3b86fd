"""What is printed around the map: neighbouring sheets, sources, metres to feet, a bar code."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.features.feature import Feature, Features
from orvik.core.ink.affine import apply
from orvik.core.ink.primitives import Fill, Item, Stroke, Text, walk
from orvik.core.joins.neighbour import PLACES, Neighbour
from orvik.core.sheet.output.compose import compose
from orvik.core.sheet.page.imprint import Imprint
from orvik.core.sheet.page.part import Part, PartSettings
from orvik.core.sheet.panels.map_context import MapContext, Origin
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.parts.conversion_bar import ConversionBar
from orvik.core.sheet.parts.graticule.graticule import Graticule
from orvik.core.sheet.parts.identifier import QUIET, Identifier, modules_of
from orvik.core.sheet.parts.map_panel import panels_of
from orvik.core.sheet.parts.neighbouring_sheets import CELLS, NeighbouringSheets
from orvik.core.sheet.parts.source_diagram import HERE, SourceDiagram, regions
from tests.core.sheet.panels.test_panel import PAGE, context, part_of
from tests.examples import examples

BOX = (20.0, 220.0, 60.0, 40.0)


def drawn(settings: PartSettings, box: tuple[float, float, float, float] = BOX, **more: object) -> list[Item]:
    whole: MapContext = replace(context(), **more)  # type: ignore[arg-type]
    made = compose(PAGE, [part_of(), Part(settings, *box, id=2, position=2)], whole)
    return list(walk(made.groups[1].items))


def words(items: list[Item]) -> dict[str, tuple[float, float]]:
    return {item.run.chars: item.at for item in items if isinstance(item, Text)}


def number(text: str) -> float:
    return float(text.replace("\u2009", "").replace("\u2212", "-"))


@given(st.integers(-6000, 6000), st.integers(5, 5000), st.floats(50, 250))
@examples(60)
def test_a_foot_is_a_foot(low: int, span: int, width: float) -> None:
    """Figures of both sides lie where 0.3048 m to the foot puts them (NIST SP 811), within 0.05 mm."""
    bar = ConversionBar(panel=1, low=float(low), high=float(low + span))
    items = [item for item in drawn(bar, (20, 220, width, 12)) if isinstance(item, Text)]
    upper = min(item.at[1] for item in items)
    placed: dict[bool, list[tuple[float, float]]] = {True: [], False: []}
    for item in items:
        if item.run.chars not in ("metres", "feet"):
            placed[item.at[1] == upper].append((number(item.run.chars), item.at[0]))
    metres, feet = placed[True], placed[False]
    assert len(metres) >= 2
    (a, xa), (b, xb) = metres[0], metres[-1]
    for value, x in feet:
        assert abs(xa + (value * 0.3048 - a) / (b - a) * (xb - xa) - x) < 0.05
    assert all(20 - 1e-6 <= item.at[0] <= 20 + width for item in items)


@pytest.mark.parametrize(
    ("bar", "said"),
    [
        (ConversionBar(panel=1), "has no heights"),
        (ConversionBar(panel=1, low=5.0, high=5.0), "lower height to a higher"),
    ],
)
def test_a_bar_without_heights_says_so(bar: ConversionBar, said: str) -> None:
    assert said in " ".join(words(drawn(bar)))


@given(st.lists(st.sampled_from(sorted(PLACES)), max_size=9), st.text("abcdefg hij", min_size=1, max_size=40))
@examples(40)
def test_neighbours_stand_in_their_cells(places: list[str], name: str) -> None:
    held = [Neighbour(name.strip() or "x", str(100 + i), place) for i, place in enumerate(places)]
    items = drawn(NeighbouringSheets(), neighbours=held, imprint=Imprint(number="22"))
    foot = NeighbouringSheets().size * 1.7
    wide, high = BOX[2] / 3, (BOX[3] - foot) / 3
    for text, (x, y) in words(items).items():
        row, column = int((y - BOX[1]) / high), int((x - BOX[0]) / wide)
        for neighbour in held:
            if neighbour.sheet_number == text:
                assert CELLS[row][column] == neighbour.place
        if text == "22":
            assert CELLS[row][column] == ""
    assert {n.sheet_number for n in held} <= set(words(items))
    for item in items:
        if isinstance(item, Text):
            assert BOX[0] <= item.at[0] - item.run.width / 2
            assert item.at[0] + item.run.width / 2 <= BOX[0] + BOX[2]


def test_a_sheet_without_neighbours_or_number_is_still_a_diagram() -> None:
    items = drawn(NeighbouringSheets(caption=""))
    assert any(isinstance(item, Stroke) for item in items)
    assert set(words(items)) == {"Small"}


# GS1 General Specifications, 5.2.1: modules of digits of set A; the others follow from them.
SET_A = ["0001101", "0011001", "0010011", "0111101", "0100011", "0110001", "0101111", "0111011", "0110111", "0001011"]
FIRST = ["AAAAAA", "AABABB", "AABBAB", "AABBBA", "ABAABB", "ABBAAB", "ABBBAA", "ABABAB", "ABABBA", "ABBABA"]


@given(st.text("0123456789", min_size=12, max_size=12))
@examples(60)
def test_a_code_of_13_digits_is_that_of_the_standard(digits: str) -> None:
    check = -sum(int(d) * (3 if i % 2 else 1) for i, d in enumerate(digits)) % 10
    whole = digits + str(check)
    sets = {"A": SET_A, "B": ["".join("10"[int(m)] for m in code)[::-1] for code in SET_A]}
    right = ["".join("10"[int(m)] for m in code) for code in SET_A]
    left = "".join(sets[kind][int(d)] for kind, d in zip(FIRST[int(whole[0])], whole[1:7], strict=True))
    wanted = f"101{left}01010{''.join(right[int(d)] for d in whole[7:])}101"
    assert modules_of(whole, "ean13") == wanted
    wrong = digits + str((check + 1) % 10)
    assert modules_of(wrong, "ean13") is None


def test_any_characters_have_their_symbols_and_quiet_margins() -> None:
    modules = modules_of("QS-22-2026", "code128")
    assert modules is not None
    # ISO/IEC 15417: eleven modules a symbol, thirteen for the last; it begins and ends with a bar.
    assert (len(modules) - 13) % 11 == 0
    assert modules.startswith("11")
    assert modules.endswith("1100011101011")
    items = drawn(Identifier(text="QS-22-2026"), (20, 220, 60, 16))
    (bars,) = [item for item in items if isinstance(item, Fill)]
    module = 60 / (len(modules) + sum(QUIET["code128"]))
    left, right = bars.paths.xy[:, 0].min(), bars.paths.xy[:, 0].max()
    assert (left, right) == pytest.approx((20 + 10 * module, 80 - 10 * module))
    groups = [(key, len(list(run))) for key, run in itertools.groupby(modules)]
    widths = [np.ptp(bars.paths[i][:, 0]) for i in range(len(bars.paths))]
    np.testing.assert_allclose(widths, [count * module for key, count in groups if key == "1"])


@pytest.mark.parametrize(
    ("settings", "width", "said"),
    [
        (Identifier(), 60.0, "no identifier yet"),
        (Identifier(text="abc", code="ean13"), 60.0, "cannot be said"),
        (Identifier(text="a long identifier of many letters"), 30.0, "needs"),
        (Identifier(text="Ünïcödé ☃"), 60.0, "cannot be said"),
    ],
)
def test_what_no_code_can_say_is_said(settings: Identifier, width: float, said: str) -> None:
    assert said in " ".join(words(drawn(settings, (20, 220, width, 30))))


def taken(seed: int, count: int = 300) -> tuple[MapContext, list[Feature]]:
    """Points all over the panel, each from the source of the nearest of three places."""
    rng = np.random.default_rng(seed)
    west, south, east, north = 510_500, 6_800_000, 513_000, 6_803_500
    homes = rng.uniform((west, south), (east, north), (3, 2))
    at = rng.uniform((west, south), (east, north), (count, 2))
    nearest = ((at[:, None] - homes) ** 2).sum(axis=2).argmin(axis=1)
    made = [
        Feature(
            "points", shapely.Point(xy), "sample", i + 1, source_id=int(n) + 1, capture_scale=10_000 + 2_500 * int(n)
        )
        for i, (xy, n) in enumerate(zip(at, nearest, strict=True))
    ]
    whole = replace(
        context(),
        features={"points": Features.of("points", made)},
        sources={
            1: Origin("Field sheets", "Quill, 2024"),
            2: Origin("Thesis"),
            3: Origin("Pictures", "Survey, 1:5 000"),
        },
    )
    return whole, made


@pytest.mark.parametrize("seed", range(6))
def test_ground_belongs_to_the_source_of_what_is_nearest(seed: int) -> None:
    whole, made = taken(seed)
    panels = panels_of([part_of()], whole)
    page = PageContext(PAGE, [part_of()], whole, panels)
    box = (0.0, 0.0, 60.0, 60.0)
    found = regions(page.shown(1), panels[1], box)
    left, top, right, bottom = panels[1].page_area.bounds

    def small(xy: np.ndarray) -> np.ndarray:
        return np.asarray((xy - (left, top)) / (right - left, bottom - top) * 60.0)

    outline = shapely.transform(panels[1].page_area, small)
    grounds = [region.ground for region in found]
    assert abs(shapely.union_all(grounds).area - outline.area) < 1e-6
    assert abs(sum(ground.area for ground in grounds) - outline.area) < 1e-6
    said = {"Quill": 1, "Thesis": 2, "Survey": 3}
    inside = wrong = 0
    for feature in made:
        xy = apply(panels[1].to_page, shapely.get_coordinates(feature.geometry))
        at = shapely.Point(small(xy)[0])
        if not outline.contains(at):
            continue
        inside += 1
        held = next(region for region in found if region.ground.distance(at) < 1e-9)
        wrong += said[held.words.split(",")[0]] != feature.source_id
    # One place stands for each small square.
    assert wrong <= 0.05 * inside
    assert inside > 20
    texts = [region.words.replace("\u2009", " ") for region in found]
    assert {"Quill, 2024, 1:10 000", "Thesis, 1:12 500", "Survey, 1:5 000"} >= set(texts)


def test_one_source_takes_all_and_none_is_said() -> None:
    _, made = taken(1)
    same = [feature.changed(source_id=None) for feature in made]
    key = words(drawn(SourceDiagram(panel=1), (20, 220, 120, 40), features={"points": Features.of("points", same)}))
    assert any(HERE in line for line in key)
    assert "1" not in key
    nothing = drawn(SourceDiagram(panel=1), features={"points": Features.of("points", [])})
    assert "shows no features" in " ".join(words(nothing))


def test_the_sides_of_a_panel_name_the_sheets_beside_it() -> None:
    """Each in the middle of its side and outside, turned along it; corners have no side."""
    held = [Neighbour(place.upper(), "", place) for place in PLACES]
    items = drawn(Graticule(panel=1, neighbours=True, corners=True), neighbours=held)
    named = {item.run.chars: item for item in items if isinstance(item, Text) and item.run.chars.lower() in PLACES}
    assert set(named) == {"N", "E", "S", "W"}
    left, top, right, bottom = panels_of([part_of()], context())[1].page_area.bounds
    across, down = (left + right) / 2, (top + bottom) / 2
    assert abs(named["N"].at[0] - across) < 2
    assert named["N"].at[1] < top
    assert named["S"].at[1] > bottom
    assert abs(named["W"].at[1] - down) < 2
    assert named["W"].at[0] < left
    assert named["E"].at[0] > right
    assert {round(named[name].angle) % 180 for name in "NS"} == {0}
    assert {round(named[name].angle) % 180 for name in "EW"} == {90}
    assert not set(words(drawn(Graticule(panel=1), neighbours=held))) & set("NESW")

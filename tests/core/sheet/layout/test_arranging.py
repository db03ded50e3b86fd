"""Arranging parts and putting sheets on other papers, against plain sums on random parts."""

from __future__ import annotations

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.errors import SheetRefused
from orvik.core.sheet.layout.arranging import ALIGNED, arranged, reordered
from orvik.core.sheet.layout.change_paper import on_paper, reduced
from orvik.core.sheet.page.page import PageLayout, Sheet
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.core.sheet.parts.title import Title

SIDES = st.floats(5, 100)
PLACES = st.floats(0, 400)
PARTS = st.lists(st.tuples(PLACES, PLACES, SIDES, SIDES), min_size=3, max_size=7).map(
    lambda boxes: [Part(Title(text="T"), *box, id=i, position=i) for i, box in enumerate(boxes, 1)]
)
SHEET = Sheet("S", "A3", 420, 297, 1)


@given(PARTS, st.sampled_from(list(ALIGNED)))
def test_aligned_parts_share_a_line_with_the_first(parts: list[Part], how: str) -> None:
    axis, share = ALIGNED[how]
    size = "width" if axis == "x" else "height"
    made = arranged(parts, how)
    lines = [getattr(p, axis) + share * getattr(p, size) for p in made]
    assert lines == pytest.approx([lines[0]] * len(lines))
    assert made[0] == parts[0]
    other = "y" if axis == "x" else "x"
    assert [getattr(p, other) for p in made] == [getattr(p, other) for p in parts]


@given(PARTS, st.sampled_from(["across", "down"]))
def test_gaps_are_even_and_the_outermost_stand(parts: list[Part], how: str) -> None:
    axis, size = ("x", "width") if how == "across" else ("y", "height")
    before = sorted(parts, key=lambda p: getattr(p, axis) + getattr(p, size) / 2)
    moved = {p.id: p for p in arranged(parts, how)}
    made = [moved[p.id] for p in before]
    gaps = [getattr(b, axis) - getattr(a, axis) - getattr(a, size) for a, b in itertools.pairwise(made)]
    assert gaps == pytest.approx([gaps[0]] * len(gaps), abs=1e-6)
    assert getattr(made[0], axis) == getattr(before[0], axis)
    assert getattr(made[-1], axis) == pytest.approx(getattr(before[-1], axis))


@given(PARTS)
def test_one_size_is_that_of_the_first(parts: list[Part]) -> None:
    made = arranged(parts, "size")
    assert {(p.width, p.height) for p in made} == {(parts[0].width, parts[0].height)}
    assert [(p.x, p.y) for p in made] == [(p.x, p.y) for p in parts]


@given(PARTS, st.data())
def test_order_moves_what_is_selected_and_keeps_the_rest(parts: list[Part], data: st.DataObject) -> None:
    chosen = data.draw(st.lists(st.sampled_from([p.id or 0 for p in parts]), min_size=1, unique=True))
    for how in ("front", "back", "forward", "backward"):
        made = reordered(parts, chosen, how)
        assert [p.position for p in made] == list(range(1, len(parts) + 1))
        rest = [p.id for p in made if p.id not in chosen]
        assert rest == [p.id for p in parts if p.id not in chosen]
        hand = [p.id for p in made if p.id in chosen]
        assert hand == [p.id for p in parts if p.id in chosen]
        if how in ("front", "back"):
            end = [p.id for p in made][-len(chosen) :] if how == "front" else [p.id for p in made][: len(chosen)]
            assert end == hand


def test_too_few_or_no_way_is_refused() -> None:
    one = [Part(Title(text="T"), 0, 0, 10, 10, id=1)]
    for how in ("left", "across", "size", "spiral"):
        with pytest.raises(SheetRefused):
            arranged(one, how)
    with pytest.raises(SheetRefused):
        reordered(one, [1], "sideways")


def sheet_of(*parts: Part, **layout: object) -> tuple[Sheet, list[Part]]:
    return Sheet("S", "A3", 420, 297, 1, PageLayout(**layout)), list(parts)  # type: ignore[arg-type]


def test_parts_keep_their_place_against_the_margins() -> None:
    sheet, parts = sheet_of(
        Part(Title(text="upper left"), 14, 14, 50, 10),
        Part(Title(text="lower right"), 336, 263, 70, 20),
        Part(Title(text="middle"), 190, 138.5, 40, 20),
        guides=(("x", 20.0), ("x", 400.0), ("y", 148.5)),
    )
    made = on_paper(sheet, parts, "A1", (841, 594), refit=False)
    left, right, middle = made.parts
    assert (left.x, left.y) == (14, 14)
    assert (right.x + right.width, right.y + right.height) == pytest.approx((841 - 14, 594 - 14))
    assert middle.middle == pytest.approx((841 / 2, 594 / 2))
    assert made.sheet.layout.guides == (("x", 20.0), ("x", 821.0), ("y", 297.0))
    assert made.said == []


def test_panels_keep_their_exact_scale_or_are_refitted() -> None:
    panel = Part(MapPanel(scale=25_000, centre=(0, 0)), 14, 24, 200, 160)
    sheet, parts = sheet_of(panel)
    kept = on_paper(sheet, parts, "A5", (210, 148), refit=False)
    assert isinstance(kept.parts[0].settings, MapPanel)
    assert (kept.parts[0].width, kept.parts[0].settings.scale) == (200, 25_000)
    assert any("beyond the page" in sentence for sentence in kept.said)
    fitted = on_paper(sheet, parts, "A5", (210, 148), refit=True)
    small = fitted.parts[0]
    assert isinstance(small.settings, MapPanel)
    # The same ground: as much smaller in size as in scale.
    assert small.width * small.settings.scale == pytest.approx(200 * 25_000, rel=1e-4)
    assert fitted.said == []


@given(st.floats(20, 400))
def test_a_sheet_is_reduced_as_a_whole(per_cent: float) -> None:
    panel = Part(MapPanel(scale=25_000, centre=(0, 0), frame=0.5), 14, 24, 200, 160)
    title = Part(Title(text="T", size=6.0, padding=2.0), 14, 9, 100, 10)
    sheet, parts = sheet_of(panel, title, guides=(("x", 50.0),))
    made = reduced(sheet, parts, per_cent)
    k = per_cent / 100
    assert (made.sheet.width, made.sheet.layout.left) == pytest.approx((420 * k, 14 * k))
    assert made.sheet.layout.guides[0][1] == pytest.approx(50 * k)
    map_panel, heading = (part.settings for part in made.parts)
    assert isinstance(map_panel, MapPanel)
    assert isinstance(heading, Title)
    assert map_panel.scale == pytest.approx(25_000 / k, abs=1)
    assert map_panel.symbol_scale == pytest.approx(k)
    assert heading.size == pytest.approx(max(1.0, 6 * k))
    assert made.parts[0].width * map_panel.scale == pytest.approx(200 * 25_000, rel=1e-3)


def test_what_cannot_become_so_small_is_said() -> None:
    title = Part(Title(text="T", size=5.0), 14, 9, 100, 10)
    panel = Part(MapPanel(scale=25_000, centre=(0, 0)), 14, 24, 200, 160)
    assert reduced(*sheet_of(panel, title), 50).said == []
    said = " ".join(reduced(*sheet_of(panel, title), 17).said)
    assert "Letter size of “Title” stays at 1; it would be 0.85." in said
    assert "Size of symbols of “Map panel” stays at 0.2" in said


def test_so_much_smaller_is_refused() -> None:
    for per_cent in (0, 5, 2000, float("nan")):
        with pytest.raises(SheetRefused):
            reduced(SHEET, [], per_cent)


def test_columns_and_margins_are_lines_to_draw_to() -> None:
    sheet = Sheet("S", "A3", 420, 297, 1, PageLayout(left=10, right=20, top=5, bottom=7, columns=2, gutter=10))
    upright = [at for axis, at in sheet.lines if axis == "x"]
    assert upright == [10, 200, 210, 400]
    assert [at for axis, at in sheet.lines if axis == "y"] == [5, 148.5, 290]

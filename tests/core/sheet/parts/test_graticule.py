"""Graticules: crossings in the PDF against PROJ, figures that stay on the page and apart, round values."""

from __future__ import annotations

import itertools
import re
from typing import Any

import numpy as np
import pyproj
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.errors import SheetRefused
from orvik.core.ground.border import geographic_border
from orvik.core.ink.affine import apply
from orvik.core.ink.primitives import Stroke, Text, walk
from orvik.core.lettering import cap_height
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.parts.graticule.graticule import Graticule
from orvik.core.sheet.parts.graticule.grid_system import ANGLE_STEPS, angle_words
from orvik.core.sheet.parts.graticule.lines import grid_lines, spacing
from orvik.core.sheet.parts.map_panel import MapPanel, panel_of
from orvik.press.pdf import page_pdf
from tests.core.sheet.panels.test_panel import PAGE, UTM, composed, context, part_of, there
from tests.examples import examples
from tests.press.measure import segments

# What a graticule draws lines of, the system that PROJ knows it by, and the step of its lines.
LINES = {"grid": ("", 1000.0), "geographic": ("EPSG:4326", 1 / 60), "other": ("EPSG:32627", 2000.0)}


def graticule(panel: int = 1, number: int = 2, **values: Any) -> Part:
    return Part(Graticule(panel=panel, **values), 10, 10, 10, 10, id=number, position=number)


@pytest.mark.parametrize("turn", [0.0, 12.0, -73.0])
@pytest.mark.parametrize("system", ["EPSG:32628", "EPSG:3034"])
@pytest.mark.parametrize("lines_of", LINES)
def test_crossings_in_the_pdf_are_where_proj_puts_them(lines_of: str, system: str, turn: float) -> None:
    """Every cross within 0.1 mm of its projected place, and one for each crossing on the panel: read by PDFium."""
    code, step = LINES[lines_of]
    own = system if lines_of == "grid" else code
    values: dict[str, Any] = {"lines_of": lines_of, "style": "crosses", "figures": "none"}
    values["spacing"] = 1.0 if lines_of == "geographic" else step
    if lines_of == "other":
        values["system"] = code
    panel_part = part_of(system=system, centre=there(512_500, 6_802_000, system), rotation=turn, neatline="rectangle")
    made = composed(panel_part, graticule(**values))
    panel = made.panels[1]
    (group,) = [g for g in made.groups if g.name == "part-2"]
    data = page_pdf([group], PAGE.width, PAGE.height, "graticule")
    bars = [np.array(path) for path in segments(data) if len(path) == 2]
    middles = np.array([bar.mean(axis=0) for bar in bars if 1.9 < np.hypot(*(bar[1] - bar[0])) < 2.1])
    way = pyproj.Transformer.from_crs(system, own, always_xy=True)
    u, v = way.transform(*panel.corners.T)
    grid = [
        (i * step, j * step)
        for i in range(int(np.floor(min(u) / step)) - 1, int(np.ceil(max(u) / step)) + 2)
        for j in range(int(np.floor(min(v) / step)) - 1, int(np.ceil(max(v) / step)) + 2)
    ]
    ground = np.column_stack(way.transform(*np.array(grid).T, direction="INVERSE"))
    wanted = apply(panel.to_page, ground)
    wanted = wanted[shapely.contains_xy(panel.frame.buffer(-0.01), wanted[:, 0], wanted[:, 1])]
    assert len(wanted) > 3
    away = np.hypot(*(middles[:, None, :] - wanted[None, :, :]).transpose(2, 0, 1))
    assert away.min(axis=1).max() < 0.1
    assert away.min(axis=0).max() < 0.1


@pytest.mark.parametrize("system", ["EPSG:32628", "EPSG:3034"])
def test_meridians_and_parallels_bend_as_they_must(system: str) -> None:
    """A thousand places of each line through PROJ: none more than 0.1 mm off what is drawn."""
    part = part_of(system=system, centre=there(512_500, 6_802_000, system), scale=2_000_000, neatline="rectangle")
    panel = panel_of(part, UTM, None)
    made = Graticule(panel=1, lines_of="geographic", style="lines")
    grid = made.grid_system(panel)
    way = pyproj.Transformer.from_crs(4326, system, always_xy=True)
    lines = grid_lines(panel, grid, made.step(panel, grid))
    assert len(lines) > 4
    for line in lines:
        along = np.linspace(-60, 85 if line.axis == 0 else 40, 30_000)
        fixed = np.full(len(along), line.value)
        places = (fixed, along) if line.axis == 0 else (along, fixed)
        page = apply(panel.to_page, np.column_stack(way.transform(*places)))
        page = page[shapely.contains_xy(panel.page_area, page[:, 0], page[:, 1])]
        drawn = shapely.MultiLineString([piece.tolist() for piece in line.pieces])
        assert shapely.distance(shapely.points(page), drawn).max() < 0.1


def boxes(items: list[Text]) -> list[shapely.Polygon]:
    out = []
    for text in items:
        half = np.array([text.run.width / 2, cap_height(text.run.size) / 2])
        angle = np.radians(text.angle)
        turn = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
        out.append(shapely.Polygon(np.array([(-1, -1), (1, -1), (1, 1), (-1, 1)]) * half @ turn + text.at))
    return out


@given(
    st.floats(-180, 180),
    st.integers(5_000, 2_000_000),
    st.sampled_from(["rectangle", "circle"]),
    st.sampled_from(["outside", "inside"]),
    st.floats(0, 300),
    st.floats(0, 200),
)
@examples(30)
def test_figures_never_leave_the_page_nor_run_into_each_other(
    turn: float, scale: int, shape: str, side: str, x: float, y: float
) -> None:
    """Two graticules on a panel anywhere on the page, partly beyond its edge."""
    panel = Part(MapPanel(scale=scale, centre=(512_500, 6_802_000), rotation=turn, neatline=shape), x, y, 120, 90, id=1)
    made = composed(
        panel,
        graticule(lines_of="geographic", style="lines", figures=side, corners=True),
        graticule(number=3, lines_of="grid", figures=side),
    )
    items = [i for group in made.groups[1:] for i in walk(group.items) if isinstance(i, Text)]
    page = shapely.box(0, 0, PAGE.width, PAGE.height)
    shown = boxes(items)
    assert all(page.contains(box) for box in shown)
    assert not any(one.intersects(other) for one, other in itertools.combinations(shown, 2))


def test_ticks_stand_on_a_curved_neatline_and_lead_away_from_it() -> None:
    border = geographic_border(UTM, "20 W", "61 N", "18 W", "62 N")
    xy = shapely.get_coordinates(border)
    centre = ((xy[:, 0].min() + xy[:, 0].max()) / 2, (xy[:, 1].min() + xy[:, 1].max()) / 2)
    part = Part(MapPanel(scale=500_000, centre=centre), 20, 20, 300, 250, id=1)
    panel = panel_of(part, UTM, border)
    line = shapely.LineString(panel.neatline.xy)
    page = Sheet("S", "A3", 420, 297)
    drawn = Graticule(panel=1).ink(graticule(), PageContext(page, [part], context(), {1: panel}))
    ticks = [i for i in drawn if isinstance(i, Stroke)][-1]
    assert len(ticks.paths) > 8
    for i in range(len(ticks.paths)):
        foot, tip = sorted((shapely.Point(p) for p in ticks.paths[i]), key=line.distance)
        assert line.distance(foot) < 0.01
        assert not shapely.Polygon(line).contains(tip)


@pytest.mark.parametrize("scale", [500, 6_250, 24_000, 25_000, 100_000, 1_000_000])
@pytest.mark.parametrize("lines_of", ["grid", "geographic"])
def test_steps_are_round_and_stand_well_apart(scale: int, lines_of: str) -> None:
    panel = panel_of(part_of(scale=scale), UTM, None)
    made = Graticule(panel=1, lines_of=lines_of)
    step = spacing(panel, made.grid_system(panel))
    if lines_of == "grid":
        assert f"{step:g}".rstrip("0") in ("1", "2", "5")
        assert 30 <= step * 1000 / scale <= 75
    else:
        assert round(step * 3600) in ANGLE_STEPS


@pytest.mark.parametrize(
    ("value", "axis", "parts", "words"),
    [
        (-14.7666667, 0, 1, "14°46′W"),
        (61.5, 1, 1, "61°30′N"),
        (0.0, 0, 0, "0°"),
        (180.0, 0, 0, "180°"),
        (190.0, 0, 0, "170°W"),
        (-33.99999, 1, 2, "34°00′00″S"),
        (12.0, 0, 0, "12°E"),
    ],
)
def test_angles_in_words(value: float, axis: int, parts: int, words: str) -> None:
    assert angle_words(value, axis, parts) == words


def test_too_many_lines_are_refused_and_the_page_stands() -> None:
    panel = panel_of(part_of(), UTM, None)
    made = Graticule(panel=1, spacing=0.5)
    with pytest.raises(SheetRefused, match="type a larger spacing"):
        grid_lines(panel, made.grid_system(panel), 0.5)
    drawn = composed(part_of(), graticule(spacing=0.5))
    texts = [i.run.chars for i in walk(drawn.groups[1].items) if isinstance(i, Text)]
    assert "larger spacing" in " ".join(texts)


def test_a_panel_across_the_antimeridian_has_meridians_on_both_sides() -> None:
    system = "EPSG:32601"
    x, y = pyproj.Transformer.from_crs(4326, system, always_xy=True).transform(180.0, 60.0)
    panel = panel_of(Part(MapPanel(scale=1_000_000, centre=(x, y), system=system), 0, 0, 200, 150, id=1), UTM, None)
    made = Graticule(panel=1, lines_of="geographic")
    grid = made.grid_system(panel)
    values = [grid.label(line.value, 0, 1.0) for line in grid_lines(panel, grid, 1.0) if line.axis == 0]
    assert {"179°E", "180°", "179°W"} <= set(values)
    assert len(values) < 10


def read_back(words: str) -> float:
    """The value of a figure, as a person reads it."""
    if "°" in words:
        parts = [float(part) for part in re.findall(r"[\d.]+", words)]
        value = sum(part / 60**n for n, part in enumerate(parts))
        return -value if words[-1] in "WS" else value
    return float(re.sub(r"[^\d.]", "", re.split(r" [mEN]", words)[0]))


@pytest.mark.parametrize("step", [1.0, 12.5, 2.5, 0.25, 0.125, 1e-3, 37.04, 1000.0, 1852.0])
def test_a_figure_says_the_line_that_it_stands_on(step: float) -> None:
    grid = Graticule(panel=1).grid_system(panel_of(part_of(), UTM, None))
    for n in (40_797, 40_800, 3):
        assert read_back(grid.label(n * step, 0, step)) == pytest.approx(n * step, abs=1e-9)


@pytest.mark.parametrize("seconds", [0.05, 0.25, 0.5, 1, 1.5, 2.5, 30, 90, 60, 450, 3600, 5400])
def test_a_figure_of_degrees_says_the_line_that_it_stands_on(seconds: float) -> None:
    panel = panel_of(part_of(), UTM, None)
    grid = Graticule(panel=1, lines_of="geographic").grid_system(panel)
    step = seconds / 3600
    for n in (1, 7, 1001, -3, -2222):
        value = n * step
        if abs(value) > 180:
            continue
        axis = 1 if abs(value) < 90 else 0
        assert read_back(grid.label(value, axis, step)) == pytest.approx(value, abs=1e-11 + abs(value) * 1e-12)


@given(st.floats(500_000, 530_000), st.floats(6_790_000, 6_810_000), st.sampled_from([1000, 5000, 25_000, 250_000]))
@examples(40)
def test_corners_in_full_are_exact_on_the_sheet(x: float, y: float, scale: int) -> None:
    """Read from the page, the corner lies within 0.05 mm of where it says."""
    panel = Part(MapPanel(scale=scale, centre=(x, y), neatline="rectangle"), 60, 60, 100, 90, id=1)
    shown = panel_of(panel, UTM, None)
    for lines_of in ("grid", "geographic"):
        made = composed(panel, graticule(lines_of=lines_of, corners=True, figures="none"))
        texts = [i.run.chars for i in walk(made.groups[1].items) if isinstance(i, Text)]
        assert len(texts) == 8
        first, second = ("E", "N") if lines_of == "grid" else ("W", "N")
        us, vs = ([read_back(t) for t in texts if t.endswith(letter)] for letter in (first, second))
        uv = np.column_stack([us, vs])
        ground = uv if lines_of == "grid" else np.column_stack(UTM.from_geographic(*uv.T))
        page = apply(shown.to_page, ground)
        corners = shapely.MultiPoint([(60, 60), (160, 60), (160, 150), (60, 150)])
        assert shapely.distance(shapely.points(page), corners).max() < 0.08


def test_what_has_no_room_on_the_page_is_told() -> None:
    near = Part(MapPanel(scale=25_000, centre=(512_300, 6_802_300)), 1.0, 1.0, 120, 90, id=1)
    page = PageContext(PAGE, [near, graticule()], context(), {1: panel_of(near, UTM, None)})
    assert Graticule(panel=1).off_page(page)
    assert not Graticule(panel=1, figures="inside").off_page(page)

"""Scale bars and north arrows: lengths that hold on the page, round values, directions and words."""

from __future__ import annotations

import itertools
import re
from pathlib import Path
from typing import Any

import numpy as np
import pyproj
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

import orvik
from orvik.core.errors import SheetRefused
from orvik.core.ink.affine import apply
from orvik.core.ink.primitives import Fill, Item, Stroke, Text, walk
from orvik.core.sheet.page.part import Part, PartSettings
from orvik.core.sheet.parts.fraction import inch_words, metric_words
from orvik.core.sheet.parts.north_arrow.designs import DESIGNS as ARROWS
from orvik.core.sheet.parts.north_arrow.designs import arrow_ink
from orvik.core.sheet.parts.north_arrow.north_arrow import DIAGRAM, NorthArrow
from orvik.core.sheet.parts.scale_bar.designs import DESIGNS
from orvik.core.sheet.parts.scale_bar.lengths import UNITS, found_for, of_length
from orvik.core.sheet.parts.scale_bar.scale_bar import ScaleBar
from orvik.press.pdf import page_pdf
from tests.core.sheet.panels.test_panel import PAGE, UTM, composed, panel_of, part_of, there
from tests.examples import examples
from tests.press.measure import segments


def drawn(settings_of_part: PartSettings, width: float = 90.0, height: float = 30.0, **panel: Any) -> list[Item]:
    made = composed(part_of(**panel), Part(settings_of_part, 20, 220, width, height, id=2, position=2))
    return list(walk(made.groups[1].items))


def texts(items: list[Item]) -> dict[str, Text]:
    return {i.run.chars: i for i in items if isinstance(i, Text)}


def spread_of(items: list[Item]) -> tuple[float, float]:
    xy = np.vstack([i.paths.xy for i in items if isinstance(i, Stroke | Fill)])
    return float(xy[:, 0].min()), float(xy[:, 0].max())


@given(
    st.sampled_from(list(UNITS)),
    st.integers(500, 5_000_000),
    st.floats(40, 400),
    st.booleans(),
    st.sampled_from(list(DESIGNS)),
)
@examples(80)
def test_a_bar_is_as_long_as_its_figures_say(units: str, scale: int, width: float, divided: bool, design: str) -> None:
    """From nought to the last figure, by the figure's own value and unit: within a hundredth of a millimetre."""
    items = drawn(ScaleBar(panel=1, units=units, divided=divided, design=design), width, 10.0, scale=scale)
    shown = texts(items)
    left, right = spread_of(items)
    word = next(w for w in shown if not w[0].isdigit())
    unit = next(u for u in UNITS[units] if word in (u.word, u.word.removesuffix("s")))
    zero = shown["0"].at[0]
    last = max((float(w) for w in shown if w[0].isdigit()), key=lambda v: shown[f"{v:.10g}"].at[0])
    assert right - zero == pytest.approx(last * unit.metres * 1000 / scale, abs=0.01)
    assert (left < zero - 1) == divided
    # All of it, figures and unit as well, within its frame.
    edges = [(t.at[0] + t.run.x[0], t.at[0] + t.run.x[0] + t.run.width) for t in shown.values()]
    assert min(e[0] for e in edges) >= 20 - 0.3
    assert max(e[1] for e in edges) <= 20 + width + 0.3
    spans = sorted(edges)
    assert all(a[1] <= b[0] + 1e-6 for a, b in itertools.pairwise(spans))


@given(st.sampled_from(list(UNITS)), st.integers(500, 5_000_000), st.floats(20, 400))
def test_bars_end_on_round_figures_and_use_their_room(units: str, scale: int, room: float) -> None:
    bar = found_for(room, scale, units)
    digits = f"{bar.end:.8g}".replace(".", "").strip("0")
    assert digits in ("1", "2", "3", "4", "5", "15")
    length = bar.metres * 1000 / scale
    assert room / 2.7 < length <= room * (1 + 1e-9)


@pytest.mark.parametrize(
    ("length", "units", "divisions", "wanted"),
    [
        (2, "metric", None, ("kilometres", 0.5, 4)),
        (5, "metric", None, ("kilometres", 1.0, 5)),
        (0.5, "metric", None, ("metres", 100.0, 5)),
        (3, "miles", 3, ("miles", 1.0, 3)),
        (1, "nautical", None, ("nautical miles", 0.25, 4)),
        (1000, "feet", 2, ("feet", 500.0, 2)),
    ],
)
def test_a_typed_length_is_cut_into_round_divisions(
    length: float, units: str, divisions: int | None, wanted: Any
) -> None:
    bar = of_length(length, units, divisions)
    assert (bar.unit.word, bar.step, bar.count) == wanted


def test_what_fits_no_bar_is_said_on_the_page() -> None:
    assert "too narrow" in " ".join(texts(drawn(ScaleBar(panel=1), 18.0, 10.0)))
    with pytest.raises(SheetRefused):
        of_length(1.2345, "metric", None)


def test_a_bar_that_is_true_for_a_place_is_so_in_the_pdf() -> None:
    """A kilometre on the ellipsoid about the place, through PROJ's geodesics, is a kilometre on the bar."""
    place = there(512_500, 6_802_000, "EPSG:3857")
    part = Part(
        ScaleBar(panel=1, design="rule", true_for="place", place=place, length=1, divided=False),
        20,
        220,
        200,
        10,
        id=2,
        position=2,
    )
    made = composed(part_of(system="EPSG:3857", centre=place), part)
    data = page_pdf([made.groups[1]], PAGE.width, PAGE.height, "bar")
    line = max(segments(data), key=lambda path: abs(path[-1][0] - path[0][0]))
    longitude, latitude = pyproj.Transformer.from_crs(3857, 4326, always_xy=True).transform(*place)
    east = pyproj.Geod(ellps="WGS84").fwd(longitude, latitude, 90, 1000)
    x, _ = pyproj.Transformer.from_crs(4326, 3857, always_xy=True).transform(east[0], east[1])
    assert abs(line[-1][0] - line[0][0]) == pytest.approx((x - place[0]) * 1000 / 25_000, rel=0.004)


@pytest.mark.parametrize("turn", [0.0, 35.0, 90.0, -60.0])
@pytest.mark.parametrize("system", ["EPSG:6933", "EPSG:3035", "EPSG:3857", "EPSG:4087", "EPSG:32628"])
def test_a_bar_is_true_along_its_own_direction(system: str, turn: float) -> None:
    """Against PROJ's geodesic between the places below its ends, in systems that squeeze and that do not."""
    place = there(512_500, 6_802_000, system)
    bar = ScaleBar(panel=1, true_for="middle")
    panel = panel_of(part_of(system=system, centre=place, rotation=turn), UTM, None)
    mm = 100 * 1000 / bar.scale_on(panel) * 10
    x, y = panel.part.middle
    ends = apply(panel.to_ground, np.array([(x - mm / 2, y), (x + mm / 2, y)]))
    way = pyproj.Transformer.from_crs(system, pyproj.CRS(system).geodetic_crs, always_xy=True)
    (lon, lon_2), (lat, lat_2) = way.transform(*ends.T)
    assert pyproj.CRS(system).get_geod().inv(lon, lat, lon_2, lat_2)[2] == pytest.approx(1000, rel=2e-5)


@pytest.mark.parametrize("design", [*ARROWS])
@pytest.mark.parametrize("turn", [0.0, 12.0, -100.0])
def test_arrows_turn_with_their_panel(design: str, turn: float) -> None:
    items = drawn(NorthArrow(panel=1, design=design, words=False), 60, 60, rotation=turn)
    xy = np.vstack([i.paths.xy for i in items if isinstance(i, Stroke | Fill)])
    centred = xy - (50, 250)
    angle = np.radians(turn)
    up = np.array([np.sin(angle), -np.cos(angle)])
    along = centred @ up
    tip = xy[int(np.argmax(along))]
    # The tip lies straight north of the middle of what is drawn.
    across = (tip - xy[int(np.argmin(along))]) @ np.array([np.cos(angle), np.sin(angle)])
    assert abs(float(across)) < 0.3 * (along.max() - along.min())
    upright = np.vstack([i.paths.xy for i in arrow_ink(design, (0, 0), 20, 0.0) if isinstance(i, Stroke | Fill)])
    assert upright[:, 1].min() == pytest.approx(-10)
    assert upright[int(np.argmin(upright[:, 1])), 0] == pytest.approx(0, abs=1e-9)


def test_an_arrow_to_true_north_leans_by_the_convergence() -> None:
    place = (700_000.0, 6_802_000.0)
    convergence = float(UTM.convergence(*place))
    assert convergence > 3
    items = drawn(NorthArrow(panel=1, design="plain", points="true", words=False), 60, 60, centre=place, rotation=10.0)
    shaft = next(i for i in items if isinstance(i, Stroke)).paths[0]
    way = shaft[1] - shaft[0]
    assert np.degrees(np.arctan2(way[0], -way[1])) == pytest.approx(10 - convergence)


def test_three_norths_are_said_with_degrees_and_mils() -> None:
    """Convergence from PROJ, declination as the reference test has it; mils are 6 400 to the circle."""
    items = drawn(NorthArrow(panel=1, design=DIAGRAM, day="2026-07-02", in_mils=True), 70, 60)
    words = " | ".join(texts(items))
    convergence = pyproj.Proj("EPSG:32628").get_factors(*UTM.to_geographic(512_500, 6_802_000)).meridian_convergence
    minutes = round(abs(float(convergence)) * 60)
    assert f"Grid north {minutes // 60}°{minutes % 60:02d}′ ({round(minutes / 60 * 6400 / 360)} mils) east" in words
    assert "Magnetic north" in words
    assert "on 2 July 2026, changing by" in words
    assert "World Magnetic Model 2025" in words
    assert {"GN", "MN"} <= set(texts(items))
    # Grid east of true, magnetic west of it, as it is here.
    grid, magnetic = (texts(items)[name].at[0] for name in ("GN", "MN"))
    star = next(i for i in items if isinstance(i, Fill) and len(i.paths[0]) == 10).paths.xy[:, 0].mean()
    assert magnetic < star < grid


def test_a_day_beyond_the_model_is_said_in_place_of_the_arrow() -> None:
    words = " ".join(texts(drawn(NorthArrow(panel=1, day="2031-01-01"), 70, 60)))
    assert "lies outside the years" in words


def test_without_a_day_the_declination_is_missing_from_the_essentials() -> None:
    assert "Magnetic declination" not in NorthArrow(panel=1).supplied
    assert "Magnetic declination" in NorthArrow(panel=1, day="2026-07-02").supplied


@pytest.mark.parametrize("design", [*ARROWS, DIAGRAM])
@pytest.mark.parametrize("turn", [0.0, 30.0])
def test_arrows_and_their_words_stay_in_their_frame(design: str, turn: float) -> None:
    items = drawn(NorthArrow(panel=1, design=design, day="2026-07-02"), 46, 50, rotation=turn)
    frame = shapely.box(20 - 0.5, 220 - 0.5, 66.5, 270.5)
    places = [i.paths.xy for i in items if isinstance(i, Stroke | Fill)]
    assert shapely.contains_xy(frame, *np.vstack(places).T).all()
    for text in texts(items).values():
        x, y = np.add(text.at, text.offset)
        assert frame.contains(
            shapely.box(x + text.run.x[0], y - 0.6 * text.run.size, x + text.run.x[0] + text.run.width, y)
        )


def test_no_number_that_people_read_has_a_power_of_ten() -> None:
    """Every place in the code that writes a number in so many digits uses the one that never does."""
    source = Path(orvik.__file__).parent
    # Numbers of PDF operators and of names that the EPSG dataset gives are not read by people.
    allowed = {"press/pdf.py", "press/inks.py", "core/ground/crs_build.py"}
    found = {
        str(path.relative_to(source))
        for path in source.rglob("*.py")
        if re.search(r":[.,]?\d[gGeE]\}", path.read_text(encoding="utf-8"))
    }
    assert found <= allowed
    for scale in (1, 750, 24_000, 125_000, 3_000_000, 100_000_000):
        assert not re.search(r"\de[+-]?\d", inch_words(scale) + metric_words(scale))

"""Facts of the trade: common practice, no source."""

from __future__ import annotations

import pytest
import shapely

from orvik.core.errors import ReadingRefused, ScaleRefused
from orvik.core.features.attitude import Attitude, compass_point, drawn_strike
from orvik.core.features.reading import parse_reading
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales, proposed_digitizing
from orvik.core.sheet.parts.scale_bar.lengths import found_for
from orvik.core.symbols.book_file import standard


@pytest.mark.parametrize(("publication", "coarsest"), [(50_000, 12_500), (100_000, 25_000)])
def test_digitizing_at_least_four_times_larger(publication: int, coarsest: int) -> None:
    assert proposed_digitizing(publication) == coarsest
    assert Scales(publication, coarsest).digitizing == coarsest
    assert Scales(publication, coarsest // 2).digitizing == coarsest // 2
    with pytest.raises(ScaleRefused, match="too coarse"):
        Scales(publication, coarsest + 1)


@pytest.mark.parametrize(
    ("strike", "point"),
    [(180, "west"), (85, "south"), (355, "east"), (0, "east"), (90, "south"), (270, "north")],
)
def test_plane_dips_to_the_right_of_the_strike(strike: float, point: str) -> None:
    assert compass_point(Attitude(strike, 45).dip_direction) == point


@pytest.mark.parametrize(
    ("typed", "azimuth", "inclination"),
    [
        ("180/86", 180, 86),
        ("085/80", 85, 80),
        ("355/85", 355, 85),
        ("350/60", 350, 60),
        ("358/65", 358, 65),
        ("010/60", 10, 60),
        ("000/65", 0, 65),
        ("005/66", 5, 66),
        ("5/66", 5, 66),
        ("5 66", 5, 66),
    ],
)
def test_readings(typed: str, azimuth: float, inclination: float) -> None:
    reading = parse_reading(typed)
    assert (reading.azimuth, reading.inclination) == (azimuth, inclination)


def test_three_figures() -> None:
    assert parse_reading("5/66").text == parse_reading("005/66").text == "005/66"
    assert parse_reading("350/60").words == "strikes 350, dips 60 to the east"


def test_faults_are_about_twice_as_heavy_as_contacts() -> None:
    book = standard()
    for certainty in ("certain", "approximate", "inferred"):
        ratio = book.symbol("lines", "fault", certainty).weight / book.symbol("lines", "contact", certainty).weight
        assert 1.8 <= ratio <= 2.6


def test_weights_and_dashes() -> None:
    """FGDC-STD-013-2006, from memory: 0.15 and 0.375 mm; certain solid, the others broken."""
    book = standard()
    assert book.symbol("lines", "contact").weight == 0.15
    assert book.symbol("lines", "fault").weight == 0.375
    for kind in ("contact", "fault"):
        certain, approximate, inferred, concealed = (
            book.symbol("lines", kind, c).strokes[0].dash for c in ("certain", "approximate", "inferred", "concealed")
        )
        assert certain == ()
        assert approximate[0] > inferred[0] > concealed[0] == 0


@pytest.mark.parametrize("scale", [1_000, 6_250, 10_000, 24_000, 25_000, 50_000, 62_500, 100_000, 250_000])
def test_scale_bars_end_on_round_numbers(scale: int) -> None:
    for width in (40.0, 71.0, 85.0, 120.0):
        bar = found_for(width, scale, "metric")
        assert bar.metres * 1000 / scale <= width
        assert f"{bar.step:.6g}".rstrip("0").replace("0.", "").lstrip("0").rstrip(".") in ("1", "2", "5")
        # Nothing longer by a factor of two would have fitted: the room is used.
        assert bar.metres * 1000 / scale > width / 2.6


def test_border_of_one_inch_is_one_inch() -> None:
    """1:63 360 is an inch to the mile."""
    from orvik.core.sheet.panels.panel import aimed

    mile = shapely.LineString([(0, 0), (1609.344, 0), (1609.344, 1609.344), (0, 1609.344), (0, 0)])
    _, width, height = aimed(mile, 63_360, project_crs("EPSG:32628"))
    assert (width, height) == pytest.approx((25.4, 25.4))


@pytest.mark.parametrize(
    ("text", "azimuth", "inclination"),
    [
        # Quadrant bearings and their azimuths by the right-hand rule (common practice).
        ("N10W 60E", 350, 60),
        ("N10W 60W", 170, 60),
        ("S10E 60E", 350, 60),
        ("N45E 30SE", 45, 30),
        ("N45E/30NW", 225, 30),
        ("n 80 e, 20 s", 80, 20),
        ("EW 35N", 270, 35),
        ("EW 35S", 90, 35),
        ("NS 40E", 0, 40),
        ("N-S", None, None),
        ("N20E 90", 20, 90),
    ],
)
def test_quadrant_readings(text: str, azimuth: float | None, inclination: float | None) -> None:
    if azimuth is None:
        with pytest.raises(ReadingRefused):
            parse_reading(text)
        return
    told = parse_reading(text)
    assert (told.azimuth, told.inclination) == (azimuth, inclination)


def test_dip_direction_with_the_switch() -> None:
    """A dip direction is the strike and 90 degrees (right-hand rule, common practice)."""
    told = parse_reading("080/60", dip_direction=True)
    assert told.text == "350/60"
    assert told.words == "strikes 350, dips 60 to the east"
    assert parse_reading("045/30", dip_direction=True).azimuth == 315


def test_lines_have_trend_and_plunge() -> None:
    told = parse_reading("120/30", dip_direction=True, kind="lineation")
    assert (told.azimuth, told.words) == (120, "plunges 30 towards 120 (southeast)")


@pytest.mark.parametrize("text", ["N10W 60", "N100W 60E", "N10W 60N 3", "N00E 60N", "60E", "N10X 60E"])
def test_readings_that_cannot_be(text: str) -> None:
    with pytest.raises(ReadingRefused):
        parse_reading(text)


def test_a_strike_that_was_drawn_over_the_symbol() -> None:
    # On the grid to the north-north-west, the dip to the east; grid north lies 2 degrees west of true north.
    assert drawn_strike((0, 0), (-10, 56.713), (30, 20), 0.0) == 350
    assert drawn_strike((-10, 56.713), (0, 0), (30, 20), 0.0) == 350
    assert drawn_strike((0, 0), (-10, 56.713), (-30, 20), 0.0) == 170
    assert drawn_strike((0, 0), (-10, 56.713), (30, 20), 2.0) == 352
    with pytest.raises(ReadingRefused):
        drawn_strike((0, 0), (1, 1), (2, 2), 0.0)

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.errors import CoordinateRefused, FeatureRefused, SheetRefused
from orvik.core.ground.coordinates import format_angle, format_grid, parse_angle, parse_number, parse_quantity


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("513482.6", 513482.6),
        ("513 482.6", 513482.6),
        ("6\u2009803\u2009117,9".replace(",", "."), 6803117.9),
        ("6,803,117.9", 6803117.9),
        ("−12.5", -12.5),
        ("513482.6 E", 513482.6),
        ("25.0 mm".replace(" mm", ""), 25.0),
    ],
)
def test_numbers(text: str, value: float) -> None:
    assert parse_number(text) == value


@pytest.mark.parametrize("text", ["north", "1.2.3", "nan", "inf", "12°", "1e400"])
def test_no_numbers(text: str) -> None:
    with pytest.raises(CoordinateRefused, match="is not a"):
        parse_number(text)


@pytest.mark.parametrize(
    ("text", "axis", "value"),
    [
        ("14°45'30\" W", "longitude", -(14 + 45 / 60 + 30 / 3600)),
        ("61 21 00 N", "latitude", 61.35),
        ("-14.7583", "longitude", -14.7583),
        ("W 14°45.5'", "longitude", -(14 + 45.5 / 60)),
        ("61.35", "latitude", 61.35),
        ("61°21′48.2″N", "latitude", 61 + 21 / 60 + 48.2 / 3600),
        ("0°0'30\"S", "latitude", -30 / 3600),
    ],
)
def test_angles(text: str, axis: str, value: float) -> None:
    assert parse_angle(text, axis) == pytest.approx(value, abs=1e-12)


@pytest.mark.parametrize(
    ("text", "axis"),
    [
        ("14°75'W", "longitude"),
        ("181", "longitude"),
        ("91", "latitude"),
        ("14 N", "longitude"),
        ("-14 W", "longitude"),
        ("abc", "latitude"),
        ("", "latitude"),
    ],
)
def test_no_angles(text: str, axis: str) -> None:
    with pytest.raises(CoordinateRefused):
        parse_angle(text, axis)


@given(st.floats(-180, 180), st.integers(0, 3))
def test_written_angles_read_back(degrees: float, decimals: int) -> None:
    text = format_angle(degrees, "longitude", decimals)
    assert "60" not in text.split("°")[1].split("'")[0]
    assert parse_angle(text, "longitude") == pytest.approx(degrees, abs=0.5 / 3600 / 10**decimals + 1e-9)


def test_grid() -> None:
    assert format_grid(513482.64, 6803117.87) == "513\u2009482.6 E  6\u2009803\u2009117.9 N"


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("0,35", 0.35),
        ("0.35", 0.35),
        ("1 200", 1200.0),
        ("−40", -40.0),
        ("12,5", 12.5),
        ("0,125", 0.125),
        ("1200,5", 1200.5),
    ],
)
def test_a_quantity_has_a_comma_or_a_point(text: str, value: float) -> None:
    assert parse_quantity(text, "width") == value


@pytest.mark.parametrize("text", ["1,250", "-2,000", "12,345"])
def test_a_quantity_that_can_be_read_two_ways_asks(text: str) -> None:
    """A decimal comma, or thousands: the one is a thousand times the other, and neither is guessed."""
    with pytest.raises(FeatureRefused, match="two ways"):
        parse_quantity(text, "width", FeatureRefused)


@pytest.mark.parametrize("text", ["wide", "1.2.3", "inf", "nan", "1,2,3", "1e999"])
def test_what_is_no_quantity_is_refused(text: str) -> None:
    with pytest.raises(SheetRefused, match="is not a size"):
        parse_quantity(text, "size", SheetRefused)


def test_nought_and_a_comma_are_no_thousands() -> None:
    """``0,125`` was read as 125."""
    assert parse_number("0,125") == 0.125
    assert parse_number("513,482") == 513482

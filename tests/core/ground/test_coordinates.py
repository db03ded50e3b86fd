from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.errors import CoordinateRefused
from orvik.core.ground.coordinates import format_angle, format_grid, parse_angle, parse_number


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


@pytest.mark.parametrize("text", ["", "north", "1.2.3", "nan", "inf", "12°", "1e400"])
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

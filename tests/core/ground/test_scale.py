"""Scales at their limits, and figures against decimal arithmetic."""

from __future__ import annotations

from decimal import ROUND_HALF_EVEN, Context, Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.errors import ScaleRefused
from orvik.core.ground.scale import (
    LARGEST_DENOMINATOR,
    SMALLEST_DENOMINATOR,
    Rung,
    Scales,
    area_words,
    figures,
    on_ground,
    on_sheet,
    parse_rungs,
    parse_scale,
    proposed_digitizing,
    spaced,
)
from tests.examples import examples

THIN = "\u2009"


def test_the_limits_themselves_are_scales_and_the_next_are_not() -> None:
    assert Scales(LARGEST_DENOMINATOR, SMALLEST_DENOMINATOR).publication == 50_000_000
    for publication, digitizing in ((LARGEST_DENOMINATOR + 1, 25_000), (25_000, SMALLEST_DENOMINATOR - 1)):
        with pytest.raises(ScaleRefused, match="is not a scale for a map"):
            Scales(publication, digitizing)
    with pytest.raises(ScaleRefused, match="1:99 is not a scale for a map; choose one between 1:100 and 1:50"):
        Scales(25_000, 6_250, (99,))
    assert Scales(25_000, 6_250, (100, 200, 300, 50_000_000)).others[-1] == 50_000_000
    with pytest.raises(ScaleRefused, match="at most 4 custom rungs"):
        Scales(25_000, 6_250, (100, 200, 300, 400, 500))


@given(publication=st.integers(400, 1_000_000))
def test_one_digitizes_at_a_quarter_or_larger_and_no_coarser(publication: int) -> None:
    """Common practice: at least four times larger than the map is printed."""
    proposed = proposed_digitizing(publication)
    assert Scales(publication, proposed).digitizing == proposed
    assert proposed * 4 <= publication < (proposed + 1) * 4
    with pytest.raises(ScaleRefused) as refused:
        Scales(publication, proposed + 1)
    assert f"Use 1:{spaced(proposed)} or larger" in str(refused.value)


def test_the_ladder_goes_from_the_overview_down_and_calls_a_rung_by_what_it_is_for() -> None:
    scales = Scales(25_000, 6_250, (10_000, 25_000, 500_000))
    assert scales.ladder == (
        Rung(500_000, "custom rung"),
        Rung(100_000, "overview"),
        Rung(25_000, "publication"),
        Rung(10_000, "custom rung"),
        Rung(6_250, "digitizing"),
    )
    # Two tenths of a millimetre at 1:25 000 are 5 m.
    assert scales.tolerance_metres == pytest.approx(5.0)


@pytest.mark.parametrize(
    "text",
    [
        "25000",
        "1:25000",
        "1:25 000",
        " 1 : 25\u2009000 ",
        "1/25,000",
        "1:25.000",
        "1:25'000",
        "1:25\u202f000",
        "25\u00a0000",
    ],
)
def test_a_scale_is_read_as_people_write_it(text: str) -> None:
    assert parse_scale(text) == 25_000


@pytest.mark.parametrize(
    "text", ["", "0", "1:0", "-25000", "2:25000", "25 00", "1:25 0000", "x", "1e4", "٢٥٠٠٠", "1:", "1" * 13]
)
def test_what_is_no_scale_says_how_one_is_written(text: str) -> None:
    with pytest.raises(ScaleRefused, match="1:25 000 or 25000"):
        parse_scale(text)


def test_longest_figures_are_read() -> None:
    assert parse_scale("999999999999") == 999_999_999_999
    assert parse_scale("1:1 234 567 890") == 1_234_567_890


def test_rungs_stand_one_after_the_other_once_each_and_thousands_may_have_commas() -> None:
    assert parse_rungs("1:10 000; 1:5 000, 2500\n1:10,000") == (10_000, 5_000, 2_500)
    assert parse_rungs("1:10,000,1:5,000") == (10_000, 5_000)
    assert parse_rungs(" ;, \n") == ()
    with pytest.raises(ScaleRefused):
        parse_rungs("1:10 000; coarse")


def grouped(digits: str) -> str:
    """Digits in threes from the right, by hand."""
    head = len(digits) % 3 or 3
    return THIN.join([digits[:head], *(digits[i : i + 3] for i in range(head, len(digits), 3))])


@given(number=st.integers(-(10**12), 10**12))
def test_thousands_stand_apart_and_minus_is_a_minus(number: int) -> None:
    assert spaced(number) == ("−" if number < 0 else "") + grouped(str(abs(number)))


def test_decimals_are_as_many_as_asked() -> None:
    assert spaced(1234.5, 2) == f"1{THIN}234.50"
    assert spaced(0.126, 2) == "0.13"
    assert spaced(12.6) == "13"


@examples(200)
@given(
    number=st.decimals(min_value="1e-8", max_value="1e9", allow_nan=False).map(lambda d: Context(12).plus(d)),
    digits=st.integers(1, 8),
    sign=st.sampled_from([1, -1]),
)
def test_figures_are_rounded_as_decimal_arithmetic_has_it_and_have_no_power_of_ten(
    number: Decimal, digits: int, sign: int
) -> None:
    words = figures(float(number) * sign, digits)
    assert "e" not in words
    assert words.startswith("−") == (sign < 0)
    # A float lies a little beside what is written; a tie may fall to either side.
    read = Decimal(words.replace("−", "").replace(THIN, ""))
    step = Decimal(1).scaleb(number.adjusted() - digits + 1)
    assert abs(read - number) <= step / 2 * (1 + Decimal("1e-6"))
    rounded = Context(digits, ROUND_HALF_EVEN).plus(number)
    assert abs(read - rounded) <= step
    assert "." not in words or not words.endswith(("0", "."))


def test_figures_of_what_has_none() -> None:
    assert figures(0.0, 3) == "0"
    assert figures(float("inf"), 3) == "inf"
    assert figures(1.0, 1) == "1"
    assert figures(9.96, 2) == "10"


def test_ground_is_told_in_hectares_and_from_a_square_kilometre_on_in_those() -> None:
    assert area_words(50.0) == "0.005 ha"
    assert area_words(9_999.0) == "1.000 ha"
    assert area_words(10_000.0) == "1.0 ha"
    assert area_words(999_900.0) == "100.0 ha"
    assert area_words(1_000_000.0) == "1.0 km²"
    assert area_words(99_990_000.0) == "100.0 km²"
    assert area_words(100_000_000.0) == "100 km²"
    assert area_words(12_345_000_000.0) == f"12{THIN}345 km²"


@given(metres=st.floats(0.001, 1e7), denominator=st.integers(100, 50_000_000))
def test_sheet_and_ground_lead_back_to_each_other(metres: float, denominator: int) -> None:
    assert on_sheet(metres, denominator) == pytest.approx(float(Decimal(metres) * 1000 / denominator), rel=1e-12)
    assert on_ground(on_sheet(metres, denominator), denominator) == pytest.approx(metres, rel=1e-12)

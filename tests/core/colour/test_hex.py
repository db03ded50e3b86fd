"""Colours against published sums: contrast of WCAG, CIELAB, the plain rule of percentages; and scikit-image."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from skimage import color as sk

from orvik.core.colour.hex import (
    channels,
    cmyk_of,
    contrast,
    is_colour,
    lab_of,
    mixed,
    of_cmyk,
    of_lab,
    ramp,
    readable_on,
    readable_on_all,
)
from tests.examples import examples

COLOURS = st.tuples(*[st.integers(0, 255)] * 3).map(lambda rgb: "#{:02X}{:02X}{:02X}".format(*rgb))


def rgb(colour: str) -> np.ndarray:
    return np.array([int(colour[i : i + 2], 16) for i in (1, 3, 5)]) / 255


def luminance(colour: str) -> float:
    """Relative luminance as WCAG 2.2 defines it."""
    c = rgb(colour)
    linear = np.where(c <= 0.04045, c / 12.92, ((c + 0.055) / 1.055) ** 2.4)
    return float(linear @ (0.2126, 0.7152, 0.0722))


def wcag(one: str, other: str) -> float:
    low, high = sorted((luminance(one), luminance(other)))
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("text", ["#F4E6A8", "#abcdef", "#000000"])
def test_what_is_a_colour(text: str) -> None:
    assert is_colour(text)


@pytest.mark.parametrize(
    "text", ["F4E6A8", "#F4E6A", "#F4E6A80", "#F4E6AG", " #F4E6A8", "#F4E6A8\n", "red", None, 7, b"#F4E6A8"]
)
def test_what_is_none(text: object) -> None:
    assert not is_colour(text)


@examples(200)
@given(COLOURS, COLOURS)
def test_contrast_as_wcag_has_it(one: str, other: str) -> None:
    # The standard's luminance has rounded weights; the library's are of the same space with more figures.
    assert contrast(one, other) == pytest.approx(wcag(one, other), rel=2e-3)
    assert contrast(one, other) == contrast(other, one)


@examples(200)
@given(COLOURS)
def test_letters_are_dark_or_light_by_which_stands_out_more(ground: str) -> None:
    dark, light = wcag("#22303C", ground), wcag("#FFFFFF", ground)
    if abs(dark - light) > 0.02:
        assert readable_on(ground) == ("#22303C" if dark > light else "#FFFFFF")
    assert readable_on(ground, dark="#000000", light="#000000") == "#000000"
    assert readable_on("#FFFFFF", "#FFFFFF", "#FFFFFF") == "#FFFFFF"


@examples(200)
@given(st.lists(COLOURS, min_size=1, max_size=4))
def test_letters_on_several_grounds_take_the_paler_as_their_halo(grounds: list[str]) -> None:
    text, halo = readable_on_all(tuple(grounds))
    best = max(wcag("#22303C", ground) for ground in grounds)
    if abs(best - 4.5) > 0.02:
        assert text == ("#22303C" if best > 4.5 else "#FFFFFF")
    assert halo in grounds
    assert contrast(text, halo) == max(contrast(text, ground) for ground in grounds)


# CSS Color 4, sample code for conversions: linear light of sRGB to XYZ, and Bradford from D65 to D50 (from memory).
TO_XYZ = np.array(
    [
        [506752 / 1228815, 87881 / 245763, 12673 / 70218],
        [87098 / 409605, 175762 / 245763, 12673 / 175545],
        [7918 / 409605, 87881 / 737289, 1001167 / 1053270],
    ]
)
BRADFORD = np.array(
    [
        [1.0479297925449969, 0.022946870601609652, -0.05019226628920524],
        [0.02962780877005599, 0.9904344267538799, -0.017073799063418826],
        [-0.009243040646204504, 0.015055191490298152, 0.7518742814281371],
    ]
)
WHITE_D50 = np.array([0.3457 / 0.3585, 1.0, (1 - 0.3457 - 0.3585) / 0.3585])


def lab_d50(colour: str) -> tuple[float, float, float]:
    """CIELAB (CIE 15) of a colour under D50."""
    c = rgb(colour)
    linear = np.where(c <= 0.04045, c / 12.92, ((c + 0.055) / 1.055) ** 2.4)
    t = BRADFORD @ TO_XYZ @ linear / WHITE_D50
    x, y, z = np.where(t > 216 / 24389, np.cbrt(t), (24389 / 27 * t + 16) / 116)
    return 116 * y - 16, 500 * (x - y), 200 * (y - z)


@examples(200)
@given(COLOURS)
def test_lab_as_the_standard_has_it_and_back(colour: str) -> None:
    found = lab_of(colour)
    assert found == pytest.approx(lab_d50(colour), abs=0.002)
    assert found == tuple(round(figure, 3) for figure in found)
    assert of_lab(*found) == colour


def test_places_that_no_screen_shows() -> None:
    with pytest.raises(ValueError, match="gamut"):
        of_lab(50, 120, -120)
    with pytest.raises(ValueError, match="gamut"):
        of_lab(101.5, 0, 0)
    # What a book rounds to one decimal is taken for the colour that is meant.
    assert of_lab(100.1, 0, 0) == "#FFFFFF"
    assert of_lab(-0.1, 0, 0) == "#000000"


@examples(200)
@given(st.tuples(*[st.integers(0, 100)] * 4))
def test_printers_percentages_by_the_plain_rule(inks: tuple[int, int, int, int]) -> None:
    cyan, magenta, yellow, black = inks
    wanted = 255 * (1 - np.array([cyan, magenta, yellow]) / 100) * (1 - black / 100)
    assert np.abs(255 * rgb(of_cmyk(*inks)) - wanted).max() <= 0.5 + 1e-9


@examples(200)
@given(COLOURS)
def test_percentages_have_as_much_black_as_they_can(colour: str) -> None:
    inks = cmyk_of(colour)
    assert all(0 <= ink <= 100 for ink in inks)
    assert inks[3] == round(100 * (1 - rgb(colour).max()))
    assert min(inks[:3]) == 0
    # Whole percentages of the lightest channel are a step and a half at the most, and half a one of black.
    assert np.abs(rgb(of_cmyk(*inks)) - rgb(colour)).max() <= 0.012
    assert cmyk_of("#000000") == (0, 0, 0, 100)
    assert cmyk_of("#FF0000") == (0, 100, 100, 0)


@examples(200)
@given(COLOURS, COLOURS, st.floats(0, 1))
def test_a_colour_laid_over_another_channel_by_channel(over: str, below: str, opacity: float) -> None:
    wanted = 255 * (rgb(over) * opacity + rgb(below) * (1 - opacity))
    assert np.abs(255 * rgb(mixed(over, below, opacity)) - wanted).max() <= 0.5 + 1e-9
    assert mixed(over, below, 1.0) == over
    assert mixed(over, below, 0.0) == below
    assert channels(over) == pytest.approx(tuple(rgb(over)))


@examples(60)
@given(COLOURS, COLOURS, st.integers(2, 9))
def test_a_ramp_goes_in_even_steps_for_the_eye(first: str, last: str, count: int) -> None:
    made = ramp(first.lower(), last.lower(), count)
    assert (made[0], made[-1], len(made)) == (first, last, count)
    lab = sk.rgb2lab(np.array([rgb(colour) for colour in made]))
    wanted = np.linspace(lab[0], lab[-1], count)
    # On the straight from one to the other, but for what no screen shows and for rounding to 255 steps.
    shown = sk.lab2rgb(wanted)
    assert np.abs(shown - np.array([rgb(colour) for colour in made])).max() <= 0.03


def test_a_ramp_of_one_is_its_first() -> None:
    assert ramp("#123456", "#654321", 2) == ["#123456", "#654321"]
    assert ramp("#123456", "#FFFFFF", 1) == ["#123456"]

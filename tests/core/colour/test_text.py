"""Colours as typed, against another library."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from skimage.color import rgb2xyz, xyz2lab

from orvik.core.colour.hex import channels, lab_of, mixed, ramp
from orvik.core.colour.text import cmyk_text, hex_text, lab_text, parse_cmyk, parse_lab
from orvik.core.errors import FeatureRefused
from tests.examples import examples

# From D65 to D50 after Bradford, as Lindbloom publishes it; from memory.
BRADFORD = np.array(
    [[1.0478112, 0.0228866, -0.0501270], [0.0295424, 0.9904844, -0.0170491], [-0.0092345, 0.0150436, 0.7521316]]
)
colours = st.integers(0, 0xFFFFFF).map(lambda value: f"#{value:06X}")


@examples(120)
@given(colours)
def test_lab_against_scikit_image_and_back(colour: str) -> None:
    """CIELAB under D50, as colour books give it, the white adapted after Bradford."""
    adapted = BRADFORD @ rgb2xyz(np.array([[channels(colour)]]))[0, 0]
    assert np.allclose(lab_of(colour), xyz2lab(adapted[None, None], illuminant="D50")[0, 0], atol=0.1)
    back = channels(parse_lab(lab_text(colour)))
    assert max(abs(a - b) for a, b in zip(back, channels(colour), strict=True)) <= 3.1 / 255


def test_known_places() -> None:
    """CSS Color 4: Lab of sRGB red, lime and blue under D50, from memory of its worked values."""
    for colour, lab in (("#FF0000", (54.29, 80.82, 69.89)), ("#00FF00", (87.82, -79.29, 80.99))):
        assert np.allclose(lab_of(colour), lab, atol=0.05)


@examples(80)
@given(colours)
def test_percentages_and_back(colour: str) -> None:
    back = channels(parse_cmyk(cmyk_text(colour)))
    assert max(abs(a - b) for a, b in zip(back, channels(colour), strict=True)) < 0.011


@pytest.mark.parametrize("text", ["", "1 2", "a b c", "300 0 0", "50 200 -200", "1 2 3 4"])
def test_what_is_no_lab(text: str) -> None:
    with pytest.raises(FeatureRefused):
        parse_lab(text)


@pytest.mark.parametrize("text", ["", "1 2 3", "0 0 0 101", "-1 0 0 0", "c m y k"])
def test_what_is_no_percentages(text: str) -> None:
    with pytest.raises(FeatureRefused):
        parse_cmyk(text)


def test_typed_in_many_ways() -> None:
    assert hex_text(" e0ae75 ") == "#E0AE75"
    assert parse_cmyk("0, 22, 48, 12") == parse_cmyk("0 22% 48% 12%") == parse_cmyk("0/22/48/12")
    with pytest.raises(FeatureRefused, match="six digits"):
        hex_text("blue")


def test_steps_are_even_for_the_eye() -> None:
    steps = ramp("#FFF2D3", "#B0341F", 6)
    assert (steps[0], steps[-1], len(steps)) == ("#FFF2D3", "#B0341F", 6)
    light = [lab_of(colour)[0] for colour in steps]
    gaps = np.diff(light)
    assert gaps.max() < 0
    assert gaps.max() - gaps.min() < 1.0
    assert mixed("#000000", "#FFFFFF", 0.25) == "#BFBFBF"


def test_sentences_say_what_was_typed_and_what_is_wanted() -> None:
    with pytest.raises(FeatureRefused, match="six digits such as #F4E6A8"):
        hex_text("red")
    with pytest.raises(FeatureRefused, match=r"Lab has three numbers, such as 74\.8 13\.8 36\.5, not “1 2”"):
        parse_lab(" 1 2 ")
    with pytest.raises(FeatureRefused, match="No screen shows the colour 50 200 -200; choose one nearer to grey"):
        parse_lab("50 200 -200")
    with pytest.raises(FeatureRefused, match="four percentages, such as 0 22 48 12, not “1 2 3”"):
        parse_cmyk("1 2 3")
    with pytest.raises(FeatureRefused, match="run from 0 to 100"):
        parse_cmyk("0 0 0 100.5")


def test_minus_signs_commas_and_limits() -> None:
    assert parse_lab("74,8 −13,8 36,5") == parse_lab("74.8; -13.8; +36.5")
    assert parse_cmyk("100 100 100 100") == "#000000"
    assert parse_cmyk("0 0 0 0") == "#FFFFFF"
    assert lab_text("#808080") == "53.6 0.0 0.0"
    assert cmyk_text("#E0AE75") == "0 22 48 12"
    assert hex_text("#abcDEF") == "#ABCDEF"

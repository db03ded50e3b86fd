"""What is told best from others, and what is printed on white: one by one, by scikit-image's difference."""

from __future__ import annotations

import numpy as np
import pytest
from skimage.color import deltaE_ciede2000, rgb2lab

from orvik.core.colour.difference import SIGHTS, farthest, labs_by_sight, light_colours, printed, seen, to_lab
from orvik.core.colour.hex import channels


def lab(colour: str) -> np.ndarray:
    return rgb2lab(np.array([[channels(colour)]]))[0, 0]


@pytest.mark.parametrize("seed", range(6))
def test_the_farthest_is_the_one_whose_nearest_is_farthest(seed: int) -> None:
    rng = np.random.default_rng(seed)
    colours = ["#{:02X}{:02X}{:02X}".format(*rgb) for rgb in rng.integers(0, 256, (24, 3)).tolist()]
    choices, used = colours[:16], colours[16:]
    nearest = [min(float(deltaE_ciede2000(lab(c), lab(u))) for u in used) for c in choices]
    assert farthest(choices, used + used[:2]) == choices[int(np.argmax(nearest))]


def test_the_first_is_as_good_as_any_where_nothing_is_in_use() -> None:
    assert farthest(("#123456", "#FFFFFF"), []) == "#123456"
    # Of two that are as far the first is taken.
    assert farthest(("#FF0000", "#FF0000", "#00FF00"), ["#00FF00"]) == "#FF0000"


@pytest.mark.parametrize("opacity", [0.0, 0.25, 0.6, 1.0])
def test_what_is_printed_lies_on_white_paper(opacity: float) -> None:
    colours = ["#204060", "#FFFFFF", "#000000"]
    made = printed(colours, opacity)
    assert made.shape == (3, 3)
    wanted = [[v * opacity + 1 - opacity for v in channels(colour)] for colour in colours]
    assert np.abs(made - wanted).max() <= 0.5 / 255 + 1e-9
    assert printed([], opacity).shape == (0, 3)


def test_each_sight_has_its_own_figures() -> None:
    rgb = printed(["#C03020", "#308040", "#2040A0"], 1.0)
    found = labs_by_sight(rgb)
    assert found.shape == (3, len(SIGHTS), 3)
    for i, sight in enumerate(SIGHTS):
        assert np.allclose(found[:, i], to_lab(seen(rgb, sight)))
    assert np.allclose(found[:, 0], [lab(colour) for colour in ("#C03020", "#308040", "#2040A0")], atol=0.02)


def test_light_colours_can_be_written_on_and_reach_all_round() -> None:
    colours = light_colours()
    labs = np.array([lab(colour) for colour in colours])
    assert len(set(colours)) == len(colours) > 1000
    assert 67.9 <= labs[:, 0].min() < 70
    assert 93 < labs[:, 0].max() <= 95.1
    hues = np.degrees(np.arctan2(labs[:, 2], labs[:, 1])) % 360
    strong = np.hypot(labs[:, 1], labs[:, 2]) > 20
    assert np.histogram(hues[strong], bins=12, range=(0, 360))[0].min() > 0

"""The proposal: it does what it says, moves little, and says where it cannot."""

from __future__ import annotations

import numpy as np
import pytest
from coloraide import Color
from hypothesis import given
from hypothesis import strategies as st
from skimage.color import deltaE_ciede2000, rgb2lab

from orvik.core.colour.hex import channels
from orvik.core.colour.proposal import HUE_REACH, propose
from orvik.core.features.age import chart
from tests.examples import examples


def least(colours: dict[str, str], pairs: list[tuple[str, str]], opacity: float) -> float:
    """The least difference of any pair for any sight, by other libraries."""
    worst = np.inf
    for one, other in pairs:
        for name in ("", "protan", "deutan", "tritan"):
            labs = []
            for code in (one, other):
                rgb = np.array(channels(colours[code])) * opacity + 1 - opacity
                seen = Color("srgb", rgb.tolist())
                if name:
                    seen = seen.filter(name, method="machado", severity=1)
                labs.append(rgb2lab(np.clip(np.array(seen.convert("srgb").coords()), 0, 1)[None, None])[0, 0])
            worst = min(worst, float(deltaE_ciede2000(*labs)))
    return worst


def hue(colour: str) -> float:
    lab = rgb2lab(np.array(channels(colour))[None, None])[0, 0]
    return float(np.degrees(np.arctan2(lab[2], lab[1])))


@examples(25)
@given(st.integers(0, 100_000), st.sampled_from([1.0, 0.75]))
def test_it_reaches_what_it_says_and_stays_by_the_ages(seed: int, opacity: float) -> None:
    rng = np.random.default_rng(seed)
    intervals = [age for age in chart() if age.rank in ("epoch", "period")]
    codes = [f"u{i}" for i in range(8)]
    ages = {code: intervals[int(rng.integers(len(intervals)))].colour for code in codes}
    pairs = [(a, b) for i, a in enumerate(codes) for b in codes[i + 1 :] if rng.random() < 0.4]
    found = propose(ages, pairs, ages, 5.0, opacity)
    new = ages | {move.unit: move.new for move in found.moves}
    if pairs:
        assert least(new, pairs, opacity) == pytest.approx(found.least, abs=0.05)
    assert bool(found.left) == (found.least < 5.0)
    for move in found.moves:
        assert move.old == ages[move.unit]
        # A pale colour has hardly a hue: half a degree of it is the rounding to steps of 255.
        chroma = np.hypot(*rgb2lab(np.array(channels(move.new))[None, None])[0, 0][1:])
        slack = 0.3 + 60 / max(float(chroma), 1.0)
        assert abs((hue(move.new) - hue(ages[move.unit]) + 180) % 360 - 180) <= HUE_REACH + slack
        assert move.after > move.before


def test_nothing_moves_where_nothing_needs_to() -> None:
    colours = {"A": "#F1E3A4", "B": "#A4CEC6", "C": "#D59E90"}
    found = propose(colours, [("A", "B"), ("B", "C")], {}, 5.0)
    assert (found.moves, found.left) == ((), ())


def test_two_alike_take_one_move() -> None:
    colours = {"A": "#E0AE75", "B": "#E0AE75", "C": "#A4CEC6"}
    found = propose(colours, [("A", "B"), ("B", "C")], {}, 5.0)
    assert len(found.moves) == 1
    assert found.moves[0].before == 0
    assert found.least >= 5.0


def test_it_says_that_it_cannot() -> None:
    """Thirty units of one age that all touch have no room within its hue."""
    codes = [f"u{i}" for i in range(30)]
    colours = dict.fromkeys(codes, "#34B2C9")
    pairs = [(a, b) for i, a in enumerate(codes) for b in codes[i + 1 :]]
    found = propose(colours, pairs, colours, 12.0)
    assert found.left
    assert found.least < 12.0

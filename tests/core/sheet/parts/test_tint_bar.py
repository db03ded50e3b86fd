"""The bar of tints: each colour stands over its height, as the panel prints it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from orvik.core.colour.hex import mixed
from orvik.core.ink.primitives import Fill, Item, Stroke, Text, walk
from orvik.core.pictures.relief import ReliefStyle, tint
from orvik.core.sheet.output.compose import compose
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.panels.map_context import Underlay
from orvik.core.sheet.parts.tint_bar import TintBar, figure, figures
from tests.core.sheet.panels.test_panel import PAGE, context, part_of
from tests.examples import examples


def bar(style: ReliefStyle, opacity: float = 0.6, span: tuple[float, float] = (0.0, 400.0)) -> list[Item]:
    heights = Underlay(7, "Heights", 1.0, True, None, style, lambda: span)
    panel = part_of(underlays={"7": opacity})
    bar_part = Part(TintBar(panel=1), 20, 220, 80, 14, id=2, position=2)
    made = compose(PAGE, [panel, bar_part], replace(context(), underlays=[heights]))
    return list(walk(made.groups[1].items))


@pytest.mark.parametrize("flipped", [False, True])
@pytest.mark.parametrize("ends", [(None, None), (-50.0, 310.0)])
def test_every_figure_stands_below_the_colour_of_its_height(flipped: bool, ends: tuple[float, float]) -> None:
    style = ReliefStyle(ramp="meadow", flipped=flipped, low=ends[0], high=ends[1])
    low, high = (0.0, 400.0) if ends[0] is None else ends
    items = bar(style)
    fills = [i for i in items if isinstance(i, Fill)]
    words = [i for i in items if isinstance(i, Text) and i.run.chars.strip() != "m"]
    assert len(words) >= 4
    for word in words:
        height = float(word.run.chars.replace("\u2212", "-").replace("\u2009", ""))
        # The topmost of those that lie there.
        over = [f.colour for f in fills if f.paths.xy[:, 0].min() <= word.at[0] + 1e-9]
        r, g, b = tint(np.array([[height]], dtype=np.float32), style, low, high)[0, 0].tolist()
        wanted = mixed(f"#{r:02X}{g:02X}{b:02X}", "#FFFFFF", 0.6)
        apart = [abs(int(over[-1][i : i + 2], 16) - int(wanted[i : i + 2], 16)) for i in (1, 3, 5)]
        assert max(apart) <= 6, (word.run.chars, over[-1], wanted)
    assert all(20 <= x <= 100 for i in items if isinstance(i, Fill | Stroke) for x in i.paths.xy[:, 0])


def test_the_contour_interval_is_said() -> None:
    said = [i.run.chars for i in bar(ReliefStyle(ramp="dry", contours=20.0)) if isinstance(i, Text)]
    assert "Contour interval 20 metres" in said
    only = bar(ReliefStyle(contours=1.0))
    assert [i.run.chars for i in only if isinstance(i, Text)] == ["Contour interval 1 metre"]
    assert not [i for i in only if isinstance(i, Fill)]
    nothing = " ".join(i.run.chars for i in bar(ReliefStyle()) if isinstance(i, Text))
    assert "no tints of heights" in nothing
    unseen = " ".join(i.run.chars for i in bar(ReliefStyle(ramp="dry"), opacity=0.0) if isinstance(i, Text))
    assert "no tints of heights" in unseen


@given(st.floats(-5000, 9000), st.floats(0.01, 9000))
@examples(300)
def test_figures_are_round_and_lie_within(low: float, rise: float) -> None:
    high = low + rise
    assume(high > low)
    found = figures(low, high)
    assert 2 <= len(found) <= 9
    assert min(found) >= low - 1e-6
    assert max(found) <= high + 1e-6
    assert len({figure(value) for value in found}) == len(found)

"""The check square is 50 mm, whatever frame it stands in."""

from __future__ import annotations

import numpy as np
import pytest

from orvik.core.ink.primitives import Stroke, Text
from orvik.core.sheet.page.ink_bounds import text_box
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts.check_square import CheckSquare


@pytest.mark.parametrize("frame", [(50.0, 50.0), (80.0, 52.0), (20.0, 10.0)])
@pytest.mark.parametrize("size", [1.0, 2.4, 10.0])
def test_it_is_fifty_millimetres_and_its_words_stay_within(frame: tuple[float, float], size: float) -> None:
    part = Part(CheckSquare(size=size), 30.0, 40.0, *frame)
    items = part.settings.ink(part, None)
    (square,) = (item for item in items if isinstance(item, Stroke))
    assert np.ptp(square.paths.xy, axis=0).tolist() == [50.0, 50.0]
    assert square.paths.xy.mean(axis=0) == pytest.approx(part.middle, abs=10.1)
    (left, top), (right, bottom) = square.paths.xy.min(axis=0), square.paths.xy.max(axis=0)
    for text in (item for item in items if isinstance(item, Text)):
        box = text_box(text).bounds
        assert left < box[0]
        assert top < box[1]
        assert box[2] < right
        assert box[3] < bottom

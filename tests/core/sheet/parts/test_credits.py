"""A credits says no more of how a map was captured than its features do."""

from __future__ import annotations

from dataclasses import replace

import pytest
import shapely

from orvik.core.features.feature import Feature, Features
from orvik.core.sheet.parts.system_lines import credit_lines
from tests.core.sheet.panels.test_panel import context


@pytest.mark.parametrize(
    ("scales", "words"),
    [
        ([6250, 5000], "Digitized at 1:6 250 or larger"),
        ([500_000, 500_000], "Digitized at 1:500 000 or larger"),
        ([6250, 6250, 500_000], "Digitized at 1:6 250 or larger, 1 of 3 features at 1:500 000 or larger"),
        ([None, None], "At what scale it was digitized is not known"),
        ([6250, None], "Digitized at 1:6 250 or larger; of 1 feature the scale is not known"),
        ([], None),
    ],
)
def test_it_says_what_the_features_of_the_panel_say(scales: list[int | None], words: str | None) -> None:
    lines = [
        Feature("lines", shapely.LineString([(i, 0), (i, 9)]), "contact", i, capture_scale=scale)
        for i, scale in enumerate(scales, 1)
    ]
    shown = replace(context(), features={"lines": Features.of("lines", lines)})
    said = [line.replace("\u2009", " ") for line in credit_lines(shown) if "igitized" in line]
    assert said == ([words] if words else [])

"""Boxes beside the map have the colours that the map is printed in, in every part that has boxes."""

from __future__ import annotations

import pytest

from orvik.core.ink.primitives import Fill, walk
from orvik.core.sheet.page.part import PanelPartSettings, Part
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.parts.correlation.correlation import Correlation
from orvik.core.sheet.parts.description.description import Description
from orvik.core.sheet.parts.explanation.explanation import Explanation
from orvik.core.sheet.parts.map_panel import MapPanel, panels_of
from tests.core.sheet.parts.test_correlation import ISLAND
from tests.core.sheet.parts.test_description import page_of

PARTS = (Explanation, Description, Correlation)


def inked(settings: type[PanelPartSettings], opacity: float) -> list[str]:
    """The colours of the boxes of a part whose panel prints its units so strongly."""
    part = Part(settings(panel=1), 100.0, 10.0, 200.0, 200.0, id=2)
    page = page_of(ISLAND, {unit.code for unit in ISLAND}, part)
    panel = Part(
        MapPanel(centre=(512_000.0, 6_802_000.0), scale=25_000, layers={"units": opacity}), 0, 0, 100, 100, id=1
    )
    context = PageContext(page.sheet, [panel, part], page.map, panels_of([panel, part], page.map))
    return [item.colour for item in walk(part.settings.ink(part, context)) if isinstance(item, Fill)]


@pytest.mark.parametrize("settings", PARTS)
def test_a_paler_map_has_paler_boxes_and_one_that_prints_no_units_none(settings: type[PanelPartSettings]) -> None:
    # A unit's #BBD5A6 on white; the mean of the two by hand.
    assert set(inked(settings, 1.0)) == {"#BBD5A6"}
    assert set(inked(settings, 0.5)) == {"#DDEAD2"} or set(inked(settings, 0.5)) == {"#DDEAD3"}
    assert inked(settings, 0.0) == []

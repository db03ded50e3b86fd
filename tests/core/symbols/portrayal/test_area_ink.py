"""Areas that belong to no unit yet are told apart by their edges."""

from __future__ import annotations

import shapely

from orvik.core.features.feature import Feature, Features
from orvik.core.features.map_unit import MapUnit
from orvik.core.ink.primitives import Fill, Item, Stroke
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.portrayal.area_ink import NO_UNIT, area_ink


def test_neighbours_without_a_unit_have_edges_and_those_of_one_have_none() -> None:
    units = {"Qal": MapUnit("Qal", "Alluvium", "Holocene", "#F4E6A8")}
    areas = [
        Feature("areas", shapely.box(100 * i, 0, 100 * i + 100, 100), "unit_area", id=i + 1, map_unit=unit)
        for i, unit in enumerate([None, None, "Qal", "Zz"])
    ]
    layers: dict[str, list[Item]] = {"units": []}
    area_ink(Features.of("areas", areas), standard(), units, layers)
    edges = [item for item in layers["units"] if isinstance(item, Stroke)]
    assert sum(len(item.paths) for item in edges) == 3, edges
    assert sum(item.colour == NO_UNIT for item in layers["units"] if isinstance(item, Fill)) == 2

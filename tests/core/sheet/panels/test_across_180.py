"""Features that a panel's system tears, as across 180 degrees, are cut at the panel, and the rest of them is shown."""

from __future__ import annotations

import random

import numpy as np
import pyproj
import pytest
import shapely

from orvik.core.features.feature import Feature, Features
from orvik.core.features.stretch import Stretch
from orvik.core.ground.crs import project_crs
from orvik.core.sheet.panels.cut_ground import share_without_ground
from orvik.core.sheet.panels.reprojection import Carrier

# A Mercator about 150° E, so that 180° lies within the map, and systems that are torn there.
PACIFIC = project_crs("EPSG:3832")
TORN = ["EPSG:3857", "EPSG:3395", "EPSG:6933", "EPSG:8857"]


def place(longitude: float, latitude: float) -> tuple[float, float]:
    x, y = PACIFIC.from_geographic(longitude, latitude)
    return float(x), float(y)


def window(system: str, west: float, east: float) -> shapely.Polygon:
    """A panel's ground between two meridians at about 17° S."""
    crs = project_crs(system)
    x, y = crs.from_geographic([west, east, west, east], [-18.0, -18.0, -16.0, -16.0])
    return shapely.box(float(min(x)), float(min(y)), float(max(x)), float(max(y)))


def any_feature(rng: random.Random, number: int) -> Feature:
    if rng.random() < 0.5:
        xy = [place(rng.uniform(176, 184), rng.uniform(-19, -15)) for _ in range(rng.randrange(2, 6))]
        stretches = (Stretch(0, 1, "inferred"),) if rng.random() < 0.3 else ()
        return Feature("lines", shapely.LineString(xy), "contact", number, stretches=stretches)
    west, south = rng.uniform(176, 180.5), rng.uniform(-19, -16)
    corners = [(west, south), (west + 3, south), (west + 3, south + 1.5), (west, south + 1.5)]
    return Feature("areas", shapely.Polygon([place(*c) for c in corners]), "unit_area", number)


@pytest.mark.parametrize("system", TORN)
@pytest.mark.parametrize("side", [(177.5, 179.9), (-179.9, -177.5)])
def test_the_rest_is_shown_where_proj_puts_it(system: str, side: tuple[float, float]) -> None:
    rng = random.Random(f"{system}{side}")
    target = project_crs(system)
    panel = window(system, *side)
    carrier = Carrier(PACIFIC, target, 5.0, place(180.0, -17.0), panel)
    way = pyproj.Transformer.from_crs(PACIFIC.text, system, always_xy=True)
    inner = panel.buffer(-20.0)
    torn = 0
    for number in range(1, 60):
        feature = any_feature(rng, number)
        carried = carrier.features(Features.of(feature.table, [feature]))
        assert carried.lost == 0
        shown = shapely.unary_union(carried.features.geometries)
        whole = feature.geometry
        if feature.table == "lines":
            dense = shapely.line_interpolate_point(whole, np.linspace(0, whole.length, 4000))
        else:
            west, south, east, north = whole.bounds
            xs, ys = np.meshgrid(np.linspace(west, east, 60), np.linspace(south, north, 60))
            dense = shapely.points(xs.ravel(), ys.ravel())
            dense = dense[shapely.contains_properly(whole, dense)]
        there = shapely.points(np.column_stack(way.transform(*shapely.get_coordinates(dense).T)))
        here = there[shapely.contains(inner, there)]
        if len(here):
            assert shapely.distance(shown, here).max() < 40.0
            torn += len(there) > len(here)
        # And nothing stands where there is nothing.
        if not shown.is_empty:
            inside = shapely.get_coordinates(shapely.segmentize(shapely.intersection(shown, inner), 2000.0))
            back = np.column_stack(way.transform(*inside.T, direction="INVERSE"))
            if len(back):
                assert shapely.distance(whole, shapely.points(back)).max() < 20.0
    assert torn > 10


def test_what_can_only_be_shown_in_part_is_said() -> None:
    """A panel half of which lies beyond the edge of its system's world."""
    system = project_crs("EPSG:3857")
    edge = 20_037_508.34
    panel = shapely.box(edge - 1e5, -2e6, edge + 1e5, -1.9e6)
    assert share_without_ground(panel, system) == pytest.approx(0.5, abs=0.03)
    assert share_without_ground(shapely.box(0, 0, 1e5, 1e5), system) == 0.0
    crossing = Feature("lines", shapely.LineString([place(178, -17.5), place(182, -17.5)]), "contact", 1)
    carried = Carrier(PACIFIC, system, 5.0, place(180.0, -17.0), panel).features(Features.of("lines", [crossing]))
    assert len(carried.features)


def test_without_a_panel_what_is_torn_is_counted() -> None:
    crossing = Feature("lines", shapely.LineString([place(178, -17.5), place(182, -17.5)]), "contact", 1)
    carried = Carrier(PACIFIC, project_crs("EPSG:3857"), 5.0, place(180.0, -17.0)).features(
        Features.of("lines", [crossing])
    )
    assert (len(carried.features), carried.lost) == (0, 1)

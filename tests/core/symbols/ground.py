"""A made-up ground with all sorts of symbols, for what must hold of all of them at once."""

from __future__ import annotations

import numpy as np
import shapely

from orvik.core.features.band import Band
from orvik.core.features.feature import Feature, Features
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.stretch import Stretch
from orvik.core.features.table import Table

X, Y = 513_000.0, 6_802_000.0
UNITS = {
    "Kp": MapUnit("Kp", "Pellan Mudstone", "", "#BBD5A6"),
    "Jh": MapUnit("Jh", "Harrack Sandstone", "", "#F2BFA0"),
}


def wavy(x: float, y: float, length: float, height: float, vertices: int = 60) -> shapely.LineString:
    """A curve from one place eastwards, in metres beside the ground's corner."""
    t = np.linspace(0, 1, vertices)
    return shapely.LineString(np.column_stack([X + x + length * t, Y + y + height * np.sin(2 * np.pi * t)]))


def mixed(kinds: dict[Table, list[str]], seed: int = 5) -> dict[Table, Features]:
    """One line, area and point of every kind, beside and over one another on 1 500 by 1 100 metres."""
    rng = np.random.default_rng(seed)
    lines = [
        Feature(
            "lines",
            wavy(80, 60 + 1080 * i / len(kinds["lines"]), 1300, 40),
            kind,
            id=i + 1,
            azimuth=80.0,
            inclination=12.0,
            note="A" if i % 3 else "",
            questionable=i % 5 == 0,
        )
        for i, kind in enumerate(kinds["lines"])
    ]
    lines[0] = lines[0].changed(stretches=(Stretch(20, 40, "concealed", "line"),))
    band = Feature("lines", wavy(100, 560, 900, -60), "dyke", id=900, band=Band(30.0, "ground", right="inferred"))
    areas = [
        Feature("areas", shapely.box(X, Y, X + 750, Y + 1100), "unit_area", id=1, map_unit="Kp"),
        Feature("areas", shapely.box(X + 750, Y, X + 1500, Y + 1100), "unit_area", id=2, map_unit="Jh"),
    ]
    for i, kind in enumerate(kinds["areas"]):
        middle = shapely.Point(X + rng.uniform(150, 1350), Y + rng.uniform(150, 950))
        hole = middle.buffer(40) if i % 2 else shapely.Polygon()
        areas.append(Feature("areas", middle.buffer(130).difference(hole), kind, id=3 + i))
    points = [
        Feature(
            "points",
            shapely.Point(X + rng.uniform(60, 1440), Y + rng.uniform(60, 1040)),
            kind,
            id=i + 1,
            azimuth=float(rng.integers(0, 360)),
            inclination=float(rng.integers(1, 89)),
            note=f"N{i}",
        )
        for i, kind in enumerate(kinds["points"])
    ]
    return {
        "lines": Features.of("lines", [*lines, band]),
        "areas": Features.of("areas", areas),
        "points": Features.of("points", points),
    }

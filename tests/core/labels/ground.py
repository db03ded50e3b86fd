"""A made-up ground of areas that fit together, attitudes and faults, for what must hold of all labels."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.features.feature import Feature, Features
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.table import Table
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ink.primitives import Text
from orvik.core.labels.label_requests import Written
from orvik.core.labels.labelled import labelled
from orvik.core.symbols.portrayal.portray import portray
from orvik.core.symbols.symbol_book import SymbolBook

X, Y = 513_000.0, 6_802_000.0
CODES = ("Kp", "Jh", "Jc", "pCg", "Qal")
UNITS = {code: MapUnit(code, code, "", colour) for code, colour in zip(CODES, ("#BBD5A6",) * 5, strict=True)}


def swayed(xy: Floats) -> Floats:
    """Places moved a little, the same place always the same way, so that shared edges stay shared."""
    x, y = xy[:, 0] / 130.0, xy[:, 1] / 130.0
    return xy + 28.0 * np.column_stack([np.sin(1.7 * x + 0.6 * y), np.cos(1.3 * y - 0.8 * x)])


def crowded(areas: int, points: int, faults: int = 12, side: float = 0.0, seed: int = 3) -> dict[Table, Features]:
    """So many areas side by side, attitudes at random, some of a kind for which no dip was read, and faults.

    ``side`` is of the ground in metres; without it areas are some 17 mm across at 1:25 000.
    """
    rng = np.random.default_rng(seed)
    side = side or 425.0 * np.sqrt(areas)
    seeds = shapely.MultiPoint(rng.uniform(0, side, (areas, 2)))
    cells = shapely.get_parts(shapely.voronoi_polygons(seeds, extend_to=shapely.box(0, 0, side, side)))
    cells = shapely.intersection(cells, shapely.box(0, 0, side, side))
    cells = shapely.transform(shapely.segmentize(cells, 60.0), lambda xy: swayed(xy) + (X, Y))
    cells = cells[shapely.is_valid(cells)]
    places = rng.uniform(0, side, (points, 2)) + (X, Y)
    kinds = ("bedding", "bedding", "foliation", "overturned_bedding", "horizontal_bedding")
    ends = rng.uniform(0, side, (faults, 2, 2))
    lines = [
        shapely.transform(shapely.segmentize(shapely.LineString(pair), 60.0), lambda xy: swayed(xy) + (X, Y))
        for pair in ends
    ]
    edges = [shapely.LineString(cell.exterior) for cell in cells.tolist()]
    return {
        "lines": Features.of(
            "lines",
            [
                *(Feature("lines", line, "fault", id=i + 1) for i, line in enumerate(lines)),
                *(Feature("lines", line, "contact", id=faults + i + 1) for i, line in enumerate(edges)),
            ],
        ),
        "areas": Features.of(
            "areas",
            [
                Feature("areas", cell, "unit_area", id=i + 1, map_unit=CODES[i % len(CODES)])
                for i, cell in enumerate(cells.tolist())
            ],
        ),
        "points": Features.of(
            "points",
            [
                Feature(
                    "points",
                    shapely.Point(place),
                    kinds[i % len(kinds)],
                    id=i + 1,
                    azimuth=float(rng.integers(0, 360)),
                    inclination=float(rng.integers(1, 89)),
                )
                for i, place in enumerate(places)
            ],
        ),
    }


def written_ink(
    features: Mapping[Table, Features],
    book: SymbolBook,
    units: Mapping[str, MapUnit],
    crs: ProjectCrs,
    scale: float = 25_000,
) -> dict[str, list[Text]]:
    """The labels of a map in ground coordinates, by layer."""
    layers = portray(features, book, units, crs, round(scale))
    found = labelled(features, layers, Written(book, units, crs), scale)
    return {name: [i for i in group.items if isinstance(i, Text)] for name, group in found.layers.items()}

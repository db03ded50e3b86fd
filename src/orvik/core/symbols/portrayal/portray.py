"""Portrayal: features and their symbols become ink, for one feature as for a hundred thousand."""

from __future__ import annotations

from collections.abc import Mapping

from orvik.core.features.feature import Features
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.table import Table
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ink.primitives import Group, Item
from orvik.core.symbols.portrayal.area_ink import area_ink
from orvik.core.symbols.portrayal.line_ink import line_ink
from orvik.core.symbols.portrayal.point_ink import point_ink
from orvik.core.symbols.symbol_book import SymbolBook

# The layers of a portrayal from the lowest to the highest.
LAYERS = ("units", "linework", "attitudes", "tags", "border")


def portray(
    features: Mapping[Table, Features],
    book: SymbolBook,
    units: Mapping[str, MapUnit],
    crs: ProjectCrs,
    publication: int = 25_000,
) -> dict[str, Group]:
    """The ink of features in ground coordinates, a group for each of ``LAYERS``.

    Symbols do not depend on the view's scale: they are millimetres. Where an ornament is shown only at larger scales,
    its ink says so. ``publication`` is the denominator of the scale at which the widths of bands on the sheet and the
    places of ornaments hold. What is written on the map is placed afterwards, in ``core.labels``.
    """
    layers: dict[str, list[Item]] = {name: [] for name in LAYERS}
    if "areas" in features and len(features["areas"]):
        area_ink(features["areas"], book, units, layers)
    if "lines" in features and len(features["lines"]):
        line_ink(features["lines"], book, crs, publication, layers)
    if "points" in features and len(features["points"]):
        point_ink(features["points"], book, crs, layers)
    return {name: Group(name, tuple(items)) for name, items in layers.items()}

"""Areas as ink: tints without outline, and patterns."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
import shapely

from orvik.core.arrays import Ints
from orvik.core.colour.hex import mixed
from orvik.core.features.feature import Features
from orvik.core.features.kind import UNIT_AREA
from orvik.core.features.map_unit import MapUnit
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Fill, Item, LineStyle, Pattern, Stroke, Tile
from orvik.core.symbols.portrayal.ink_keys import keys_of, rows_by
from orvik.core.symbols.symbol import Symbol
from orvik.core.symbols.symbol_book import SymbolBook

# Neighbouring tints overlap by this much on the sheet; otherwise painters leave a seam of light.
SPREAD = 0.05
NO_UNIT = "#E4E0D6"
EDGE_MM = 0.1


def area_ink(areas: Features, book: SymbolBook, units: Mapping[str, MapUnit], layers: dict[str, list[Item]]) -> None:
    """Put the ink of areas into their layers: units lowest, overlays upon them."""
    symbols = book.symbols_of(areas)
    kinds, codes = areas.columns["kind"], areas.columns["map_unit"]
    of_units = np.array([kind == UNIT_AREA for kind in kinds], dtype=bool)
    for code, rows in rows_by([code if of_units[i] else None for i, code in enumerate(codes)]).items():
        rows = rows[of_units[rows]]
        if len(rows):
            unit = units.get(str(code))
            pattern = book.pattern(unit.pattern) if unit is not None and unit.pattern_opacity else None
            tile = pattern.tile(pattern_ink(unit)) if unit is not None and pattern is not None else None
            layers["units"] += _filled(areas, rows, unit.colour if unit else NO_UNIT, tile)
            if unit is None:
                layers["units"].append(_edges(areas, rows))
    by_id = {symbol.id: symbol for symbol in symbols}
    for name, rows in rows_by([symbol.id for symbol in symbols]).items():
        rows = rows[~of_units[rows]]
        if len(rows):
            layers["units"] += _overlay(areas, rows, by_id[name])


def _edges(areas: Features, rows: Ints) -> Stroke:
    """The edges of areas that no unit tells apart yet."""
    rings, owner = shapely.get_rings(areas.geometries[rows], return_index=True)
    return Stroke(LineStyle(EDGE_MM, INK), Paths.of_lines(rings), keys_of(areas, rows)[owner])


def pattern_ink(unit: MapUnit) -> str:
    """The colour that a unit's pattern is drawn in over its tint."""
    return mixed(unit.pattern_colour or INK, unit.colour, unit.pattern_opacity)


def _overlay(areas: Features, rows: Ints, symbol: Symbol) -> list[Item]:
    """What lies over the units: its own tint, if it has one, its pattern, and its outline."""
    tile = symbol.pattern.tile(symbol.pattern_colour or INK) if symbol.pattern is not None else None
    out = _filled(areas, rows, symbol.tint, tile)
    rings, owner = shapely.get_rings(areas.geometries[rows], return_index=True)
    return [*out, *(Stroke(style, Paths.of_lines(rings), keys_of(areas, rows)[owner]) for style in symbol.strokes)]


def _filled(areas: Features, rows: Ints, tint: str, tile: Tile | None) -> list[Item]:
    """Areas in a tint, if there is one, and a pattern over it, if there is one."""
    paths, parts = _rings(areas, rows)
    keys = keys_of(areas, rows)
    out: list[Item] = [Fill(tint, paths, parts, keys, SPREAD)] if tint else []
    return [*out, Pattern(tile, paths, parts, keys)] if tile is not None else out


def _rings(areas: Features, rows: Ints) -> tuple[Paths, Ints]:
    """The rings of areas, and which of them each area has; holes run the other way round than edges."""
    rings, owner = shapely.get_rings(shapely.orient_polygons(areas.geometries[rows]), return_index=True)
    parts = np.concatenate([[0], np.cumsum(np.bincount(owner, minlength=len(rows)))]).astype(np.int64)
    return Paths.of_lines(rings), parts

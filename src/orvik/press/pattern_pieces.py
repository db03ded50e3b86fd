"""A pattern as its tiles: those that lie whole in its areas, and what is left of those that an edge crosses."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely

from orvik.core.ink.cut import cut_to, polygons_of
from orvik.core.ink.lattice import EVERYWHERE, lattice
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import Fill, Item, Marks, Pattern, Stamp, Stroke


def tiles(pattern: Pattern) -> list[Item]:
    """The tiles of a pattern as symbols at their places, and the pieces of those at the edges."""
    at = lattice(pattern, EVERYWHERE)
    if not len(at):
        return []
    areas = polygons_of(pattern)
    area = shapely.union_all(areas[~shapely.is_empty(areas)])
    tile = pattern.tile
    # About its middle a tile reaches least far.
    half = np.array([tile.width / 2, tile.height / 2])
    items = tuple(_moved(item, -half) for item in tile.items)
    return cut_to(Marks(Stamp(tile.name, items), at + half, np.zeros(len(at))), area)


def _moved(item: Stroke | Fill, by: np.ndarray) -> Stroke | Fill:
    return replace(item, paths=Paths(item.paths.xy + by, item.paths.starts))

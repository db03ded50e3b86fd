"""The tints below labels, for their halos."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Floats, Objects
from orvik.core.colour.hex import mixed
from orvik.core.features.feature import Features
from orvik.core.features.kind import UNIT_AREA
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.table import Table
from orvik.core.ink.affine import Affine, apply
from orvik.core.ink.primitives import PAPER
from orvik.core.labels.label_requests import Written
from orvik.core.symbols.portrayal.area_ink import NO_UNIT

# A smaller share of its letters' ground than this is nothing that a label stands on.
SLIVER = 0.08


@dataclass(frozen=True)
class Tints:
    """Areas of units on the page, and what each is filled with."""

    tree: shapely.STRtree
    colours: list[str]

    @staticmethod
    def of(features: Mapping[Table, Features], written: Written, m: Affine, opacity: float) -> Tints:
        if "areas" not in features:
            return Tints(shapely.STRtree([]), [])
        areas = features["areas"]
        rows = [i for i, kind in enumerate(areas.columns["kind"]) if kind == UNIT_AREA]
        units = [written.units.get(str(areas.columns["map_unit"][i])) for i in rows]
        pages = shapely.transform(areas.geometries[rows], lambda xy: apply(m, xy))
        return Tints(shapely.STRtree(pages), [_tint(unit, opacity) for unit in units])

    def below(self, middles: Floats) -> list[str | None]:
        """The tint of the first area at each place; None where there is none."""
        out: list[str | None] = [None] * len(middles)
        if not len(middles):
            return out
        place, area = self.tree.query(shapely.points(middles), predicate="intersects")
        for i, row in zip(place[::-1].tolist(), area[::-1].tolist(), strict=True):
            out[i] = self.colours[row]
        return out

    def under(self, outlines: Objects) -> list[tuple[str, ...]]:
        """All that outlines lie over but for slivers, from what takes most of each: tints, and white paper."""
        out: list[tuple[str, ...]] = []
        place, area = self.tree.query(outlines, predicate="intersects")
        areas = self.tree.geometries[area]
        # One that another program has left crossing itself covers what its parts cover.
        crossed = ~shapely.is_valid(areas)
        areas[crossed] = shapely.make_valid(areas[crossed])
        shared = shapely.area(shapely.intersection(outlines[place], areas))
        sizes = shapely.area(outlines)
        stops = np.searchsorted(place, np.arange(len(outlines) + 1))
        for i in range(len(outlines)):
            rows = slice(stops[i], stops[i + 1])
            parts = Counter({PAPER: max(0.0, float(sizes[i] - shared[rows].sum()))})
            for row, share in zip(area[rows].tolist(), shared[rows].tolist(), strict=True):
                parts[self.colours[row]] += share
            out.append(tuple(colour for colour, size in parts.most_common() if size > SLIVER * sizes[i]))
        return out


def _tint(unit: MapUnit | None, opacity: float) -> str:
    return mixed(unit.colour if unit is not None else NO_UNIT, PAPER, opacity)

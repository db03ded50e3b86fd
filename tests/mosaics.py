"""Mosaics of map units that are cut in two, as two sheets share a border."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
import shapely.ops

from orvik.core.features.feature import Feature

SIDE = 10_000.0
ORIGIN = (510_000.0, 6_800_000.0)
FIRST = 1000


@dataclass(frozen=True)
class Half:
    """A sheet's share of a mosaic: its border and its features."""

    border: shapely.Polygon
    lines: list[Feature]
    areas: list[Feature]


def halves(seed: int, straight: bool = False) -> tuple[Half, Half]:
    """A Voronoi mosaic with contacts, faults and thrusts, cut by a random line; at full height or width."""
    rng = np.random.default_rng(seed)
    west, south = ORIGIN
    whole = shapely.box(west, south, west + SIDE, south + SIDE)
    sites = shapely.MultiPoint(rng.uniform((west, south), (west + SIDE, south + SIDE), (60, 2)))
    cells = [
        cell
        for cell in shapely.get_parts(
            shapely.intersection(shapely.voronoi_polygons(sites, extend_to=whole).geoms, whole)
        )
        if cell.area > 0
    ]
    units = [f"U{rng.integers(0, 6)}" for _ in cells]
    edges = shapely.get_parts(shapely.line_merge(shapely.unary_union([cell.exterior for cell in cells])))
    outer = whole.exterior.buffer(1)
    contacts = [
        Feature(
            "lines",
            edge,
            str(rng.choice(["contact", "fault", "thrust"])),
            certainty=str(rng.choice(["certain", "inferred"])),
        )
        for edge in edges
        if not outer.contains(edge)
    ]
    count = 2 if straight else int(rng.integers(2, 7))
    along = np.linspace(-0.01, 1.01, count) * SIDE
    across = np.repeat(rng.uniform(0.3, 0.7) * SIDE, 2) if straight else rng.uniform(0.3, 0.7, count) * SIDE
    xy = np.stack([across, along] if seed % 2 else [along, across], axis=1) + ORIGIN
    one, two = shapely.get_parts(shapely.ops.split(whole, shapely.LineString(xy)))
    return _share(one, cells, units, contacts, 1), _share(two, cells, units, contacts, FIRST)


def _share(
    border: shapely.Polygon,
    cells: Sequence[shapely.Polygon],
    units: Sequence[str],
    contacts: Sequence[Feature],
    first: int,
) -> Half:
    lines = [
        contact.changed(geometry=part)
        for contact in contacts
        for part in shapely.get_parts(shapely.intersection(contact.geometry, border))
        if part.geom_type == "LineString" and part.length > 0
    ]
    areas = [
        Feature("areas", part, "unit_area", map_unit=unit)
        for cell, unit in zip(cells, units, strict=True)
        for part in shapely.get_parts(shapely.intersection(cell, border))
        if part.geom_type == "Polygon" and part.area > 0
    ]
    numbered = [[f.changed(id=first + i) for i, f in enumerate(found)] for found in (lines, areas)]
    return Half(border, *numbered)

"""The invented island as water and ice left it: its shore, rocks off it, patches of till, and where a burn began."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.demo.rock import BORDER, CENTRE, along_strike, waves

# Patches of till: their middles along and across the strike.
TILL = ((-1500, 500), (300, 1150), (-300, -1250), (1750, -150), (2650, 350), (-2050, -900))
# Metres between the shore and the border, and between rocks and the shore.
KEPT_FREE, SOUND = 25.0, 30.0
# Rocks off the coast, with their size.
ROCKS = ((515_950.0, 6_800_600.0, 120.0), (516_280.0, 6_800_880.0, 75.0), (510_330.0, 6_804_480.0, 95.0))


@dataclass(frozen=True)
class Coast:
    """What is known of the island before there are heights."""

    land: shapely.Polygon
    rocks: tuple[shapely.Polygon, ...]
    till: shapely.Polygon | shapely.MultiPolygon
    burn: shapely.LineString


def coast(rng: np.random.Generator, of_rocks: np.random.Generator) -> Coast:
    """Make it; always the same from the same state of the generators."""
    land = _shore(rng)
    patches = shapely.union_all([_patch(rng, place) for place in TILL])
    till = shapely.intersection(patches, land)
    t = np.linspace(0, 9, 60)
    burn = shapely.LineString(along_strike(np.linspace(1850, 2050, 60) + 120 * np.sin(t), np.linspace(-300, -3600, 60)))
    assert isinstance(till, shapely.Polygon | shapely.MultiPolygon)
    rocks = [rock for rock in _rocks(of_rocks) if rock.distance(land) > SOUND]
    return Coast(land, tuple(rocks), till, burn)


def _shore(rng: np.random.Generator) -> shapely.Polygon:
    angle = np.linspace(0, 2 * np.pi, 1500, endpoint=False)
    long, ripples = waves(rng, 26, 2 * np.pi, 0.86), waves(rng, 90, 2 * np.pi, 0.985)
    radius = 1.0 + 0.055 * long(angle) + 0.0035 * ripples(angle)
    # A headland to the north-east and a bay to the north-west.
    radius += 0.36 * np.exp(-(((angle - 1.02) / 0.3) ** 2)) - 0.24 * np.exp(-(((angle - 2.25) / 0.24) ** 2))
    radius -= 0.1 * np.exp(-(((angle - 5.6) / 0.16) ** 2))
    away = np.column_stack([3150 * radius * np.cos(angle), 2500 * radius * np.sin(angle)])
    room = np.abs(np.array(BORDER).reshape(2, 2) - CENTRE) - KEPT_FREE
    fits = min(1.0, *(room / np.abs([away.min(axis=0), away.max(axis=0)])).ravel())
    return shapely.Polygon(CENTRE + fits * away)


def _rocks(rng: np.random.Generator) -> list[shapely.Polygon]:
    made = []
    for x, y, size in ROCKS:
        angle = np.linspace(0, 2 * np.pi, 60, endpoint=False)
        radius = size * (1 + 0.16 * waves(rng, 7, 2 * np.pi, 0.8)(angle))
        made.append(shapely.Polygon(np.round(_ring((x, y), 1.3 * radius, 0.9 * radius, angle), 2)))
    return made


def _patch(rng: np.random.Generator, place: tuple[float, float]) -> shapely.Polygon:
    angle = np.linspace(0, 2 * np.pi, 90, endpoint=False)
    size = rng.uniform(300, 460)
    radius = size * (1 + 0.13 * waves(rng, 6, 2 * np.pi, 0.75)(angle))
    middle = along_strike(np.array([float(place[0])]), np.array([float(place[1])]))[0]
    return shapely.Polygon(_ring((float(middle[0]), float(middle[1])), 1.35 * radius, radius, angle))


def _ring(middle: tuple[float, float], across: Floats, high: Floats, angle: Floats) -> Floats:
    return np.column_stack([middle[0] + across * np.cos(angle), middle[1] + high * np.sin(angle)])

"""The invented lands around the island, for the panel that shows where it lies."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.ground.crs import ProjectCrs
from orvik.core.pictures.reference_look import ReferenceLook
from orvik.demo.rock import BORDER, SEED

NAME = "Lands around"
LOOK = ReferenceLook("#7F7A6C", width=0.1, fill="#E9E4D6", fill_opacity=1.0)
# Name, how far its middle is east and north of the island's, and its half length and half width, all in kilometres;
# how its length is turned, in degrees from east towards north; and how rough its shore is.
LANDS = (
    ("Harland", 118.0, -18.0, 128.0, 66.0, 78.0, 0.24),
    ("Great Sule", -38.0, 34.0, 21.0, 10.0, 40.0, 0.3),
    ("Little Sule", -53.0, 14.0, 8.0, 4.5, 60.0, 0.3),
    ("Wray", 22.0, -46.0, 11.0, 6.0, 115.0, 0.3),
    ("The Maidens", 14.0, 38.0, 3.6, 2.0, 20.0, 0.35),
    ("Ossay", -30.0, -30.0, 5.2, 3.2, 160.0, 0.35),
)
VERTICES = 360
# How fast the waves of a shore fall off with their frequency.
FALL = 1.15


def lands(crs: ProjectCrs, target: Path) -> None:
    """Write the lands as GeoJSON, in degrees on WGS 84."""
    rng = np.random.default_rng(SEED + 7)
    middle = np.array([(BORDER[0] + BORDER[2]) / 2, (BORDER[1] + BORDER[3]) / 2])
    features = []
    for name, east, north, long, wide, turn, rough in LANDS:
        xy = _shore(long, wide, turn, rough, rng) * 1000 + middle + np.array([east, north]) * 1000
        outline = np.column_stack(crs.to_geographic(xy[:, 0], xy[:, 1]))
        whole = max(shapely.get_parts(shapely.make_valid(shapely.Polygon(outline))), key=lambda part: float(part.area))
        ring = np.round(shapely.get_coordinates(whole.exterior), 4).tolist()
        geometry = {"type": "Polygon", "coordinates": [ring]}
        features.append({"type": "Feature", "properties": {"name": name}, "geometry": geometry})
    target.write_text(json.dumps({"type": "FeatureCollection", "features": features}), encoding="utf-8")


def _shore(long: float, wide: float, turn: float, rough: float, rng: np.random.Generator) -> Floats:
    """An ellipse whose radius is shaken by random waves, in kilometres about its middle."""
    around = np.linspace(0, 2 * np.pi, VERTICES, endpoint=False)
    orders = np.arange(2, VERTICES // 4)
    opacity, phase = rng.normal(0, rough, len(orders)) / orders**FALL, rng.uniform(0, 2 * np.pi, len(orders))
    radius = np.exp((opacity[:, None] * np.cos(orders[:, None] * around + phase[:, None])).sum(axis=0))
    x, y = long * radius * np.cos(around), wide * radius * np.sin(around)
    angle = np.radians(turn)
    return np.column_stack([x * np.cos(angle) - y * np.sin(angle), x * np.sin(angle) + y * np.cos(angle)])

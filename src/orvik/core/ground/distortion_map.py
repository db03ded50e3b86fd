"""A small picture of what a system does to the ground around a sheet: tints, graticule, and the sheet."""

from __future__ import annotations

import numpy as np

from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.distortion import Geographic, places, tissot
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import Fill, Group, Item, LineStyle, Stroke

# Upper limits of the relative error of lengths, and the tint of each class; the last is beyond all limits.
CLASSES = (
    (1 / 10_000, "#DCEBE4"),
    (1 / 2_500, "#BBDAD0"),
    (1 / 1_000, "#F2E8BE"),
    (1 / 500, "#EDC98C"),
    (np.inf, "#DE9B78"),
)
WORDS = ("1 in 10 000", "1 in 2 500", "1 in 1 000", "1 in 500", "more")
INK = "#22303C"
LINE = "#5B6B78"
SIGNAL = "#C8431B"
CELLS = 18
# The picture shows at least so many degrees of latitude, so that the course of the distortion is seen.
LEAST_DEGREES = 4.0


def picture(crs: ProjectCrs, ground: Geographic, width: float, height: float) -> list[Item]:
    """Ink in millimetres with y downwards, within a frame.

    Parameters
    ----------
    ground
        The sheet: west, south, east and north in degrees.
    width, height
        Of the frame in millimetres.
    """
    around = _around(ground, width / height)
    longitude, latitude = places(around, CELLS + 1)
    x, y = crs.from_geographic(longitude, latitude)
    known = np.isfinite(x) & np.isfinite(y)
    if not known.any():
        return []
    middle_x, middle_y = crs.from_geographic((ground[0] + ground[2]) / 2, (ground[1] + ground[3]) / 2)
    reach_x = float(np.abs(np.where(known, x - middle_x, 0)).max()) or 1.0
    reach_y = float(np.abs(np.where(known, y - middle_y, 0)).max()) or 1.0
    k = min(width / 2 / reach_x, height / 2 / reach_y)

    def page(lon: object, lat: object) -> np.ndarray:
        px, py = crs.from_geographic(np.asarray(lon, dtype=float), np.asarray(lat, dtype=float))
        return np.column_stack([width / 2 + (px - middle_x) * k, height / 2 - (py - middle_y) * k])

    corners = page(longitude.ravel(), latitude.ravel()).reshape(CELLS + 1, CELLS + 1, 2)
    centre_lon = (longitude[:-1, :-1] + longitude[1:, 1:]) / 2
    centre_lat = (latitude[:-1, :-1] + latitude[1:, 1:]) / 2
    found = tissot(crs, centre_lon, centre_lat)
    error = np.maximum(np.abs(found.largest - 1), np.abs(found.smallest - 1))
    items: list[Item] = []
    lower = -1.0
    for upper, colour in CLASSES:
        rows, columns = np.nonzero((error > lower) & (error <= upper))
        lower = upper
        cells = [
            corners[[r, r, r + 1, r + 1, r], [c, c + 1, c + 1, c, c]]
            for r, c in zip(rows, columns, strict=True)
            if np.isfinite(corners[r : r + 2, c : c + 2]).all()
        ]
        if cells:
            paths = Paths(np.concatenate(cells), np.arange(len(cells) + 1) * 5)
            items.append(Fill(colour, paths, np.arange(len(cells) + 1), spread=0.05))
    items.append(Stroke(LineStyle(0.1, LINE), _graticule(around, page)))
    west, south, east, north = ground
    t = np.linspace(0, 1, 9)
    ring = page(
        np.concatenate([west + (east - west) * t, np.full(9, east), east - (east - west) * t, np.full(9, west)]),
        np.concatenate(
            [np.full(9, south), south + (north - south) * t, np.full(9, north), north - (north - south) * t]
        ),
    )
    if float(np.ptp(ring, axis=0).max()) < 1.6:
        x0, y0 = width / 2, height / 2
        ring = np.array([(x0 - 0.8, y0 - 0.6), (x0 + 0.8, y0 - 0.6), (x0 + 0.8, y0 + 0.6), (x0 - 0.8, y0 + 0.6)])
    ring = np.vstack([ring, ring[:1]])
    items.append(Stroke(LineStyle(0.35, SIGNAL, join="miter"), Paths(ring, np.array([0, len(ring)]))))
    frame = Paths.of([(0, 0), (width, 0), (width, height), (0, height)])
    return [Group("distortion", tuple(items), clip=frame)]


def _around(ground: Geographic, shape: float) -> Geographic:
    """The ground with its neighbourhood, about as wide as the frame asks for."""
    west, south, east, north = ground
    middle = (south + north) / 2
    high = max((north - south) * 2.2, LEAST_DEGREES)
    wide = max((east - west) * 2.2, high * shape / max(np.cos(np.radians(middle)), 0.2))
    half_high, half_wide = high / 2, min(wide, 160.0) / 2
    lon = (west + east) / 2
    return lon - half_wide, max(middle - half_high, -89.0), lon + half_wide, min(middle + half_high, 89.0)


def _graticule(around: Geographic, page: object) -> Paths:
    west, south, east, north = around
    step = next(s for s in (0.5, 1, 2, 5, 10, 20, 45) if (north - south) / s <= 5)
    lines = []
    for longitude in np.arange(np.ceil(west / step), np.floor(east / step) + 1) * step:
        latitudes = np.linspace(south, north, 25)
        lines.append(page(np.full(25, longitude), latitudes))  # type: ignore[operator]
    for latitude in np.arange(np.ceil(south / step), np.floor(north / step) + 1) * step:
        longitudes = np.linspace(west, east, 25)
        lines.append(page(longitudes, np.full(25, latitude)))  # type: ignore[operator]
    whole = [line for line in lines if np.isfinite(line).all()]
    starts = np.concatenate([[0], np.cumsum([len(line) for line in whole])]).astype(np.int64)
    return Paths(np.concatenate(whole) if whole else np.zeros((0, 2)), starts)

"""Relief: hillshade, hypsometric tints and contour lines from a grid of heights.

Grids are (rows, columns) from the north-west, in metres; what is not known is NaN.
"""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass
from functools import lru_cache
from typing import Any

import numpy as np

from orvik.core.arrays import Bytes, Floats, Heights
from orvik.core.colour.difference import to_lab
from orvik.core.errors import ReliefRefused

# Rows that are shaded at a time: few enough to stay in the processor's cache.
BLOCK = 32
# Colours from low to high ground; between them the steps are made even to the eye.
RAMPS: dict[str, tuple[str, ...]] = {
    "meadow": ("#5E8C6A", "#A9C08A", "#EADFB4", "#D0A878", "#A97F68", "#F4F1EC"),
    "dry": ("#F2E6C2", "#DDBE86", "#BC8E5A", "#8C6248", "#5A4038"),
    "grey": ("#4A4A4A", "#FFFFFF"),
}


@dataclass(frozen=True)
class ReliefStyle:
    """How a grid of heights is shown.

    Attributes
    ----------
    ramp
        A name of ``RAMPS``, or empty for no tint.
    flipped
        Whether the ramp runs from high to low.
    low, high
        Heights in metres of the ramp's ends; None takes them from the data.
    shade
        Whether the light falls on it.
    azimuth, altitude
        Of the light, in degrees from north and above the horizon.
    exaggeration
        Vertical exaggeration of the shading.
    around
        Light from several directions instead of one.
    contours
        Interval of contour lines in metres; 0 for none.
    """

    ramp: str = ""
    flipped: bool = False
    low: float | None = None
    high: float | None = None
    shade: bool = True
    azimuth: float = 315.0
    altitude: float = 45.0
    exaggeration: float = 1.0
    around: bool = False
    contours: float = 0.0

    def __post_init__(self) -> None:
        if self.ramp and self.ramp not in RAMPS:
            raise ReliefRefused(f"“{self.ramp}” is not a tint; choose {', '.join(RAMPS)}, or none.")
        if not 0 <= self.azimuth <= 360:
            raise ReliefRefused("The light comes from a direction between 0 and 360 degrees.")
        if not 1 <= self.altitude <= 90:
            raise ReliefRefused("The light stands 1 to 90 degrees above the horizon.")
        if not 0.1 <= self.exaggeration <= 50:
            raise ReliefRefused("Heights can be exaggerated 0.1 to 50 times.")
        if not (self.contours == 0 or 0.1 <= self.contours <= 5000):
            raise ReliefRefused("Contour lines stand 0.1 to 5 000 m apart; type 0 for none.")
        if self.low is not None and self.high is not None and not self.low < self.high:
            raise ReliefRefused("The low end of the tint must lie below its high end.")

    @property
    def json(self) -> str:
        return json.dumps(asdict(self))

    @staticmethod
    def of_json(text: str) -> ReliefStyle:
        """From the project file; raises ReliefRefused for what is not a style."""
        try:
            values: dict[str, Any] = json.loads(text) if text else {}
            return ReliefStyle(**values)
        except (ValueError, TypeError) as error:
            raise ReliefRefused("The way that these heights are shown cannot be read; set it again.") from error


def hillshade(heights: Heights, cell: tuple[float, float], style: ReliefStyle) -> Bytes:
    """Brightness 1 to 255 of each cell under a light; 0 where it or a neighbour is not known, and on the edge.

    Slope and aspect after Horn, B. K. P. (1981), Hill shading and the reflectance map, Proceedings of the
    IEEE 69; several directions after Mark, R. K. (1992), A multidirectional, oblique-weighted, shaded-relief
    image, USGS Open-File Report 92-422. The same formulas as GDAL's ``gdaldem hillshade``.

    Parameters
    ----------
    heights
        At least three by three cells.
    cell
        Width and height of a cell in metres.
    """
    rows, columns = heights.shape
    out = np.zeros((rows, columns), dtype=np.uint8)
    if rows < 3 or columns < 3:
        return out
    scale_x = np.float32(style.exaggeration / (8 * cell[0]))
    scale_y = np.float32(style.exaggeration / (8 * cell[1]))
    light = _around if style.around else _one_light
    for top in range(0, rows - 2, BLOCK):
        bottom = min(top + BLOCK, rows - 2)
        z = heights[top : bottom + 2]
        # Sums over three rows, then differences over three columns, and the other way round.
        down = z[:-2] + z[2:]
        down += z[1:-1]
        down += z[1:-1]
        x = down[:, :-2] - down[:, 2:]
        x *= scale_x
        across = z[2:] - z[:-2]
        y = across[:, :-2] + across[:, 2:]
        y += across[:, 1:-1]
        y += across[:, 1:-1]
        y *= scale_y
        bright = light(x, y, style)
        np.maximum(bright, 0, out=bright)
        bright *= 254
        bright += 1.5
        with np.errstate(invalid="ignore"):
            out[top + 1 : bottom + 1, 1:-1] = np.where(np.isfinite(bright), bright, 0).astype(np.uint8)
    return out


def level_ground(style: ReliefStyle) -> float:
    """The brightness that ``hillshade`` gives to level ground."""
    return float(1 + 254 * np.sin(np.radians(style.altitude)))


def _one_light(x: Heights, y: Heights, style: ReliefStyle) -> Heights:
    azimuth, altitude = np.radians(style.azimuth), np.radians(style.altitude)
    steep = x * x
    steep += y * y
    steep += 1
    np.sqrt(steep, out=steep)
    bright = x * np.float32(np.sin(azimuth) * np.cos(altitude))
    bright += y * np.float32(np.cos(azimuth) * np.cos(altitude))
    bright += np.float32(np.sin(altitude))
    bright /= steep
    return bright


def _around(x: Heights, y: Heights, style: ReliefStyle) -> Heights:
    """Light from 225, 270, 315 and 360 degrees, each weighted by how a slope is turned to it."""
    altitude = np.radians(style.altitude)
    high, flat = np.float32(np.sin(altitude)), np.float32(np.cos(altitude))
    skew = np.float32(np.cos(np.radians(225)) * np.cos(altitude))
    squares = x * x + y * y
    w225 = 0.5 * squares + x * y
    total = w225 * np.maximum(high + (x + y) * skew, 0)
    total += x * x * np.maximum(high - x * flat, 0)
    total += (squares - w225) * np.maximum(high + (x - y) * skew, 0)
    total += y * y * np.maximum(high + y * flat, 0)
    with np.errstate(invalid="ignore", divide="ignore"):
        bright = np.where(squares == 0, high, total / (2 * squares))
    bright /= np.sqrt(1 + squares)
    return np.asarray(bright, dtype=np.float32)


def tint(heights: Heights, style: ReliefStyle, low: float, high: float) -> Bytes:
    """Colours (rows, columns, 3) of heights on a ramp between two heights; the ends hold beyond them."""
    table = ramp_colours(style.ramp)
    if style.flipped:
        table = table[::-1]
    span = max(high - low, 1e-9)
    steps = np.nan_to_num((heights - np.float32(low)) * np.float32(255 / span))
    return np.asarray(table[np.clip(steps, 0, 255).astype(np.uint8)], dtype=np.uint8)


@lru_cache
def ramp_colours(name: str) -> Bytes:
    """256 colours of a ramp (256, 3), even to the eye: equal steps of CIE 1976 colour difference."""
    stops = np.array([[int(c[i : i + 2], 16) for i in (1, 3, 5)] for c in RAMPS[name]], dtype=float)
    t = np.linspace(0, len(stops) - 1, 2048)
    dense = np.column_stack([np.interp(t, np.arange(len(stops)), stops[:, k]) for k in range(3)])
    steps = np.linalg.norm(np.diff(to_lab(dense / 255), axis=0), axis=1)
    along = np.concatenate([[0], np.cumsum(steps)])
    at = np.linspace(0, along[-1], 256)
    even = np.column_stack([np.interp(at, along, dense[:, k]) for k in range(3)])
    return np.asarray(np.rint(even), dtype=np.uint8)


def contour_lines(
    heights: Heights, interval: float, west: float, north: float, cell: tuple[float, float]
) -> list[tuple[float, list[Floats]]]:
    """Contour lines, lowest first: the height of each and its lines (n, 2) in ground coordinates.

    Parameters
    ----------
    interval
        Metres between lines; they stand at whole multiples of it.
    west, north
        The north-west corner of the grid; heights stand for the middles of cells.
    cell
        Width and height of a cell in ground units.
    """
    import contourpy

    known = heights[np.isfinite(heights)]
    if not len(known) or min(heights.shape) < 2:
        return []
    x = west + (np.arange(heights.shape[1]) + 0.5) * cell[0]
    y = north - (np.arange(heights.shape[0]) + 0.5) * cell[1]
    generator = contourpy.contour_generator(x, y, np.ma.masked_invalid(heights), line_type=contourpy.LineType.Separate)
    first, last = np.ceil(known.min() / interval), np.floor(known.max() / interval)
    if last - first > 2000:
        raise ReliefRefused("So many contour lines would cover the map; choose a larger interval.")
    return [
        (float(n * interval), [np.asarray(line) for line in generator.lines(n * interval)])
        for n in np.arange(first, last + 1)
    ]

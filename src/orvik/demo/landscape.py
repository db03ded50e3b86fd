"""The invented heights: an island that rain has worn, with ridges, valleys and the streams that made them.

Ground rises, streams cut down and slopes creep, step by step, until valleys have grown into the land. Incision follows
the stream power law and creep is diffusion (Whipple and Tucker 1999, Dynamics of the stream-power river incision
model, Journal of Geophysical Research 104; from memory): dz/dt = U - K sqrt(A) S + D lap(z), with A the ground that
drains through a place and S its slope. Water takes the steepest way down; hollows are filled from the sea inward.
"""

from __future__ import annotations

import heapq
from dataclasses import dataclass

import numpy as np
import shapely
from PIL import Image

from orvik.core.arrays import Flags, Floats, Heights, Ints
from orvik.core.structure.height_grid import HeightGrid
from orvik.demo.coast import Coast
from orvik.demo.rock import Rock

# Cells in metres: where the valleys grow, where they are sharpened, and as the grid is written.
COARSE, MIDDLE, CELL = 75.0, 37.5, 5.0
# How far the grid reaches beyond the shore, so that its edge lies out at sea.
BEYOND = 600.0
STEPS = {COARSE: 45, MIDDLE: 16}
HIGHEST = 312.0
# Ground that drains through a cell before it counts as a stream, in square metres.
STREAM_GROUND = 180_000.0
_AROUND = [(-1, -1), (-1, 0), (-1, 1), (0, -1), (0, 1), (1, -1), (1, 0), (1, 1)]
# Rock by how well it stands up to water: sandstone and conglomerate make the ridges.
HARDNESS = {"Kp": 0.7, "Kw": 0.8, "Jh": 1.6, "Jc": 1.9, "pCg": 1.5}
TILL_HARDNESS = 0.6
# About where the ground lay before water cut into it, in metres.
FIRST_GROUND = 90.0


@dataclass(frozen=True)
class Landscape:
    """Heights (rows, columns) from the north-west corner in metres, cells of ``CELL``; streams run down the ground."""

    heights: Heights
    west: float
    north: float
    streams: tuple[shapely.LineString, ...]

    @property
    def grid(self) -> HeightGrid:
        """The heights, to be asked."""
        return HeightGrid(self.heights, self.west, self.north, (CELL, CELL))

    @property
    def places(self) -> tuple[Floats, Floats, Floats]:
        """Eastings, northings and heights of its cells, each (rows, columns)."""
        x, y = np.meshgrid(self.grid.east_of_middles, self.grid.north_of_middles)
        return x, y, np.asarray(self.heights, dtype=np.float64)


def landscape(coast: Coast, rock: Rock, seed: int) -> Landscape:
    """Wear the island down; always the same from the same seed."""
    west, south, east, north = shapely.bounds(shapely.buffer(coast.land, BEYOND))
    west, north = float(np.floor(west / COARSE) * COARSE), float(np.ceil(north / COARSE) * COARSE)
    columns, rows = int(np.ceil((east - west) / COARSE)), int(np.ceil((north - south) / COARSE))
    rng = np.random.default_rng(seed + 1)
    z: Floats = np.zeros((0, 0))
    drained: Floats = z
    for cell in (COARSE, MIDDLE):
        k = int(COARSE / cell)
        x, y = np.meshgrid(west + cell * (np.arange(columns * k) + 0.5), north - cell * (np.arange(rows * k) + 0.5))
        land: Flags = np.asarray(shapely.contains_xy(coast.land, x, y), dtype=bool)
        # Joints and weak beds make rock uneven, and keep valleys from running along rows of cells.
        hard = _hardness(coast, rock, x, y) * np.exp(
            0.55 * _unevenness(rng, x.shape, 260.0 / cell) + 0.3 * rng.normal(size=x.shape)
        )
        away = _away(coast, x, y, land)
        rise = (1 - np.exp(-away / 700.0)) * (1 - 0.6 * np.exp(-((_from_burn(coast, x, y) / 170.0) ** 2)))
        start = rise * (60 + 45 * _unevenness(rng, x.shape, 500.0 / cell)) + 14 * rng.random(x.shape)
        z = (start if not z.size else np.maximum(_resized(z, x.shape), 0) + 5 * rng.random(x.shape)) * land
        for _ in range(STEPS[cell]):
            z, drained = _worn(z, land, hard, rise, cell)
    streams = _streams(z, land, drained, MIDDLE, west, north)
    fine = (int(rows * COARSE / CELL), int(columns * COARSE / CELL))
    heights = _resized(z, fine) * (HIGHEST / float(z.max()))
    x, y = np.meshgrid(west + CELL * (np.arange(fine[1]) + 0.5), north - CELL * (np.arange(fine[0]) + 0.5))
    heights = _to_the_shore(coast, heights, x, y)
    return Landscape(_smoothed(heights, 4).astype(np.float32), west, north, streams)


def _hardness(coast: Coast, rock: Rock, x: Floats, y: Floats) -> Floats:
    units = rock.unit(np.stack([x, y], axis=-1), np.full(x.shape, FIRST_GROUND))
    hard = np.ones(x.shape)
    for code, value in HARDNESS.items():
        hard[units == code] = value
    shapely.prepare(coast.till)
    hard[np.asarray(shapely.contains_xy(coast.till, x, y), dtype=bool)] = TILL_HARDNESS
    return _smoothed(hard, 1)


def _from_burn(coast: Coast, x: Floats, y: Floats) -> Floats:
    """Metres from the way that the burn took from the first."""
    shapely.prepare(coast.burn)
    return np.asarray(shapely.distance(shapely.points(x, y), coast.burn))


def _unevenness(rng: np.random.Generator, shape: tuple[int, int], cells: float) -> Floats:
    """Smooth random ground, about -2 to 2, whose bumps are so many cells wide."""
    few = (max(int(shape[0] / cells) + 3, 3), max(int(shape[1] / cells) + 3, 3))
    return _resized(rng.normal(size=few), shape)


def _away(coast: Coast, x: Floats, y: Floats, land: Flags) -> Floats:
    """Metres from the shore, on land."""
    shore = shapely.simplify(shapely.boundary(coast.land), 15)
    shapely.prepare(shore)
    away = np.zeros(x.shape)
    away[land] = shapely.distance(shapely.points(x[land], y[land]), shore)
    return away


def _worn(z: Floats, land: Flags, hard: Floats, rise: Floats, cell: float) -> tuple[Floats, Floats]:
    """One step of rising, cutting and creeping; gives the ground, and what drains through each cell."""
    order, below, filled = _downhill(z, land)
    drained = np.full(z.size, cell * cell)
    for i in order[::-1]:
        if below[i] >= 0:
            drained[below[i]] += drained[i]
    flat = filled.ravel()
    step = np.where(below >= 0, np.hypot(*_steps(below, z.shape)), 1.0) * cell
    # From the sea inward, each cell against the one below it, which has its new height by then: stable at any step.
    up = np.where(land.ravel(), 9.0 * rise.ravel(), 0.0)
    power = np.where(land.ravel(), 0.075 * np.sqrt(drained) / hard.ravel() / step, 0.0)
    new = flat + up
    for i in order:
        if below[i] >= 0:
            new[i] = (new[i] + power[i] * new[below[i]]) / (1 + power[i])
    out = new.reshape(z.shape)
    creep = 0.035 * (_neighbours(out) - 4 * out)
    return np.where(land, np.maximum(out + creep, 0.5), 0.0), drained.reshape(z.shape)


def _neighbours(z: Floats) -> Floats:
    wide = np.pad(z, 1, mode="edge")
    return wide[:-2, 1:-1] + wide[2:, 1:-1] + wide[1:-1, :-2] + wide[1:-1, 2:]


def _steps(below: Ints, shape: tuple[int, int]) -> tuple[Floats, Floats]:
    here = np.arange(below.size)
    there = np.where(below >= 0, below, here)
    return (there // shape[1] - here // shape[1]).astype(float), (there % shape[1] - here % shape[1]).astype(float)


def _downhill(z: Floats, land: Flags) -> tuple[list[int], Ints, Floats]:
    """Land cells from the sea inward, the cell below each, and the ground with its hollows filled.

    Priority flood (Barnes, Lehman and Mulla 2014, Computers and Geosciences 62; from memory).
    """
    rows, columns = z.shape
    flat, on_land = z.ravel().tolist(), land.ravel().tolist()
    below = np.full(z.size, -1, dtype=np.int64)
    seen = [not there for there in on_land]
    heap: list[tuple[float, int]] = []
    for i, there in enumerate(on_land):
        if not there:
            heap.append((0.0, i))
    heapq.heapify(heap)
    order: list[int] = []
    while heap:
        height, i = heapq.heappop(heap)
        if on_land[i]:
            order.append(i)
        row, column = divmod(i, columns)
        for dr, dc in _AROUND:
            r, c = row + dr, column + dc
            if 0 <= r < rows and 0 <= c < columns:
                j = r * columns + c
                if not seen[j]:
                    seen[j] = True
                    below[j] = i
                    flat[j] = max(flat[j], height + 1e-3)
                    heapq.heappush(heap, (flat[j], j))
    return order, below, np.array(flat).reshape(z.shape)


def _streams(
    z: Floats, land: Flags, drained: Floats, cell: float, west: float, north: float
) -> tuple[shapely.LineString, ...]:
    """Streams from their heads to the sea or to the stream that they join."""
    order, below, _ = _downhill(z, land)
    wet = (drained.ravel() >= STREAM_GROUND) & land.ravel()
    fed = np.zeros(z.size, dtype=bool)
    for i in order:
        if wet[i] and below[i] >= 0:
            fed[below[i]] |= bool(wet[i])
    taken = np.zeros(z.size, dtype=bool)
    found = []
    for head in (i for i in order[::-1] if wet[i] and not fed[i]):
        path, i = [head], head
        while below[i] >= 0 and not taken[i]:
            taken[i] = True
            i = int(below[i])
            path.append(i)
        if len(path) < 5:
            continue
        rows, columns = np.divmod(np.array(path), z.shape[1])
        xy = np.column_stack([west + cell * (columns + 0.5), north - cell * (rows + 0.5)])
        for _ in range(3):
            # Corners of cells cut off (Chaikin 1974), the ends kept.
            inner = np.stack([0.75 * xy[:-1] + 0.25 * xy[1:], 0.25 * xy[:-1] + 0.75 * xy[1:]], axis=1).reshape(-1, 2)
            xy = np.vstack([xy[:1], inner, xy[-1:]])
        found.append(shapely.LineString(np.round(xy, 1)))
    return tuple(found)


def _to_the_shore(coast: Coast, heights: Floats, x: Floats, y: Floats) -> Floats:
    """Ground that meets the sea along the shore and not along cells: land rises from it, the bed falls away."""
    shore = shapely.simplify(shapely.boundary(coast.land), 4)
    coarse = (slice(None, None, 4), slice(None, None, 4))
    cx, cy = x[coarse], y[coarse]
    shapely.prepare(shore)
    far = shapely.distance(shapely.points(cx, cy), shore)
    inside = shapely.contains_xy(coast.land, cx, cy)
    signed = _resized(np.where(inside, far, -far), heights.shape)
    land = heights * np.clip(signed / 60.0, 0, 1) ** 0.7 + np.clip(signed, 0, 40) * 0.12
    bed = -22 * (1 - np.exp(np.minimum(signed + 25, 0) / 420.0))
    return np.where(signed > 0, land, bed)


def _smoothed(z: Floats, passes: int) -> Floats:
    """Each cell with its neighbours, a little at a time."""
    out = np.asarray(z, dtype=np.float64)
    for _ in range(passes):
        out = (4 * out + _neighbours(out)) / 8
    return out


def _resized(z: Floats, shape: tuple[int, int]) -> Floats:
    picture = Image.fromarray(z.astype(np.float32))
    return np.asarray(picture.resize((shape[1], shape[0]), Image.Resampling.BICUBIC), dtype=np.float64)

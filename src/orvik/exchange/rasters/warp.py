"""Showing a picture through any mapping: bilinear samples of what a view needs, read at the view's resolution."""

from __future__ import annotations

import io
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pyproj
from PIL import Image

from orvik.core.arrays import Anything, Bytes, Flags, Floats
from orvik.core.pictures.georeferencing import Mapping
from orvik.core.pictures.ground_view import GroundView
from orvik.exchange.rasters import raster_files

# The mapping is carried out at every sixteenth pixel of the view and interpolated between them.
COARSE = 16


def view(
    path: Path,
    system: str,
    mapping: Mapping,
    asked: GroundView,
) -> bytes | None:
    """A picture as PNG with transparency over the ground that is asked for, or None where it shows nothing there.

    Parameters
    ----------
    system, mapping
        The system that the mapping leads to.
    """
    own = asked.crs.text
    to_own = None if system == own else pyproj.Transformer.from_crs(own, system, always_xy=True)

    def places(x: Floats, y: Floats) -> Floats:
        return mapping.pixels(np.column_stack([x, y] if to_own is None else to_own.transform(x, y)))

    columns, rows = spread_over(asked, places)
    pixels = sampled(path, columns, rows)
    if not pixels[3].any():
        return None
    return png_of(pixels)


def png_of(pixels: Bytes) -> bytes:
    """A PNG of four bands.

    What is not seen is white: painters that smooth a picture let its colour through along the edge of what is.
    """
    out = io.BytesIO()
    shown = np.where(pixels[3] > 0, pixels, np.array([255, 255, 255, 0], dtype=np.uint8)[:, None, None])
    Image.fromarray(np.moveaxis(shown, 0, -1), "RGBA").save(out, "PNG", compress_level=1)
    return out.getvalue()


def sampled(path: Path, columns: Floats, rows: Floats) -> Bytes:
    """Red, green, blue and opacity of a picture at places in its pixels, which count from its corner."""
    from rasterio.enums import Resampling
    from rasterio.windows import Window as PixelWindow

    shape = columns.shape
    empty = np.zeros((4, *shape), dtype=np.uint8)
    with raster_files.opened(path) as source:
        inside = (columns >= 0) & (rows >= 0) & (columns <= source.width) & (rows <= source.height)
        if not inside.any():
            return empty
        left, right = int(columns[inside].min()) - 2, int(columns[inside].max()) + 3
        top, bottom = int(rows[inside].min()) - 2, int(rows[inside].max()) + 3
        left, top = max(left, 0), max(top, 0)
        right, bottom = min(right, source.width), min(bottom, source.height)
        # Coarser than the view needs nothing, finer adds weight: read about one pixel for each of the view.
        shrink = max(1.0, np.sqrt((right - left) * (bottom - top) / max(int(inside.sum()), 1)))
        wide, high = max(2, round((right - left) / shrink)), max(2, round((bottom - top) / shrink))
        method = Resampling.nearest if paletted(source) or shrink == 1 else Resampling.average
        box = PixelWindow(left, top, right - left, bottom - top)
        bands = source.read(window=box, out_shape=(source.count, high, wide), resampling=method)
        opaque = bands[-1:] if has_alpha(source) else source.dataset_mask(window=box, out_shape=(high, wide))[None]
        colours = bands[:-1] if has_alpha(source) else bands
        picture = rgba(source, np.concatenate([colours, opaque.astype(colours.dtype)]))
    u = (columns - left) * wide / (right - left)
    v = (rows - top) * high / (bottom - top)
    return bilinear(picture, u, v, inside)


def bilinear(picture: Anything, columns: Floats, rows: Floats, inside: Flags) -> Bytes:
    """Samples of a picture (bands, rows, columns) between its pixels; nought where not ``inside``."""
    # Here, and not for every process that starts: loading it takes a third of a second.
    from scipy.ndimage import map_coordinates

    # Pixels are counted from their corners, samples from their middles.
    places = np.nan_to_num(np.stack([rows - 0.5, columns - 0.5]))
    mixed = np.stack([map_coordinates(band, places, np.float32, order=1, mode="nearest") for band in picture])
    return np.where(inside, np.rint(mixed).astype(np.uint8), np.uint8(0))


def spread_over(asked: GroundView, places: Callable[[Floats, Floats], Floats]) -> tuple[Floats, Floats]:
    """A mapping of the ground at the middle of every pixel of a view; carried out on a coarse grid.

    Parameters
    ----------
    places
        Gives (n, 2) for n eastings and northings.
    """
    across, down = asked.width // COARSE + 2, asked.height // COARSE + 2
    columns, rows = np.meshgrid(np.arange(across) * float(COARSE), np.arange(down) * float(COARSE))
    ground = asked.ground(np.column_stack([columns.ravel(), rows.ravel()]))
    found = places(ground[:, 0], ground[:, 1])
    return (
        _spread(found[:, 0].reshape(down, across), asked.width, asked.height),
        _spread(found[:, 1].reshape(down, across), asked.width, asked.height),
    )


def _spread(coarse: Floats, width: int, height: int) -> Floats:
    """A coarse grid interpolated to the middle of every pixel."""
    x, y = (np.arange(width) + 0.5) / COARSE, (np.arange(height) + 0.5) / COARSE
    i, j = x.astype(int), y.astype(int)
    s, t = x - i, (y - j)[:, None]
    upper = coarse[j][:, i] * (1 - s) + coarse[j][:, i + 1] * s
    lower = coarse[j + 1][:, i] * (1 - s) + coarse[j + 1][:, i + 1] * s
    return np.asarray(upper * (1 - t) + lower * t)


def paletted(source: Any) -> bool:
    """Whether a picture has one band of numbers into a colour table."""
    import rasterio

    return source.count == 1 and rasterio.enums.ColorInterp.palette in source.colorinterp


def has_alpha(source: Any) -> bool:
    """Whether a picture has a band of its own for transparency."""
    import rasterio

    return rasterio.enums.ColorInterp.alpha in source.colorinterp


def rgba(source: Any, bands: Anything) -> Bytes:
    """Red, green, blue and opacity of whatever bands a picture has; the last one given is its opacity."""
    alpha = bands[-1]
    colours = bands[:-1]
    if paletted(source):
        table = np.zeros((256, 3), dtype=np.uint8)
        for index, colour in source.colormap(1).items():
            table[index] = colour[:3]
        colours = np.moveaxis(table[colours[0]], -1, 0)
    elif colours.dtype != np.uint8:
        inside = colours[:, alpha > 0]
        low, high = (float(v) for v in np.nanpercentile(inside, (2, 98))) if inside.size else (0.0, 1.0)
        scaled = (colours.astype(np.float64) - low) / max(high - low, 1e-12) * 255
        colours = np.clip(np.nan_to_num(scaled), 0, 255).astype(np.uint8)
    if len(colours) < 3:
        colours = np.repeat(colours[:1], 3, axis=0)
    opaque = np.where(alpha > 0, 255, 0) if alpha.dtype != np.uint8 else alpha
    return np.concatenate([colours[:3], opaque[None].astype(np.uint8)])

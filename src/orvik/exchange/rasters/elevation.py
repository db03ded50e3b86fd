"""Elevation grids as underlays: heights of a window, shown as relief at the view's resolution."""

from __future__ import annotations

import io
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PIL import Image

from orvik.core.arrays import Floats, Heights
from orvik.core.coordinates import GroundBox
from orvik.core.errors import FileRefused
from orvik.core.ground.crs import ProjectCrs
from orvik.core.pictures.georeferencing import Mapping
from orvik.core.pictures.ground_view import GroundView
from orvik.core.pictures.height_facts import LONGEST_DATUM, HeightFacts, unit_named
from orvik.core.pictures.relief import ReliefStyle, contour_lines, hillshade, level_ground, tint
from orvik.core.pictures.source import Source
from orvik.exchange.rasters import raster, raster_files

# Cells around a window that are read with it, so that shading and contour lines run on past its edge.
MARGIN = 2


def is_grid(path: Path) -> bool:
    """Whether a raster holds heights: one band of numbers that are no tones of grey."""
    with raster_files.opened(path) as source:
        return bool(source.count == 1 and source.dtypes[0] != "uint8")


@dataclass(frozen=True)
class HeightFile:
    """A grid of heights as it lies beside a project.

    Attributes
    ----------
    system, transform
        Its coordinate system, and where its cells lie, as JSON.
    metres
        Metres in one unit of its heights.
    """

    path: Path
    system: str
    transform: str
    metres: float = 1.0


def height_file(path: Path, source: Source) -> HeightFile:
    """The heights of an underlay whose file, or its tiled twin, lies at a path."""
    return HeightFile(path, source.crs, source.transform, HeightFacts.of_json(source.heights).metres)


def stated(path: Path) -> HeightFacts:
    """What a file says of its heights: the unit of its band, and the vertical part of its system."""
    import pyproj

    with raster_files.opened(path, vertical=True) as source:
        unit = unit_named(source.units[0] or "") if source.units else None
        system = source.crs.to_wkt() if source.crs is not None else ""
    datum = ""
    crs = pyproj.CRS(system) if system else None
    if crs is not None and crs.is_compound:
        vertical = crs.sub_crs_list[1]
        datum = vertical.name[:LONGEST_DATUM]
        unit = unit or unit_named(vertical.axis_info[0].unit_name if vertical.axis_info else "")
    return HeightFacts(unit=unit or "m", datum=datum)


def heights(file: HeightFile, asked: GroundView) -> Heights:
    """Heights in metres over the ground that is asked for; NaN where nothing is known.

    Raises
    ------
    FileRefused
        The file is missing or damaged, or not placed by six numbers.
    """
    from rasterio.enums import Resampling
    from rasterio.errors import RasterioError
    from rasterio.transform import Affine as RasterAffine
    from rasterio.vrt import WarpedVRT

    if not file.path.is_file():
        raise FileRefused("The copy of this grid beside the project is missing; choose the file again.")
    affine = Mapping.of_json(file.transform).affine
    if affine is None:
        raise FileRefused("Heights need a grid that says where it lies.")
    try:
        with (
            raster.at_resolution(file.path, file.system, file.transform, asked) as (source, shrink),
            WarpedVRT(
                source,
                src_crs=file.system,
                src_transform=RasterAffine(*affine) * shrink,
                crs=asked.crs.text,
                transform=RasterAffine(*asked.place),
                width=asked.width,
                height=asked.height,
                resampling=Resampling.bilinear,
                dtype="float32",
                nodata=np.nan,
                src_nodata=source.nodata,
            ) as vrt,
        ):
            return np.asarray(vrt.read(1), dtype=np.float32) * np.float32(file.metres)
    except RasterioError as error:
        raise FileRefused("This grid cannot be read; it may be damaged.") from error


def span(file: HeightFile) -> tuple[float, float]:
    """The lowest and highest height of a grid in metres, from a coarse reading of all of it."""
    from rasterio.errors import RasterioError

    try:
        with raster_files.opened(file.path) as source:
            shape = (min(source.height, 1024), min(source.width, 1024))
            coarse = source.read(1, out_shape=shape, masked=True)
    except RasterioError as error:
        raise FileRefused("This grid cannot be read; it may be damaged.") from error
    known = np.ma.masked_invalid(coarse).compressed()
    return (float(known.min()) * file.metres, float(known.max()) * file.metres) if len(known) else (0.0, 1.0)


def view(file: HeightFile, asked: GroundView, style: ReliefStyle) -> bytes | None:
    """Tints and shading as PNG with transparency; None where nothing is known.

    The light falls from where it stands as seen on the view, which may be turned.
    """
    z = heights(file, asked.grown(MARGIN))
    if not np.isfinite(z).any():
        return None
    cell = (asked.cell[0] * asked.crs.metres_per_unit, asked.cell[1] * asked.crs.metres_per_unit)
    inner = (slice(MARGIN, -MARGIN), slice(MARGIN, -MARGIN))
    known = np.isfinite(z[inner])
    pixels = np.full((asked.height, asked.width, 4), 255, dtype=np.uint8)
    if style.ramp:
        low, high = span(file)
        pixels[..., :3] = tint(
            z[inner],
            style,
            low if style.low is None else style.low,
            high if style.high is None else style.high,
        )
    if style.shade:
        shade = hillshade(z, cell, style)[inner]
        known &= shade > 0
        # Level ground keeps its colour, so that a tint on the map is the tint in the explanation.
        lit = np.minimum(shade / level_ground(style), 1.0)
        pixels[..., :3] = np.rint(pixels[..., :3] * lit[..., None]).astype(np.uint8)
    pixels[..., 3] = np.where(known, 255, 0)
    # What is not shown is white: painters that smooth a picture let its colour through along the edge.
    pixels[~known, :3] = 255
    out = io.BytesIO()
    Image.fromarray(pixels, "RGBA").save(out, "PNG", compress_level=1)
    return out.getvalue()


def contours(file: HeightFile, asked: GroundView, interval: float) -> list[tuple[float, list[Floats]]]:
    """Contour lines on the ground of a view, lowest first: the height of each, and its lines (n, 2)."""
    wide = asked.grown(MARGIN)
    z = heights(file, wide)
    # In pixels of the view, which count downwards.
    found = contour_lines(z, interval, 0.0, 0.0, (1.0, 1.0))
    return [(height, [wide.ground(line * [1, -1]) for line in lines]) for height, lines in found]


def cell_of(file: HeightFile, crs: ProjectCrs, window: GroundBox) -> float:
    """How far the cells of a grid lie apart in a window of a project, in units of its system."""
    return raster.pixel_size(file.system, file.transform, crs, window)

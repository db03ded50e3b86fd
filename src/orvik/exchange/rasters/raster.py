"""Underlays: taking a picture in beside the project, and showing a window of it in the project's system."""

from __future__ import annotations

import hashlib
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from orvik.core.coordinates import GroundBox
from orvik.core.errors import CoordinateRefused, FileRefused
from orvik.core.ground.coordinates import decimal
from orvik.core.ground.crs import ProjectCrs
from orvik.core.pictures.georeferencing import Mapping
from orvik.core.pictures.ground_view import GroundView
from orvik.exchange.rasters import raster_files, warp
from orvik.whole_file import whole_file

if TYPE_CHECKING:
    from rasterio.transform import Affine as RasterAffine

LARGEST_BYTES = 2_000_000_000
LARGEST_PIXELS = 2_000_000_000
# A file that unpacks to so many pixels, and so many for each of its bytes, holds nothing but a trap.
BOMB_PIXELS = 100_000_000
BOMB_RATIO = 500
MOST_BANDS = 16
WORLD_FILES = {
    ".png": (".pgw", ".pngw", ".wld"),
    ".jpg": (".jgw", ".jpgw", ".wld"),
    ".jpeg": (".jgw", ".jpegw", ".wld"),
    ".tif": (".tfw", ".wld"),
    ".tiff": (".tfw", ".wld"),
}


@dataclass(frozen=True)
class RasterFacts:
    """What is kept of a picture: its system, and the six numbers from pixels to coordinates.

    A scan that does not say where it lies has neither numbers nor bounds: it waits to be georeferenced.
    """

    crs: str
    transform: tuple[float, ...]
    width: int
    height: int
    bounds: GroundBox | None


def files_folder(project: Path) -> Path:
    """Where the pictures of a project lie: a folder beside it."""
    return project.with_name(f"{project.stem}.files")


def examined(picture: Path, world: Path | None, crs: ProjectCrs) -> RasterFacts:
    """What a picture is and where it lies, or why it cannot serve.

    Parameters
    ----------
    picture
        A GeoTIFF, or a PNG, JPEG or TIFF with a world file.
    world
        Its world file, whose coordinates are in the project's system.
    crs
        The project's system.

    Raises
    ------
    FileRefused
        Unreadable, empty, too large, mirrored, or lying elsewhere.
    """
    from rasterio.errors import RasterioError

    name = picture.name
    if not picture.is_file() or picture.stat().st_size == 0:
        raise FileRefused(f"{name} is empty; choose another file.")
    try:
        with raster_files.opened(picture) as source:
            _check_size(name, source, picture.stat().st_size)
            transform = parse_world(world) if world else tuple(float(v) for v in tuple(source.transform)[:6])
            system = crs.text if world or source.crs is None else source.crs.to_wkt()
            placed = bool(world) or not (source.crs is None or source.transform.is_identity)
            _probe(source)
            width, height = source.width, source.height
    except (RasterioError, UnicodeDecodeError, MemoryError) as error:
        raise FileRefused(f"{name} cannot be read as a picture ({_short(error)}); it may be damaged.") from error
    if not placed:
        return RasterFacts(crs.text, (), width, height, None)
    bounds = _bounds(name, transform, (width, height), system, crs, world is not None)
    return RasterFacts(system, transform, width, height, bounds)


def parse_world(path: Path) -> tuple[float, ...]:
    """The six numbers of a world file, as pixel-corner mapping a, b, c, d, e, f.

    Raises
    ------
    FileRefused
        Not six finite numbers, or a mapping without area.
    """
    try:
        a, d, b, e, x, y = (decimal(v) for v in path.read_text().split())
    except (ValueError, UnicodeDecodeError):
        raise FileRefused(f"{path.name} is not a world file; it must hold six numbers, one a line.") from None
    # A world file speaks of the middle of the first pixel; the mapping starts at its corner.
    return (a, b, x - a / 2 - b / 2, d, e, y - d / 2 - e / 2)


def checksum_of(file: Path) -> str:
    """SHA-256 of a file's bytes."""
    digest = hashlib.sha256()
    with file.open("rb") as source:
        while block := source.read(1 << 20):
            digest.update(block)
    return digest.hexdigest()


@lru_cache(maxsize=256)
def _checksum_at(file: Path, size: int, modified: int) -> str:
    """The checksum of a file as it stood at a moment, so that it is reckoned once."""
    return checksum_of(file)


def trouble_with(file: Path, checksum: str) -> str:
    """What is wrong with the copy of a picture: empty, ``missing`` or ``altered``."""
    if not file.is_file():
        return "missing"
    stat = file.stat()
    return "" if _checksum_at(file, stat.st_size, stat.st_mtime_ns) == checksum else "altered"


def restored(project: Path, file: str, checksum: str, given: Path) -> None:
    """Put the copy of a picture back from a file that is given again, whatever its name.

    Raises
    ------
    FileRefused
        It is another file.
    """
    if checksum_of(given) != checksum:
        raise FileRefused(
            f"{given.name} is not the same file: its contents differ. Look for the one that was imported."
        )
    target = raster_files.kept_file(project, file)
    target.parent.mkdir(exist_ok=True)
    with whole_file(target) as part:
        shutil.copyfile(given, part)


def taken_in(picture: Path, project: Path) -> tuple[str, str]:
    """Copy a picture beside the project under its checksum; gives file name and checksum."""
    checksum = checksum_of(picture)
    folder = files_folder(project)
    folder.mkdir(exist_ok=True)
    name = f"{checksum}{picture.suffix.lower()}"
    if not (folder / name).exists():
        # A full disk leaves no half of it behind.
        with whole_file(folder / name) as part:
            shutil.copyfile(picture, part)
    return name, checksum


def view(path: Path, system: str, transform: str, asked: GroundView) -> bytes | None:
    """A picture, warped to the ground that is asked for, as PNG with transparency.

    Parameters
    ----------
    path, system, transform
        The file, its coordinate system and its six numbers as JSON.

    Returns
    -------
    PNG bytes, or None where the picture shows nothing.

    Raises
    ------
    FileRefused
        The file is missing or damaged.
    """
    from rasterio.enums import Resampling
    from rasterio.errors import RasterioError
    from rasterio.transform import Affine as RasterAffine
    from rasterio.vrt import WarpedVRT

    if not path.is_file():
        raise FileRefused("The copy of this picture beside the project is missing; choose the file again.")
    if not transform:
        return None
    mapping = Mapping.of_json(transform)
    if mapping.affine is None:
        return warp.view(path, system, mapping, asked)
    affine = RasterAffine(*mapping.affine)
    try:
        with (
            at_resolution(path, system, transform, asked) as (source, shrink),
            WarpedVRT(
                source,
                src_crs=system,
                src_transform=affine * shrink,
                crs=asked.crs.text,
                transform=RasterAffine(*asked.place),
                width=asked.width,
                height=asked.height,
                resampling=Resampling.nearest if warp.paletted(source) else Resampling.bilinear,
                add_alpha=not warp.has_alpha(source),
            ) as vrt,
        ):
            pixels = warp.rgba(source, vrt.read())
    except RasterioError as error:
        raise FileRefused(f"This picture cannot be shown ({_short(error)}); it may be damaged.") from error
    if not pixels[3].any():
        return None
    return warp.png_of(pixels)


@contextmanager
def at_resolution(path: Path, system: str, transform: str, asked: GroundView) -> Iterator[tuple[Any, RasterAffine]]:
    """A picture or grid at the overview that a view needs, and how much larger its pixels are there."""
    from rasterio.transform import Affine as RasterAffine

    with raster_files.opened(path) as probe:
        pixel = max(pixel_size(system, transform, asked.crs, asked.window), 1e-12)
        ratio = asked.cell[0] / pixel
        levels = [i for i, factor in enumerate(probe.overviews(1)) if factor <= ratio]
        full = (probe.width, probe.height)
    options: dict[str, Any] = {"overview_level": levels[-1]} if levels else {}
    with raster_files.opened(path, **options) as source:
        yield source, RasterAffine.scale(full[0] / source.width, full[1] / source.height)


def size(path: Path) -> tuple[int, int]:
    """Columns and rows of a picture; raises FileRefused."""
    from rasterio.errors import RasterioError

    try:
        with raster_files.opened(path) as source:
            return int(source.width), int(source.height)
    except RasterioError as error:
        raise FileRefused("The copy of this picture beside the project is missing or damaged.") from error


def scan_view(path: Path, box: tuple[float, float, float, float], width: int, height: int) -> bytes:
    """A part of a picture as it lies on the scanner, for picking control points.

    Parameters
    ----------
    box
        Left, top, right and bottom in pixels of the picture; what lies outside it is transparent.
    width, height
        Size of the result in pixels.

    Raises
    ------
    FileRefused
        The file is missing or damaged.
    """
    from rasterio.errors import RasterioError

    if not path.is_file():
        raise FileRefused("The copy of this picture beside the project is missing; choose the file again.")
    left, top, right, bottom = box
    x = left + (np.arange(width) + 0.5) * (right - left) / width
    y = top + (np.arange(height) + 0.5) * (bottom - top) / height
    columns, rows = np.meshgrid(x, y)
    try:
        return warp.png_of(warp.sampled(path, columns, rows))
    except RasterioError as error:
        raise FileRefused(f"This picture cannot be shown ({_short(error)}); it may be damaged.") from error


def pixel_size(system: str, transform: str, crs: ProjectCrs, window: GroundBox) -> float:
    """About how large a pixel of a picture is in units of a system, over a window."""
    from rasterio.transform import Affine as RasterAffine
    from rasterio.warp import transform_bounds

    west, _, east, _ = transform_bounds(crs.text, system, *window, densify_pts=21)
    mapping = Mapping.of_json(transform)
    if mapping.affine is not None:
        pixel = float(np.sqrt(abs(RasterAffine(*mapping.affine).determinant)))
    else:
        corner, right = mapping.ground(np.array([[0.0, 0.0], [100.0, 0.0]]))
        pixel = float(np.hypot(*(right - corner))) / 100
    return float(pixel * (window[2] - window[0]) / max(east - west, 1e-12))


def _check_size(name: str, source: Any, packed: int) -> None:
    """Refuse what no picture of ground is: too many pixels or bands, complex numbers, or a trap."""
    pixels = source.width * source.height
    if pixels > LARGEST_PIXELS:
        raise FileRefused(f"{name} has more than {LARGEST_PIXELS:,} pixels; make it smaller first.")
    if pixels > BOMB_PIXELS and pixels > BOMB_RATIO * packed:
        raise FileRefused(
            f"{name} claims {pixels / 1e6:,.0f} million pixels in {packed / 1e6:.1f} MB, which no picture of ground "
            "does; it may be made to do harm."
        )
    if source.count > MOST_BANDS:
        raise FileRefused(f"{name} has {source.count} bands; an underlay has at most {MOST_BANDS}.")
    if any("complex" in str(kind) for kind in source.dtypes):
        raise FileRefused(f"{name} holds complex numbers, which make no picture; export one part of them.")


def _probe(source: Any) -> None:
    """Read the last rows, so that a cut-off file is found out before it is taken in."""
    import rasterio

    strip = rasterio.windows.Window(0, max(0, source.height - 1), source.width, 1)
    source.read(1, window=strip)


def _bounds(
    name: str, transform: tuple[float, ...], size: tuple[int, int], system: str, crs: ProjectCrs, by_world: bool
) -> GroundBox:
    from rasterio.errors import CRSError, RasterioError
    from rasterio.transform import Affine as RasterAffine
    from rasterio.warp import transform_bounds

    affine = RasterAffine(*transform)
    width, height = size
    pixel = float(np.sqrt(abs(affine.determinant))) if np.isfinite(transform).all() else 0.0
    # A pixel smaller than this, in whatever unit, or larger than the earth places a picture nowhere.
    if not 1e-9 < pixel < 1e8 or abs(affine.determinant) < 1e-6 * float(
        np.hypot(affine.a, affine.d) * np.hypot(affine.b, affine.e)
    ):
        raise FileRefused(f"{name} holds numbers that place it nowhere; check its pixel sizes and its corner.")
    # Rows from the south are a way of writing a grid; a world file that says so has most often lost a symbol.
    upward = affine.b == affine.d == 0 and affine.a > 0 and affine.e > 0 and not by_world
    if affine.determinant > 0 and not upward:
        raise FileRefused(f"{name} is placed mirrored; check the symbols of the pixel sizes in its world file.")
    corners = [affine * c for c in ((0, 0), (width, 0), (width, height), (0, height))]
    xs, ys = [c[0] for c in corners], [c[1] for c in corners]
    try:
        bounds = transform_bounds(system, crs.text, min(xs), min(ys), max(xs), max(ys), densify_pts=21)
        west, south, east, north = (float(v) for v in bounds)
        crs.check_place((west + east) / 2, (south + north) / 2)
    except (CoordinateRefused, RasterioError, CRSError) as error:
        raise FileRefused(f"{name} does not lie on this map. {error}") from error
    return west, south, east, north


def _short(error: Exception) -> str:
    text = str(error).splitlines()[0] if str(error) else type(error).__name__
    return text.split("/")[-1][:120]

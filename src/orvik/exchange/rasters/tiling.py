"""Large pictures: a tiled copy with overviews, made once, so that any view reads only what it shows."""

from __future__ import annotations

import warnings
from pathlib import Path

from orvik.core.errors import FileRefused
from orvik.exchange.rasters import raster_files

# Pictures with more pixels than this are read too slowly by strips.
LARGE = 24_000_000
TILE = 512
# The smallest overview is about so many pixels across.
SMALLEST = 512
# How much of the work the copying is; the rest is the overviews.
COPYING = 0.6


def copy_of(path: Path) -> Path:
    """Where the tiled copy of a picture lies, or would lie."""
    return path.with_name(f"{path.stem}.tiled.tif")


def best(path: Path) -> Path:
    """The file to read a picture from: its tiled copy where there is one."""
    tiled = copy_of(path)
    return tiled if tiled.is_file() else path


def is_large(path: Path) -> bool:
    """Whether a picture wants a tiled copy: it is large, and has no tiles or no overviews of its own."""
    from rasterio.errors import RasterioError

    try:
        with raster_files.opened(path) as source:
            large = source.width * source.height > LARGE
            tiled = source.block_shapes[0][1] < source.width
            return bool(large and not (tiled and source.overviews(1)))
    except RasterioError:
        return False


def progress(path: Path) -> float | None:
    """How far the tiled copy of a picture is, 0 to 1; None where none is being made."""
    try:
        # While the note is being written it may be empty for a moment.
        return float(_note(path).read_text() or 0)
    except (OSError, ValueError):
        return None


def cancel(path: Path) -> None:
    """Ask the making of a tiled copy to stop."""
    _note(path).unlink(missing_ok=True)


def begin(path: Path) -> None:
    """Note that a tiled copy is about to be made."""
    _note(path).write_text("0")


def forget_unfinished(folder: Path) -> None:
    """Clear away what was under way when the application last ended."""
    for left in (*folder.glob(".*.tiling"), *folder.glob(".*.tiled.part.tif")):
        left.unlink(missing_ok=True)


def make(path: Path) -> bool:
    """Make the tiled copy; the picture can be seen meanwhile. It appears only when it is whole.

    Returns
    -------
    Whether it was made; False where it was cancelled.

    Raises
    ------
    FileRefused
        The picture is damaged, or the disk is full.
    """
    import rasterio
    from rasterio.errors import NotGeoreferencedWarning, RasterioError

    part = path.with_name(f".{path.stem}.tiled.part.tif")
    try:
        with warnings.catch_warnings(), rasterio.Env(GDAL_CACHEMAX=64):
            warnings.simplefilter("ignore", NotGeoreferencedWarning)
            done = _copied(path, part) and _overviews(path, part)
        if done:
            part.replace(copy_of(path))
        return done
    except (RasterioError, OSError) as error:
        raise FileRefused(f"The tiled copy of this picture could not be made ({error}).") from error
    finally:
        part.unlink(missing_ok=True)
        _note(path).unlink(missing_ok=True)


def _note(path: Path) -> Path:
    """The file that says how far the work is; while it is there, the work is wanted."""
    return path.with_name(f".{path.stem}.tiling")


def _reached(path: Path, part: float) -> bool:
    """Note how far the work is; False where it is no longer wanted."""
    note = _note(path)
    if not note.is_file():
        return False
    note.write_text(f"{part:.3f}")
    return True


def _copied(path: Path, target: Path) -> bool:
    import rasterio
    from rasterio.windows import Window

    with raster_files.opened(path) as source:
        profile = source.profile | {
            "driver": "GTiff",
            "tiled": True,
            "blockxsize": TILE,
            "blockysize": TILE,
            "compress": "deflate",
            "zlevel": 1,
            "predictor": 2 if source.dtypes[0].startswith(("u", "i")) else 3,
            "bigtiff": "if_safer",
            "num_threads": 2,
            "interleave": "pixel",
        }
        profile.pop("photometric", None)
        with rasterio.open(target, "w", **profile) as out:
            for top in range(0, source.height, TILE):
                window = Window(0, top, source.width, min(TILE, source.height - top))
                out.write(source.read(window=window), window=window)
                if not _reached(path, COPYING * top / source.height):
                    return False
            if source.count == 1 and source.colorinterp[0] == rasterio.enums.ColorInterp.palette:
                out.write_colormap(1, source.colormap(1))
    return True


def _overviews(path: Path, target: Path) -> bool:
    import rasterio
    from rasterio.enums import Resampling

    with rasterio.open(target, "r+") as out:
        paletted = out.colorinterp[0] == rasterio.enums.ColorInterp.palette
        factors = [2**n for n in range(1, 16) if max(out.width, out.height) / 2**n >= SMALLEST]
        for i, factor in enumerate(factors, 1):
            out.build_overviews([factor], Resampling.nearest if paletted else Resampling.average)
            # Each overview is a quarter of the one before.
            if not _reached(path, COPYING + (1 - COPYING) * (1 - 0.25**i)):
                return False
    return True

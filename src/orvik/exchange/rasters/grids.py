"""Grids of datum shifts that are given by hand: kept beside the projects, where PROJ looks for them."""

from __future__ import annotations

import os
import shutil
from pathlib import Path

import pyproj.datadir

from orvik.core.errors import FileRefused
from orvik.exchange.rasters import raster_files
from orvik.whole_file import whole_file

ENDINGS = (".tif", ".gsb")
FOLDER = ".grids"


def use_folder(chest: Path) -> None:
    """Let PROJ find the grids of a chest, if it has any."""
    folder = chest / FOLDER
    if folder.is_dir() and str(folder) not in pyproj.datadir.get_data_dir().split(os.pathsep):
        pyproj.datadir.append_data_dir(str(folder))


def taken_in(chest: Path, file: Path, wanted: tuple[str, ...]) -> None:
    """Keep a grid and use it from now on.

    Raises
    ------
    FileRefused
        Not one of the files that the shift needs, or not a grid at all.
    """
    from rasterio.errors import RasterioError

    if file.name not in wanted:
        raise FileRefused(f"This shift needs {' or '.join(wanted)}; {file.name} is another file.")
    if file.suffix.lower() not in ENDINGS:
        raise FileRefused(f"{file.name} is not a grid of a datum shift; those end in .tif or .gsb.")
    if file.suffix.lower() == ".tif":
        try:
            with raster_files.opened(file) as source:
                source.read(1, window=((0, 1), (0, source.width)))
        except RasterioError as error:
            raise FileRefused(f"{file.name} cannot be read as a grid; it may be damaged.") from error
    elif not file.read_bytes().startswith(b"NUM_OREC"):
        raise FileRefused(f"{file.name} is not an NTv2 grid; it may be damaged.")
    folder = chest / FOLDER
    folder.mkdir(exist_ok=True)
    with whole_file(folder / file.name) as part:
        shutil.copyfile(file, part)
    use_folder(chest)

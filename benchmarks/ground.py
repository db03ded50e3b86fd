"""Ground: searching and ranking systems, hillshade against gdaldem, and a view of a very large picture."""

from __future__ import annotations

import multiprocessing
import subprocess
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import rasterio
from rasterio.transform import from_origin

from benchmarks.yardstick import Row, limit_row, ratio_row, resident_mb, seconds
from orvik.core.arrays import Heights
from orvik.core.ground import crs_choice, crs_search
from orvik.core.ground.crs import project_crs
from orvik.core.pictures.ground_view import GroundView
from orvik.core.pictures.relief import ReliefStyle, hillshade
from orvik.exchange.rasters import raster, tiling

QUENNET = (-14.82, 61.33, -14.68, 61.38)
ALPS = (7.0, 46.0, 8.0, 47.0)
PLACE = {"crs": "EPSG:32628", "transform": from_origin(500_000, 6_820_000, 2, 2)}
TRANSFORM = "[2, 0, 500000, 0, -2, 6820000]"


def run() -> Iterator[Row]:
    """The promises of this stage, after a warm start."""
    crs_search.warm()
    words = ("iceland", "utm zone 28n", "lambert", "32628", "s", "new zealand transverse")
    slowest = max(seconds(lambda q=q: crs_search.search(q)) for q in words)  # type: ignore[misc]
    yield limit_row("Search for a coordinate system, slowest of six", slowest * 1000, 50)
    crs_choice.short_list(QUENNET)
    start = time.perf_counter()
    crs_choice.short_list(ALPS)
    yield limit_row("Ranked short list for a sheet not seen before", (time.perf_counter() - start) * 1000, 1000)
    with tempfile.TemporaryDirectory() as temporary:
        yield from _hillshade(Path(temporary))
        yield from _large(Path(temporary))


def _hillshade(folder: Path) -> Iterator[Row]:
    rng = np.random.default_rng(2)
    n = 4000
    f = np.fft.fftfreq(n)
    k = np.hypot(*np.meshgrid(f, f))
    k[0, 0] = 1
    z: Heights = np.real(np.fft.ifft2(np.fft.fft2(rng.normal(size=(n, n))) * k**-1.8)).astype(np.float32) * 500
    path, theirs = folder / "z.tif", folder / "shade.tif"
    profile = {"driver": "GTiff", "width": n, "height": n, "count": 1, "dtype": "float32"}
    with rasterio.open(path, "w", **profile, **PLACE) as out:
        out.write(z, 1)

    def ours() -> None:
        with rasterio.open(path) as source:
            shade = hillshade(source.read(1), (2, 2), ReliefStyle())
        with rasterio.open(folder / "ours.tif", "w", **(profile | {"dtype": "uint8"}), **PLACE) as out:
            out.write(shade, 1)

    def gdal() -> None:
        subprocess.run(["gdaldem", "hillshade", path, theirs, "-q"], check=True)

    yield ratio_row(
        "Hillshade of 4 000 x 4 000 cells, file to file, against gdaldem",
        seconds(ours, 3),
        seconds(gdal, 3),
        1,
    )
    with rasterio.open(theirs) as a, rasterio.open(folder / "ours.tif") as b:
        away = np.abs(a.read(1).astype(int) - b.read(1))[1:-1, 1:-1]
    same = float((away <= 1).mean())
    yield Row("the same, inner cells within one grey level", f"{same * 100:.3f} %", "at least 99.9 %", same >= 0.999)


def _large(folder: Path) -> Iterator[Row]:
    path = folder / "large.tif"
    side = 20_000
    profile = {
        "driver": "GTiff",
        "width": side,
        "height": side,
        "count": 1,
        "dtype": "uint8",
        "compress": "lzw",
    }
    x = np.arange(side)
    with rasterio.open(path, "w", **profile, **PLACE) as out:
        for top in range(0, side, 500):
            rows = (127 + 60 * np.sin((top + np.arange(500))[:, None] / 400) + 60 * np.cos(x / 300)).astype(np.uint8)
            out.write(rows, 1, window=((top, top + 500), (0, side)))
    tiling.begin(path)
    start = time.perf_counter()
    tiling.make(path)
    yield Row("Tiled copy of 20 000 x 20 000 pixels", f"{time.perf_counter() - start:.1f} s", "", None)
    context = multiprocessing.get_context("spawn")
    with context.Pool(1) as pool:
        slowest, memory = pool.apply(_views, (str(path),))
    yield limit_row("View of it, slowest of nine places and scales", slowest * 1000, 300)
    yield Row("Memory of the process that shows it", f"{memory:.0f} MB", "below 300 MB", memory < 300)


def _views(path: str) -> tuple[float, float]:
    """Seconds of the slowest view, and the resident memory after all of them."""
    import os

    crs = project_crs("EPSG:32628")
    file = tiling.best(Path(path))
    slowest = 0.0
    for half in (300.0, 3_000.0, 20_000.0):
        for x, y in ((505_000.0, 6_810_000.0), (520_000.0, 6_800_000.0), (535_000.0, 6_790_000.0)):
            window = (x - half, y - half, x + half, y + half)
            start = time.perf_counter()
            raster.view(file, crs.text, TRANSFORM, GroundView.of_window(crs, window, 1238, 1104))
            slowest = max(slowest, time.perf_counter() - start)
    return slowest, resident_mb(os.getpid())

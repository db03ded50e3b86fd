"""Where a picture ends within a panel, no line is printed along its edge: not for relief, nor for a scan."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pypdfium2
import pytest
import rasterio
from PIL import Image
from rasterio.transform import from_origin

from orvik.core.ground.crs import project_crs
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import Fill, Group, Picture
from orvik.core.pictures.ground_view import GroundView
from orvik.core.pictures.relief import ReliefStyle
from orvik.exchange.rasters import elevation, raster
from orvik.exchange.rasters.elevation import HeightFile
from orvik.press.pdf import page_pdf

CRS = project_crs("EPSG:32628")
SEA = "#D9E9F0"
VIEW = GroundView.of_window(CRS, (0.0, 0.0, 4000.0, 3000.0), 400, 300)
TRANSFORM = (20.0, 0.0, 1003.0, 0.0, -20.0, 2207.0)


def written(path: Path, values: np.ndarray) -> Path:
    count = values.shape[0]
    with rasterio.open(
        path,
        "w",
        driver="GTiff",
        width=values.shape[2],
        height=values.shape[1],
        count=count,
        dtype=values.dtype,
        crs=CRS.text,
        transform=from_origin(1003.0, 2207.0, 20.0, 20.0),
    ) as out:
        out.write(values)
    return path


def relief(folder: Path) -> bytes | None:
    path = written(folder / "level.tif", np.full((1, 60, 80), 120.0, dtype=np.float32))
    return elevation.view(HeightFile(path, CRS.text, str(list(TRANSFORM))), VIEW, ReliefStyle())


def scan(folder: Path) -> bytes | None:
    path = written(folder / "white.tif", np.full((3, 60, 80), 255, dtype=np.uint8))
    return raster.view(path, CRS.text, str(list(TRANSFORM)), VIEW)


@pytest.mark.parametrize("view", [relief, scan])
@pytest.mark.parametrize("dpi", [96, 150, 301])
def test_no_line_is_printed_along_the_edge(tmp_path: Path, view: object, dpi: int) -> None:
    png = view(tmp_path)  # type: ignore[operator]
    assert png is not None
    pixels = np.asarray(Image.open(io.BytesIO(png)).convert("RGBA"))
    assert (pixels[..., 3] == 0).any()
    assert (pixels[pixels[..., 3] == 0][:, :3] == 255).all()
    # Level ground and white paper leave the sea as it is, and so must their edges.
    ground = Fill(SEA, Paths.of([(0, 0), (80, 0), (80, 60), (0, 60), (0, 0)]), np.array([0, 1]))
    upon = Group("relief", (Picture(png, (80.0, 0.0, 0.0, 0.0, 60.0, 0.0)),), opacity=0.5, multiply=True)
    page = pypdfium2.PdfDocument(page_pdf([ground, upon], 80, 60, "a"))[0]
    printed = np.asarray(page.render(scale=dpi / 72).to_pil().convert("RGB"), dtype=int)
    inner = printed[2:-2, 2:-2]
    assert np.abs(inner - [0xD9, 0xE9, 0xF0]).max() <= 2

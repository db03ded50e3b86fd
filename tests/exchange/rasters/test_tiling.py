"""Tiled copies of large pictures."""

from __future__ import annotations

import io
import threading
import time
from pathlib import Path

import numpy as np
import pytest
import rasterio
from fastapi.testclient import TestClient
from PIL import Image
from rasterio.transform import from_origin

from orvik.core.errors import FileRefused
from orvik.core.ground.crs import project_crs
from orvik.core.pictures.ground_view import GroundView
from orvik.exchange.rasters import raster, tiling
from orvik.web.app import create_app

CRS = project_crs("EPSG:32628")
WINDOW = (512_000.0, 6_801_000.0, 515_000.0, 6_804_000.0)


@pytest.fixture
def large(tmp_path: Path) -> Path:
    """Smooth tones by strips, without overviews."""
    path = tmp_path / "large.tif"
    rows, columns = np.mgrid[0:5200, 0:5000]
    profile = {
        "driver": "GTiff",
        "width": 5000,
        "height": 5200,
        "count": 1,
        "dtype": "uint8",
        "crs": "EPSG:32628",
        "transform": from_origin(510_000, 6_805_000, 1.2, 1.2),
    }
    with rasterio.open(path, "w", **profile) as out:
        out.write((127 + 60 * np.sin(rows / 400) + 60 * np.cos(columns / 300)).astype(np.uint8), 1)
    return path


def seen(path: Path) -> np.ndarray:
    transform = "[1.2, 0, 510000, 0, -1.2, 6805000]"
    data = raster.view(tiling.best(path), CRS.text, transform, GroundView.of_window(CRS, WINDOW, 300, 300))
    assert data is not None
    return np.asarray(Image.open(io.BytesIO(data)).convert("L")).astype(int)


def test_the_copy_shows_the_same(large: Path) -> None:
    assert tiling.is_large(large)
    before = seen(large)
    tiling.begin(large)
    assert tiling.make(large)
    assert tiling.best(large) != large
    assert not tiling.is_large(tiling.best(large))
    assert np.abs(seen(large) - before).max() <= 3
    assert tiling.progress(large) is None
    with rasterio.open(tiling.best(large)) as copy:
        assert copy.block_shapes == [(512, 512)]
        assert copy.overviews(1)[-1] >= 8


def test_it_tells_how_far_it_is_and_can_be_cancelled(large: Path) -> None:
    tiling.begin(large)
    done: list[bool] = []
    worker = threading.Thread(target=lambda: done.append(tiling.make(large)))
    worker.start()
    parts = set()
    while worker.is_alive():
        part = tiling.progress(large)
        if part:
            parts.add(part)
            tiling.cancel(large)
        time.sleep(0.001)
    assert done == [False]
    assert all(0 < part < 1 for part in parts)
    assert [p.name for p in large.parent.iterdir()] == ["large.tif"]


def test_a_damaged_picture_leaves_nothing(large: Path) -> None:
    whole = large.read_bytes()
    large.write_bytes(whole[: len(whole) // 2])
    tiling.begin(large)
    with pytest.raises(FileRefused):
        tiling.make(large)
    assert [p.name for p in large.parent.iterdir()] == ["large.tif"]


def test_an_upload_starts_it(demo: Path, large: Path) -> None:
    with TestClient(create_app(demo.parent), base_url="http://127.0.0.1:8460") as client:
        answer = client.post("/p/isle-of-quennet/underlays", files=[("files", ("large.tif", large.read_bytes()))])
        assert answer.status_code == 200
        for _ in range(300):
            if client.get("/p/isle-of-quennet/underlays/4/tiling").text.strip() == "":
                break
            time.sleep(0.1)
        folder = raster.files_folder(demo)
        assert len(list(folder.glob("*.tiled.tif"))) == 1
        assert not list(folder.glob(".*"))

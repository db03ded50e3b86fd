"""Profiles against GDAL's bilinear warp along turned lines, and heights with holes."""

from __future__ import annotations

import numpy as np
import pytest
import rasterio
import shapely
from rasterio.enums import Resampling
from rasterio.transform import Affine
from rasterio.warp import reproject
from scipy.ndimage import map_coordinates

from orvik.core.structure.height_grid import HeightGrid
from orvik.core.structure.section.profile import profile_of
from orvik.core.structure.section.section_line import SectionLine
from tests.core.structure.relief import CELL, hills

CRS = "EPSG:32628"
ROWS = 41


@pytest.mark.parametrize("seed", range(12))
def test_a_profile_is_gdal_s(seed: int) -> None:
    """The middle row of a strip that lies along the section, filled by GDAL (bilinear), has the same heights."""
    rng = np.random.default_rng(seed)
    ground = hills(seed)
    line = SectionLine.of(shapely.LineString(rng.uniform(300, 2700, (2, 2))), 1.0)
    count = 400
    step = line.length / count
    way = (line.xy[1] - line.xy[0]) / line.length
    # Columns run along the section; rows to its right. Of a strip of few rows GDAL reads too little.
    right = np.array([way[1], -way[0]])
    origin = line.xy[0] - right * step * ROWS / 2
    strip = Affine(way[0] * step, right[0] * step, origin[0], way[1] * step, right[1] * step, origin[1])
    out = np.zeros((ROWS, count), dtype=np.float32)
    source = Affine(CELL, 0, ground.west, 0, -CELL, ground.north)
    with rasterio.Env():
        reproject(
            ground.heights, out, src_transform=source, src_crs=CRS, dst_transform=strip, dst_crs=CRS,
            resampling=Resampling.bilinear,
        )  # fmt: skip
    profile = profile_of(line, ground, 1.0)
    mine = profile.at((np.arange(count) + 0.5) * step)
    # GDAL finds its places to a fraction of a cell, which on these slopes is decimetres; scipy is exact.
    assert np.abs(mine - out[ROWS // 2]).max() < 0.8
    assert np.abs(mine - out[ROWS // 2]).mean() < 0.15
    x, y = line.at((np.arange(count) + 0.5) * step).T
    cells = np.array([(ground.north - y) / CELL - 0.5, (x - ground.west) / CELL - 0.5])
    exact = map_coordinates(ground.heights.astype(float), cells, order=1)
    # Between its own places, a metre apart, a profile is straight.
    assert np.abs(mine - exact).max() < 0.05


def test_ends_and_bends_are_on_it_and_steps_no_longer_than_asked() -> None:
    line = SectionLine.of(shapely.LineString([(300, 300), (900, 300), (900, 777)]), 1.0)
    profile = profile_of(line, hills(1), 7.0)
    assert profile.along[0] == 0
    assert profile.along[-1] == pytest.approx(line.length)
    assert np.diff(profile.along).max() <= 7.0 + 1e-9
    assert 600.0 in profile.along
    assert profile.known_share == pytest.approx(1)


def test_holes_and_the_end_of_the_heights_are_gaps_and_never_zero() -> None:
    ground = hills(2)
    heights = ground.heights.copy()
    heights[60:80, 60:80] = np.nan
    holed = HeightGrid(heights, ground.west, ground.north, ground.cell)
    line = SectionLine.of(shapely.LineString([(100, 1600), (4000, 1600)]), 1.0)
    profile = profile_of(line, holed)
    assert len(profile.parts) == 2
    assert profile.known_share < 0.75
    assert np.isnan(profile.at(np.array([1400.0, 3500.0]))).all()
    assert min(float(part[:, 1].min()) for part in profile.parts) > 50
    outside = profile_of(SectionLine.of(shapely.LineString([(9000, 0), (9500, 0)]), 1.0), holed)
    assert outside.reach is None
    assert outside.parts == []

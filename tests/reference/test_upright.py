"""A system along a line: the line stands upright in it, and is true to scale, by PROJ's geodesics."""

from __future__ import annotations

import numpy as np
import pyproj
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from orvik.core.errors import CrsRefused
from orvik.core.ground.crs_build import WGS84, upright_along
from tests.examples import examples

GEOD = pyproj.Geod(ellps="WGS84")


@given(st.floats(-179, 179), st.floats(-75, 75), st.floats(-180, 180), st.floats(500, 200_000))
@examples(25)
def test_the_line_stands_upright_and_is_true_to_scale(lon: float, lat: float, azimuth: float, length: float) -> None:
    end_lon, end_lat, _ = GEOD.fwd(lon, lat, azimuth, length)
    assume(abs(end_lon - lon) < 90)
    crs = upright_along((lon, lat), (end_lon, end_lat), WGS84, "Along a line")
    places = np.array([(lon, lat), *GEOD.npts(lon, lat, end_lon, end_lat, 19), (end_lon, end_lat)])
    x, y = crs.from_geographic(places[:, 0], places[:, 1])
    # No place of the geodesic is further off its chord than a hundred-thousandth of its length.
    along = np.column_stack([x, y])
    assert np.ptp(x) < 2e-5 * length + 1e-3
    assert abs(np.ptp(y) - length) < 2e-5 * length + 1e-3
    north_first = along if end_lat < lat else along[::-1]
    if abs(end_lat - lat) > 1e-6:
        assert north_first[0, 1] > north_first[-1, 1]
    factors = pyproj.Proj(crs.text).get_factors(*places[10])
    assert factors.meridional_scale == pytest.approx(1.0, abs=1e-5)
    assert factors.angular_distortion == pytest.approx(0.0, abs=1e-5)


def test_a_line_that_goes_nowhere_is_refused() -> None:
    with pytest.raises(CrsRefused, match="one place"):
        upright_along((-14.0, 61.0), (-14.0, 61.0), WGS84, "None")

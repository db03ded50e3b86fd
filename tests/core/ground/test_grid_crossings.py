"""Crossings of the grid and of the graticule."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.ground.crs import project_crs
from orvik.core.ground.grid_crossings import nearest_crossing
from tests.examples import examples

CRS = project_crs("EPSG:32628")


@examples(100)
@given(st.floats(450_000, 560_000), st.floats(6_700_000, 6_900_000), st.floats(1, 400))
def test_what_is_held_is_a_crossing_within_reach(x: float, y: float, radius: float) -> None:
    found = nearest_crossing(CRS, x, y, radius)
    if found is None:
        assert abs(x - round(x, -3)) > radius * 0.7 or abs(y - round(y, -3)) > radius * 0.7
        return
    assert (found.x - x) ** 2 + (found.y - y) ** 2 <= radius**2 * (1 + 1e-9)
    if found.label.startswith("grid"):
        assert found.x % 1000 == 0
        assert found.y % 1000 == 0
    else:
        longitude, latitude = (float(v) for v in CRS.to_geographic(found.x, found.y))
        assert longitude * 60 == pytest.approx(round(longitude * 60), abs=1e-6)
        assert latitude * 60 == pytest.approx(round(latitude * 60), abs=1e-6)


def test_none_in_the_open() -> None:
    assert nearest_crossing(CRS, 513_400.0, 6_802_450.0, 20.0) is None

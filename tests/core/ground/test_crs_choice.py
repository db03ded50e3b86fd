"""The short list for a ground, and own systems by parameters."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest

from orvik.core.errors import CrsRefused
from orvik.core.ground import crs_build, crs_choice, distortion
from orvik.core.ground.crs import project_crs

QUENNET = (-14.82, 61.33, -14.68, 61.38)


def test_the_list_is_ranked_by_what_it_does_to_lengths() -> None:
    found = crs_choice.short_list(QUENNET)
    listed = [c for c in found if c.made is None]
    assert {"EPSG:32628", "EPSG:25828"} <= {c.code for c in listed[:4]}
    assert len({c.code for c in listed}) == len(listed)
    assert all(a.distortion.worst < 2.1 * b.distortion.worst for a, b in pairwise(listed))
    own = [c for c in found if c.made is not None]
    assert [c.made.method for c in own if c.made] == ["lcc", "tm"]
    assert all(c.distortion.worst < 1e-6 for c in own)


def test_national_systems_are_found_for_their_ground() -> None:
    codes = [c.code for c in crs_choice.short_list((7.2, 46.4, 7.8, 46.8))]
    assert "EPSG:2056" in codes


def test_the_verdict_is_plain() -> None:
    utm = distortion.over(project_crs("EPSG:32628"), QUENNET)
    assert utm is not None
    assert utm.verdict == "true to 1 in 2\u2009500 over this sheet"
    europe = distortion.over(project_crs("EPSG:3035"), QUENNET)
    assert europe is not None
    assert europe.far_from_true
    assert "made for other ground" in europe.verdict
    assert europe.area_largest == pytest.approx(1, abs=1e-6)
    assert europe.angle > 1


def test_distortion_is_taken_over_the_whole_ground() -> None:
    """A zone is truest 180 km from its meridian, not on it: the middle alone would tell another story."""
    wide = distortion.over(project_crs("EPSG:32628"), (-18.0, 61.0, -12.0, 62.0))
    assert wide is not None
    assert wide.smallest == pytest.approx(0.9996, abs=1e-6)
    assert wide.largest > 0.99988
    assert wide.corners[0] == pytest.approx(-wide.corners[1])


def test_parallels_by_the_one_sixth_rule() -> None:
    """Common practice: a sixth of the height inside either edge."""
    made = crs_build.proposed("lcc", (10.0, 30.0, 40.0, 60.0))
    assert (made.parallel_1, made.parallel_2) == (35.0, 55.0)
    assert made.longitude == 25.0
    x, y = crs_build.built(made).from_geographic(np.array([10.0, 40.0]), np.array([30.0, 60.0]))
    assert (y > 0).all()
    assert x[0] < 500_000 < x[1]


@pytest.mark.parametrize("method", crs_build.METHODS)
def test_every_method_proposes_what_serves(method: str) -> None:
    crs = crs_build.built(crs_build.proposed(method, QUENNET))
    found = distortion.over(crs, QUENNET)
    assert found is not None
    assert found.worst < 1e-4
    assert project_crs(crs.text) == crs
    x, y = crs.from_geographic(-14.75, 61.355)
    assert float(x) > 0
    assert float(y) > 0
    crs.check_place(float(x), float(y))


@pytest.mark.parametrize(
    ("changes", "why"),
    [
        ({"method": "mercury"}, "not a projection"),
        ({"parallel_1": 95.0}, "beyond a pole"),
        ({"parallel_1": 30.0, "parallel_2": -30.0}, "no cone"),
        ({"scale": 9.0}, "far from 1"),
        ({"base": "EPSG:32628"}, "not a geographic"),
        ({"base": "nowhere"}, "make no system"),
        ({"unit": "ell"}, "not a unit"),
        ({"longitude": float("nan")}, "not a number"),
    ],
)
def test_bad_parameters_are_refused(changes: dict[str, object], why: str) -> None:
    good: dict[str, object] = {
        "method": "lcc",
        "latitude": 61.0,
        "longitude": -14.75,
        "parallel_1": 61.1,
        "parallel_2": 61.4,
    }
    with pytest.raises(CrsRefused, match=why):
        crs_build.built(crs_build.Parameters(**(good | changes)))  # type: ignore[arg-type]

"""Projections against published worked examples.

Sources: J. P. Snyder, Map Projections: A Working Manual, USGS Professional Paper 1395 (numerical examples);
IOGP Geomatics Guidance Note 7, part 2. The figures were written down from memory of these sources.
"""

from __future__ import annotations

import numpy as np
import pytest

from orvik.core.crs import project_crs

CLARKE = "+ellps=clrk66 +units=m +no_defs +type=crs"
SNYDER = {
    "Lambert conformal conic": (
        f"+proj=lcc +lat_1=33 +lat_2=45 +lat_0=23 +lon_0=-96 {CLARKE}", (-75.0, 35.0), (1_894_410.9, 1_564_649.5), 0.05),
    "Albers equal-area conic": (
        f"+proj=aea +lat_1=29.5 +lat_2=45.5 +lat_0=23 +lon_0=-96 {CLARKE}", (-75.0, 35.0), (1_885_472.7, 1_535_925.0), 0.05),
    "UTM zone 18": (f"+proj=utm +zone=18 {CLARKE}", (-73.5, 40.5), (627_106.5, 4_484_124.4), 0.05),
}  # fmt: skip
IOGP = {
    "EPSG:32040 Lambert 2SP, US survey feet": ("EPSG:32040", (-96.0, 28.5), (2_963_503.91, 254_759.80), 0.005),
    "EPSG:24200 Lambert 1SP": (
        "EPSG:24200", (-(76 + 56 / 60 + 37.26 / 3600), 17 + 55 / 60 + 55.80 / 3600), (255_966.58, 142_493.51), 0.005),
    "EPSG:27700 transverse Mercator": ("EPSG:27700", (0.5, 50.5), (577_274.99, 69_740.50), 0.015),
    "EPSG:3174 Albers": ("EPSG:3174", (-78.75, 42.75), (1_466_493.492, 702_903.006), 0.0005),
}  # fmt: skip


@pytest.mark.parametrize("name", [*SNYDER, *IOGP])
def test_forward_and_back(name: str) -> None:
    system, place, expected, tolerance = {**SNYDER, **IOGP}[name]
    crs = project_crs(system)
    x, y = crs.from_geographic(*place)
    assert float(x) == pytest.approx(expected[0], abs=tolerance)
    assert float(y) == pytest.approx(expected[1], abs=tolerance)
    longitude, latitude = crs.to_geographic(float(x), float(y))
    assert (float(longitude), float(latitude)) == pytest.approx(place, abs=1e-9)


@pytest.mark.parametrize(("name", "factor"), [("Lambert conformal conic", 0.9970), ("UTM zone 18", 0.9998)])
def test_scale_factor(name: str, factor: float) -> None:
    """Snyder's examples give k for both; a conformal projection has it in both directions."""
    system, place, _, _ = SNYDER[name]
    crs = project_crs(system)
    along, across = crs.scale_factor(*crs.from_geographic(*place))
    assert float(along) == pytest.approx(factor, abs=5e-5)
    assert float(across) == pytest.approx(float(along), abs=1e-7)


def test_convergence_against_the_spherical_rule() -> None:
    """tan(convergence) = tan(dlon) sin(lat) on the sphere: J. P. Snyder, USGS PP 1395, chapter on transverse Mercator (memory).

    The ellipsoidal value differs by less than 0.01 degrees within a UTM zone.
    """
    crs = project_crs("EPSG:32628")
    for longitude in (-17.0, -15.0, -13.5):
        for latitude in (10.0, 45.0, 61.0):
            x, y = crs.from_geographic(longitude, latitude)
            delta = np.radians(longitude + 15)
            expected = np.degrees(np.arctan(np.tan(delta) * np.sin(np.radians(latitude))))
            assert float(crs.convergence(x, y)) == pytest.approx(expected, abs=0.01)


def test_feet_are_converted() -> None:
    """A US survey foot is 1200/3937 m (US National Bureau of Standards, 1959)."""
    assert project_crs("EPSG:32040").metres_per_unit == pytest.approx(1200 / 3937, rel=1e-12)

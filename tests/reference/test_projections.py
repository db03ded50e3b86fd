"""Projections against published worked examples.

Sources: J. P. Snyder, Map Projections: A Working Manual, USGS Professional Paper 1395 (numerical examples);
IOGP Geomatics Guidance Note 7, part 2. The figures were written down from memory of these sources.
"""

from __future__ import annotations

import numpy as np
import pytest
from pyproj import Proj

from orvik.core.ground import crs_build, distortion
from orvik.core.ground.crs import project_crs

CLARKE = "+ellps=clrk66 +units=m +no_defs +type=crs"
SNYDER = {
    "Lambert conformal conic": (
        f"+proj=lcc +lat_1=33 +lat_2=45 +lat_0=23 +lon_0=-96 {CLARKE}",
        (-75.0, 35.0),
        (1_894_410.9, 1_564_649.5),
        0.05,
    ),
    "Albers equal-area conic": (
        f"+proj=aea +lat_1=29.5 +lat_2=45.5 +lat_0=23 +lon_0=-96 {CLARKE}",
        (-75.0, 35.0),
        (1_885_472.7, 1_535_925.0),
        0.05,
    ),
    "UTM zone 18": (f"+proj=utm +zone=18 {CLARKE}", (-73.5, 40.5), (627_106.5, 4_484_124.4), 0.05),
}
IOGP = {
    "EPSG:32040 Lambert 2SP, US survey feet": ("EPSG:32040", (-96.0, 28.5), (2_963_503.91, 254_759.80), 0.005),
    "EPSG:24200 Lambert 1SP": (
        "EPSG:24200",
        (-(76 + 56 / 60 + 37.26 / 3600), 17 + 55 / 60 + 55.80 / 3600),
        (255_966.58, 142_493.51),
        0.005,
    ),
    "EPSG:27700 transverse Mercator": ("EPSG:27700", (0.5, 50.5), (577_274.99, 69_740.50), 0.015),
    "EPSG:3174 Albers": ("EPSG:3174", (-78.75, 42.75), (1_466_493.492, 702_903.006), 0.0005),
}


@pytest.mark.parametrize("name", [*SNYDER, *IOGP])
def test_forward_and_back(name: str) -> None:
    system, place, expected, tolerance = {**SNYDER, **IOGP}[name]
    crs = project_crs(system)
    x, y = crs.from_geographic(*place)
    assert float(x) == pytest.approx(expected[0], abs=tolerance)
    assert float(y) == pytest.approx(expected[1], abs=tolerance)
    longitude, latitude = crs.to_geographic(float(x), float(y))
    assert (float(longitude), float(latitude)) == pytest.approx(place, abs=1e-9)


CLARKE_BASE = "+proj=longlat +ellps=clrk66 +type=crs"
# The same examples by their parameters: base, unit and numbers as the sources print them.
BUILT = {
    "Lambert conformal conic": crs_build.Parameters(
        "lcc", latitude=23, longitude=-96, parallel_1=33, parallel_2=45, base=CLARKE_BASE
    ),
    "Albers equal-area conic": crs_build.Parameters(
        "albers", latitude=23, longitude=-96, parallel_1=29.5, parallel_2=45.5, base=CLARKE_BASE
    ),
    "UTM zone 18": crs_build.Parameters(
        "tm", latitude=0, longitude=-75, scale=0.9996, false_easting=500_000, base=CLARKE_BASE
    ),
    "EPSG:32040 Lambert 2SP, US survey feet": crs_build.Parameters(
        "lcc",
        latitude=27 + 50 / 60,
        longitude=-99,
        parallel_1=28 + 23 / 60,
        parallel_2=30 + 17 / 60,
        false_easting=2_000_000,
        unit="US survey foot",
        base="EPSG:4267",
    ),
    "EPSG:24200 Lambert 1SP": crs_build.Parameters(
        "lcc1", latitude=18, longitude=-77, false_easting=250_000, false_northing=150_000, base="EPSG:4242"
    ),
    "EPSG:27700 transverse Mercator": crs_build.Parameters(
        "tm",
        latitude=49,
        longitude=-2,
        scale=0.9996012717,
        false_easting=400_000,
        false_northing=-100_000,
        base="EPSG:4277",
    ),
    "EPSG:3174 Albers": crs_build.Parameters(
        "albers",
        latitude=45.568977,
        longitude=-84.455955,
        parallel_1=42.122774,
        parallel_2=49.01518,
        false_easting=1_000_000,
        false_northing=1_000_000,
        base="EPSG:4269",
    ),
}


@pytest.mark.parametrize("name", BUILT)
def test_own_systems_by_parameters(name: str) -> None:
    _, place, expected, tolerance = {**SNYDER, **IOGP}[name]
    crs = crs_build.built(BUILT[name])
    x, y = crs.from_geographic(*place)
    assert (float(x), float(y)) == pytest.approx(expected, abs=tolerance)


@pytest.mark.parametrize(("name", "factor"), [("Lambert conformal conic", 0.9970), ("UTM zone 18", 0.9998)])
def test_scale_factor(name: str, factor: float) -> None:
    """Snyder's examples give k for both; a conformal projection has it in both directions."""
    system, place, _, _ = SNYDER[name]
    found = distortion.tissot(project_crs(system), np.array(place[0]), np.array(place[1]))
    assert float(found.largest) == pytest.approx(factor, abs=5e-5)
    assert float(found.smallest) == pytest.approx(float(found.largest), abs=1e-7)


def test_albers_keeps_areas() -> None:
    """Snyder, the same example: the product of h and k is 1, though neither is."""
    system, place, _, _ = SNYDER["Albers equal-area conic"]
    found = distortion.tissot(project_crs(system), np.array(place[0]), np.array(place[1]))
    assert abs(float(found.parallel) - 1) > 0.005
    assert float(found.area) == pytest.approx(1, abs=1e-8)


@pytest.mark.parametrize(
    "system",
    [
        "+proj=lcc +lat_1=33 +lat_2=45 +lat_0=23 +lon_0=-96",
        "+proj=aea +lat_1=29.5 +lat_2=45.5 +lat_0=23 +lon_0=-96",
        "+proj=utm +zone=14",
        "+proj=laea +lat_0=40 +lon_0=-98",
        "+proj=stere +lat_0=41 +lon_0=-99 +k=0.9999",
        "+proj=merc +lon_0=-100",
        "+proj=cass +lat_0=40 +lon_0=-97",
        "+proj=poly +lat_0=38 +lon_0=-98",
    ],
)
def test_indicatrix_against_proj(system: str) -> None:
    """PROJ's own analytical factors (proj_factors, through pyproj.Proj.get_factors) at a grid of places."""
    text = f"{system} +ellps=GRS80 +units=m +no_defs"
    longitude, latitude = distortion.places((-100.0, 37.0, -95.0, 43.0), 7)
    found = distortion.tissot(project_crs(f"{text} +type=crs"), longitude, latitude)
    theirs = Proj(text).get_factors(longitude, latitude)
    for ours, reference in (
        (found.meridian, theirs.meridional_scale),
        (found.parallel, theirs.parallel_scale),
        (found.area, theirs.areal_scale),
        (found.largest, theirs.tissot_semimajor),
        (found.smallest, theirs.tissot_semiminor),
        (found.angle, theirs.angular_distortion),
    ):
        assert ours == pytest.approx(np.asarray(reference), abs=2e-6)
    crs = project_crs(f"{text} +type=crs")
    turned = crs.convergence(*crs.from_geographic(longitude, latitude))
    assert turned == pytest.approx(np.asarray(theirs.meridian_convergence), abs=1e-5)


def test_convergence_against_the_spherical_rule() -> None:
    """tan(convergence) = tan(dlon) sin(lat) on the sphere.

    J. P. Snyder, USGS PP 1395, chapter on transverse Mercator (memory).

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

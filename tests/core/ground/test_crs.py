from __future__ import annotations

import numpy as np
import pyproj
import pytest
import shapely
import shapely.affinity
from pyproj.database import query_crs_info
from pyproj.enums import PJType

from orvik.core.drawing.validity import checked
from orvik.core.errors import CoordinateRefused, CrsRefused
from orvik.core.features.feature import Feature
from orvik.core.ground import crs_search
from orvik.core.ground.border import corners_of, geographic_border, grid_border
from orvik.core.ground.crs import ProjectCrs, project_crs
from orvik.core.ground.scale import Scales
from orvik.core.sheet.panels.map_context import MapContext
from orvik.core.sheet.parts.system_lines import credit_lines
from orvik.core.symbols.book_file import standard
from tests.examples import drawn

# pyproj's database is the reference for which systems there are; the reasons are ours.


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("EPSG:4326", "degrees"),
        ("EPSG:999999", "not a coordinate system"),
        ("", "No coordinate system"),
        ("EPSG:4978", "not a projected"),
        ("EPSG:2065", "south and west|west"),
        ("nonsense", "not a coordinate system"),
        ("EPSG:7405", "joins several"),
    ],
)
def test_what_cannot_serve_is_refused_with_the_reason(text: str, why: str) -> None:
    with pytest.raises(CrsRefused, match=why):
        project_crs(text)


def test_names_of_one_system_are_one() -> None:
    assert project_crs("32628") == project_crs("EPSG:32628") == project_crs("epsg:32628")


def test_own_system_keeps_its_definition() -> None:
    own = project_crs("+proj=lcc +lat_1=60 +lat_2=62 +lat_0=61 +lon_0=-15 +ellps=GRS80 +units=m +type=crs")
    assert own.text.startswith("PROJCRS[")
    assert project_crs(own.text) == own


def test_search_by_code_and_words() -> None:
    assert crs_search.search("32628")[0].code == "EPSG:32628"
    assert "EPSG:32628" in [c.code for c in crs_search.search("wgs 84 utm 28n")][:1]
    assert crs_search.search("british national grid")[0].code == "EPSG:27700"
    assert crs_search.search("iceland lambert")[0].code == "EPSG:8088"
    assert crs_search.search("qqqq zzzz") == []
    refused = crs_search.search("EPSG:4326")[0]
    assert refused.refusal is not None
    assert "degrees" in refused.refusal


def test_refused_candidates_stand_last() -> None:
    found = crs_search.search("lambert iceland", 12)
    refusals = [c.refusal is not None for c in found]
    assert refusals == sorted(refusals)
    assert any(refusals)


def test_places(crs: ProjectCrs) -> None:
    crs.check_place(513_000, 6_803_000)
    for x, y, why in (
        (-14.7, 61.3, "look like degrees"),
        (float("nan"), 6_803_000, "not a number"),
        (6_803_000, 513_000, "order"),
        (513_000, 68_030_000, "far outside"),
    ):
        with pytest.raises(CoordinateRefused, match=why):
            crs.check_place(x, y)


def test_grid_border(crs: ProjectCrs) -> None:
    line = grid_border(crs, "510 000", "6 800 000", "515 000", "6 804 000")
    assert line.is_closed
    assert line.bounds == (510_000, 6_800_000, 515_000, 6_804_000)
    with pytest.raises(CoordinateRefused, match="swap the two eastings"):
        grid_border(crs, "515000", "6800000", "510000", "6804000")


def test_quadrangle_curves(crs: ProjectCrs) -> None:
    """On the grid a parallel bulges; its middle lies off the chord by about L² tan(lat) / 8R."""
    line = geographic_border(crs, "15°30' W", "61°15' N", "14°30' W", "61°30' N")
    south = [p for p in line.coords if abs(crs.to_geographic(*p)[1] - 61.25) < 1e-9]
    middle = min(south, key=lambda p: abs(crs.to_geographic(*p)[0] + 15))
    chord = (south[0][1] + next(p for p in south if abs(crs.to_geographic(*p)[0] + 14.5) < 1e-9)[1]) / 2
    length = 53_600.0
    expected = length**2 * 1.823 / (8 * 6_390_000)
    assert chord - middle[1] == pytest.approx(expected, rel=0.05)
    with pytest.raises(CoordinateRefused, match="swap the two latitudes"):
        geographic_border(crs, "15 W", "62 N", "14 W", "61 N")


def test_a_border_is_typed_again_as_it_was_whatever_has_ended_on_it() -> None:
    """Random borders, with vertices where something snapped to them: typed again from their corners they are equal."""
    rng = np.random.default_rng(7)
    for code in ("EPSG:32628", "EPSG:27572", "EPSG:2154", "EPSG:3338", "EPSG:3460", "EPSG:2264"):
        crs = project_crs(code)
        west, south, east, north = pyproj.CRS(code).area_of_use.bounds  # type: ignore[union-attr]
        for kind in ("grid", "geographic") * 4:
            lon = west + 0.3 * ((east - west) % 360) + round(float(rng.uniform(0, 1)), 1)
            lat = south + 0.4 * (north - south) + round(float(rng.uniform(0, 1)), 1)
            width = float(rng.choice([0.125, 0.25, 1 / 3, 0.12345]))
            if kind == "geographic":
                words = [
                    f"{v:.9f}" for v in ((lon + 180) % 360 - 180, lat, (lon + width + 180) % 360 - 180, lat + width)
                ]
                line = geographic_border(crs, *words)
            else:
                x, y = (float(v[0]) for v in crs.from_geographic(np.array([lon]), np.array([lat])))
                x, y = round(x, int(rng.integers(0, 4))), round(y, int(rng.integers(0, 4)))
                line = grid_border(crs, *map(str, (x, y, x + 5000.5, y + 4000.125)))
            ring = np.array(line.coords)
            for _ in range(12):
                at = int(rng.integers(1, len(ring)))
                ring = np.insert(ring, at, ring[at - 1] + rng.uniform(0.1, 0.9) * (ring[at] - ring[at - 1]), axis=0)
            start = int(rng.integers(0, len(ring) - 1))
            ring = np.vstack([ring[start:-1], ring[: start + 1]])
            found = corners_of(shapely.LineString(ring), crs)
            assert found is not None, (code, kind)
            assert found.geographic == (kind == "geographic"), (code, kind)
            make = geographic_border if found.geographic else grid_border
            again = make(crs, found.west, found.south, found.east, found.north)
            tolerance = 2e-6 * float(np.hypot(*np.ptp(ring, axis=0)))
            assert shapely.hausdorff_distance(again, line) <= tolerance, (code, kind)
            # Turned or bent it has none.
            assert corners_of(shapely.affinity.rotate(line, 3), crs) is None
            dented = ring.copy()
            dented[3] += 0.02 * np.ptp(ring, axis=0)
            dented[-1] = dented[0]
            assert corners_of(shapely.LineString(dented), crs) is None


def test_a_pasted_definition_is_found_for_what_it_is() -> None:
    found = crs_search.search("+proj=lcc +lat_1=61 +lat_2=62 +lat_0=60 +lon_0=-15 +datum=WGS84 +type=crs")
    assert [c.refusal for c in found] == [None]
    assert project_crs(found[0].code).method == "Lambert Conic Conformal (2SP)"
    assert crs_search.search(project_crs("EPSG:32628").text)[0].code == "EPSG:32628"
    bad = crs_search.search("+proj=longlat +datum=WGS84 +type=crs")[0]
    assert bad.refusal is not None
    assert "degrees" in bad.refusal


NORTH_POLAR = [
    3408,
    3411,
    3413,
    3571,
    3572,
    3573,
    3574,
    3575,
    3576,
    3973,
    3995,
    3996,
    5041,
    5921,
    5940,
    6070,
    32661,
    6931,
    5936,
]


@pytest.mark.parametrize("code", [*NORTH_POLAR, 3031, 32761, 5042])
def test_polar_systems_serve_though_their_axes_run_south(code: int) -> None:
    """What PROJ's axes are called does not tell; the handedness of the map does: turning left on the ground is left."""
    crs = project_crs(f"EPSG:{code}")
    area = crs.area
    assert area is not None
    latitude = (area.south + area.north) / 2
    width = (area.east - area.west) % 360 or 360
    for share in (0.1, 0.3, 0.5, 0.7, 0.9):
        longitude = (area.west + share * width + 180) % 360 - 180
        (x, y), (ex, ey), (nx, ny) = (
            [float(v) for v in crs.from_geographic(longitude + a, latitude + b)]
            for a, b in ((0, 0), (1e-4, 0), (0, 1e-4))
        )
        assert (ex - x) * (ny - y) - (ey - y) * (nx - x) > 0
        crs.check_place(x, y)


@pytest.mark.parametrize("code", [2053, 2065, 5513, 2218])
def test_systems_that_count_westward_or_southward_are_refused(code: int) -> None:
    with pytest.raises(CrsRefused, match="mirrored or turned"):
        project_crs(f"EPSG:{code}")


@pytest.mark.parametrize(
    ("code", "longitude"), [(32601, -179.9), (32601, 179.5), (32660, -179.5), (32660, 178.0), (3832, -179.9)]
)
def test_ground_across_180_degrees_is_within_the_margin(code: int, longitude: float) -> None:
    crs = project_crs(f"EPSG:{code}")
    crs.check_place(*(float(v) for v in crs.from_geographic(longitude, 52.0)))


def test_far_from_180_degrees_is_still_far() -> None:
    crs = project_crs("EPSG:32601")
    with pytest.raises(CoordinateRefused, match="far outside"):
        crs.check_place(*(float(v) for v in crs.from_geographic(-166.0, 52.0)))


def test_only_the_vertices_of_a_feature_count_and_not_the_corners_of_the_box_around_it(crs: ProjectCrs) -> None:
    # Within three degrees of 18 W to 12 W at both ends, but for the box that both ends span at the top.
    west, east = crs.from_geographic(-20.9, 20.0), crs.from_geographic(-20.95, 70.0)
    line = shapely.LineString([(float(west[0]), float(west[1])), (float(east[0]), float(east[1]))])
    corner = (line.bounds[0], line.bounds[3])
    with pytest.raises(CoordinateRefused):
        crs.check_place(*corner)
    checked(Feature("lines", line, "contact"), crs, standard(), set())


def test_own_systems_say_what_they_are() -> None:
    crs = project_crs("+proj=lcc +lat_1=60 +lat_2=62 +lat_0=61 +lon_0=-15 +x_0=500000 +ellps=GRS80 +units=m +type=crs")
    assert crs.name == "Custom Lambert Conic Conformal (2SP)"
    context = MapContext("P", crs, Scales(25_000, 6_250), standard(), {}, {}, None)
    words = " ".join(credit_lines(context))
    assert "nknown" not in words
    for figure in ("60°", "62°", "61°", "−15°", "500\u2009000 m"):
        assert figure in words


@pytest.mark.parametrize("text", ["EPSG:32628", "EPSG:27700", "EPSG:2154", "EPSG:3031", "EPSG:3832", "EPSG:2056"])
def test_one_place_is_judged_like_many(text: str) -> None:
    """The quick look at a single place lets through what the rule for many places lets through, and nothing else."""
    crs = project_crs(text)
    rng = np.random.default_rng(12)
    places = np.concatenate([rng.normal(0, scale, (150, 2)) for scale in (1e2, 1e5, 1e6, 5e6, 1e8)])
    if crs.area_bounds():
        west, south, east, north = crs.area_bounds() or (0.0, 0.0, 0.0, 0.0)
        reach = np.array([east - west, north - south])
        places = np.concatenate([places, (west, south) + reach * rng.uniform(-0.2, 1.2, (400, 2))])
    odd = [(np.nan, 0.0), (0.0, np.inf), (1e300, 1e300), (0.0, 0.0)]
    for x, y in [*places.tolist(), *odd]:
        verdicts = []
        for judge in (lambda: crs.check_place(x, y), lambda: crs.check_places(np.array([[x, y]]))):  # noqa: B023
            try:
                judge()
                verdicts.append("")
            except CoordinateRefused as refusal:
                verdicts.append(refusal.sentence)
        assert verdicts[0] == verdicts[1], (x, y)


def whole_area_systems() -> list[str]:
    """National systems, drawn from the database, whose area of use is not a more than 90 degrees wide."""
    infos = query_crs_info(auth_name="EPSG", pj_types=[PJType.PROJECTED_CRS], allow_deprecated=False)
    wide = [i for i in infos if i.area_of_use and 5 < i.area_of_use.east - i.area_of_use.west < 90]
    return drawn([f"EPSG:{i.code}" for i in wide], 60, ("EPSG:5070", "EPSG:3347", "EPSG:2154"))


def test_a_border_over_the_whole_area_of_use_is_refused_only_where_the_system_fails_there() -> None:
    """Against PROJ: refused is what does not come back, or where lengths are off by more than a tenth."""
    taken = 0
    for text in whole_area_systems():
        try:
            crs = project_crs(text)
        except CrsRefused:
            continue
        bounds = crs.area_bounds()
        if bounds is None:
            continue
        west, south, east, north = bounds
        corners = np.array([(west, south), (east, south), (east, north), (west, north)])
        longitude, latitude = crs.to_geographic(corners[:, 0], corners[:, 1])
        back = np.column_stack(crs.from_geographic(longitude, latitude))
        away = np.hypot(*(back - corners).T) * crs.metres_per_unit
        factors = pyproj.Proj(text).get_factors(longitude, latitude)
        off = np.maximum(np.abs(factors.tissot_semimajor - 1), np.abs(factors.tissot_semiminor - 1))
        near = crs.area.holds(longitude, latitude, 3.0) if crs.area else np.zeros(4, dtype=bool)
        # Corners of the box lie outside the area by less than half of its shorter side, as far as it can be shown.
        beside = crs.area.holds(longitude, latitude, crs.area.half) if crs.area else np.ones(4, dtype=bool)
        fine = bool(((away < 9e-4) & (((off < 0.097) & beside) | near)).all())
        bad = bool((~(away < 1.0) | ((off > 0.103) & ~near)).any())
        try:
            crs.check_places(corners)
            taken += 1
            assert not bad, text
        except CoordinateRefused:
            assert not fine, text
    assert taken > 30
    project_crs("EPSG:5070").check_places(np.array([project_crs("EPSG:5070").area_bounds()]).reshape(2, 2))

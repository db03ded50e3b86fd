"""A project begun from files: their system, a border around all of them, and a scale that suits both page and lines."""

from __future__ import annotations

import random
import re
from pathlib import Path

import numpy as np
import pyogrio
import pyproj
import pytest
import shapely
from fastapi.testclient import TestClient

from orvik.core.errors import FileRefused
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.core.sheet.templates.fitting import check_size
from orvik.store.project import Project
from orvik.usecases.ground.border import Corners, border_of
from orvik.usecases.intake.beginning import Beginning, beginning_of
from orvik.web.app import create_app


def written(path: Path, geometries: list[shapely.Geometry], crs: str | None, driver: str) -> Path:
    kind = geometries[0].geom_type
    names = np.array([f"n{i}" for i in range(len(geometries))], dtype=object)
    shapes = np.array([g.wkb for g in geometries], dtype=object)
    pyogrio.raw.write(path, shapes, [names], ["name"], geometry_type=kind, crs=crs, driver=driver)
    return path


def squares(west: float, south: float, side: float, count: int = 4) -> list[shapely.Geometry]:
    return [shapely.box(west + i * side, south, west + (i + 1) * side, south + side) for i in range(count)]


def assert_holds(found: Beginning, crs_text: str, *geometries: shapely.Geometry) -> None:
    """The border is one that may be kept, and holds all that the files do."""
    crs = project_crs(found.crs)
    corners = Corners(found.corners.west, found.corners.south, found.corners.east, found.corners.north)
    border = border_of(corners, crs, Scales(found.publication, found.digitizing))
    check_size(border.geometry, crs, found.publication)
    way = pyproj.Transformer.from_crs(crs_text, pyproj.CRS(found.crs), always_xy=True)
    frame = shapely.box(*border.geometry.bounds)
    for geometry in geometries:
        xy = shapely.get_coordinates(geometry)
        assert shapely.contains_xy(frame, *way.transform(xy[:, 0], xy[:, 1])).all()


def test_a_projected_file_gives_its_system(tmp_path: Path) -> None:
    areas = squares(512_345, 6_800_123, 1_000)
    found = beginning_of([written(tmp_path / "Old_sheet.gpkg", areas, "EPSG:32628", "GPKG")])
    assert (found.name, found.crs) == ("Old sheet", "EPSG:32628")
    assert_holds(found, "EPSG:32628", *areas)
    # Round coordinates, and no more than a twentieth of the ground beside it.
    assert all(float(v) % 100 == 0 for v in (found.corners.west, found.corners.south))
    assert float(found.corners.east) - float(found.corners.west) < 1.25 * 4_000


@pytest.mark.parametrize("place", [(-14.75, 61.35), (117.5, -22.6), (179.9, -16.5), (8.0, 46.9), (-71.0, -33.0)])
def test_degrees_get_the_truest_system_for_where_they_lie(tmp_path: Path, place: tuple[float, float]) -> None:
    west, south = place
    areas = squares(west, south, 0.02)
    found = beginning_of([written(tmp_path / "a.geojson", areas, "EPSG:4326", "GeoJSON")])
    crs = pyproj.CRS(found.crs)
    assert crs.is_projected
    factor = pyproj.Proj(crs).get_factors(west + 0.04, south + 0.01)
    assert abs(factor.meridional_scale - 1) < 5e-4
    assert_holds(found, "EPSG:4326", *[g for g in areas if shapely.bounds(g)[2] <= 180])


def test_lines_drawn_coarsely_are_not_enlarged(tmp_path: Path) -> None:
    """Vertices 500 m apart are drawn for 1:250 000, though the ground would fit a page at 1:25 000."""
    xy = [(512_000 + 500.0 * i, 6_800_000 + 300.0 * (i % 2)) for i in range(20)]
    coarse = beginning_of([written(tmp_path / "a.gpkg", [shapely.LineString(xy)], "EPSG:32628", "GPKG")])
    dense = shapely.segmentize(shapely.LineString(xy), 20)
    fine = beginning_of([written(tmp_path / "b.gpkg", [dense], "EPSG:32628", "GPKG")])
    assert coarse.publication >= 250_000
    assert fine.publication <= 25_000
    assert any("vertices lie" in words for words in coarse.words)


def test_any_ground_gets_a_border_that_may_be_kept(tmp_path: Path) -> None:
    rng = random.Random(4)
    for i in range(12):
        side = 10 ** rng.uniform(0.5, 5)
        west, south = rng.uniform(300_000, 600_000), rng.uniform(5_000_000, 7_000_000)
        areas = [shapely.segmentize(area, side / 40) for area in squares(west, south, side, 1)]
        found = beginning_of([written(tmp_path / f"a{i}.gpkg", areas, "EPSG:32633", "GPKG")])
        assert_holds(found, "EPSG:32633", *areas)


def test_files_that_say_nothing_are_named(tmp_path: Path) -> None:
    broken, table = tmp_path / "broken.gpkg", tmp_path / "readings.csv"
    broken.write_bytes(b"no file of features")
    table.write_text("easting,northing,strike,dip\n512000,6800000,45,30\n")
    with pytest.raises(FileRefused, match=r"None of these files.*broken\.gpkg.*readings\.csv"):
        beginning_of([broken, table])
    sound = written(tmp_path / "sound.gpkg", squares(512_000, 6_800_000, 1_000), "EPSG:32628", "GPKG")
    found = beginning_of([sound, table, broken])
    assert [bool(file.why) for file in found.files] == [False, True, True]


def test_a_lexicon_is_taken_for_units_and_lines_come_before_areas(tmp_path: Path) -> None:
    areas = written(tmp_path / "a.gpkg", squares(512_000, 6_800_000, 1_000), "EPSG:32628", "GPKG")
    line = shapely.LineString([(512_000, 6_800_000), (514_000, 6_801_000)])
    lines = written(tmp_path / "z.gpkg", [line], "EPSG:32628", "GPKG")
    places = written(tmp_path / "b.gpkg", [shapely.Point(512_500, 6_800_500)], "EPSG:32628", "GPKG")
    lexicon = tmp_path / "lexicon.csv"
    lexicon.write_text("code,name,colour\nJh,Harrack,F4E6A8\nKp,Kelp,0/10/20/0\nwith space,wrong,0\n")
    found = beginning_of([lexicon, places, areas, lines])
    assert [file.name for file in found.files] == ["z.gpkg", "a.gpkg", "b.gpkg", "lexicon.csv"]
    assert [file.units for file in found.files] == [0, 0, 0, 2]
    assert [file.place for file in found.files] == [3, 2, 1, 0]


def test_files_are_dropped_and_come_in_one_after_the_other(tmp_path: Path) -> None:
    folder = tmp_path / "projects"
    folder.mkdir()
    written(tmp_path / "areas.shp", squares(512_000, 6_800_000, 1_000), "EPSG:32628", "ESRI Shapefile")
    table = tmp_path / "readings.csv"
    table.write_text("easting,northing,strike,dip\n512500,6800500,45,30\n")
    parts = sorted(p for p in tmp_path.iterdir() if p.stem == "areas") + [table]
    assert len(parts) >= 4
    with TestClient(create_app(folder), base_url="http://127.0.0.1:8460") as client:
        sent = [("files", (part.name, part.read_bytes())) for part in parts]
        onward = client.post("/begin", files=sent).headers["HX-Redirect"]
        shown = client.get(onward).text
        assert "4 features" in shown
        assert "is asked for when the file is imported" in shown
        assert re.search(r'value="EPSG:32628"[^>]*\s+checked', shown)
        fields = dict(
            re.findall(r'name="(west|south|east|north|name|publication|files)"[^>]*\s+value="([^"]*)"', shown)
        )
        fields |= {"crs": "EPSG:32628", "corners": "grid", "name": "Dropped", "publication": "1:10 000"}
        fields["files"] = onward.partition("=")[2]
        answer = client.post("/new", data=fields)
        page = answer.headers["HX-Redirect"]
        assert page.startswith("/p/dropped/import/")
        assert "?then=" in page
        token, then = page.removeprefix("/p/dropped/import/").split("?then=")
        assert "areas.shp" in client.get(page).text
        done = client.post(f"/p/dropped/import/{token}/keep", data={"then": then, "kind-areas": "unit_area"}).text
        assert "Next: readings.csv" in done
        assert f"/p/dropped/import/{then}" in done
        # One that was forgotten meanwhile leads nowhere.
        client.delete(f"/p/dropped/import/{then}")
        assert client.get("/new?files=" + "0" * 32).status_code == 404
        assert client.post("/begin", files=[("files", ("x.gpkg", b"none"))]).status_code == 204
    project = Project.open(folder / "dropped.gpkg")
    assert project.count("areas") == 4
    assert project.border() is not None
    project.close()

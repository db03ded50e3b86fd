"""Coordinates that are given on another datum lie where PROJ's shift puts them, whichever way they come in."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pyproj
import pytest
import shapely
from fastapi.testclient import TestClient

from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.store.creation import create
from orvik.store.project import opened_for_writing
from orvik.store.read_project import ReadProject
from orvik.usecases.compile.stations import keep_stations, read_stations, take_station
from orvik.usecases.export.data_export import export_data
from orvik.usecases.ground.border import Corners
from orvik.usecases.intake.import_features import import_file
from orvik.usecases.project.project import create_project
from orvik.web.app import create_app

# Systems on datums that lie 80 m and more from WGS 84, with a place in each (degrees, WGS 84).
SYSTEMS = [
    ("EPSG:27700", -3.10, 51.20),
    ("EPSG:23030", -3.20, 40.40),
    ("EPSG:26713", -105.20, 39.70),
    ("EPSG:31287", 13.40, 47.60),
    ("EPSG:28992", 5.40, 52.10),
    ("EPSG:5514", 15.50, 49.80),
    ("EPSG:27572", 2.50, 46.70),
    ("EPSG:32628", -14.75, 61.35),
]
TABLE = "station,longitude,latitude,strike,dip\nA1,{},{},40,30\n"


def made(tmp_path: Path, system: str, longitude: float, latitude: float, border: bool) -> Path:
    path = tmp_path / "there.gpkg"
    crs = project_crs(system)
    if not border:
        create(path, "There", crs, Scales(25_000, 6_250))
        return path
    x, y = (float(v) for v in crs.from_geographic(longitude, latitude))
    corners = Corners(str(x - 4000), str(y - 4000), str(x + 4000), str(y + 4000))
    create_project(path, "There", crs, Scales(25_000, 6_250), corners)
    return path


def in_the_system(system: str, longitude: float, latitude: float) -> tuple[float, float]:
    """Where the operation that PROJ itself chooses for the place puts it."""
    x, y = pyproj.Transformer.from_crs("EPSG:4326", system, always_xy=True).transform(longitude, latitude)
    return float(x), float(y)


def off(one: tuple[float, float], other: tuple[float, float]) -> float:
    return float(np.hypot(one[0] - other[0], one[1] - other[1]))


@pytest.mark.parametrize("border", [True, False])
@pytest.mark.parametrize(("system", "longitude", "latitude"), SYSTEMS)
def test_table_notebook_and_file_agree(
    tmp_path: Path, system: str, longitude: float, latitude: float, border: bool
) -> None:
    path = made(tmp_path, system, longitude, latitude, border)
    place = in_the_system(system, longitude, latitude)
    file = tmp_path / "one.geojson"
    shape = {"type": "Point", "coordinates": [longitude, latitude]}
    properties = {"kind": "bedding", "azimuth": 40, "inclination": 30}
    feature = {"type": "Feature", "geometry": shape, "properties": properties}
    file.write_text(json.dumps({"type": "FeatureCollection", "features": [feature]}))
    unshifted = project_crs(system).from_geographic(longitude, latitude)
    with opened_for_writing(path) as project:
        table = read_stations(project, TABLE.format(longitude, latitude), {})
        assert table.degrees
        assert len(table.new) == 1
        own = read_stations(project, TABLE.format(longitude, latitude), {}, "own").new[0]
        assert off((own.x, own.y), (float(unshifted[0]), float(unshifted[1]))) < 1e-6
        keep_stations(project, TABLE.format(longitude, latitude), "table.csv", {})
        take_station(project, "B2", longitude, latitude, "bedding", 50.0, 20.0, "")
        kept = {s.name: (s.x, s.y) for s in project.stations()}
        _, reading = import_file(project, file)
        points = project.features("points")
        ((x, y),) = shapely.get_coordinates(points.geometries)
    for found in (kept["A1"], kept["B2"], (x, y)):
        assert off(found, place) < 0.01
    shifted = off(place, (float(unshifted[0]), float(unshifted[1]))) > 1
    assert shifted == (system != "EPSG:32628")
    assert ("Datum shift" in table.shift) == shifted
    assert any("Datum shift" in note for note in reading.notes) == shifted


@pytest.mark.parametrize(("system", "longitude", "latitude"), SYSTEMS)
def test_what_goes_out_in_degrees_comes_in_where_it_was(
    tmp_path: Path, system: str, longitude: float, latitude: float
) -> None:
    path = made(tmp_path, system, longitude, latitude, True)
    with opened_for_writing(path) as project:
        take_station(project, "B2", longitude, latitude, "bedding", 50.0, 20.0, "")
        before = shapely.get_coordinates(project.features("lines").geometries)
        export_data(project, tmp_path / "out.geojson")
    said = json.loads((tmp_path / "out.geojson").read_text())
    corner = said["features"][0]["geometry"]["coordinates"][0]
    assert off(in_the_system(system, *corner), tuple(before[0])) < 0.01
    again = tmp_path / "again"
    again.mkdir()
    with opened_for_writing(made(again, system, longitude, latitude, False)) as project:
        import_file(project, tmp_path / "out.geojson")
        after = shapely.get_coordinates(project.features("lines").geometries)
    assert np.abs(after - before).max() < 0.01


def test_the_shift_is_said_on_the_page_and_can_be_another(tmp_path: Path) -> None:
    path = made(tmp_path, "EPSG:27700", -3.1, 51.2, True)
    with TestClient(
        create_app(tmp_path), base_url="http://127.0.0.1", headers={"Origin": "http://127.0.0.1"}
    ) as client:
        data = {"text": TABLE.format(-3.1, 51.2), "name": "table.csv"}
        text = client.post(f"/p/{path.stem}/notebook/preview", data=data).text
        assert "Datum shift" in text
        assert "WGS 84" in text
        text = client.post(f"/p/{path.stem}/notebook/preview", data=data | {"degrees_on": "own"}).text
        assert "Datum shift" not in text
        client.post(f"/p/{path.stem}/notebook/keep", data=data | {"degrees_on": "own"})
    project = ReadProject.open(path)
    try:
        (station,) = project.stations()
        want = project.crs.from_geographic(-3.1, 51.2)
        assert off((station.x, station.y), (float(want[0]), float(want[1]))) < 1e-6
    finally:
        project.close()

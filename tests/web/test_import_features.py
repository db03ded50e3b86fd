"""Features from files, as a client brings them in; the files are written by GDAL's own ogr2ogr."""

from __future__ import annotations

import re
import subprocess
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import shapely
from fastapi.testclient import TestClient

from orvik.exchange.features.fields import guessed, translated
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from orvik.web.app import create_app
from tests.web.ink import ink_of

BASE = "/p/isle-of-quennet/import"
LAYER = "/p/isle-of-quennet/underlays/4"


@pytest.fixture
def client(demo: Path) -> Iterator[TestClient]:
    with TestClient(create_app(demo.parent), base_url="http://127.0.0.1:8460") as client:
        yield client


def written(demo: Path, target: Path, layer: str = "points", *flags: str) -> Path:
    subprocess.run(["ogr2ogr", *flags, target, demo, layer], check=True, capture_output=True)
    return target


def zipped(folder: Path) -> Path:
    target = folder.with_suffix(".zip")
    with zipfile.ZipFile(target, "w") as archive:
        for file in folder.iterdir():
            archive.write(file, file.name)
    return target


def token_of(text: str) -> str:
    found = re.search(r"import/([0-9a-f]{32})/keep", text)
    assert found is not None
    return found[1]


@pytest.mark.parametrize("ending", ["gpkg", "geojson", "shp.zip", "kml", "fgb"])
def test_every_format_brings_the_same_places(client: TestClient, demo: Path, tmp_path: Path, ending: str) -> None:
    beds = ("-where", "kind='bedding'")
    if ending == "shp.zip":
        (tmp_path / "beds").mkdir()
        written(demo, tmp_path / "beds" / "beds.shp", "points", *beds)
        file = zipped(tmp_path / "beds")
    else:
        file = written(demo, tmp_path / f"beds.{ending}", "points", *beds)
    project = ReadProject.open(demo)
    old = project.features("points")
    beds_now = shapely.get_coordinates(old.select(old.column("kind") == "bedding").geometries)
    text = client.post(BASE, files={"file": (file.name, file.read_bytes())}).text
    assert f"{len(beds_now)} points" in text
    assert project.count("points") == len(old)
    answer = client.post(f"{BASE}/{token_of(text)}/keep", data=plan_of(text))
    assert f"{len(beds_now)} features" in answer.text
    new = project.features("points")
    added = new.select(new.ids > old.ids.max())
    places = shapely.get_coordinates(added.geometries)
    # Some formats lay features in an order of their own.
    nearest = shapely.STRtree(shapely.points(places)).nearest(shapely.points(beds_now))
    assert sorted(nearest.tolist()) == list(range(len(beds_now)))
    assert places[nearest] == pytest.approx(beds_now, abs=0.05)
    if ending != "kml":
        was = old.select(old.column("kind") == "bedding")
        assert [added.columns["azimuth"][i] for i in nearest] == was.columns["azimuth"]
    project.close()


def plan_of(text: str) -> dict[str, str]:
    """The form as the page would send it back."""
    plan: dict[str, str] = {}
    for name, body in re.findall(r'<select id="[\w-]+" name="([\w-]+)">(.*?)</select>', text, re.DOTALL):
        chosen = re.search(r'<option(?: value="(\w*)")? selected>([^<]*)<', body)
        plan[name] = (chosen[1] or chosen[2]) if chosen else ""
    stated = re.search(r'name="stated" value="([^"]+)"\s+checked', text)
    return plan | ({"stated": stated[1]} if stated else {})


def test_a_notebook_table_with_strikes(client: TestClient, demo: Path) -> None:
    table = (
        "station,Easting,Northing,Strike,Dip,Remarks\nA1,513000,6802000,350,60,by the burn\nA2,513200,6802100,005,66,\n"
    )
    text = client.post(BASE, files={"file": ("stations.csv", table.encode())}).text
    # It states no system: each answer says where it would put the stations; the only near one is taken.
    assert "on the sheet" in text
    assert "km from the sheet" in text or "cannot be" in text
    assert plan_of(text)["stated"] == "EPSG:32628"
    assert plan_of(text)["field-azimuth"] == "Strike"
    token = token_of(text)
    changed = plan_of(text) | {"kind-points": "bedding"}
    assert "2 points" in client.post(f"{BASE}/{token}/preview", data=changed).text
    client.post(f"{BASE}/{token}/keep", data=changed)
    project = Project.open(demo)
    last = project.feature("points", int(project.features("points").ids[-1]))
    assert (last.kind, last.azimuth, last.inclination) == ("bedding", 5, 66)
    project.undo()
    assert project.count("points") == last.id - 2  # type: ignore[operator]
    project.close()


def test_a_drawing_states_no_system_and_says_its_layers(client: TestClient, demo: Path, tmp_path: Path) -> None:
    """DXF has no coordinate system; its lines come in as what they are said to be."""
    file = written(
        demo,
        tmp_path / "lines.dxf",
        "lines",
        "-sql",
        "SELECT geom FROM lines WHERE kind = 'fault'",
        "-dialect",
        "SQLite",
    )
    text = client.post(BASE, files={"file": ("lines.dxf", file.read_bytes())}).text
    assert "on the sheet" in text
    project = ReadProject.open(demo)
    before = project.features("lines").columns["kind"].count("fault")
    changed = plan_of(text) | {"kind-lines": "fault", "field-kind": "", "field-map_unit": ""}
    assert f"{before} features" in client.post(f"{BASE}/{token_of(text)}/keep", data=changed).text
    assert project.features("lines").columns["kind"].count("fault") == 2 * before
    project.close()


def test_degrees_are_told_from_metres(client: TestClient) -> None:
    table = "name,lon,lat,dip direction,dip\nB,-14.75,61.35,80,60\n"
    text = client.post(BASE, files={"file": ("b.csv", table.encode())}).text
    assert plan_of(text).get("stated", "") in ("", "EPSG:4326", "EPSG:4230")
    assert text.count("on the sheet") >= 1


def test_new_units_are_named_before_they_are_made(client: TestClient, demo: Path, tmp_path: Path) -> None:
    file = written(
        demo,
        tmp_path / "areas.geojson",
        "areas",
        "-sql",
        "SELECT geom, 'X' || map_unit AS unit FROM areas",
        "-dialect",
        "SQLite",
    )
    text = client.post(BASE, files={"file": ("areas.geojson", file.read_bytes())}).text
    assert "new units" in text
    assert "XQt" in text


def test_a_reference_layer_is_seen_but_not_compiled(client: TestClient, demo: Path) -> None:
    line = (
        b'{"type":"FeatureCollection","features":[{"type":"Feature","properties":{},'
        b'"geometry":{"type":"LineString","coordinates":[[-14.76,61.355],[-14.72,61.355]]}}]}'
    )
    text = client.post(BASE, files={"file": ("road.geojson", line)}).text
    project = ReadProject.open(demo)
    before = project.count("lines")
    assert "reference layer" in client.post(f"{BASE}/{token_of(text)}/refer", data=plan_of(text)).text
    assert project.count("lines") == before
    x, y = (float(v) for v in project.crs.from_geographic(-14.74, 61.355))
    project.close()
    window = {
        "west": x - 500,
        "south": y - 500,
        "east": x + 500,
        "north": y + 500,
        "width": 200,
        "height": 200,
    }
    (road,) = ink_of(client.get(f"{LAYER}/ink", params=window).content)
    # Through the middle and on past both edges; its two ends are projected, what lies between is straight.
    assert np.interp(x, road[:, 0], road[:, 1]) == pytest.approx(y, abs=0.3)
    assert road[:, 0].min() < x - 500
    assert road[:, 0].max() > x + 500
    assert not ink_of(client.get(f"{LAYER}/ink", params=window | {"south": y + 900, "north": y + 1900}).content)
    assert client.get(f"{LAYER}.png", params=window).status_code == 204
    # A symbol of its own, and a row in the explanation of a panel that prints it.
    look = {"name": "Old roads", "colour": "#aa3377", "width": "0.5", "dash": "dashed", "explained": "true"}
    slip = client.post("/p/isle-of-quennet/underlays/4/slip", data=look).text
    assert "#AA3377" in slip
    assert "Old roads" not in explanation(client)
    panel = max(sheet_parts(client), key=lambda part: part["width"] * part["height"])
    opacity = {"layer": "underlay-4", "opacity": "100"}
    assert client.post(f"/p/isle-of-quennet/parts/{panel['id']}", data=opacity).status_code == 200
    assert "Old roads" in explanation(client)
    refused = client.post("/p/isle-of-quennet/underlays/4/slip", data=look | {"width": "99"})
    assert (refused.status_code, "0.05 to 5 mm" in refused.text) == (422, True)


def sheet_parts(client: TestClient) -> list[dict[str, Any]]:
    parts: list[dict[str, Any]] = client.get("/p/isle-of-quennet/sheets/1/ink").json()["parts"]
    return parts


def explanation(client: TestClient) -> str:
    number = str(next(part["id"] for part in sheet_parts(client) if part["label"] == "Explanation"))
    return str(client.get(f"/p/isle-of-quennet/sheets/1/drawn?parts={number}").json()[number])


@pytest.mark.parametrize(
    ("name", "data", "why"),
    [
        ("broken.gpkg", b"nothing", "cannot be read"),
        ("empty.geojson", b'{"type":"FeatureCollection","features":[]}', "holds no features"),
        ("table.csv", b"a,b\n1,2\n", "columns for x and y"),
    ],
)
def test_bad_files_leave_nothing(client: TestClient, demo: Path, name: str, data: bytes, why: str) -> None:
    answer = client.post(BASE, files={"file": (name, data)})
    assert answer.status_code == 422
    assert answer.headers["Orvik-Where"] == "file"
    assert why in answer.text
    assert list((demo.parent / ".import_features").iterdir()) == []


def test_what_cannot_be_kept_is_said_in_the_preview(client: TestClient, demo: Path) -> None:
    table = "Easting,Northing,Strike,Dip\n513000,6802000,400,60\n"
    text = client.post(BASE, files={"file": ("s.csv", table.encode())}).text
    assert "row 1" in text
    assert "not a direction" in text
    assert client.post(f"{BASE}/{token_of(text)}/keep", data=plan_of(text)).status_code == 422
    assert client.delete(f"{BASE}/{token_of(text)}").status_code == 200
    assert client.post(f"{BASE}/{token_of(text)}/keep", data={}).status_code == 404


def test_fields_are_guessed_and_translated() -> None:
    found = guessed(["OBJECTID", "MapUnit", "STRIKE", "Dip", "LocationConfidence", "Notes"])
    assert found.asks == {}
    assert found.fields == {
        "map_unit": "MapUnit",
        "azimuth": "STRIKE",
        "inclination": "Dip",
        "certainty": "LocationConfidence",
        "note": "Notes",
    }
    own = translated(
        {"DipDir": 10.0, "Dip": 35, "Conf": "Observed ", "k": "Fault Plane"},
        {"dip_direction": "DipDir", "inclination": "Dip", "certainty": "Conf", "kind": "k"},
    )
    # Right-hand rule: the plane dips to the right of its strike, so it strikes 90 degrees to the left of its dip.
    assert own == {"azimuth": 280.0, "inclination": 35.0, "certainty": "certain", "kind": "fault_plane"}
    assert translated({"s": 360, "d": 4}, {"azimuth": "s", "inclination": "d"})["azimuth"] == 0

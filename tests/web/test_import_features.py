"""Features from files, as a client brings them in; the files are written by GDAL's own ogr2ogr."""

from __future__ import annotations

import json
import re
import shutil
import subprocess
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import shapely
from fastapi.testclient import TestClient

from orvik.cli import main
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.exchange.mappings.guess import guessed
from orvik.store.journal import Change
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from orvik.usecases.project.project import create_project
from orvik.web.app import create_app
from tests.exchange.mappings.tables import fields_called, read_row
from tests.web.ink import ink_of
from tests.web.pages import Sent

BASE = "/p/isle-of-quennet/import"


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


def looked_at(client: TestClient, name: str, data: bytes) -> str:
    """The page of a file that is sent."""
    answer = client.post(BASE, files={"file": (name, data)})
    assert answer.status_code == 200, answer.text
    return client.get(answer.headers["HX-Redirect"]).text


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
    project = Project.open(demo)
    old = project.features("points")
    was = old.select(old.column("kind") == "bedding")
    beds_now = shapely.get_coordinates(was.geometries)
    # What is here already would be left out.
    project.apply("delete beddings", [Change("points", number, None) for number in was.ids.tolist()])
    text = looked_at(client, file.name, file.read_bytes())
    assert f"<dt>Points</dt><dd>{len(beds_now)}</dd>" in text
    assert project.count("points") == len(old) - len(was)
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
        assert [added.columns["azimuth"][i] for i in nearest] == was.columns["azimuth"]
    project.close()


def plan_of(text: str) -> dict[str, str]:
    """The form as the page would send it back."""
    return Sent(text).values


def field_of(text: str, attribute: str) -> str:
    """The field of the file that is taken for an attribute."""
    sent = plan_of(text)
    numbers = [name.removeprefix("means-") for name, value in sent.items() if value == attribute and "means-" in name]
    return ", ".join(sent[f"column-{number}"] for number in numbers)


def test_a_notebook_table_with_strikes(client: TestClient, demo: Path) -> None:
    table = (
        "station,Easting,Northing,Strike,Dip,Remarks\nA1,513000,6802000,350,60,by the burn\nA2,513200,6802100,005,66,\n"
    )
    text = looked_at(client, "stations.csv", table.encode())
    # It states no system: each answer says where it would put the stations; the only near one is taken.
    assert "on the sheet" in text
    assert "km from the sheet" in text or "cannot be" in text
    assert plan_of(text)["stated"] == "EPSG:32628"
    assert field_of(text, "azimuth") == "Strike"
    token = token_of(text)
    changed = plan_of(text) | {"kind-points": "bedding"}
    assert "<dt>Points</dt><dd>2</dd>" in client.post(f"{BASE}/{token}/preview", data=changed).text
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
    text = looked_at(client, "lines.dxf", file.read_bytes())
    assert "on the sheet" in text
    project = ReadProject.open(demo)
    kinds = project.features("lines").columns["kind"]
    before = kinds.count("fault")
    assert "reverse_fault" not in kinds
    unused = {name: "" for name in plan_of(text) if name.startswith("means-")}
    changed = plan_of(text) | {"kind-lines": "reverse_fault"} | unused
    assert f"{before} features" in client.post(f"{BASE}/{token_of(text)}/keep", data=changed).text
    assert project.features("lines").columns["kind"].count("reverse_fault") == before
    project.close()


def test_degrees_are_told_from_metres(client: TestClient) -> None:
    table = "name,lon,lat,dip direction,dip\nB,-14.75,61.35,80,60\n"
    text = looked_at(client, "b.csv", table.encode())
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
    text = looked_at(client, "areas.geojson", file.read_bytes())
    assert "New map units" in text
    assert "XQt" in text


def test_a_reference_layer_is_seen_but_not_compiled(client: TestClient, demo: Path) -> None:
    line = (
        b'{"type":"FeatureCollection","features":[{"type":"Feature","properties":{},'
        b'"geometry":{"type":"LineString","coordinates":[[-14.76,61.355],[-14.72,61.355]]}}]}'
    )
    text = looked_at(client, "road.geojson", line)
    project = ReadProject.open(demo)
    before = project.count("lines")
    assert "reference layer" in client.post(f"{BASE}/{token_of(text)}/refer", data=plan_of(text)).text
    assert project.count("lines") == before
    x, y = (float(v) for v in project.crs.from_geographic(-14.74, 61.355))
    number = max(source.id or 0 for source in project.sources())
    layer = f"/p/isle-of-quennet/underlays/{number}"
    project.close()
    window = {
        "west": x - 500,
        "south": y - 500,
        "east": x + 500,
        "north": y + 500,
        "width": 200,
        "height": 200,
    }
    (road,) = ink_of(client.get(f"{layer}/ink", params=window).content)
    # Through the middle and on past both edges; its two ends are projected, what lies between is straight.
    assert np.interp(x, road[:, 0], road[:, 1]) == pytest.approx(y, abs=0.3)
    assert road[:, 0].min() < x - 500
    assert road[:, 0].max() > x + 500
    assert not ink_of(client.get(f"{layer}/ink", params=window | {"south": y + 900, "north": y + 1900}).content)
    assert client.get(f"{layer}.png", params=window).status_code == 204
    # A symbol of its own, and a row in the explanation of a panel that prints it.
    look = {"name": "Old roads", "colour": "#aa3377", "width": "0.5", "dash": "dashed", "explained": "true"}
    slip = client.post(f"{layer}/slip", data=look).text
    assert "#AA3377" in slip
    assert "Old roads" not in explanation(client)
    panel = next(part for part in sheet_parts(client) if part["label"] == "Main map")
    opacity = {"layer": f"underlay-{number}", "opacity": "100"}
    answer = client.post(f"/p/isle-of-quennet/parts/{panel['id']}", data=opacity)
    assert answer.status_code == 200, answer.text
    assert "Old roads" in explanation(client)
    refused = client.post(f"{layer}/slip", data=look | {"width": "99"})
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
    text = looked_at(client, "s.csv", table.encode())
    assert "row 1" in text
    assert "not a direction" in text
    assert client.post(f"{BASE}/{token_of(text)}/keep", data=plan_of(text)).status_code == 422
    assert client.delete(f"{BASE}/{token_of(text)}").status_code == 200
    assert client.post(f"{BASE}/{token_of(text)}/keep", data={}).status_code == 404


PAIR = json.dumps(
    {
        "type": "FeatureCollection",
        "features": [
            {
                "type": "Feature",
                "properties": {"map_unit": f"Pa{1 + i}"},
                "geometry": json.loads(
                    shapely.to_geojson(shapely.box(-14.70 + i / 1000, 61.36, -14.699 + i / 1000, 61.361))
                ),
            }
            for i in range(2)
        ],
    }
).encode()
READINGS = "Easting,Northing,FEATURE,STRIKE_DEG,DIP,LOC_ACC_M\n" + "".join(
    f'{512000 + 50 * i},6802000,"{kind}",{10 * i},30,{10 * i}\n'
    for i, kind in enumerate(["Bedding, showing strike and dip", "Joint set 1", "Cren. lin.", "Cren. lin."])
)


def test_values_are_listed_asked_for_and_meant(client: TestClient, demo: Path) -> None:
    text = looked_at(client, "r.csv", READINGS.encode())
    sent = plan_of(text)
    values = {
        sent[name.replace("value", "raw")]: value for name, value in sent.items() if name.startswith("value-kind")
    }
    assert values == {"Cren. lin.": "", "Bedding, showing strike and dip": "bedding", "Joint set 1": "joint"}
    assert 'Rows that ask</dt><dd class="caution">2</dd>' in text
    number = next(name for name, value in sent.items() if value == "Cren. lin.").removeprefix("raw-")
    changed = sent | {f"value-{number}": "Lineation"}
    text = client.post(f"{BASE}/{token_of(text)}/preview", data=changed).text
    assert "<dt>Points</dt><dd>4</dd>" in text
    assert "Rows that ask" not in text
    left = changed | {f"value-{number}": "leave out"}
    assert "<dt>Points</dt><dd>2</dd>" in client.post(f"{BASE}/{token_of(text)}/preview", data=left).text
    client.post(f"{BASE}/{token_of(text)}/keep", data=changed)
    project = ReadProject.open(demo)
    assert project.features("points").columns["kind"][-4:] == ["bedding", "joint", "lineation", "lineation"]
    project.close()
    # The very same file once more: all of it is here.
    again = looked_at(client, "r.csv", READINGS.encode())
    sent = plan_of(again) | {f"value-{number}": "lineation"}
    again = client.post(f"{BASE}/{token_of(again)}/preview", data=sent).text
    assert "<dt>Already here</dt><dd>4</dd>" in again
    assert "It is here already, as bedding" in again


def test_of_two_fields_for_one_thing_the_last_chosen_is_meant(client: TestClient) -> None:
    table = "Easting,Northing,STRIKE,STRIKE_2,DIP\n512000,6802000,40,200,30\n"
    text = looked_at(client, "two.csv", table.encode())
    assert field_of(text, "azimuth") == "STRIKE"
    sent = plan_of(text)
    other = next(name for name, value in sent.items() if value == "STRIKE_2").removeprefix("column-")
    text = client.post(f"{BASE}/{token_of(text)}/preview", data=sent | {f"means-{other}": "azimuth"}).text
    assert field_of(text, "azimuth") == "STRIKE_2"
    assert "strikes 200" in text


@pytest.mark.parametrize("everywhere", [False, True])
def test_what_is_meant_by_values_of_another_file_stays(client: TestClient, demo: Path, everywhere: bool) -> None:
    """A mapping that is saved again from a file with other values still knows those of the first."""
    where = {"mapping_name": "Survey"} | ({"everywhere": "true"} if everywhere else {})
    for word in ("Cren. lin.", "Str. lin."):
        text = looked_at(client, "r.csv", READINGS.replace("Cren. lin.", word).encode())
        sent = plan_of(text)
        number = next(name for name, value in sent.items() if value == word).removeprefix("raw-")
        changed = sent | {f"value-{number}": "lineation"} | where
        assert client.post(f"{BASE}/{token_of(text)}/mapping", data=changed).status_code == 200
    for word in ("Cren. lin.", "Str. lin."):
        again = looked_at(client, "r.csv", READINGS.replace("Cren. lin.", word).encode())
        assert "<dt>Points</dt><dd>4</dd>" in again, word
    # What is taken back where it is seen is gone; what is out of sight stays.
    sent = plan_of(again)
    number = next(name for name, value in sent.items() if value == "Str. lin.").removeprefix("raw-")
    client.post(f"{BASE}/{token_of(again)}/mapping", data=sent | {f"value-{number}": ""} | where)
    assert "Rows that ask" in looked_at(client, "r.csv", READINGS.replace("Cren. lin.", "Str. lin.").encode())
    assert "Rows that ask" not in looked_at(client, "r.csv", READINGS.encode())


def test_metres_are_typed_as_people_type_them(client: TestClient) -> None:
    text = looked_at(client, "r.csv", READINGS.encode())
    sent = plan_of(text)
    assert sent["certain-metres"] == "25"
    changed = client.post(f"{BASE}/{token_of(text)}/preview", data=sent | {"certain-metres": "12,5 m"})
    assert "up to 12.5 m certain" in changed.text
    refused = client.post(f"{BASE}/{token_of(text)}/preview", data=sent | {"certain-metres": "far"})
    assert (refused.status_code, "far" in refused.text) == (422, True)


def test_what_a_mapping_says_of_all_goes_along(client: TestClient, demo: Path) -> None:
    (demo.parent / "mappings").mkdir()
    held = {
        "orvik_mapping": 1,
        "name": "Old sheet",
        "attributes": {"kind": {"fields": ["FEATURE"]}, "note": {"constant": "from the sheet of 1931"}},
    }
    (demo.parent / "mappings" / "Old sheet.mapping.json").write_text(json.dumps(held))
    text = looked_at(client, "r.csv", READINGS.encode())
    assert "“Old sheet” fits" in text
    assert plan_of(text)["constant-note"] == "from the sheet of 1931"


def test_names_that_differ_in_signs_alone_do_not_overwrite_each_other(client: TestClient) -> None:
    text = looked_at(client, "r.csv", READINGS.encode())
    url, sent = f"{BASE}/{token_of(text)}/mapping", plan_of(text) | {"everywhere": "true"}
    assert client.post(url, data=sent | {"mapping_name": "A/B"}).status_code == 200
    refused = client.post(url, data=sent | {"mapping_name": "A:B"})
    assert (refused.status_code, "“A/B” has a file" in refused.text) == (422, True)
    assert client.post(url, data=sent | {"mapping_name": "A/B"}).status_code == 200


def test_without_a_border_no_system_is_said_to_be_wrong(tmp_path: Path) -> None:
    create_project(tmp_path / "new.gpkg", "New", project_crs("EPSG:32628"), Scales(25_000, 6_250))
    with TestClient(create_app(tmp_path), base_url="http://127.0.0.1:8460") as fresh:
        answer = fresh.post("/p/new/import", files={"file": ("r.csv", READINGS.encode())})
        text = fresh.get(answer.headers["HX-Redirect"]).text
        where = re.findall(r"</?small>([^<]*)</small>", text.split("It is in</legend>")[1].split("</fieldset>")[0])
        # Figures of metres are no degrees; whether they are the project's, nothing tells.
        assert where == ["", "cannot be", "cannot be", "cannot be"]
        sent = plan_of(text) | {"stated": "EPSG:32628"}
        base = answer.headers["HX-Redirect"]
        assert "<dt>Points</dt><dd>2</dd>" in fresh.post(f"{base}/preview", data=sent).text


@pytest.mark.parametrize("everywhere", [False, True])
def test_a_mapping_is_saved_and_proposed_again(client: TestClient, demo: Path, everywhere: bool) -> None:
    text = looked_at(client, "r.csv", READINGS.encode())
    sent = plan_of(text)
    number = next(name for name, value in sent.items() if value == "Cren. lin.").removeprefix("raw-")
    named = sent | {f"value-{number}": "lineation", "mapping_name": "Survey of 1998"}
    named |= {"everywhere": "true"} if everywhere else {}
    assert "Survey of 1998" in client.post(f"{BASE}/{token_of(text)}/mapping", data=named).text
    assert (demo.parent / "mappings" / "Survey of 1998.mapping.json").is_file() is everywhere
    again = looked_at(client, "other.csv", READINGS.encode())
    assert "“Survey of 1998” fits" in again
    assert "<dt>Points</dt><dd>4</dd>" in again
    # Without it the word asks again.
    sent = plan_of(again)
    assert sent["saved_before"] == "Survey of 1998"
    without = client.post(f"{BASE}/{token_of(again)}/preview", data=sent | {"saved": ""}).text
    assert "Rows that ask" in without
    back = client.post(f"{BASE}/{token_of(again)}/preview", data=plan_of(without) | {"saved": "Survey of 1998"}).text
    assert "Rows that ask" not in back
    other = looked_at(client, "other.csv", b"Easting,Northing,Rock\n512000,6802000,x\n")
    assert "“Survey of 1998” fits" not in other


def test_the_mapping_of_the_page_does_the_same_by_command_line(client: TestClient, demo: Path, tmp_path: Path) -> None:
    text = looked_at(client, "r.csv", READINGS.encode())
    sent = plan_of(text)
    number = next(name for name, value in sent.items() if value == "Cren. lin.").removeprefix("raw-")
    changed = sent | {f"value-{number}": "lineation", "constant-capture_scale": "1:50 000", "source": "A survey"}
    answer = client.post(f"{BASE}/{token_of(text)}/mapping.json", data=changed)
    assert "attachment" in answer.headers["Content-Disposition"]
    (tmp_path / "m.json").write_bytes(answer.content)
    (tmp_path / "r.csv").write_text(READINGS)
    shutil.copytree(demo.parent, tmp_path / "other")
    other = tmp_path / "other" / demo.name
    client.post(f"{BASE}/{token_of(text)}/keep", data=changed)
    assert main(["import", str(other), str(tmp_path / "r.csv"), "--mapping", str(tmp_path / "m.json")]) == 0
    held = []
    for path in (demo, other):
        project = ReadProject.open(path)
        points = project.features("points")
        names = ("kind", "certainty", "azimuth", "inclination", "capture_scale", "note")
        held.append([[points.columns[name][i] for name in names] for i in range(len(points) - 4, len(points))])
        project.close()
    assert held[0] == held[1]
    assert {row[4] for row in held[0]} == {50_000}
    assert [row[1] for row in held[0]] == ["certain", "certain", "certain", "approximate"]


def test_areas_become_linework_after_a_count(client: TestClient, demo: Path) -> None:
    text = looked_at(client, "pair.geojson", PAIR)
    assert "<dt>Areas</dt><dd>2</dd>" in text
    sent = plan_of(text) | {"as_linework": "lines"}
    counted = client.post(f"{BASE}/{token_of(text)}/preview", data=sent).text
    assert "2 areas become" in counted
    assert "<dt>Areas</dt>" not in counted
    client.post(f"{BASE}/{token_of(text)}/keep", data=sent)
    project = ReadProject.open(demo)
    assert {"Pa1", "Pa2"} <= set(project.features("points").columns["map_unit"])
    project.close()


def test_linework_of_the_areas_that_are_there(client: TestClient, demo: Path) -> None:
    base = "/p/isle-of-quennet/linework"
    project = ReadProject.open(demo)
    before = project.count("lines"), project.count("points")
    counted = client.get(base).text
    # The demo's areas were formed from its lines and tags: all of it is there.
    assert "47 areas become 0 lines and 0 tags" in counted
    assert client.get(base, params={"outer": "coast"}).status_code == 422
    refused = client.post(base, data={"outer": "lines"})
    assert (refused.status_code, "already" in refused.text) == (422, True)
    assert client.post(f"{base}/tags").status_code == 422
    # Without its tags each area gets one again, and forming changes nothing.
    points = project.features("points")
    tags = [n for n, k in zip(points.ids.tolist(), points.columns["kind"], strict=True) if k == "unit_tag"]
    project.close()
    writer = Project.open(demo)
    writer.apply("delete tags", [Change("points", number, None) for number in tags])
    writer.close()
    project = ReadProject.open(demo)
    again = client.post(base, data={"outer": "lines"})
    assert "lines and tags are saved" in again.text
    assert project.count("lines") == before[0]
    assert "All units are formed" in client.post("/p/isle-of-quennet/form-units").text
    project.close()


def test_fields_are_guessed_and_read() -> None:
    found = guessed(fields_called("OBJECTID", "MapUnit", "STRIKE", "Dip", "LocationConfidence", "Notes"))
    assert found.asks == {}
    assert found.fields == {
        "map_unit": "MapUnit",
        "azimuth": "STRIKE",
        "inclination": "Dip",
        "certainty": "LocationConfidence",
        "note": "Notes",
    }
    own = read_row(
        {"DipDir": 10.0, "Dip": 35, "Conf": "Observed ", "k": "Fault Plane"},
        {"dip_direction": "DipDir", "inclination": "Dip", "certainty": "Conf", "kind": "k"},
    )
    # Right-hand rule: the plane dips to the right of its strike, so it strikes 90 degrees to the left of its dip.
    assert own == {"azimuth": 280.0, "inclination": 35.0, "certainty": "certain", "kind": "fault_plane"}
    assert read_row({"s": 360, "d": 4}, {"azimuth": "s", "inclination": "d"})["azimuth"] == 0

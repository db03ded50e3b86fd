"""A folder of files becomes a map by commands alone."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import rasterio
import shapely

from orvik.cli import main
from orvik.core.ground.crs import project_crs
from orvik.store.project import Project
from orvik.store.read_project import opened_for_reading
from orvik.usecases.symbols.shared_books import book_of

UNITS = """LEG_KURZ;Bezeichnung;R;G;B;Alter;Rang
Qt-till-0001;Till;211;199;180;Pleistocene;formation
Kp-mud-00031;Pellan Mudstone;187;213;166;Early Cretaceous;Formation
"""


def geojson(path: Path, features: list[tuple[Any, dict[str, Any]]]) -> Path:
    listed = [{"type": "Feature", "geometry": json.loads(shapely.to_geojson(g)), "properties": p} for g, p in features]
    crs = {"type": "name", "properties": {"name": "urn:ogc:def:crs:EPSG::32628"}}
    path.write_text(json.dumps({"type": "FeatureCollection", "crs": crs, "features": listed}))
    return path


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """What a survey delivers: areas, faults, readings, a lexicon and heights."""
    west, south = 511_000.0, 6_801_000.0
    left, right = (
        shapely.box(west, south, west + 1000, south + 2000),
        shapely.box(west + 1000, south, west + 3000, south + 2000),
    )
    geojson(
        tmp_path / "areas.geojson",
        [(left, {"LEG_KURZ": "Qt-till-0001", "BEM": "mapped 1998"}), (right, {"LEG_KURZ": "Kp-mud-00031?", "BEM": ""})],
    )
    fault = shapely.LineString([(west + 1000, south + 300), (west + 1000, south + 1500)])
    geojson(tmp_path / "faults.geojson", [(fault, {"TYP": "Störung, vermutet"})])
    geojson(
        tmp_path / "readings.geojson",
        [
            (shapely.Point(west + 200 * i, south + 500), {"FALLRICHTG": 45, "FALLEN": 30 + i, "ART": "Schichtung"})
            for i in range(1, 5)
        ],
    )
    (tmp_path / "lexicon.csv").write_text(UNITS, encoding="utf-8")
    (tmp_path / "units.json").write_text('{"orvik_units_mapping": 1, "columns": {"code": "LEG_KURZ"}}')
    attributes = {"map_unit": {"fields": ["LEG_KURZ"]}, "note": {"fields": ["BEM"]}}
    (tmp_path / "areas.json").write_text(json.dumps({"orvik_mapping": 1, "attributes": attributes}))
    attributes = {
        "dip_direction": {"fields": ["FALLRICHTG"]},
        "inclination": {"fields": ["FALLEN"]},
        "kind": {"fields": ["ART"]},
    }
    (tmp_path / "readings.json").write_text(json.dumps({"orvik_mapping": 1, "attributes": attributes}))
    heights = np.linspace(0, 300, 100 * 100, dtype="float32").reshape(100, 100)
    place = rasterio.transform.from_bounds(west, south, west + 3000, south + 2000, 100, 100)
    with rasterio.open(
        tmp_path / "heights.tif",
        "w",
        driver="GTiff",
        width=100,
        height=100,
        count=1,
        dtype="float32",
        crs="EPSG:32628",
        transform=place,
    ) as out:
        out.write(heights, 1)
    with rasterio.open(
        tmp_path / "picture.tif",
        "w",
        driver="GTiff",
        width=30,
        height=20,
        count=3,
        dtype="uint8",
        crs="EPSG:32628",
        transform=rasterio.transform.from_bounds(west, south, west + 3000, south + 2000, 30, 20),
    ) as out:
        out.write(np.full((3, 20, 30), 200, dtype="uint8"))
    return tmp_path


def test_a_folder_of_files_becomes_a_map(folder: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = str(folder / "sund.gpkg")
    border = "510500,6800500,514500,6803500"

    def done(*words: str) -> str:
        assert main([words[0], path, *words[1:]]) == 0, capsys.readouterr().err
        return capsys.readouterr().out

    done("new", "--name", "Sund", "--crs", "EPSG:32628", "--scale", "25000", f"--border={border}")
    assert "2 new map units" in done("units", str(folder / "lexicon.csv"), "--mapping", str(folder / "units.json"))
    said = done("underlay", str(folder / "heights.tif"), "--heights")
    assert "heights in metres above a datum that is not stated, in the stack" in said
    said = done("import", str(folder / "faults.geojson"))
    assert "Kind is TYP." in said
    said = done("import", str(folder / "areas.geojson"), "--mapping", str(folder / "areas.json"), "--as-linework")
    assert "2 areas become" in said
    said = done("import", str(folder / "readings.geojson"), "--mapping", str(folder / "readings.json"))
    assert "strikes 315" in said
    assert "2 faces have their unit" in done("form-units")
    done("sheet", "--name", "Map", "--paper", "A3", "--landscape", "--template", "Quadrangle")
    with opened_for_reading(Path(path)) as project:
        lines, areas = project.features("lines"), project.features("areas")
        assert [c for k, c in zip(lines.columns["kind"], lines.columns["certainty"], strict=True) if k == "fault"] == [
            "inferred"
        ]
        held = dict(zip(areas.columns["map_unit"], areas.columns["questionable"], strict=True))
        assert held == {"Qt-till-0001": False, "Kp-mud-00031": True}
        assert sorted(round(a) for a in shapely.area(areas.geometries)) == [2_000_000, 4_000_000]
        assert [unit.colour for _, unit in project.units()] == ["#D3C7B4", "#BBD5A6"]
    held_in = json.loads(done("info", "--json"))
    assert held_in["features"]["areas"] == {"count": 2, "kinds": {"unit_area": 2}}
    assert [(u["code"], u["features"]) for u in held_in["units"]] == [("Qt-till-0001", 2), ("Kp-mud-00031", 2)]
    assert held_in["sheets"][0]["name"] == "Map"
    assert held_in["underlays"] == [{"name": "heights", "kind": "underlay"}]
    words = done("info")
    assert "Areas: 2 (unit area 2)" in words
    assert "Sheets: Map" in words
    # Everything once more: nothing comes twice.
    assert main(["import", path, str(folder / "readings.geojson"), "--mapping", str(folder / "readings.json")]) == 1
    assert "It is here already" in capsys.readouterr().err
    assert "nothing to change" in done("units", str(folder / "lexicon.csv"), "--mapping", str(folder / "units.json"))


def test_symbols_of_a_book_and_linework_of_areas(
    project: Project, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = project.path
    (tmp_path / "book.json").write_text(book_of(project).text)
    project.close()
    assert main(["symbols", str(path), str(tmp_path / "book.json")]) == 0
    assert "0 entries imported" in capsys.readouterr().out
    assert main(["linework", str(path)]) == 0
    assert "1 areas: " in capsys.readouterr().out
    assert main(["linework", str(path), "--tags"]) == 0


@pytest.mark.parametrize(
    ("words", "why"),
    [
        (["underlay", "none.tif"], "no file none.tif"),
        (["symbols", "units.json"], "symbol book"),
        (["units", "lexicon.csv", "--mapping", "areas.json"], "which column of units"),
        (["import", "areas.geojson", "--mapping", "units.json"], "not a mapping"),
        (["import", "areas.geojson", "--mapping", "none.json"], "none.json"),
        (["sheet", "--name", "X", "--template", "Nothing"], "no template"),
        (["underlay", "lexicon.csv", "--heights"], "lexicon.csv"),
        (["underlay", "picture.tif", "--heights"], "does not hold heights"),
    ],
)
def test_what_is_wrong_is_said_in_a_sentence(
    folder: Path, capsys: pytest.CaptureFixture[str], words: list[str], why: str
) -> None:
    path = str(folder / "p.gpkg")
    assert project_crs("EPSG:32628").text
    assert main(["new", path, "--name", "P", "--crs", "EPSG:32628", "--scale", "25000"]) == 0
    files = [str(folder / word) if word.endswith((".tif", ".json", ".csv", ".geojson")) else word for word in words[1:]]
    capsys.readouterr()
    assert main([words[0], path, *files]) == 1
    said = capsys.readouterr().err
    assert why in said
    assert said.count("\n") == 1
    assert not (folder / "p.files").exists(), "nothing is copied beside a project that takes nothing in"

"""Polygons of a survey bring their units whole: names, ages, colours, descriptions; by import and by `orvik units`."""

from __future__ import annotations

import json
import random
from pathlib import Path
from typing import Any

import numpy as np
import pyogrio
import pytest
from fastapi.testclient import TestClient

from orvik.cli import main
from orvik.core.errors import FileRefused
from orvik.core.features.map_unit import MapUnit, out_of_order
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.exchange.features.unit_rows import unit_rows
from orvik.exchange.features.unit_table import read
from orvik.store.project import Project
from orvik.usecases.intake.import_features import import_file
from orvik.usecases.project.project import create_project
from orvik.web.app import create_app

# A delivery as it may be: odd names of fields, codes of thirteen letters, parts of a colour, millions of years.
UNITS = {
    "JUR-MID-HAR-01": ("Harrack Sandstone", "Sandstein, gelb", 168.0, 166.0, (244, 230, 168)),
    "JUR-MID-HAR-02": ("Lower Harrack Beds", "Sandstein, grau", 170.0, 168.2, (216, 201, 176)),
    "CRE-UPP-KEL-01": ("Kelp Chalk", "Kreide", 80.0, 72.0, (191, 216, 184)),
    "QUA-HOL-ALL": ("Alluvium", "Kies und Sand", 0.01, 0.0, (255, 255, 0)),
}


def squares(path: Path, units: dict[str, tuple[Any, ...]] = UNITS, slips: int = 0) -> Path:
    """Three squares of each unit in a row, as GeoJSON."""
    rng = random.Random(3)
    listed = [code for code in units for _ in range(3)]
    rng.shuffle(listed)
    features = []
    for i, code in enumerate(listed):
        name, rock, older, younger, (r, g, b) = units[code]
        west, south = -14.80 + 0.004 * i, 61.34
        ring = [(west, south), (west + 0.004, south), (west + 0.004, south + 0.01), (west, south + 0.01), (west, south)]
        row = {"OBJECTID": i, "LEG_KURZ": code, "LEG_TEXT": "-", "EINHEIT": name, "GESTEIN": rock}
        row |= {"MAX_MA": older, "MIN_MA": younger, "R": r, "G": g, "B": b}
        if i < slips:
            row["EINHEIT"] = "Slip of the pen"
        features.append({"type": "Feature", "geometry": {"type": "Polygon", "coordinates": [ring]}, "properties": row})
    path.write_text(json.dumps({"type": "FeatureCollection", "features": features}))
    return path


@pytest.fixture
def project(tmp_path: Path) -> Path:
    path = tmp_path / "folder" / "fresh.gpkg"
    path.parent.mkdir()
    create_project(path, "Fresh", project_crs("EPSG:32628"), Scales(25_000, 6_250))
    return path


def units_in(path: Path) -> dict[str, MapUnit]:
    project = Project.open(path)
    found = project.units_by_code()
    project.close()
    return found


def assert_whole(found: dict[str, MapUnit]) -> None:
    assert set(found) == set(UNITS)
    for code, (name, rock, older, younger, rgb) in UNITS.items():
        unit = found[code]
        assert (unit.name, unit.rock, unit.colour) == (name, rock, "#{:02X}{:02X}{:02X}".format(*rgb))
        assert unit.span is not None
        assert (unit.span.older, unit.span.younger) == pytest.approx((older, younger))
    assert (found["JUR-MID-HAR-01"].age_from, found["CRE-UPP-KEL-01"].age_to) == ("Bathonian", "Maastrichtian")


def test_an_import_of_polygons_brings_their_units(project: Path, tmp_path: Path) -> None:
    opened = Project.open(project)
    _, result = import_file(opened, squares(tmp_path / "areas.geojson"))
    opened.close()
    assert len(result.features) == 12
    found = units_in(project)
    assert_whole(found)
    # In the order of their ages, those within one stage by their numbers.
    order = sorted(found.values(), key=lambda unit: unit.position)
    assert [unit.code for unit in order] == ["QUA-HOL-ALL", "CRE-UPP-KEL-01", "JUR-MID-HAR-01", "JUR-MID-HAR-02"]
    assert out_of_order(order) == []


def test_orvik_units_takes_them_out_of_the_same_file(
    project: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    mapping = tmp_path / "units.json"
    mapping.write_text('{"orvik_units_mapping": 1, "columns": {"code": "LEG_KURZ"}}')
    file = squares(tmp_path / "areas.geojson")
    assert main(["units", str(project), str(file), "--mapping", str(mapping)]) == 0
    assert "4 new map units" in capsys.readouterr().out
    assert_whole(units_in(project))
    assert main(["units", str(project), str(file), "--mapping", str(mapping)]) == 0
    assert "nothing to change" in capsys.readouterr().out


def test_a_lexicon_in_a_layer_without_places(project: Path, tmp_path: Path) -> None:
    """A GeoPackage that holds a table of attributes alone (OGC 12-128r18, 2.4)."""
    path = tmp_path / "lexicon.gpkg"
    columns = {"code": ["Qa", "Jh"], "name": ["Alluvium", "Harrack"], "farbe": ["F4E6A8", "0/10/40/5"]}
    values = [np.array(held, dtype=object) for held in columns.values()]
    pyogrio.raw.write(path, None, values, [*columns], layer="lexicon", driver="GPKG", geometry_type=None)
    found = read(unit_rows(path), [])
    assert [(row.unit.code, row.unit.name) for row in found if row.unit] == [("Qa", "Alluvium"), ("Jh", "Harrack")]
    assert found[0].unit is not None
    assert found[0].unit.colour == "#F4E6A8"


def test_what_rows_say_otherwise_is_told(project: Path, tmp_path: Path) -> None:
    rows = {code: (name, "", 1.0, 0.5, (1, 2, 3)) for code, (name, *_) in list(UNITS.items())[:1]}
    file = squares(tmp_path / "areas.geojson", rows)
    held = json.loads(file.read_text())
    # Forty rows, one of which has slipped.
    held["features"] = [json.loads(json.dumps(held["features"][i % 3])) for i in range(40)]
    held["features"][7]["properties"]["EINHEIT"] = "Slip of the pen"
    file.write_text(json.dumps(held))
    opened = Project.open(project)
    _, result = import_file(opened, file)
    assert any("has 2 names in the file; “Harrack Sandstone” is taken" in note for note in result.notes)
    opened.close()


def test_units_that_are_here_stay_and_differences_are_told(project: Path, tmp_path: Path) -> None:
    mapping = tmp_path / "units.json"
    mapping.write_text('{"orvik_units_mapping": 1, "columns": {"code": "LEG_KURZ"}}')
    table = tmp_path / "units.csv"
    table.write_text("code,name\nQUA-HOL-ALL,River gravel\n")
    assert main(["units", str(project), str(table)]) == 0
    opened = Project.open(project)
    _, result = import_file(opened, squares(tmp_path / "areas.geojson"))
    opened.close()
    said = [note for note in result.notes if "stay as they are" in note]
    assert said
    assert "QUA-HOL-ALL name: River gravel here, Alluvium in the file" in said[0]
    assert units_in(project)["QUA-HOL-ALL"].name == "River gravel"


def test_a_value_that_cannot_be_is_left_out_and_told(project: Path, tmp_path: Path) -> None:
    units = {code: (*values[:4], (300, 0, 0)) for code, values in UNITS.items()}
    opened = Project.open(project)
    _, result = import_file(opened, squares(tmp_path / "areas.geojson", units))
    assert any("The colour of QUA-HOL-ALL is left out" in note for note in result.notes)
    assert opened.units_by_code()["QUA-HOL-ALL"].name == "Alluvium"
    opened.close()


def test_a_file_without_codes_says_so(project: Path, tmp_path: Path) -> None:
    file = squares(tmp_path / "areas.geojson")
    file.write_text(file.read_text().replace("LEG_KURZ", "NUMMER_7"))
    with pytest.raises(FileRefused, match="no field “code”"):
        unit_rows(file)


def test_the_page_shows_which_columns_are_read_and_takes_another(project: Path, tmp_path: Path) -> None:
    file = tmp_path / "lexicon.csv"
    file.write_text("EINHEITS_NR;TEXT;FARBE\nQa;Alluvium;F4E6A8\nJh;Harrack Sandstone;D8C9B0\n")
    with TestClient(create_app(project.parent), base_url="http://127.0.0.1:8460") as client:
        units = "/p/fresh/units"
        shown = client.post(f"{units}/preview", files={"table": (file.name, file.read_bytes())}).text
        assert "Say which column holds the codes" in shown
        said = {"header-code": "EINHEITS_NR", "header-name": "TEXT", "text": file.read_text()}
        shown = client.post(f"{units}/preview", data=said).text
        assert "2 new, 0 changes" in shown
        assert client.post(f"{units}/take", data=said).status_code == 200
        assert {u.code: u.name for u in units_in(project).values()} == {"Qa": "Alluvium", "Jh": "Harrack Sandstone"}
        # The units of features come in the same way.
        areas = squares(tmp_path / "areas.geojson")
        renamed = tmp_path / "coded.geojson"
        renamed.write_text(areas.read_text().replace("LEG_KURZ", "CODE"))
        shown = client.post(f"{units}/preview", files={"table": (renamed.name, renamed.read_bytes())}).text
        assert "4 new, 0 changes" in shown
        assert list((project.parent).glob("**/coded.geojson")) == []

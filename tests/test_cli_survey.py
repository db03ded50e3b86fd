"""``orvik form-units`` and ``orvik check`` on files, as scripts use them."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import pytest
import shapely

from orvik.cli import main
from orvik.core.faces.forming import proven
from orvik.core.features.band import Band
from orvik.core.features.feature import Feature
from orvik.store import rows
from orvik.store.project import Project

LINES = {
    "contact": [[[510_000, 6_802_000], [512_500, 6_802_100], [515_000, 6_802_000]]],
    "fault": [[[512_000, 6_800_500], [512_500, 6_801_500]]],
}
TAGS = [("Qt", 512_000, 6_803_000), ("Kp", 513_500, 6_801_000)]


def collection(features: list[dict[str, object]]) -> dict[str, object]:
    crs = {"type": "name", "properties": {"name": "urn:ogc:def:crs:EPSG::32628"}}
    return {"type": "FeatureCollection", "crs": crs, "features": features}


def feature(geometry: str, coordinates: object, **values: object) -> dict[str, object]:
    return {"type": "Feature", "geometry": {"type": geometry, "coordinates": coordinates}, "properties": values}


@pytest.fixture
def compiled(tmp_path: Path) -> Path:
    """A project made by commands alone: border, lines and tags."""
    path = tmp_path / "made.gpkg"
    assert (
        main(
            [
                "new",
                str(path),
                "--name",
                "Made",
                "--crs",
                "EPSG:32628",
                "--scale",
                "25000",
                "--border=510000,6800000,515000,6804000",
            ]
        )
        == 0
    )
    lines = [feature("LineString", c, kind=kind) for kind, many in LINES.items() for c in many]
    tags = [feature("Point", [x, y], kind="unit_tag", map_unit=unit) for unit, x, y in TAGS]
    for name, listed in (("lines.geojson", lines), ("tags.geojson", tags)):
        (tmp_path / name).write_text(json.dumps(collection(listed)))
        assert main(["import", str(path), str(tmp_path / name)]) == 0
    return path


def test_units_are_formed_and_undone(compiled: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["form-units", str(compiled)]) == 0
    assert "2 faces have their unit" in capsys.readouterr().out
    project = Project.open(compiled)
    areas = project.features("areas")
    assert sorted(areas.columns["map_unit"]) == ["Kp", "Qt"]
    assert proven(areas.geometries) == (True, pytest.approx(0, abs=1e-3))
    assert shapely.union_all(areas.geometries).area == pytest.approx(5000 * 4000)
    revision = project.revision
    assert main(["form-units", str(compiled)]) == 0
    assert project.revision == revision
    project.undo()
    assert project.count("areas") == 0
    project.close()


def test_check_says_nothing_of_a_sound_map(compiled: Path, capsys: pytest.CaptureFixture[str]) -> None:
    main(["form-units", str(compiled)])
    capsys.readouterr()
    assert main(["check", str(compiled), "--json"]) == 0
    assert json.loads(capsys.readouterr().out) == {"findings": [], "accepted": [], "turned_off": {}}
    assert main(["check", str(compiled)]) == 0
    assert "Nothing was found." in capsys.readouterr().out


def test_check_as_a_program_reads_it(compiled: Path, tmp_path: Path) -> None:
    short = feature("LineString", [[512_500, 6_802_100], [513_000, 6_803_990]], kind="contact", capture_scale=50_000)
    (tmp_path / "more.geojson").write_text(json.dumps(collection([short])))
    main(["import", str(compiled), str(tmp_path / "more.geojson")])
    run = subprocess.run(
        [sys.executable, "-m", "orvik.cli", "check", str(compiled), "--json"], capture_output=True, text=True
    )
    assert run.returncode == 1
    findings = json.loads(run.stdout)["findings"]
    told = {f["rule"]: f for f in findings}
    assert set(told) == {"dangle", "coarse"}
    assert told["dangle"]["severity"] == "error"
    assert told["dangle"]["at"] == [513_000, 6_803_990]
    assert {"table": "lines", "id": 4} in told["dangle"]["features"]
    assert told["coarse"]["severity"] == "warning"


def test_a_warning_alone_is_no_failure(compiled: Path, tmp_path: Path) -> None:
    far = feature("Point", [516_000, 6_803_990], kind="unit_tag", map_unit="Qt")
    (tmp_path / "more.geojson").write_text(json.dumps(collection([far])))
    main(["import", str(compiled), str(tmp_path / "more.geojson")])
    assert main(["check", str(compiled)]) == 0


def test_bands_follow_the_units_that_cut_them(compiled: Path) -> None:
    project = Project.open(compiled)
    band = Band(20.0, cut_by=("Qt",))
    dyke = Feature("lines", shapely.LineString([(511_000, 6_801_000), (511_000, 6_803_500)]), "dyke", band=band)
    project.apply("dyke", [rows.feature_change(dyke, project.srs_id)])
    project.close()
    main(["form-units", str(compiled)])
    project = Project.open(compiled)
    kept = project.feature("lines", 4)
    (stretch,) = kept.stretches
    assert stretch.certainty == "concealed"
    edge = kept.geometry.coords[stretch.first]
    assert project.feature("lines", 2).geometry.distance(shapely.Point(edge)) < 1e-6
    revision = project.revision
    project.close()
    main(["form-units", str(compiled)])
    project = Project.open(compiled)
    assert project.revision == revision
    project.close()


def test_what_is_no_project(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    for command in ("check", "form-units"):
        assert main([command, str(tmp_path / "none.gpkg")]) == 1
        assert "There is no project file" in capsys.readouterr().err
